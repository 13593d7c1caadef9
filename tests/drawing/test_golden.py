"""Pictures of every facing with every blend, of a sheet, erosion, lit smoke and bend, as they were looked
at.
"""

import unittest

import numpy as np
from PIL import Image

from pale_ember.drawing.environment import Environment
from pale_ember.drawing.filmstrip import fitting_scale, frame_camera
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.kinds import Blend, Facing

from .golden import CAMERA, FOLDER, SIDE, cases, picture, puff
from .light_case import particle

# Of 255: another driver may round otherwise; a few pixels at hard edges may fall to the other side.
LEVELS, STRAY = 6, 0.01


class GoldenTest(unittest.TestCase):
    def test_pictures_are_as_they_were_looked_at(self):
        whole = np.asarray(Image.open(FOLDER / "looks.png").convert("RGB")).astype(int)
        with OffscreenRenderer() as studio:
            for i, name in enumerate(cases()):
                row, column = divmod(i, 8)
                kept = whole[row * SIDE : (row + 1) * SIDE, column * SIDE : (column + 1) * SIDE]
                apart = np.abs(picture(studio, name).astype(int) - kept).max(axis=2)
                self.assertLess((apart > LEVELS).mean(), STRAY, name)
                self.assertGreater(np.ptp(kept), 10, name)

    def test_the_filmstrip_shows_the_same_as_a_picture_for_each_facing_and_blend(self):
        rows = np.concatenate(
            [
                particle(size=(0.5, 0.7), way=(0.2, 0.4, 0.1), angle=0.4, frame=f, opacity=0.8, mix=0.5)
                for f in (0.5, 2, 4)
            ]
        )
        environment = Environment("black", grid=False, glow=0.0)
        with OffscreenRenderer() as studio:
            for facing in Facing:
                for blend in Blend:
                    look = Look.model_validate(
                        {
                            "texture": "p",
                            "facing": facing,
                            "blend": blend,
                            "cutoff": 0.35,
                            "lit": 0.5,
                            "sort": "none",
                        }
                    )
                    wears = {"picture": puff()}
                    scale = fitting_scale(rows, SIDE, SIDE, look, CAMERA)
                    film = np.asarray(
                        studio.filmstrip(rows, CAMERA, scale, (SIDE, SIDE), look, environment, wears)
                    ).astype(int)
                    # As it is in the middle of a picture of its own, from as far away.
                    camera = frame_camera(CAMERA, scale, 256)
                    for i in range(3):
                        alone = rows[i : i + 1].copy()
                        alone["place"] = camera.target
                        moment = Moment(0.0, (DrawnLayer("a", alone, look, wears=wears),))
                        shown = np.asarray(studio.picture(moment, (256, 256), camera, environment)).astype(
                            int
                        )
                        cut = (256 - SIDE) // 2
                        apart = np.abs(
                            shown[cut : cut + SIDE, cut : cut + SIDE] - film[:, i * SIDE : (i + 1) * SIDE]
                        ).max(axis=2)
                        self.assertLess((apart > 3).mean(), 0.003, (facing, blend, i))


if __name__ == "__main__":
    unittest.main()

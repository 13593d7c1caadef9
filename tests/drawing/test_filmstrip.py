"""The filmstrip, held against pictures of the whole effect."""

import tempfile
import unittest

import numpy as np
from PIL import Image

from pale_ember.cli import main
from pale_ember.drawing import moment_of
from pale_ember.drawing.environment import Environment
from pale_ember.drawing.filmstrip import MARGIN, fitting_scale, frame_camera
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect import save_effect
from pale_ember.simulation import Simulation
from pale_ember.simulation.layout.instances import INSTANCE
from pale_ember.simulation.time.biography import Single

from ..building import single

SIZE = (48, 60)
EDITS = {
    "emit.rate": 0,
    "emit.bursts": [{"at": 0.1, "count": 1}],
    "launch.lifetime": 1.2,
    "launch.speed": 2,
    "launch.size": 0.6,
    "launch.aspect": 0.5,
    "launch.angle": {"spread": [-80, 80]},
    "flight.spin": 130,
    "look.grow": {"band": [[[0, 0.2], [1, 1]], [[0, 0.5], [1, 2]]]},
    "look.opacity": {"curve": [[0, 0.2], [0.3, 1], [1, 0.1]]},
    "look.color": {"gradient": [[0, "#ffb060"], [1, "#603020"]]},
}


def plain(backdrop):
    """Return a setting without glow."""
    return Environment(backdrop, grid=False, glow=0.0)


class FilmstripTest(unittest.TestCase):
    def test_frames_are_what_render_draws(self):
        for blend, intensity, backdrop in (("alpha", 1, "dusk"), ("add", 6, "black"), ("add", 2, "night")):
            effect = single({**EDITS, "look.blend": blend, "look.intensity": intensity}, loop=False)
            effect = effect.edit("stage.backdrop", backdrop)
            alone = Single(effect, effect.layers[0])
            life = alone.life(alone.birth(0))
            steps = [0, 9, 30, 60]
            frames = alone.instances(life, life.ages[steps])
            camera, scale = effect.stage.camera, fitting_scale(frames, *SIZE)
            with OffscreenRenderer() as studio:
                sim = Simulation(effect)
                for i, step in enumerate(steps):
                    # The burst falls on a step's very beginning.
                    sim.seek((6 + step) / 60)
                    place = tuple(float(x) for x in sim.particles("a").position[0])
                    # What is behind a particle depends on where it is; a strip has one backdrop for all
                    # frames.
                    there = camera.model_copy(update={"target": place})
                    # Without glow: that is a share of the whole picture, of which a frame is a part.
                    environment = plain(backdrop)
                    strip = np.asarray(
                        studio.filmstrip(frames, there, scale, SIZE, effect.layers[0].look, environment)
                    ).astype(int)
                    for whole in ((256, 256), (640, 448)):
                        at = frame_camera(there, scale, whole[1])
                        image = np.asarray(
                            studio.picture(moment_of(sim), whole, at, environment, grid=False)
                        ).astype(int)
                        left, top = (whole[0] - SIZE[0]) // 2, (whole[1] - SIZE[1]) // 2
                        crop = image[top : top + SIZE[1], left : left + SIZE[0]]
                        frame = strip[:, i * SIZE[0] : (i + 1) * SIZE[0]]
                        self.assertGreater(np.ptp(crop), 10)
                        # The particle is the same to the grain; a backdrop's slope is another in a cell.
                        most = {"black": 1, "night": 3, "dusk": 9}[backdrop]
                        self.assertLessEqual(np.abs(crop - frame).max(), most, (blend, backdrop, step, whole))

    def test_neighbours_do_not_shine_into_a_frame(self):
        effect = single({**EDITS, "look.blend": "add"})
        alone = Single(effect, effect.layers[0])
        dark = alone.instances(alone.life(alone.birth(0)), [0.5] * 3)
        dark["intensity"] = 0
        bright = dark.copy()
        bright["intensity"][[0, 2]] = 30
        scale = fitting_scale(dark, *SIZE)
        with OffscreenRenderer() as studio:
            a, b = (
                np.asarray(
                    studio.filmstrip(rows, effect.stage.camera, scale, SIZE, effect.layers[0].look, "black")
                ).astype(int)
                for rows in (dark, bright)
            )
        middle = slice(SIZE[0], 2 * SIZE[0])
        self.assertLessEqual(np.abs(a[:, middle] - b[:, middle]).max(), 1)
        self.assertGreater(b.max(), 200)
        self.assertGreater(MARGIN, 0)

    def test_the_largest_just_fits_turned_or_not(self):
        rows = np.zeros(2, INSTANCE)
        rows["size"] = (1.0, 2.0)
        self.assertAlmostEqual(fitting_scale(rows, 100, 100), 50)
        rows["angle"] = np.pi / 2
        self.assertAlmostEqual(fitting_scale(rows, 100, 100), 50, places=4)
        self.assertAlmostEqual(fitting_scale(rows, 50, 100), 25, places=4)


class HastyTest(unittest.TestCase):
    def test_a_hasty_strip_is_the_same_but_for_its_neighbours_glow(self):
        effect = single(EDITS)
        alone = Single(effect, effect.layers[0])
        rows = alone.instances(alone.life(alone.birth(0)), [0.2, 0.5, 0.8])
        rows["intensity"] = 0.3
        with OffscreenRenderer() as studio:
            look, scale = effect.layers[0].look, fitting_scale(rows, *SIZE)
            fine, hasty = (
                studio.film_pixels(
                    rows, effect.stage.camera, scale, SIZE, look, "black", margin, f"{margin}"
                ).astype(int)
                for margin in (MARGIN, 0)
            )
        self.assertEqual(fine.shape, hasty.shape)
        self.assertGreater(fine[..., :3].max(), 60)
        self.assertLess(np.abs(fine - hasty).mean(), 4)


class CommandTest(unittest.TestCase):
    def test_a_strip_is_written(self):
        with tempfile.TemporaryDirectory() as folder:
            file, out = f"{folder}/a.ember", f"{folder}/a.png"
            save_effect(single(EDITS), file)
            self.assertEqual(main(["filmstrip", file, "--frames", "5", "--size", "40x50", "-o", out]), 0)
            with Image.open(out) as image:
                self.assertEqual(image.size, (200, 50))
            self.assertEqual(main(["filmstrip", file, "--layer", "b", "-o", out]), 1)
            save_effect(single({"emit.rate": 0}), file)
            self.assertEqual(main(["filmstrip", file, "-o", out]), 1)


if __name__ == "__main__":
    unittest.main()

"""The filmstrip, held against pictures of the whole effect."""

import tempfile
import unittest

import numpy as np
from PIL import Image

from pale_ember.cli import main
from pale_ember.demo import demo
from pale_ember.drawing import moment_of
from pale_ember.drawing.camera import project, projection_matrix, view_matrix
from pale_ember.drawing.filmstrip import MARGIN, fitting_scale, frame_camera
from pale_ember.drawing.headless import Studio
from pale_ember.drawing.quick import projected
from pale_ember.effect import save_effect
from pale_ember.effect.effect import Camera
from pale_ember.simulation import Simulation
from pale_ember.simulation.biography import Single

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


class FilmstripTest(unittest.TestCase):
    def test_frames_are_what_render_draws(self):
        for blend, intensity, backdrop in (("alpha", 1, "dusk"), ("add", 6, "black"), ("add", 2, "night")):
            effect = single({**EDITS, "look.blend": blend, "look.intensity": intensity}, loop=False)
            effect = effect.edit("stage.backdrop", backdrop)
            alone = Single(effect, effect.layers[0])
            life = alone.life(*alone.birth(0))
            steps = [0, 9, 30, 60]
            frames = alone.instances(life, life.ages[steps])
            camera, scale = effect.stage.camera, fitting_scale(frames, *SIZE)
            with Studio() as studio:
                sim = Simulation(effect)
                for i, step in enumerate(steps):
                    # The burst falls on a step's very beginning.
                    sim.seek((6 + step + 1) / 60)
                    place = tuple(float(x) for x in sim.particles("a").position[0])
                    # What is behind a particle depends on where it is; a strip has one backdrop for all frames.
                    there = camera.model_copy(update={"target": place})
                    strip = np.asarray(studio.filmstrip(frames, there, scale, SIZE, (blend, backdrop))).astype(int)
                    for whole in ((256, 256), (640, 448)):
                        at = frame_camera(there, scale, whole[1])
                        image = np.asarray(studio.picture(moment_of(sim), whole, at, backdrop, grid=False)).astype(int)
                        left, top = (whole[0] - SIZE[0]) // 2, (whole[1] - SIZE[1]) // 2
                        crop = image[top : top + SIZE[1], left : left + SIZE[0]]
                        frame = strip[:, i * SIZE[0] : (i + 1) * SIZE[0]]
                        self.assertGreater(np.ptp(crop), 10)
                        # The particle is the same to the grain; the backdrop's own glow comes from further away
                        # than a frame's cell reaches.
                        most = {"black": 1, "night": 3, "dusk": 9}[backdrop]
                        self.assertLessEqual(np.abs(crop - frame).max(), most, (blend, backdrop, step, whole))

    def test_neighbours_do_not_shine_into_a_frame(self):
        effect = single({**EDITS, "look.blend": "add"})
        alone = Single(effect, effect.layers[0])
        dark = alone.instances(alone.life(*alone.birth(0)), [0.5] * 3)
        dark[:, 10] = 0
        bright = dark.copy()
        bright[[0, 2], 10] = 30
        scale = fitting_scale(dark, *SIZE)
        with Studio() as studio:
            a, b = (
                np.asarray(studio.filmstrip(rows, effect.stage.camera, scale, SIZE, ("add", "black"))).astype(int)
                for rows in (dark, bright)
            )
        middle = slice(SIZE[0], 2 * SIZE[0])
        self.assertLessEqual(np.abs(a[:, middle] - b[:, middle]).max(), 1)
        self.assertGreater(b.max(), 200)
        self.assertGreater(MARGIN, 0)

    def test_the_largest_just_fits_turned_or_not(self):
        rows = np.zeros((2, 11), np.float32)
        rows[:, 3:5] = (1.0, 2.0)
        self.assertAlmostEqual(fitting_scale(rows, 100, 100), 50)
        rows[:, 5] = np.pi / 2
        self.assertAlmostEqual(fitting_scale(rows, 100, 100), 50, places=4)
        self.assertAlmostEqual(fitting_scale(rows, 50, 100), 25, places=4)


class QuickTest(unittest.TestCase):
    """What is drawn without OpenGL while something is dragged, held against what OpenGL draws."""

    def test_it_is_the_same_picture_but_for_a_few_levels(self):
        for name in ("kiln-mouth", "sleet", "chimney"):
            effect = demo(name)
            sim = Simulation(effect)
            sim.seek(2.0)
            moment, size, camera = moment_of(sim), (320, 200), effect.stage.camera
            studio = Studio(blue_first=True)
            self.addCleanup(studio.release)
            fine = studio.pixels(moment, size, camera, "dusk").astype(int)
            quick = studio.quick_pixels(moment, size, camera, "dusk").astype(int)
            off = np.abs(fine - quick)[:, :, :3]
            self.assertLess(off.mean(), 2.5, name)
            self.assertLess(np.percentile(off, 99), 16, name)
            self.assertGreater(np.ptp(fine), 60)

    def test_dots_as_they_fall_on_the_picture(self):
        camera, size = Camera(yaw=0, pitch=0, target=(0, 0, 0), distance=4), (200, 100)
        rows = np.zeros((4, 11), np.float32)
        rows[:, 3:5], rows[:, 6:] = (0.5, 1.0), 1.0
        rows[1, :3], rows[2, :3], rows[3, :3] = (1, 0.5, 0), (0, 0, 9), (50, 0, 0)
        dots, pixels = projected(rows, size, view_matrix(camera), projection_matrix(camera, *size))
        self.assertEqual(len(dots), 2)  # one is behind the eye, one far outside
        places, _ = project(camera, *size, rows[:2, :3])
        np.testing.assert_allclose(dots[:, 0], places[:, 0], atol=1e-3)
        np.testing.assert_allclose(dots[:, 1], size[1] - places[:, 1], atol=1e-3)
        scale = size[1] / (2 * 4 * np.tan(np.radians(camera.view) / 2))
        np.testing.assert_allclose(dots[0, 2:4], [0.25 * scale, 0.5 * scale], rtol=1e-5)
        self.assertAlmostEqual(pixels, 2 * (scale + 1) ** 2, delta=2)


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

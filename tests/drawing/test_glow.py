"""Glow: as wide a share of the picture at every size, and no light is lost."""

import unittest

import numpy as np

from pale_ember.drawing.environment import Environment
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.passes.glow import shares
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.effect.values.colors import to_linear

from .light_case import LightCase, particle, plate, texture

WHITE = {"picture": texture([plate((1, 1, 1))])}


class GlowTest(LightCase):
    def test_all_light_goes_somewhere_and_twice_the_size_is_a_level_further(self):
        roll = np.random.default_rng(5)
        for reach, height in zip(
            [0.0, 1.0, *roll.uniform(0, 1, 200)], [1.0, 4320.0, *10 ** roll.uniform(0, 3.6, 200)], strict=True
        ):
            parts, unspread = shares(reach, height)
            self.assertAlmostEqual(sum(parts) + unspread, 1.0, places=9)
            kept = [part for part in parts if part > 0.0]
            self.assertTrue(all(part >= 0.02 * sum(kept[i + 1 :]) for i, part in enumerate(kept)), parts)
        for reach in (0.2, 0.5, 1.0):
            parts, unspread = shares(reach, 540.0)
            twice, none = shares(reach, 1080.0)
            self.assertEqual(none, unspread)
            np.testing.assert_allclose(twice[1 : 1 + len(parts)], parts[: len(twice) - 1], atol=1e-12)

    def test_a_picture_of_any_size_glows_alike(self):
        rows = DrawnLayer(
            "a", particle((0.2, 0.1, 0), size=0.35, color=(1.0, 0.7, 0.4), intensity=2.0), Look(), wears=WHITE
        )
        camera = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=0, view=50)
        environment = Environment("black", grid=False, glow=1.0, glow_reach=0.5)
        found = {}
        for height in (120, 240, 360, 480, 720, 1080, 1560):
            picture = np.asarray(
                self.studio.picture(Moment(0.0, (rows,)), (height, height), camera, environment)
            )[..., :3]
            light = to_linear(picture / 255.0)
            each = height // 120
            found[height] = light.reshape(120, each, 120, each, 3).mean(axis=(1, 3)).mean(axis=2)
        usual = found[480]
        self.assertGreater(float(usual.max()), 0.1)
        away = np.hypot(
            *(np.indices((120, 120)) - np.array(np.unravel_index(usual.argmax(), usual.shape))[:, None, None])
        )
        for height, light in found.items():
            # The share of all light that lies so near to where it comes from, in pixels of 120.
            for reach in (8, 12, 16, 24, 40):
                near = [float(one[away < reach].sum() / one.sum()) for one in (light, usual)]
                # The smallest pictures have no finer level than a few pixels.
                self.assertAlmostEqual(*near, delta=0.1 if height < 200 else 0.04, msg=(height, reach))


if __name__ == "__main__":
    unittest.main()

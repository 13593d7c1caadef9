"""What layers light has edges as smooth as its own, and the same light, as that picture of many times the
size has.
"""

import unittest
from unittest import mock

import numpy as np

from pale_ember.drawing import renderer
from pale_ember.drawing.environment import Environment
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera, Prop

from .light_case import particle

SIZE, TIMES = (120, 80), 8
PROPS = (
    Prop(kind="box", position=(-0.6, 0, 0), rotation=(0, 25, 0), size=(0.5, 0.8, 0.5)),
    Prop(kind="ball", position=(0.5, 0, 0.2), size=(0.6, 0.6, 0.6)),
    # Half of it stands in the ground, where nothing is lit.
    Prop(kind="cylinder", position=(0.1, -0.5, -0.7), rotation=(15, 0, 20), size=(0.4, 1.2, 0.4)),
)


class LitEdgesTest(unittest.TestCase):
    def test_lit_edges_are_as_those_of_a_far_larger_picture(self):
        camera = Camera(target=(0, 0.3, 0), distance=3.2, yaw=20, pitch=18, view=45)
        # Light that nothing is seen of but what it falls on.
        layer = DrawnLayer(
            "a",
            particle((0.0, 0.5, 0.3), size=1e-4, color=(9e5, 5e5, 2e5)),
            Look(shine=20.0, shine_reach=2.0),
        )
        environment = Environment("black", grid=False, solid=True, props=PROPS, glow=0.0)
        with OffscreenRenderer() as studio:
            few = studio.light(Moment(0.0, (layer,)), SIZE, camera, environment).astype(np.float64)[..., :3]
            many = studio.light(
                Moment(0.0, (layer,)), (SIZE[0] * TIMES, SIZE[1] * TIMES), camera, environment, use="large"
            ).astype(np.float64)[..., :3]
            with mock.patch.object(renderer, "MOST_SMOOTH", SIZE[0] * SIZE[1] - 1):
                plainly = studio.light(
                    Moment(0.0, (layer,)), SIZE, camera, environment, use="plainly"
                ).astype(np.float64)[..., :3]
            without = studio.light(Moment(0.0, ()), SIZE, camera, environment, use="bare").astype(np.float64)[
                ..., :3
            ]
        true = many.reshape(SIZE[1], TIMES, SIZE[0], TIMES, 3).mean(axis=(1, 3))
        lit = true - without
        self.assertGreater(float(lit.max()), 0.5)
        # Pixel by pixel it is the same light, on the floor as on what stands there.
        for part in (np.s_[:40], np.s_[40:]):
            self.assertLess(
                abs(float((few - without)[part].sum() / (plainly - without)[part].sum()) - 1.0), 0.03
            )
        # Larger pictures keep no finer copy, and their lit edges are rougher.
        rough = [float(np.abs(one - true)[40:].mean()) for one in (plainly, few)]
        self.assertGreater(rough[0], 1.05 * rough[1])
        # Four samples tell the share of an edge's pixel within some parts of ten; few pixels are at an edge.
        wrong = np.abs(few - true).max(axis=2) / lit.max()
        self.assertLess(float(wrong.mean()), 0.002)
        self.assertLess(float(np.quantile(wrong, 0.99)), 0.04)
        self.assertLess(float(wrong.max()), 0.5)
        self.assertLess(abs(float(few.sum() / true.sum()) - 1.0), 0.004)


if __name__ == "__main__":
    unittest.main()

"""Where the camera sees things, against plain geometry."""

import itertools
import math
import unittest

import numpy as np

from pale_ember.drawing.camera import (
    NEAREST,
    axes_of,
    eye_of,
    framed,
    project,
    projection_matrix,
    view_matrix,
)
from pale_ember.effect.chapters.stage import Camera


def cameras():
    roll = np.random.default_rng(4)
    for _ in range(60):
        yield Camera(
            target=tuple(roll.uniform(-5, 5, 3)),
            distance=float(10 ** roll.uniform(-1, 3)),
            yaw=float(roll.uniform(-180, 180)),
            pitch=float(roll.uniform(-89, 89)),
            view=float(roll.uniform(10, 100)),
        )


class CameraTest(unittest.TestCase):
    def test_it_looks_from_its_distance_at_its_target(self):
        for camera in cameras():
            right, up, back = axes_of(camera)
            np.testing.assert_allclose(
                np.stack([right, up, back]) @ np.stack([right, up, back]).T, np.eye(3), atol=1e-9
            )
            np.testing.assert_allclose(eye_of(camera), camera.target + camera.distance * back, atol=1e-9)
            seen = view_matrix(camera) @ [*camera.target, 1.0]
            np.testing.assert_allclose(seen, [0, 0, -camera.distance, 1], atol=1e-9 * (1 + camera.distance))

    def test_depth_goes_from_the_near_plane_to_the_far_one(self):
        for camera in cameras():
            matrix = projection_matrix(camera, 640, 360)
            near = min(max(camera.distance * 0.005, 1e-4), NEAREST)
            far = camera.distance * 100 + 1000
            for depth, wanted in ((near, -1.0), (far, 1.0)):
                clip = matrix @ [0.0, 0.0, -depth, 1.0]
                self.assertAlmostEqual(clip[2] / clip[3], wanted, places=9)
            depths = np.geomspace(near, far, 50)
            rows = matrix[2, 2] * -depths + matrix[2, 3]
            self.assertTrue((np.diff(rows / depths) > 0).all())

    def test_its_angle_of_view_is_the_pictures_height(self):
        for camera in cameras():
            _, up, _ = axes_of(camera)
            high = camera.distance * math.tan(math.radians(camera.view) / 2)
            ends = np.array(camera.target) + np.outer([1, 0, -1], up * high)
            places, before = project(camera, 640, 360, ends)
            self.assertTrue(before.all())
            np.testing.assert_allclose(places, [[320, 0], [320, 180], [320, 360]], atol=1e-6)

    def test_what_it_is_framed_on_is_in_the_picture_and_fills_most_of_it(self):
        roll = np.random.default_rng(5)
        for camera in cameras():
            low = roll.uniform(-3, 3, 3)
            high = low + roll.uniform(0.1, 4, 3)
            places, before = project(
                framed(camera, low, high), 400, 400, list(itertools.product(*zip(low, high, strict=True)))
            )
            self.assertTrue(before.all())
            self.assertTrue((places > 0).all() and (places < 400).all())
            self.assertGreater(np.ptp(places, axis=0).max(), 130)


if __name__ == "__main__":
    unittest.main()

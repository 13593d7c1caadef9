"""The stage's camera under the mouse: what is held stays under it, and nothing goes past its ends."""

import unittest

import numpy as np

from pale_ember.app.stage.camera_moves import FARTHEST, NEAREST, CameraMoves
from pale_ember.drawing.camera import axes_of, eye_of, framed, project
from pale_ember.drawing.moment import Moment
from pale_ember.effect.chapters.stage import Camera

SIZE = (900, 500)


class Looking:
    """As much of a session as looks somewhere."""

    def __init__(self, camera):
        self.camera, self.selected, self.event_ball = camera, "a", None

    def look_from(self, camera):
        self.camera = camera


class CameraTest(unittest.TestCase):
    def setUp(self):
        self.session = Looking(Camera(target=(0.5, 1.0, -0.5), distance=6.0, yaw=30.0, pitch=20.0))
        self.moves = CameraMoves(self.session)

    def test_what_is_under_the_mouse_goes_with_it(self):
        place = np.array([self.session.camera.target])
        before = project(self.session.camera, *SIZE, place)[0][0]
        self.moves.pan(40.0, -25.0, SIZE[1])
        after = project(self.session.camera, *SIZE, place)[0][0]
        np.testing.assert_allclose(after - before, (40.0, -25.0), atol=1e-6)

    def test_turning_keeps_the_target_and_the_distance_and_stops_before_the_poles(self):
        target, far = np.array(self.session.camera.target), self.session.camera.distance
        for yaw, pitch in ((50, 10), (300, 40), (-700, 90), (20, -400)):
            self.moves.turn(yaw, pitch)
            camera = self.session.camera
            self.assertTrue(-180 <= camera.yaw <= 180 and -89 <= camera.pitch <= 89)
            self.assertAlmostEqual(float(np.linalg.norm(eye_of(camera) - target)), far, places=9)
            axes = np.array(axes_of(camera))
            np.testing.assert_allclose(axes @ axes.T, np.eye(3), atol=1e-9)
            # Up stays up.
            self.assertGreater(axes[1][1], 0.0)

    def test_zoom_comes_no_nearer_and_goes_no_farther_than_makes_sense(self):
        self.moves.zoom(0.5)
        self.assertAlmostEqual(self.session.camera.distance, 3.0)
        self.moves.zoom(1e-9)
        self.assertEqual(self.session.camera.distance, NEAREST)
        self.moves.zoom(1e12)
        self.assertEqual(self.session.camera.distance, FARTHEST)

    def test_what_is_framed_fills_the_picture_from_every_side(self):
        roll = np.random.default_rng(3)
        for _ in range(50):
            camera = Camera(
                target=(0, 0, 0),
                distance=1.0,
                yaw=float(roll.uniform(-180, 180)),
                pitch=float(roll.uniform(-80, 80)),
            )
            low = roll.uniform(-5, 5, 3)
            high = low + roll.uniform(0.1, 4, 3)
            near = framed(camera, low, high)
            corners = np.array([[(low, high)[i >> k & 1][k] for k in range(3)] for i in range(8)])
            at, before = project(near, 800, 800, corners)
            self.assertTrue(before.all() and (at > 0).all() and (at < 800).all())
            self.assertGreater(np.ptp(at, axis=0).max(), 250)

    def test_with_nothing_to_see_it_looks_at_the_middle_of_the_stage(self):
        self.moves.frame(Moment(0.0, ()))
        np.testing.assert_allclose(self.session.camera.target, (0, 1, 0))
        self.assertTrue(2 < self.session.camera.distance < 10)

    def test_of_a_follow_up_an_event_is_framed_and_all_of_it_in_turn(self):
        self.session.event_ball = ((2.0, 0.0, 1.0), 0.1)
        self.moves.frame(Moment(0.0, ()))
        np.testing.assert_allclose(self.session.camera.target, (2, 0, 1))
        self.assertLess(self.session.camera.distance, 1.0)
        self.moves.frame(Moment(0.0, ()))
        np.testing.assert_allclose(self.session.camera.target, (0, 1, 0))


if __name__ == "__main__":
    unittest.main()

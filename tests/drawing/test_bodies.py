"""The bodies that props are drawn as, against their surfaces."""

import unittest

import numpy as np

from pale_ember.drawing.passes.solids import _ball, _cylinder, _floor


def area_of(corners):
    a, b, c = corners[0::3, :3], corners[1::3, :3], corners[2::3, :3]
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


class BodiesTest(unittest.TestCase):
    def test_a_ball_stands_on_the_floor_and_its_normals_point_away_from_its_middle(self):
        ball = _ball()
        away = ball[:, :3] - (0.0, 0.5, 0.0)
        np.testing.assert_allclose(np.linalg.norm(away, axis=1), 0.5, atol=1e-6)
        np.testing.assert_allclose(ball[:, 3:], 2 * away, atol=1e-6)
        self.assertAlmostEqual(float(ball[:, 1].min()), 0.0, places=6)
        self.assertAlmostEqual(area_of(ball), np.pi, delta=0.05)

    def test_a_cylinder_has_its_side_and_both_ends(self):
        cylinder = _cylinder()
        self.assertAlmostEqual(area_of(cylinder), 1.5 * np.pi, delta=0.05)
        side = np.abs(cylinder[:, 4]) < 0.5
        np.testing.assert_allclose(cylinder[side][:, [3, 5]], 2 * cylinder[side][:, [0, 2]], atol=1e-6)
        np.testing.assert_array_equal(
            np.sign(cylinder[~side][:, 4]), np.where(cylinder[~side][:, 1] > 0.5, 1, -1)
        )

    def test_the_floor_is_a_square_metre_that_looks_up(self):
        floor = _floor()
        self.assertAlmostEqual(area_of(floor), 1.0, places=6)
        self.assertEqual(
            (floor[:, :3].min(axis=0).tolist(), floor[:, :3].max(axis=0).tolist()), ([0, 0, 0], [1, 0, 1])
        )
        np.testing.assert_array_equal(floor[:, 3:], np.broadcast_to([0, 1, 0], (6, 3)))


if __name__ == "__main__":
    unittest.main()

"""Outlines of what pictures cover, against other libraries."""

import unittest

import numpy as np
from scipy.spatial import ConvexHull

from pale_ember.textures.outline import _hull


class HullTest(unittest.TestCase):
    def test_it_is_the_convex_hull_of_points_by_chance_and_in_rows(self):
        dice = np.random.default_rng(3)
        for i in range(200):
            points = dice.uniform(-1, 1, (int(dice.integers(3, 40)), 2)) * (1.0, dice.uniform(0.01, 3))
            if i % 3 == 0:
                points = np.unique(np.round(points * 4) / 4, axis=0)
                if np.linalg.matrix_rank(points - points[0]) < 2:
                    continue
            theirs = ConvexHull(points)
            ours = _hull(points)
            area = 0.5 * float(
                np.sum(ours[:, 0] * np.roll(ours[:, 1], -1) - np.roll(ours[:, 0], -1) * ours[:, 1])
            )
            # Against the clock: the area is positive.
            self.assertAlmostEqual(area, theirs.volume, places=9)
            self.assertEqual({*map(tuple, ours)}, {*map(tuple, points[theirs.vertices])})


if __name__ == "__main__":
    unittest.main()

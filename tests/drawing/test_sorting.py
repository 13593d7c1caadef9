"""Particles in the order of their depth."""

import unittest

import numpy as np

from pale_ember.drawing.sorting import far_first
from pale_ember.simulation.layout.instances import instance_type


class SortingTest(unittest.TestCase):
    def rows(self, count, seed=1):
        rows = np.zeros(count, instance_type(("opacity",)))
        rows["place"] = np.random.default_rng(seed).normal(size=(count, 3))
        rows["opacity"] = np.arange(count)
        return rows

    def test_the_farthest_are_first_and_none_is_lost(self):
        back = np.array([0.3, 0.2, 0.933])
        for count in (0, 1, 2, 50, 5000, 40_000):
            rows = self.rows(count)
            found = far_first(rows, back)
            depth = found["place"] @ back.astype(np.float32)
            span = float(np.ptp(depth)) if count else 0.0
            self.assertTrue((np.diff(depth) >= -span * (3e-7 if count < 16_384 else 2e-5)).all(), count)
            self.assertEqual(sorted(found["opacity"]), sorted(rows["opacity"]))

    def test_what_is_as_far_stays_in_the_order_of_birth(self):
        for count in (100, 20_000):
            rows = self.rows(count)
            rows["place"] = (1, 2, 3)
            np.testing.assert_array_equal(
                far_first(rows, np.array([0.0, 0.0, 1.0]))["opacity"], rows["opacity"]
            )

    def test_what_is_no_number_loses_nobody(self):
        rows = self.rows(300)
        rows["place"][::7] = np.nan
        rows["place"][::11] = np.inf
        found = far_first(rows, np.array([0.0, 0.6, 0.8]))
        self.assertEqual(sorted(found["opacity"]), list(range(300)))


if __name__ == "__main__":
    unittest.main()

"""What is told of an effect's steps while they are played, and how far that has come."""

import unittest

import numpy as np

from pale_ember.files.bakes.filming import _seen
from pale_ember.files.bundle.figures import Figures, _corners, watch
from tests.building import single


class WatchingTest(unittest.TestCase):
    def test_progress_rises_to_one_and_each_step_is_seen_once(self):
        effect = single({"emit.rate": 20}, duration=0.5, loop=False)
        seen, shares = [], []

        class Watcher:
            def see(self, step, sim, moment):
                seen.append((step, round(moment.time * effect.step_rate)))

        def progress(share):
            shares.append(share)
            return False

        watch(effect, [Watcher(), Figures(effect)], {}, 3, 12, progress)
        self.assertEqual(seen, [(step, step) for step in range(3, 13)])
        np.testing.assert_allclose(shares, np.arange(1, 11) / 10)


class BoundsTest(unittest.TestCase):
    def test_bounds_are_rounded_outwards_to_a_tenth_of_a_millimetre(self):
        dice = np.random.default_rng(8)
        for _ in range(50):
            low = dice.uniform(-50, 50, 3)
            high = low + dice.uniform(0, 9, 3)
            found = np.array(_corners((low, high)))
            self.assertTrue((found[0] <= low).all() and (found[1] >= high).all())
            np.testing.assert_allclose(found, [low, high], atol=1.0001e-4)
            np.testing.assert_allclose(found * 1e4, np.rint(found * 1e4), atol=1e-6)
        self.assertIsNone(_corners(None))


class FramingTest(unittest.TestCase):
    def test_only_what_can_be_seen_is_framed(self):
        rows = np.zeros(4, [("place", "f4", 3), ("size", "f4", 2), ("opacity", "f4")])
        rows["place"][:, 0] = (0, 1, 50, 90)
        rows["size"] = [(1, 2), (2, 1), (0, 0), (1, 1)]
        rows["opacity"] = (1, 0.5, 1, 0.0001)
        # The third has no size, the fourth is clear.
        np.testing.assert_allclose(_seen(rows, {}, True), [[0, 0, 0, 1], [1, 0, 0, 1]])
        reach = np.hypot(1, 2) / 2
        np.testing.assert_allclose(_seen(rows, {}, False), [[0, 0, 0, reach], [1, 0, 0, reach]])
        alike = rows[["place", "size"]]
        self.assertEqual(len(_seen(alike, {"opacity": (0.0,)}, True)), 0)
        self.assertEqual(len(_seen(alike, {"opacity": (0.5,)}, True)), 3)


if __name__ == "__main__":
    unittest.main()

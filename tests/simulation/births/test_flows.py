"""Rates against plain sums, snapshots against their budget, levels against what was noted."""

import math
import unittest

import numpy as np

from pale_ember.effect.chapters.path import PathKey, evaluate_path
from pale_ember.effect.values.curves import Key, evaluate
from pale_ember.effect.values.values import Band, Curve, Fixed, Spread
from pale_ember.simulation.births.flows import metre_flow, rate_flow
from pale_ember.simulation.births.sources import source_key, starts_of
from pale_ember.simulation.layout.program import COUNTERS
from pale_ember.simulation.motion.path import track_of
from pale_ember.simulation.time.population import MOST, Population
from pale_ember.simulation.time.snapshots import MOST_INSIDE, MOST_OUTSIDE, STEPS, Budget, Past, Snapshot

from ...building import single


def keys(dice, most=90.0):
    at = np.sort(dice.uniform(0, 1, 4))
    eases = dice.choice(["smooth", "linear", "hold"], 4)
    return tuple(
        Key(float(x), float(y), str(ease))
        for x, y, ease in zip(at, dice.uniform(0, most, 4), eases, strict=True)
    )


class FlowTest(unittest.TestCase):
    def test_counts_are_the_integral_and_moments_stand_where_it_passes_them(self):
        dice = np.random.default_rng(4)
        for _ in range(40):
            curve, length = keys(dice), float(dice.uniform(0.3, 8))
            flow = rate_flow(Curve(curve, "clock"), length, 1, False)
            fine = (np.arange(200_000) + 0.5) / 200_000
            sums = np.concatenate([[0.0], np.cumsum(evaluate(curve, fine))]) * length / 200_000
            at = np.sort(dice.uniform(0, length, 30))
            true = np.interp(at, np.linspace(0, length, 200_001), sums)
            self.assertLessEqual(np.abs(flow.counts(0, at) - np.ceil(true - 1e-6)).max(), 1)
            number = np.arange(flow.total(0))
            moments = flow.moments(0, number)
            self.assertTrue((np.diff(moments) >= 0).all())
            np.testing.assert_allclose(
                np.interp(moments, np.linspace(0, length, 200_001), sums), number, atol=0.02
            )
            # Who asks for what was born before a birth's moment reads its own number, or the next.
            again = flow.counts(0, moments)
            self.assertTrue(((again == number) | (again == number + 1)).all())

    def test_loops_go_on_counting_and_each_draw_is_a_loops_own(self):
        for rate, span in (
            (Fixed(7.3), 0.0),
            (Spread(5.0, 20.0), 15.0),
            (Band((Key(0, 5),), (Key(0, 20),), "clock"), 15.0),
        ):
            flow = rate_flow(rate, 2.0, 99, False)
            ends = [flow.before(loop) for loop in range(-40, 200)]
            each = np.diff(ends)
            self.assertTrue((each >= 2 * 5 - 1e-9).all() or span == 0.0)
            self.assertAlmostEqual(float(np.ptp(each)) > 1.0, span > 0.0)
            self.assertEqual(flow.first(3) + flow.total(3), flow.first(4))
            # The same however far was asked first.
            other = rate_flow(rate, 2.0, 99, False)
            self.assertEqual([other.before(loop) for loop in (150, -30, 7)], [ends[190], ends[10], ends[47]])
            same = rate_flow(rate, 2.0, 99, True)
            self.assertEqual({same.total(loop) for loop in range(20)}, {same.total(0)})

    def test_metres_are_those_of_the_path(self):
        path = [{"position": [0, 0, 0]}, {"at": 0.4, "position": [2, 1, 0]}, {"at": 1, "position": [0, 0, 3]}]
        layer = single({"path": path}).layers[0]
        flow = metre_flow(Fixed(50.0), track_of(layer), 3.0, 1, False)
        fine = evaluate_path(tuple(PathKey(**key) for key in path), np.linspace(0, 1, 100_001))[:, :3]
        way = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(fine, axis=0), axis=1))])
        for clock in (0.1, 0.37, 0.8, 1.0):
            self.assertLessEqual(
                abs(
                    int(flow.counts(0, np.array([3 * clock]))[0])
                    - 50 * np.interp(clock, np.linspace(0, 1, 100_001), way)
                ),
                1,
            )

    def test_numbers_of_sources_loops_and_firings_keep_apart(self):
        starts = np.concatenate(
            [
                starts_of(source_key(name), loop, np.arange(50))
                for name in ("rate", "metres", "burst/3")
                for loop in range(-3, 60)
            ]
        )
        self.assertEqual(len(np.unique(starts)), len(starts))
        gaps = np.diff(np.sort(starts.astype(np.int64)))
        # Ranges of a hundred births each: hardly any two meet.
        self.assertLess(np.mean(gaps < 100), 0.002)


def snapshot(particles):
    return Snapshot(
        np.zeros((11, particles), np.float32), np.zeros(particles, np.uint32), np.zeros(COUNTERS, np.int64)
    )


class PastTest(unittest.TestCase):
    def test_seeks_find_the_nearest_and_gaps_are_told(self):
        past = Past(Budget(10_000_000), 600)
        for step in (8, 16, 40, 600, 608):
            past.keep(step, snapshot(10))
        self.assertEqual([past.before(k) for k in (7, 8, 39, 40, 5000)], [None, 8, 16, 40, 608])
        self.assertEqual((past.after(16, 99), past.after(608, 99)), (40, 99))
        self.assertEqual((past.gap(16), past.gap(40)), (None, 24))
        self.assertEqual((past.next_due(8), past.next_due(9)), (16, 16))
        self.assertFalse(past.due(8) or past.due(9))
        self.assertTrue(past.due(24))

    def test_far_ones_are_thinned_first_and_the_near_ones_stay_close(self):
        past = Past(Budget(1 << 30), 600)
        for step in range(STEPS, 200_000, STEPS):
            if past.due(step):
                past.keep(step, snapshot(3))
        near = [k for k in past.steps if k <= 600]
        self.assertEqual(near, list(range(STEPS, 601, STEPS)))
        self.assertLessEqual(len(past), MOST_INSIDE + MOST_OUTSIDE)
        self.assertGreater(len(past) - len(near), MOST_OUTSIDE // 3)

    def test_a_budget_is_kept_and_given_back(self):
        budget = Budget(1_000_000)
        large, small = Past(budget, 600), Past(budget, 600)
        for step in range(STEPS, 601, STEPS):
            large.keep(step, snapshot(900))
            small.keep(step, snapshot(5))
        self.assertLessEqual(budget.bytes, 1_000_000)
        self.assertEqual(budget.bytes, large.bytes + small.bytes)
        self.assertEqual(len(small), 75)
        self.assertGreater(large.interval, STEPS)
        large.keep(STEPS * 1000, snapshot(100_000))
        self.assertNotIn(STEPS * 1000, large)
        large.clear()
        self.assertEqual(budget.bytes, small.bytes)

    def test_levels_stay_in_order_whatever_comes_first(self):
        levels = Population(10.0)
        dice = np.random.default_rng(1)
        seen = {}
        for time in np.concatenate([dice.permutation(np.arange(0, 40, 0.5)), [3.0, 3.0]]):
            seen.setdefault(float(time), int(dice.integers(100)))
            levels.note(float(time), seen[float(time)], 0)
        known = levels.known
        self.assertIs(levels.known, known)
        self.assertEqual(known[:, 0].tolist(), sorted(seen))
        self.assertEqual(known[:, 1].tolist(), [seen[time] for time in sorted(seen)])
        before = known.copy()
        for k in range(20_000):
            levels.note(50.0 + k, 1, 2)
        np.testing.assert_array_equal(known, before)
        self.assertLessEqual(len(levels.known), MOST + 1)
        self.assertTrue(math.isclose(levels.known[-1, 0], 50.0 + 19_999))
        self.assertIn(9.5, levels.known[:, 0])


if __name__ == "__main__":
    unittest.main()

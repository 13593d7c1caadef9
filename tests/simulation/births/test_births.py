"""Births: their moments, numbers and counts, played or reached by any way, and what too many of them cost."""

import math
import resource
import unittest
from unittest import mock

import numpy as np

from pale_ember.simulation import Simulation
from pale_ember.simulation.births.schedule import Schedule
from pale_ember.simulation.births.sources import BurstSource

from ...building import effect_with, single

BURST = {"emit.rate": 0, "launch.speed": 0}


def played(effect, time):
    sim = Simulation(effect)
    for _ in range(round(time * effect.step_rate)):
        sim.step()
    return sim


def sought(effect, time, **how):
    sim = Simulation(effect)
    sim.seek(time, **how)
    return sim


def values(sim, name="a"):
    p = sim.particles(name)
    return {
        int(n): (float(size), float(life)) for n, size, life in zip(p.serial, p.size, p.lifetime, strict=True)
    }


class MostTest(unittest.TestCase):
    def test_the_most_of_bursts_is_that_of_their_largest_count(self):
        for count, most in ((5, 5), ({"spread": [2, 9]}, 9), (0, 0), ({"curve": [[0, 1], [1, 7]]}, 7)):
            layer = single({"emit.bursts": [{"count": count, "repeat": 3, "every": 1.0}]}).layers[0]
            burst = BurstSource(layer.emit.bursts[0], 0, 2.0 + 1e-6, 1, False)
            self.assertEqual((burst.most(1), burst.most(3)), (most, 3 * most), count)

    def test_no_span_of_time_has_more_births_than_a_schedule_says(self):
        dice = np.random.default_rng(15)
        tight = 0
        for case in range(60):
            many, every = int(dice.integers(1, 6)), float(dice.choice([0.05, 0.2, 0.5]))
            count = int(dice.integers(1, 40))
            duration = float(dice.choice([0.5, 1.0, 2.5]))
            edits = {
                "emit.rate": float(dice.choice([0, 7, 120])),
                "emit.bursts": [
                    {"at": float(dice.uniform(0, duration)), "count": count, "repeat": many, "every": every}
                ],
            }
            effect = single(edits, duration=duration, loop=bool(case % 3))
            schedule = Schedule(effect, effect.layers[0])
            steps = math.ceil(3 * duration * effect.step_rate)
            each = np.diff(schedule.births(0, steps, 100_000).first)
            total = np.concatenate([[0], np.cumsum(each)])
            for span in (1, 3, 12, 30, 90):
                most = schedule.most_within(span / effect.step_rate)
                seen = int((total[span:] - total[:-span]).max()) if span <= steps else 0
                self.assertLessEqual(seen, most, (case, span, edits, duration))
                tight += seen > 0.45 * most
        # It is no empty promise: it is reached within a factor of two or so.
        self.assertGreater(tight, 60)


class ClockTest(unittest.TestCase):
    def test_what_belongs_to_the_birth_stays_what_it_was(self):
        tint = {"gradient": [[0, "#ff0000"], [1, "#0000ff"]], "along": "clock"}
        edits = {
            **BURST,
            "emit.bursts": [{"at": 0, "count": 1000}],
            "launch.lifetime": {"spread": [0.5, 2]},
            "look.tint": tint,
        }
        sim = Simulation(single(edits, duration=4.0))
        for moment in (0.0, 1 / 60, 0.3, 1.9, 4.0, 4.05, 8.0):
            sim.seek(moment)
            color = sim.particles("a").color
            self.assertGreater(len(color), 1 if moment == 1.9 else 100)
            np.testing.assert_allclose(color, np.broadcast_to([1, 0, 0], color.shape), atol=1e-3)

    def test_sizes_keep_over_long_lives_and_lives_end_in_time(self):
        size = {"curve": [{"x": 0, "y": 1, "ease": "linear"}, [1, 3]], "along": "clock"}
        edits = {
            **BURST,
            "emit.bursts": [{"at": 2, "count": 1}],
            "launch.lifetime": 2196,
            "launch.size": size,
        }
        sim = Simulation(single(edits, duration=4.0, loop=False))
        for moment in (2.1, 300.0, 2197.9):
            sim.seek(moment)
            self.assertAlmostEqual(float(sim.particles("a").size[0]), 2.0, places=4)
        sim.seek(2198.0 - 2 / 60)
        self.assertEqual(sim.counts("a")["alive"], 1)
        sim.seek(2198.0 + 2 / 60)
        self.assertEqual(sim.counts("a")["alive"], 0)

    def test_a_burst_is_there_at_its_moment(self):
        for loop in (True, False):
            sim = Simulation(
                single({**BURST, "emit.bursts": [{"at": 0, "count": 7}, {"at": 1.5, "count": 2}]}, loop=loop)
            )
            self.assertEqual((sim.counts("a")["born"], sim.counts("a")["alive"]), (7, 7))
            self.assertEqual(float(sim.particles("a").age.max()), 0.0)
            sim.seek(1.5)
            self.assertEqual(sim.counts("a")["born"], 9)


class CountTest(unittest.TestCase):
    def same(self, a, b):
        self.assertEqual(a.counts("a"), b.counts("a"))
        p, q = a.particles("a"), b.particles("a")
        np.testing.assert_array_equal(p.serial, q.serial)
        np.testing.assert_array_equal(p.position, q.position)

    def test_no_birth_is_doubled_at_a_loops_seam(self):
        curve = {"curve": [[0, 60], [0.5, 0]], "along": "clock"}
        effect = single({"emit.rate": curve, "launch.lifetime": 0.8}, duration=2.0)
        self.same(played(effect, 9.3), sought(effect, 9.3, hurry=True))
        self.assertEqual([played(effect, 2.0 * k).counts("a")["born"] for k in (1, 2, 3)], [30, 60, 90])
        path = [{"position": [0, 0, 0]}, {"at": 0.5, "position": [3, 0, 0]}, {"at": 1, "position": [0, 0, 0]}]
        metres = single(
            {"emit.rate": 0, "emit.per_metre": 10, "path": path, "launch.lifetime": 0.8}, duration=2.0
        )
        self.same(played(metres, 9.3), sought(metres, 9.3, hurry=True))
        warm = single({"emit.rate": curve, "launch.lifetime": 0.8}, duration=2.0, warm_up=3.1)
        self.same(played(warm, 0.5), sought(warm, 0.5))

    def test_random_rates_are_counted_the_same_by_every_way(self):
        dice = np.random.default_rng(8)
        for _ in range(40):
            keys = [
                [float(x), float(y)]
                for x, y in zip(np.sort(dice.uniform(0, 1, 4)), dice.uniform(0, 90, 4), strict=True)
            ]
            rate = [dice.choice([7.3, 60.0, 33.333]), {"curve": keys}, {"band": [keys, [[0, 90]]]}][
                dice.integers(3)
            ]
            bursts = [
                {
                    "at": float(dice.uniform(0, 1)),
                    "count": {"spread": [1, 6]},
                    "repeat": 4,
                    "every": 0.21,
                    "chance": 0.6,
                }
            ]
            edits = {
                "emit.rate": rate,
                "emit.bursts": bursts,
                "launch.lifetime": 0.4,
                "window.begin": float(dice.uniform(0, 0.5)),
            }
            whole = {
                "duration": float(dice.choice([1.0, 0.77, 2.345])),
                "warm_up": float(dice.choice([0, 1.3])),
            }
            effect = single(edits, **whole, repeat=bool(dice.integers(2)))
            here, far = played(effect, 6.2), sought(effect, 6.2, hurry=True)
            self.same(here, far)
            schedule = Schedule(effect, effect.layers[0])
            self.assertEqual(here.counts("a")["born"], schedule.born_until(372))
            steps = schedule.births(0, 372)
            self.assertLessEqual(abs(len(steps.number) - schedule.born_until(372)), 12)

    def test_short_holds_and_steps_are_where_they_are(self):
        hold = [
            {"x": 0, "y": 0, "ease": "hold"},
            {"x": 0.5, "y": 1000, "ease": "hold"},
            {"x": 0.503, "y": 0, "ease": "hold"},
        ]
        sim = sought(single({"emit.rate": {"curve": hold, "along": "clock"}}, duration=60.0), 31.0)
        self.assertEqual(sim.counts("a")["born"], 180)

    def test_counts_after_an_edit_are_those_since_time_0(self):
        effect = single({"emit.rate": 30, "launch.lifetime": 5}, warm_up=2.0)
        for step in range(1, 40):
            sim = sought(effect, step / 60)
            sim.replace(effect.edit("layers[0].launch.speed", 2))
            self.assertEqual(sim.counts("a")["born"], math.ceil(step / 2 - 1e-9), step)

    def test_whole_numbers_of_a_spread_are_as_likely_each(self):
        bursts = [{"at": 0, "count": {"spread": [3, 9]}, "repeat": 2000, "every": 0.001}]
        effect = single({**BURST, "emit.bursts": bursts}, duration=4.0)
        fired = Schedule(effect, effect.layers[0]).bursts[0].fired(0, np.arange(2000))
        found = np.bincount(fired, minlength=10)[3:]
        self.assertEqual(found.sum(), 2000)
        self.assertTrue((np.abs(found - 2000 / 7) < 70).all(), found)

    def test_a_narrow_spike_of_a_bursts_count_is_seen(self):
        spike = {"curve": [[0, 1], [0.5, 1], [0.5001, 900], [0.5002, 1], [1, 1]], "along": "clock"}
        edits = {
            **BURST,
            "emit.bursts": [{"at": 2.0004, "count": spike}],
            "emit.cap": 100,
            "launch.lifetime": 1,
        }
        effect = single(edits, duration=4.0)
        self.assertGreater(played(effect, 2.1).counts("a")["refused"], 700)
        self.same(played(effect, 2.3), sought(effect, 2.3, hurry=True))


class NumberTest(unittest.TestCase):
    """Whatever happens to other births, a particle keeps its number and with it all that is drawn."""

    EDITS = {
        "emit.rate": 40,
        "emit.bursts": [{"at": 0.3, "count": 6, "repeat": 3, "every": 0.4}],
        "launch.lifetime": {"spread": [0.8, 1.6]},
        "launch.size": {"spread": [0.1, 0.9]},
    }

    def kept(self, effect, other, time=1.7, least=15):
        a, b = values(sought(effect, time)), values(sought(other, time))
        both = set(a) & set(b)
        self.assertGreater(len(both), least)
        for n in both:
            self.assertEqual(a[n][0], b[n][0])
        return a, b, both

    def test_caps_lives_bursts_and_warm_up_change_no_other_dice(self):
        effect = single(self.EDITS)
        for path, value in (
            ("layers[0].emit.cap", 30),
            ("layers[0].launch.lifetime", {"spread": [1.2, 3]}),
            ("layers[0].emit.bursts", [*self.EDITS["emit.bursts"], {"at": 0.1, "count": 9}]),
            ("layers[0].place.scale", 1),
            ("warm_up", 2.5),
            ("layers[0].emit.rate", 90),
            ("layers[0].emit.bursts[0].count", 11),
        ):
            a, _, both = self.kept(effect, effect.edit(path, value))
            if path.endswith("count"):
                # More of them: those that were there still are.
                self.assertEqual(both, set(a))

    def test_what_a_full_cap_refuses_keeps_its_number(self):
        edits = {
            "emit.rate": 100,
            "emit.cap": 20,
            "launch.lifetime": 0.5,
            "launch.size": {"spread": [0.1, 0.9]},
        }
        effect = single(edits)
        self.kept(effect, effect.edit("layers[0].emit.cap", 1000), least=10)
        for moment in (3.3, 9.1):
            a, b = played(effect, moment), sought(effect, moment, hurry=True)
            b.seek(moment + 4), b.seek(moment)
            self.assertEqual(values(a), values(b))
            self.assertEqual(a.counts("a"), b.counts("a"))

    def test_with_repeat_every_loop_is_the_same_to_the_bit(self):
        edits = {
            **self.EDITS,
            "emit.rate": {"band": [[[0, 20], [1, 40]], [[0, 40], [1, 90]]]},
            "flight.turbulence": 3,
            "flight.drag": 1,
            "flight.wind": 0.7,
            "birthplace.kind": "box",
            "birthplace.glitter": True,
            "flight.spin": {"spread": [-90, 90]},
        }
        effect = (
            single(edits, duration=1.5, repeat=True).edit("stage.wind", [2, 0, 1]).edit("stage.gust", 0.6)
        )
        a, b = sought(effect, 3.4), sought(effect, 4.9)
        for name in ("position", "velocity", "age", "size", "serial", "angle"):
            np.testing.assert_array_equal(getattr(a.particles("a"), name), getattr(b.particles("a"), name))
        # Without it they differ, and so do those of a later loop.
        other = effect.edit("repeat", False)
        self.assertFalse(set(values(sought(other, 3.4))) == set(values(sought(other, 4.9))))
        # The end of a loop goes on into its beginning without a jump of the eddies.
        before, after = sought(effect, 3.0 - 1 / 60), sought(effect, 3.0)
        p, q = before.particles("a"), after.particles("a")
        _, i, j = np.intersect1d(p.serial, q.serial, return_indices=True)
        self.assertLess(np.abs(p.velocity[i] - q.velocity[j]).max(), 0.3)


class CostTest(unittest.TestCase):
    """What births cost is counted, not timed."""

    def test_an_hour_of_a_short_loop_is_reached_in_a_moment(self):
        bursts = [{"at": k / 100, "count": {"spread": [1, 3]}, "chance": 0.5} for k in range(100)]
        effect = single({**BURST, "emit.bursts": bursts, "launch.lifetime": 0.5}, duration=1.0)
        sim = Simulation(effect)
        with mock.patch.object(BurstSource, "fired", autospec=True, side_effect=BurstSource.fired) as fired:
            sim.seek(3600.0)
            sim.replace(effect.edit("layers[0].launch.speed", 1))
        # 360 000 firings are asked for in stretches, not one by one.
        self.assertLess(fired.call_count, 20_000)
        self.assertGreater(sim.counts("a")["born"], 300_000)

    def test_births_take_no_more_memory_than_a_cap_can_hold(self):
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        bursts = [{"at": 0.1, "count": 1_000_000}] * 256
        sim = sought(single({**BURST, "emit.bursts": bursts, "emit.cap": 1000}), 0.5)
        self.assertEqual(sim.counts("a")["refused"], 256_000_000 - 1000)
        path = [{"position": [0, 0, 0]}, {"at": 1, "position": [9000, 0, 0]}]
        sim = sought(single({"emit.rate": 0, "emit.per_metre": 1_000_000, "path": path, "emit.cap": 50}), 1.0)
        self.assertGreater(sim.counts("a")["refused"], 1e8)
        once = single(
            {"emit.rate": 50_000, "emit.cap": 200, "launch.lifetime": 0.01}, loop=False, duration=600.0
        )
        sought(once, 599.0, hurry=True)
        self.assertLess(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before, 700_000)

    def test_births_that_are_sure_to_be_refused_need_no_loop_each(self):
        effect = single({"emit.rate": 10_000_000, "emit.cap": 1}, warm_up=600.0)
        listed = Schedule(effect, effect.layers[0]).births(-36_000, -35_900, 1)
        self.assertEqual(len(listed.number), 100)
        sim = Simulation(effect)
        sim.seek(0.5)
        self.assertAlmostEqual(sim.counts("a")["refused"] / 5e6, 1.0, places=3)

    def test_effects_that_fit_nowhere_are_refused_at_once(self):
        from pale_ember.effect import EffectError

        huge = {"emit.cap": 4_000_000, "emit.rate": 10_000_000, "launch.lifetime": 3600}
        with self.assertRaises(EffectError) as caught:
            Simulation(effect_with({f"l{i}": huge for i in range(250)}))
        self.assertIn("emit.cap", caught.exception.place)
        self.assertIn("GB", caught.exception.reason)


if __name__ == "__main__":
    unittest.main()

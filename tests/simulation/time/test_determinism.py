import unittest
from unittest import mock

import numpy as np

from pale_ember.demo import kiln_mouth
from pale_ember.effect import EffectError
from pale_ember.simulation import Simulation
from pale_ember.simulation.time import snapshots

from ...building import effect_with, single

LIVELY = {
    "emit.rate": {"band": [[[0, 20], [1, 90]], [[0, 60], [1, 200]]]},
    "emit.bursts": [{"at": 0.4, "count": {"spread": [2, 30]}, "repeat": 5, "every": 0.3, "chance": 0.7}],
    "birthplace.kind": "ring",
    "birthplace.fan": 30,
    "launch.speed": {"spread": [0.5, 3]},
    "flight.drag": {"spread": [0, 2]},
    "flight.turbulence": {"curve": [[0, 0], [1, 4]]},
    "look.grow": {"band": [[[0, 0], [1, 1]], [[0, 1], [1, 3]]]},
    "look.tint": {"gradient": [[0, "#ff0000"], [1, "#0000ff"]]},
}


def bits(sim: Simulation, layer: str = "a") -> list[bytes]:
    p = sim.particles(layer)
    views = (p.position, p.velocity, p.age, p.size, p.color, p.opacity, p.serial, p.angle, p.intensity)
    return [np.ascontiguousarray(view).tobytes() for view in views] + [str(sim.counts(layer)).encode()]


def fresh(effect, time: float, layer: str = "a") -> list[bytes]:
    sim = Simulation(effect)
    sim.seek(time)
    return bits(sim, layer)


class DeterminismTest(unittest.TestCase):
    def test_any_way_to_a_time_gives_the_same_bits(self):
        for extra in ({}, {"emit.cap": 60}):
            for whole in ({}, {"warm_up": 1.7}, {"loop": False}):
                effect = single({**LIVELY, **extra}, duration=2.3, **whole)
                sim = Simulation(effect)
                want = fresh(effect, 2.5)
                for time in (2.5, 0.7, 2.5, 9.0, 0.0, 2.5):
                    sim.seek(time)
                    if time == 2.5:
                        self.assertEqual(bits(sim), want)
                played = Simulation(effect)
                for _ in range(150):
                    played.step()
                self.assertEqual(bits(played), want)
                for _ in range(250):
                    played.step()
                self.assertEqual(bits(played), fresh(effect, played.time))

    def test_a_moving_layer_comes_to_the_same_bits_too(self):
        moving = {
            **LIVELY,
            "path": [
                {"position": [-2, 0, 0]},
                {"at": 0.5, "rotation": [0, 200, 30]},
                {"at": 1, "position": [1, 1, 0]},
            ],
            "emit.per_metre": 30,
            "launch.carry": {"spread": [0, 1]},
            "birthplace.glitter": True,
        }
        for follow in (True, False):
            effect = single({**moving, "flight.follow": follow}, duration=1.9, warm_up=0.8)
            want = fresh(effect, 3.1)
            sim = Simulation(effect)
            for time in (4.0, 0.4, 3.1):
                sim.seek(time)
            self.assertEqual(bits(sim), want)
            sim.replace(effect.edit("layers[0].launch.speed", 1))
            sim.replace(effect)
            self.assertEqual(bits(sim), want)

    def test_threads_change_no_bit(self):
        for extra in (
            {},
            {"path": [{}, {"at": 1, "position": [3, 0, 0], "rotation": [0, 90, 0]}], "emit.cap": 300},
        ):
            effect = single({**LIVELY, **extra, "emit.rate": 400, "launch.lifetime": {"spread": [0.3, 1.5]}})
            want = fresh(effect, 2.2)
            for threads in (2, 3):
                sim = Simulation(effect, threads=threads)
                sim._threads.worth = 5
                sim.seek(2.2)
                self.assertEqual(bits(sim), want)

    def test_what_is_shown_does_not_depend_on_blocks(self):
        edits = {
            **LIVELY,
            "emit.rate": 3000,
            "emit.cap": 9000,
            "emit.bursts": [],
            "launch.lifetime": {"spread": [5, 9]},
        }
        effect = single(edits)
        less = effect.edit("layers[0].emit.rate", 750)
        a, b = Simulation(effect), Simulation(less)
        a.seek(2.0), b.seek(2.0)
        p, q = a.particles("a"), b.particles("a")
        # A raised rate keeps each number's dice, whatever block it falls into.
        both, i, j = np.intersect1d(p.serial, q.serial, return_indices=True)
        self.assertGreater(len(both), 100)
        np.testing.assert_array_equal(p.lifetime[i], q.lifetime[j])

    def test_a_change_of_size_moves_nothing(self):
        effect = single(LIVELY)
        sim = Simulation(effect)
        sim.seek(2.0)
        before = bits(sim)
        sim.replace(effect.edit("layers[0].launch.size", {"spread": [1, 2]}))
        after = bits(sim)
        self.assertEqual(before[0:3], after[0:3])
        self.assertNotEqual(before[3], after[3])
        self.assertEqual(after, fresh(sim.effect, 2.0))

    def test_changing_one_property_changes_no_other_draw(self):
        effect = single(LIVELY)
        a, b = Simulation(effect), Simulation(effect.edit("layers[0].launch.lifetime", {"spread": [2, 3]}))
        a.seek(1.0), b.seek(1.0)
        p, q = a.particles("a"), b.particles("a")
        _, i, j = np.intersect1d(p.serial, q.serial, return_indices=True)
        np.testing.assert_array_equal(p.color[i], q.color[j])

    def test_adding_and_reordering_layers_changes_no_other(self):
        effect = effect_with({"a": LIVELY, "b": {"launch.speed": 2}})
        want = fresh(effect, 1.3), fresh(effect, 1.3, "b")
        more = effect_with({"c": {}, "b": {"launch.speed": 2}, "a": LIVELY})
        self.assertEqual((fresh(more, 1.3), fresh(more, 1.3, "b")), want)

    def test_replace_is_what_a_fresh_run_gives(self):
        effect = kiln_mouth()
        sim = Simulation(effect)
        sim.seek(3.0)
        for path, value in (
            ("layers[0].launch.speed", 2),
            ("layers[1].enabled", False),
            ("stage.gravity", 3),
            ("seed", 9),
            ("step_rate", 120),
            ("duration", 2.0),
            ("layers[2].look.opacity", 0.3),
            ("layers[1].enabled", True),
        ):
            effect = effect.edit(path, value)
            sim.replace(effect)
            anew = Simulation(effect)
            anew.seek(sim.time)
            for layer in effect.layers:
                self.assertEqual(bits(sim, layer.id), bits(anew, layer.id), path)

    def test_after_a_hurried_edit_every_moment_is_whole(self):
        effect = single({**LIVELY, "launch.lifetime": {"spread": [0.4, 0.9]}}, duration=6.0)
        sim = Simulation(effect)
        sim.seek(5.0)
        edited = effect.edit("layers[0].launch.speed", 2)
        sim.replace(edited)
        for time in (5.0, 4.6, 4.95, 4.2, 0.3, 5.3, 3.9):
            sim.seek(time)
            self.assertEqual(bits(sim), fresh(edited, time), time)
        sim.replace(effect)
        calls = iter(range(10**9))
        sim.adopt(edited)
        self.assertFalse(sim.seek(5.5, lambda: next(calls) > 3, hurry=True))
        sim.seek(5.4)
        self.assertEqual(bits(sim), fresh(edited, 5.4))
        before = bits(sim)
        while not sim.fill():
            self.assertEqual(bits(sim), before)
        self.assertEqual(bits(sim), before)
        past = sim._runs["a"].past
        self.assertEqual(
            [k for k in past.steps if 0 < k <= 360], list(range(past.interval, 361, past.interval))
        )
        sim.seek(2.2)
        self.assertEqual(bits(sim), fresh(edited, 2.2))

    def test_what_no_budget_can_keep_is_not_asked_for_again(self):
        with mock.patch.object(snapshots, "BYTES", 1000):
            sim = Simulation(effect_with({"a": {"emit.rate": 150}}, duration=1.0))
            done = [sim.fill() for _ in range(20)]
        self.assertIn(True, done)
        self.assertEqual(len(sim._runs["a"].past), 0)

    def test_snapshots_of_all_layers_stay_within_one_budget(self):
        with mock.patch.object(snapshots, "BYTES", 400_000):
            effect = effect_with(
                {"a": {**LIVELY, "emit.cap": 300}, "b": {"emit.rate": 150}, "c": {"emit.rate": 3}}
            )
            sim = Simulation(effect)
            sim.seek(40.0)
            pasts = [run.past for run in sim._runs.values()]
            kept = sum(past[step].bytes for past in pasts for step in past.steps)
            self.assertEqual(kept, sim._budget.bytes)
            self.assertTrue(100_000 < kept <= 400_000, kept)
            # The layer that hardly holds anything keeps what it has.
            self.assertGreater(len(pasts[2]), len(pasts[1]))
            sim.seek(7.7)
            for name in "abc":
                self.assertEqual(bits(sim, name), fresh(effect, 7.7, name))
            sim.replace(effect.edit("layers", effect.layers[:1]))
            self.assertEqual(
                sim._budget.bytes, sum(past[step].bytes for past in pasts[:1] for step in past.steps)
            )

    def test_hours_of_play_take_no_more_memory(self):
        effect = single({"emit.rate": 30, "launch.lifetime": 0.5}, duration=1.0, step_rate=30)
        sim = Simulation(effect)
        run = sim._runs["a"]
        for step in range(0, 4 * 3600 * 30, 8):
            # As far as they are kept, hours of play are snapshots and nothing else.
            run.past.keep(step, run._snapshot()) if run.past.due(step) else None
            run._population.note(step / 30, 3, 0)
        self.assertLessEqual(len(run.past), snapshots.MOST_INSIDE + snapshots.MOST_OUTSIDE)
        self.assertLess(len(run.levels()), 6000)
        self.assertTrue((np.diff(run.levels()[:, 0]) > 0).all())

    def test_views_are_read_only_and_names_are_checked(self):
        sim = Simulation(effect_with({"a": {}, "b": {"name": "twin"}, "c": {"name": "twin"}}))
        sim.seek(0.5)
        with self.assertRaises(ValueError):
            sim.particles("a").position[0] = 0
        asked = (
            sim.particles,
            sim.instances,
            sim.joined,
            sim.body,
            sim.fixed,
            sim.counts,
            sim.lives,
            sim.levels,
            sim.hits,
            sim.answer,
        )
        for ask in asked:
            for name, words in (("nobody", "no layer"), ("twin", "use the id")):
                with self.assertRaises(EffectError) as caught:
                    ask(name)
                self.assertIn(words, str(caught.exception))
        named = sim.effect.layers[0].name
        np.testing.assert_array_equal(sim.lives(named).age, sim.lives("a").age)
        self.assertEqual(sim.counts(named), sim.counts("a"))
        with self.assertRaises(EffectError):
            sim.seek(float("nan"))


class DisabledTest(unittest.TestCase):
    def test_a_layer_that_was_disabled_for_a_while_goes_on_where_it_stood(self):
        effect = effect_with({"a": {"emit.rate": 200, "flight.turbulence": 1}, "b": {"emit.rate": 50}})
        off = effect.edit("layers[0].enabled", False)
        sim, fresh = Simulation(effect), Simulation(effect)
        sim.seek(2.0)
        run = sim._runs["a"]
        sim.adopt(off)
        sim.seek(2.2)
        with self.assertRaises(EffectError):
            sim.effect.layer("none")
        self.assertNotIn("a", sim._runs)
        self.assertEqual(run.step, 120, "it stands still meanwhile")
        # Looks may change while it rests.
        again = effect.edit("layers[0].look.opacity", 0.5)
        sim.adopt(again)
        self.assertIs(sim._runs["a"], run)
        sim.seek(2.5)
        fresh.adopt(again)
        fresh.seek(2.5)
        for name in ("serial", "position", "velocity", "opacity"):
            np.testing.assert_array_equal(
                getattr(sim.particles("a"), name), getattr(fresh.particles("a"), name)
            )
        # One that goes elsewhere begins anew, and one that is gone is let go.
        sim.adopt(off)
        sim.adopt(effect.edit("layers[0].launch.speed", 3))
        self.assertIsNot(sim._runs["a"], run)
        sim.adopt(off)
        sim.adopt(off.edit("layers", off.layers[1:]))
        self.assertEqual(sim._resting, {})


if __name__ == "__main__":
    unittest.main()

"""Chains: the same by every way, whatever caps, limits, loops, warm-up and threads; and what an edit
simulates anew.
"""

import unittest
from unittest import mock

import numpy as np

from pale_ember.effect import Effect, EffectError
from pale_ember.effect.effect import Layer
from pale_ember.simulation import Simulation
from pale_ember.simulation.follow_ups.parent_relations import children_of, parents_of
from pale_ember.simulation.time import snapshots
from pale_ember.simulation.time.biography import Single
from pale_ember.simulation.time.layer_run import LayerRun

from .chained import RAIN, STILL, chain_of


def random_chain(seed: int, most: int = 400) -> Effect:
    """Return a chain of two to four layers in which much happens."""
    roll = np.random.default_rng(seed)
    count = int(roll.integers(2, 5))
    effect = Effect(layers=tuple(Layer(id=f"l{i}", name=f"l{i}") for i in range(count)))
    edits = {
        "duration": float(roll.choice([0.7, 1.0, 1.5])),
        "loop": bool(roll.integers(3)),
        "repeat": bool(roll.integers(2)),
        "warm_up": float(roll.choice([0, 0.4])),
        "seed": int(roll.integers(99)),
        "step_rate": int(roll.choice([30, 60, 120])),
        "stage.props": [
            {
                "kind": str(roll.choice(["box", "ball", "cylinder", "mesh"])),
                "mesh": "torus",
                "position": roll.uniform(-1, 1, 3).tolist(),
                "rotation": roll.uniform(-90, 90, 3).tolist(),
                "path": [{"at": 0}, {"at": 1, "position": [0.5, 0.2, 0]}] if roll.integers(2) else [],
            }
            for _ in range(int(roll.integers(0, 4)))
        ],
        "layers[0].emit.rate": float(roll.uniform(5, 60)),
        "layers[0].emit.bursts": [{"at": 0, "count": 5}],
    }
    for i in range(count):
        at = f"layers[{i}]"
        edits |= {
            f"{at}.place.position": [0, 0.8, 0],
            f"{at}.birthplace.kind": "ball",
            f"{at}.birthplace.aim": "random",
            f"{at}.launch.speed": {"spread": [0.2, 4]},
            f"{at}.launch.lifetime": {"spread": [0.1, 0.9]},
            f"{at}.flight.gravity": 1,
            f"{at}.contact.enabled": bool(roll.integers(4)),
            f"{at}.contact.on_hit": str(roll.choice(["bounce", "bounce", "stick", "vanish"])),
            f"{at}.contact.wear": float(roll.choice([0, 0.2])),
            f"{at}.contact.reach": float(roll.choice([0, 0.5])),
            f"{at}.emit.cap": int(roll.choice([20, most])),
            f"{at}.flight.spin": 90,
            f"{at}.look.facing": str(roll.choice(["camera", "streak"])),
        }
        if i:
            edits |= {
                f"{at}.origin.parent": f"l{int(roll.integers(0, i))}",
                f"{at}.origin.when": str(roll.choice(["birth", "hit", "death", "alive"])),
                f"{at}.origin.count": {"spread": [0, 4]},
                f"{at}.origin.chance": float(roll.choice([1, 0.6])),
                f"{at}.origin.limit": int(roll.choice([3, 1000])),
                f"{at}.origin.take_color": bool(roll.integers(2)),
                f"{at}.origin.take_size": bool(roll.integers(2)),
                f"{at}.origin.carry": {"spread": [0, 0.5]},
                f"{at}.origin.aim": str(roll.choice(["own", "travel", "surface", "mirror"])),
            }
    for path, value in edits.items():
        effect = effect.edit(path, value)
    return effect


class ChainTest(unittest.TestCase):
    def same(self, a, b, effect, what=""):
        for layer in effect.layers:
            self.assertEqual(a.counts(layer.id), b.counts(layer.id), f"{what} {layer.id}")
            p, q = a.particles(layer.id), b.particles(layer.id)
            for name in ("serial", "position", "velocity", "age", "size", "color", "opacity", "angle"):
                np.testing.assert_array_equal(
                    getattr(p, name), getattr(q, name), err_msg=f"{what} {layer.id} {name}"
                )

    def test_random_chains_are_the_same_played_sought_forth_and_back_and_edited(self):
        born = 0
        for seed in range(26):
            effect = random_chain(seed)
            with self.subTest(seed=seed):
                sought, played = Simulation(effect), Simulation(effect, threads=1)
                sought.seek(1.3)
                while played.time < sought.time:
                    played.step()
                self.same(sought, played, effect, "played")
                sought.seek(2.1), sought.seek(0.3), sought.seek(1.3)
                self.same(sought, played, effect, "back")
                at = len(effect.layers) - 1
                sought.replace(effect.edit(f"layers[{at}].launch.speed", 9)), sought.replace(effect)
                self.same(sought, played, effect, "child edited")
                sought.replace(effect.edit("layers[0].launch.speed", 9)), sought.replace(effect)
                self.same(sought, played, effect, "parent edited")
                born += sum(sought.counts(layer.id)["born"] for layer in effect.layers[1:])
        self.assertGreater(born, 3000)

    def test_threads_and_a_small_memory_change_nothing(self):
        effect = (
            random_chain(7, 4000)
            .edit("layers[0].emit.rate", 3000)
            .edit("layers[0].emit.cap", 4000)
            .edit("layers[0].contact.on_hit", "bounce")
        )
        effect = (
            effect.edit("layers[0].contact.enabled", True)
            .edit("layers[1].origin.parent", "l0")
            .edit("layers[1].origin.when", "hit")
        )
        one, two = Simulation(effect, threads=1), Simulation(effect, threads=2)
        two._threads.worth = 100
        two._budget.most = 400_000
        for time in (0.5, 1.2, 0.2, 0.9):
            one.seek(time), two.seek(time)
            self.same(one, two, effect, f"{time} s")

    def test_a_long_warm_up_that_memory_does_not_hold_is_simulated_twice_and_not_again_and_again(self):
        effect = chain_of(
            {**RAIN, "launch.lifetime": 1},
            {**STILL, "launch.lifetime": 0.3, "origin.count": 2},
            warm_up=20.0,
            duration=4.0,
            loop=True,
        )
        whole, steps = Simulation(effect), 0
        carried = LayerRun._run

        def counted(run, count):
            nonlocal steps
            steps += count if not run.follow else 0
            carried(run, count)

        with mock.patch.object(snapshots, "BYTES", 30_000), mock.patch.object(LayerRun, "_run", counted):
            small = Simulation(effect)
        self.assertLess(steps, 3 * 20 * 60)
        self.same(small, whole, effect, "warm-up")
        self.assertGreater(small.counts("l1")["alive"], 50)

    def test_with_repeat_every_loop_is_the_same(self):
        effect = chain_of(
            {**RAIN, "place.position": [0, 0.6, 0], "launch.lifetime": 0.5},
            {**STILL, "launch.lifetime": 0.3, "origin.count": 3, "launch.speed": {"spread": [1, 2]}},
            duration=1.0,
            loop=True,
            repeat=True,
        )
        sim, seen = Simulation(effect), []
        for time in (2.4, 3.4):
            sim.seek(time)
            p = sim.particles("l1")
            seen.append((np.sort(p.serial), p.position[np.argsort(p.serial)].copy()))
        np.testing.assert_array_equal(seen[0][0], seen[1][0])
        np.testing.assert_allclose(seen[0][1], seen[1][1], atol=1e-6)

    def test_an_edit_of_a_child_leaves_its_parent_and_one_of_a_look_its_child(self):
        effect = chain_of(RAIN, {**STILL, "origin.count": 2})
        sim = Simulation(effect)
        sim.seek(1.5)
        parent = sim._runs["l0"]

        def refuse(steps):
            raise AssertionError("the parent is simulated anew")

        parent._run = refuse
        child = sim._runs["l1"]
        sim.replace(effect.edit("layers[1].launch.speed", 3))
        self.assertIsNot(sim._runs["l1"], child)
        self.assertIs(sim._runs["l0"], parent)
        child = sim._runs["l1"]
        bright = sim.effect.edit("layers[0].look.color", "#ff8800").edit("layers[0].look.opacity", 0.4)
        sim.replace(bright)
        self.assertIs(sim._runs["l1"], child)
        # Unless the child takes its colour.
        taking = sim.effect.edit("layers[1].origin.take_color", True)
        sim.replace(taking)
        child = sim._runs["l1"]
        sim.replace(taking.edit("layers[0].look.color", "#0088ff"))
        self.assertIsNot(sim._runs["l1"], child)

    def test_single_lives_and_kin_are_those_of_the_simulation(self):
        effect = chain_of(
            RAIN,
            {
                **STILL,
                "launch.speed": {"spread": [1, 2]},
                "launch.lifetime": 0.5,
                "flight.gravity": 1,
                "origin.count": 3,
                "birthplace.aim": "random",
            },
        )
        sim = Simulation(effect)
        sim.seek(1.4)
        lives, p = sim.lives("l1"), sim.particles("l1")
        single = Single(effect, effect.layers[1])
        for i in (0, len(p) // 2, len(p) - 1):
            life = single.life(lives.birth(i))
            at = int(np.argmin(np.abs(life.ages - p.age[i])))
            np.testing.assert_allclose(life.places[at], p.position[i], atol=1e-6)
        self.assertIsNotNone(single.birth(0))
        self.assertEqual(len(single.sample(10)), 10)
        # Three of each drop have the same parent, which is told from the numbers alone.
        stuck = (
            effect.edit("layers[0].contact.on_hit", "stick")
            .edit("layers[0].launch.lifetime", 60)
            .edit("layers[1].launch.lifetime", 60)
        )
        sim = Simulation(stuck)
        sim.seek(1.4)
        parents, children = sim.particles("l0"), sim.particles("l1")
        for i in (0, 7, 20):
            kin = children_of(stuck.layers[1], int(parents.serial[i]), children.serial.copy())
            self.assertEqual(len(kin), 3)
            for child in kin:
                (back,) = parents_of(stuck.layers[1], int(children.serial[child]), parents.serial.copy())
                self.assertEqual(back, i)

    def test_a_mesh_that_cannot_be_read_is_told_with_its_prop(self):
        effect = chain_of(RAIN, STILL, stage__props=[{"kind": "mesh", "mesh": "/nowhere/anvil.obj"}])
        sim = Simulation(effect)
        sim.seek(1.0)
        (wrong,) = sim.problems()
        self.assertEqual(wrong.place, "stage.props[0].mesh")
        self.assertIsInstance(wrong, EffectError)
        self.assertGreater(sim.counts("l0")["hits"], 0)


if __name__ == "__main__":
    unittest.main()

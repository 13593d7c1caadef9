"""Ribbons: whose points they join, where their heads are, how they end; the same by every way."""

import unittest

import numpy as np

from pale_ember.effect.kinds import DrawnAs
from pale_ember.simulation import Simulation
from pale_ember.simulation.ribbons.joining import join

from ...building import effect_with, single
from ..follow_ups.test_chains import random_chain

TRAIL = {
    "launch.speed": 0,
    "launch.lifetime": 0.5,
    "look.draw": "ribbon",
    "look.ribbon.join": "parent",
    "emit.rate": 0,
    "look.ribbon.lay": "repeat",
    "look.ribbon.lay_from": "tail",
}


def trail(parent=None, **more):
    flying = {
        "emit.rate": 20,
        "launch.speed": {"spread": [2, 4]},
        "birthplace.fan": 60,
        "flight.gravity": 1,
        "launch.lifetime": {"spread": [0.4, 0.9]},
    }
    return effect_with(
        {
            "p": flying | (parent or {}),
            "r": TRAIL | {"origin.parent": "p", "origin.when": "alive", "origin.rate": 30} | more,
        }
    )


def ribbons(sim, name="r"):
    """Return the points of each ribbon, from its tail to its head, by its parent's number."""
    joined = sim.joined(name)
    return {
        int(number): joined.rows[joined.order[first:last]]
        for number, first, last in zip(joined.whose, joined.starts, joined.starts[1:])
    }


def same(test, a, b, effect, what):
    for layer in effect.layers:
        one, other = a.joined(layer.id), b.joined(layer.id)
        test.assertEqual(one is None, other is None)
        if one is None:
            continue
        test.assertEqual(one.rows.tobytes(), other.rows.tobytes(), f"{what} {layer.id} rows")
        for name in ("starts", "order", "whose", "cuts"):
            np.testing.assert_array_equal(
                getattr(one, name), getattr(other, name), err_msg=f"{what} {layer.id} {name}"
            )


def joined_chain(seed):
    """Return a random chain in which layers are ribbons, along bows and lines too."""
    effect, roll = random_chain(seed, 200), np.random.default_rng(seed + 5)
    for i in range(len(effect.layers)):
        at = f"layers[{i}]"
        for path, value in {
            f"{at}.look.draw": str(roll.choice(["ribbon", "ribbon", "sprite", "mesh"])),
            f"{at}.look.ribbon.join": str(roll.choice(["layer", "parent"])),
            f"{at}.look.ribbon.across": str(roll.choice(["camera", "flat", "axis", "line"])),
            f"{at}.look.ribbon.lay": str(roll.choice(["stretch", "repeat"])),
            f"{at}.look.ribbon.lay_from": str(roll.choice(["head", "tail"])),
            f"{at}.look.mesh.stand": str(roll.choice(["layer", "travel", "tumble"])),
            f"{at}.birthplace.kind": str(roll.choice(["point", "ball", "line", "bow"])),
            f"{at}.birthplace.in_row": bool(roll.integers(2)),
            f"{at}.birthplace.glitter": bool(roll.integers(2)),
            f"{at}.birthplace.stray": float(roll.choice([0, 0.1])),
            f"{at}.birthplace.end_on": str(roll.choice(["", "prop:Prop", "layer:l0"])),
            f"{at}.flight.follow": bool(roll.integers(2)),
            f"{at}.path": [{}, {"at": 1, "position": [1, 0.3, 0], "rotation": [0, 90, 0]}]
            if roll.integers(2)
            else [],
        }.items():
            effect = effect.edit(path, value)
    return effect


class OwnersTest(unittest.TestCase):
    def test_points_are_told_apart_by_their_parents_whatever_their_numbers_are(self):
        roll = np.random.default_rng(8)
        for count in (1, 2, 30, 200):
            for _ in range(40):
                known = roll.integers(0, 1 << 32, max(count // 3, 1), dtype=np.uint32)
                owners = roll.choice(known, count)
                parents = np.unique(
                    np.append(owners[: count // 2], roll.integers(0, 1 << 32, 3, dtype=np.uint32))
                )
                table = np.full(1 << int(2 * count).bit_length(), -1, np.int32)
                ribbon, newest = np.empty(count, np.int32), np.empty(count, np.int32)
                head, whose = np.full(len(parents), -1, np.int32), np.empty(count, np.uint32)
                places = np.zeros(0, np.float32)
                found = join(owners, places, count, parents, table, ribbon, newest, head, whose)
                numbers = {int(owner): i for i, owner in enumerate(dict.fromkeys(owners.tolist()))}
                self.assertEqual(found, len(numbers))
                self.assertEqual(ribbon.tolist(), [numbers[owner] for owner in owners.tolist()])
                self.assertEqual(whose[:found].tolist(), list(numbers))
                self.assertEqual(head.tolist(), [numbers.get(one, -1) for one in parents.tolist()])
                last = {number: i for i, number in enumerate(ribbon.tolist())}
                self.assertEqual(newest[:found].tolist(), [last[i] for i in range(found)])


class JoiningTest(unittest.TestCase):
    def test_heads_are_on_their_parents_at_any_step(self):
        sim, seen = Simulation(trail()), 0
        for step in range(1, 120):
            sim.seek(step / 60)
            parents = sim.particles("p")
            places = dict(zip(parents.serial.tolist(), parents.position.copy()))
            for number, points in ribbons(sim).items():
                if number in places:
                    seen += 1
                    np.testing.assert_allclose(points["place"][-1], places[number], atol=1e-5)
        self.assertGreater(seen, 500)

    def test_a_head_has_the_length_of_its_newest_point_where_the_parents_way_is_not_measured(self):
        # Only parents that are followed along their flight know how far they have flown.
        wall = {"contact.enabled": True, "contact.bounce": 0.8}
        for when in ("birth", "hit"):
            more = {"origin.when": when, "origin.count": 4, "launch.lifetime": 2.0, "launch.speed": 1.0}
            sim, seen = Simulation(trail(wall, **more)), 0
            for step in range(30, 120, 7):
                sim.seek(step / 60)
                living = set(sim.particles("p").serial.tolist())
                for number, points in ribbons(sim).items():
                    if number in living:
                        seen += 1
                        self.assertEqual(points["laid"][-1], points["laid"][-2], when)
            self.assertGreater(seen, 20)

    def test_a_ribbon_is_its_parents_whole_way_from_birth_to_death(self):
        effect = trail(
            {
                "emit.rate": 0,
                "emit.bursts": [{"count": 6}],
                "launch.lifetime": 0.4,
                "birthplace.kind": "ball",
            },
            **{"launch.lifetime": 3},
        )
        sim = Simulation(effect)
        begun = dict(zip(sim.particles("p").serial.tolist(), sim.particles("p").position.copy()))
        sim.seek(0.39)
        last = sim.particles("p")
        near = {
            int(n): p + v * 0.01 for n, p, v in zip(last.serial, last.position.copy(), last.velocity.copy())
        }
        sim.seek(1.0)
        self.assertEqual(sim.counts("p")["alive"], 0)
        found = ribbons(sim)
        self.assertEqual(set(found), set(begun))
        for number, points in found.items():
            np.testing.assert_allclose(points["place"][0], begun[number], atol=1e-5)
            np.testing.assert_allclose(points["place"][-1], near[number], atol=0.02)
            # 30 a second over 0.4 s, and one where it died.
            self.assertEqual(len(points), 14)
            walked = np.linalg.norm(np.diff(points["place"].astype(float), axis=0), axis=1)
            np.testing.assert_allclose(np.diff(points["laid"]), walked, rtol=0.02, atol=1e-3)

    def test_what_dies_leaves_a_ribbon_that_fades_by_its_own_curve(self):
        effect = trail(
            {"emit.rate": 0, "emit.bursts": [{"count": 3}], "launch.lifetime": 0.3},
            **{
                "launch.lifetime": 0.8,
                "look.grow": {"curve": [[0, 1], [1, 0]]},
                "look.opacity": {"curve": [[0, 1], [1, 0]]},
                "launch.size": 0.4,
            },
        )
        sim = Simulation(effect)
        for time in (0.4, 0.7, 0.9):
            sim.seek(time)
            p, rows = sim.particles("r"), sim.joined("r").rows
            self.assertEqual(len(rows), len(p))
            np.testing.assert_allclose(rows["opacity"], 1 - p.age, atol=3e-3)
            np.testing.assert_allclose(rows["size"][:, 1], 0.4 * (1 - p.age), atol=2e-3)
        sim.seek(1.2)
        self.assertEqual(len(sim.joined("r").whose), 0)

    def test_tails_draw_in_without_a_jump(self):
        # The end that is seen moves evenly, though points go one by one.
        effect = trail(
            {
                "emit.rate": 0,
                "emit.bursts": [{"count": 1}],
                "launch.lifetime": 2,
                "launch.speed": 3,
                "birthplace.fan": 0,
                "flight.gravity": 0,
            }
        )
        sim, ends = Simulation(effect.edit("step_rate", 120)), []
        for step in range(80, 180):
            sim.seek(step / 120)
            joined = sim.joined("r")
            points = joined.rows[joined.order]["place"][:, 1].astype(float)
            ends.append(points[0] + (points[1] - points[0]) * joined.cuts[0])
        steps = np.diff(ends)
        self.assertGreater(steps.min(), 0.0)
        self.assertLess(steps.max(), 2.5 * 3 / 120)

    def test_bursts_along_a_bow_are_ribbons_of_their_own(self):
        effect = single(
            {
                "emit.rate": 0,
                "emit.bursts": [{"count": 9, "repeat": 5, "every": 0.1}],
                "birthplace.kind": "bow",
                "birthplace.in_row": True,
                "launch.speed": 0,
                "launch.lifetime": 0.25,
                "look.draw": "ribbon",
            }
        )
        sim = Simulation(effect)
        sim.seek(0.35)
        joined = sim.joined("a")
        np.testing.assert_array_equal(np.diff(joined.starts), 9)
        self.assertEqual(len(joined.whose), 2)
        for first in joined.starts[:-1]:
            x = joined.rows["place"][joined.order[first : first + 9], 0]
            self.assertTrue((np.diff(x) > 0).all())

    def test_a_moving_layer_has_its_head_where_it_stands(self):
        path = [{}, {"at": 1, "position": [4, 0, 0]}]
        effect = single(
            {
                "path": path,
                "emit.rate": 13,
                "launch.speed": 0,
                "launch.lifetime": 0.6,
                "flight.follow": False,
                "look.draw": "ribbon",
            }
        )
        sim = Simulation(effect)
        for step in range(30, 90):
            sim.seek(step / 60)
            joined = sim.joined("a")
            points = joined.rows["place"][joined.order]
            self.assertEqual(len(points), sim.counts("a")["alive"] + 1)
            clock = step / 60 / 4
            self.assertAlmostEqual(float(points[-1, 0]), 4 * clock, delta=1e-4)
        # Where nothing more is born, nothing leads there.
        off = Simulation(effect.edit("layers[0].window.length", 0.5))
        off.seek(0.7)
        self.assertEqual(len(off.joined("a").rows), off.counts("a")["alive"])

    def test_a_sweep_lies_between_the_ends_of_its_line_as_it_was(self):
        path = [{}, {"at": 1, "rotation": [0, 0, 180], "position": [0, 1, 0]}]
        effect = single(
            {
                "path": path,
                "birthplace.kind": "line",
                "birthplace.extents": [0.6, 1, 1],
                "emit.rate": 20,
                "launch.speed": 0,
                "launch.lifetime": 9,
                "flight.follow": False,
                "look.draw": "ribbon",
                "look.ribbon.across": "line",
                "launch.size": 5,
            }
        )
        sim = Simulation(effect)
        sim.seek(2.0)
        rows, life = sim.instances("a"), sim.lives("a")
        np.testing.assert_allclose(rows["size"][:, 0], 0.6, rtol=1e-5)
        clock = life.rows[3].astype(float)
        turn = np.pi * clock
        np.testing.assert_allclose(
            rows["across"], np.stack([np.cos(turn), np.sin(turn), 0 * turn], axis=1), atol=2e-3
        )
        np.testing.assert_allclose(rows["place"][:, 0], 0.0, atol=1e-5)

    def test_joins_are_the_same_by_every_way(self):
        for seed in range(24):
            effect = joined_chain(seed)
            played, sought, alone = Simulation(effect), Simulation(effect), Simulation(effect, threads=1)
            for step in range(0, 80, 7):
                played.seek(step / 60)
            last = played.time
            sought.seek(last + 0.6)
            sought.seek(last, hurry=True)
            alone.seek(last)
            same(self, played, sought, effect, f"{seed} sought")
            same(self, played, alone, effect, f"{seed} alone")

    def test_only_ribbons_are_joined(self):
        sim = Simulation(single())
        self.assertIsNone(sim.joined("a"))
        for draw in DrawnAs:
            sim.replace(single({"look.draw": draw}))
            self.assertEqual(sim.joined("a") is not None, draw == DrawnAs.RIBBON)
            self.assertEqual(bool(sim.body("a")), draw == DrawnAs.MESH)


if __name__ == "__main__":
    unittest.main()

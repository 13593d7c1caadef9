"""Follow-ups: how many are born of events, where, when, with what of their parents, and by which dice."""

import math
import unittest

import numpy as np

from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation import Simulation
from pale_ember.simulation.follow_ups.schedule import FollowUp
from pale_ember.simulation.layout import recording
from pale_ember.simulation.motion.path import pose_at_event
from pale_ember.simulation.time.biography import Single

from .chained import RAIN, STILL, chain_of

G = 9.81


class FarTest(unittest.TestCase):
    def test_who_has_flown_farther_than_can_be_told_starts_no_more(self):
        effect = chain_of(RAIN, {**STILL, "origin.when": "alive", "origin.rate": 0, "origin.per_metre": 2})

        class Far:
            def events(self, first, stop, kind):
                what, who = np.zeros((3, recording.FLIGHT_COLUMNS), np.float32), np.zeros((3, 4), np.int64)
                what[:, recording.WALKED], what[:, recording.WALKED_TO] = (
                    (1.0, 3e38, np.inf),
                    (3.1, np.inf, np.inf),
                )
                what[:, recording.FLOWN_TO], who[:, recording.NUMBER] = 1 / 60, (4, 5, 6)
                return what, who

        births = FollowUp(effect, effect.layers[1], Far()).births(0, 1, 100)
        self.assertEqual(len(births.number), 4)
        self.assertTrue(np.isfinite(births.payload).all())


class BirthplaceTest(unittest.TestCase):
    def test_births_lie_in_the_birthplace_as_it_stands_at_their_event(self):
        ring = {
            "birthplace.kind": "ring",
            "birthplace.fill": "rim",
            "birthplace.radius": 0.3,
            "birthplace.tube": 0,
            "place.rotation": [20, 30, 0],
        }
        boxes = [
            {"kind": "box", "size": [9, 1, 9], "rotation": turn}
            for turn in ([0, 0, 0], [35, 0, 20], [180, 0, 0])
        ]
        for box in boxes:
            for aim in ("own", "travel", "surface", "mirror"):
                effect = chain_of(RAIN, {**STILL, **ring, "origin.aim": aim, "origin.count": 3}).edit(
                    "stage.props", [box]
                )
                layer = effect.layers[1]
                single = Single(effect, layer)
                for birth in single.beside(0, 30):
                    pose = pose_at_event(layer, 0.0, birth.payload)
                    x, y, z = pose.rotation.T @ (single.life(birth).places[0] - pose.centre)
                    self.assertAlmostEqual(float(np.hypot(x, z)), 0.3, delta=5e-6)
                    self.assertAlmostEqual(float(y), 0.0, delta=5e-6)


class CountTest(unittest.TestCase):
    def test_children_are_count_times_events_times_chance(self):
        effect = chain_of(
            RAIN, {**STILL, "origin.count": {"spread": [2, 5]}, "origin.chance": 0.3}, duration=20.0
        )
        sim = Simulation(effect)
        sim.seek(15.0)
        hits, born = sim.counts("l0")["hits"], sim.counts("l1")["born"]
        self.assertGreater(hits, 2500)
        each = 0.3 * 3.5
        spread = math.sqrt(hits * (0.3 * (3.5**2 + 1.25) - each**2))
        self.assertAlmostEqual(born, each * hits, delta=4 * spread)

    def test_births_and_deaths_and_flight_give_what_they_should(self):
        parent = {"emit.rate": 50, "launch.lifetime": 0.5, "launch.push": [2, 0, 0], "launch.speed": 0}
        for when, fields, each in (
            ("birth", {}, 1.0),
            ("death", {}, 1.0),
            ("alive", {"origin.rate": 12}, 6.0),
            ("alive", {"origin.rate": 0, "origin.per_metre": 7}, 7.0),
        ):
            effect = chain_of(parent, {**STILL, "origin.when": when, "origin.count": 2, **fields})
            sim = Simulation(effect)
            sim.seek(10.0)
            ended = sim.counts("l0")["died"]
            self.assertAlmostEqual(
                sim.counts("l1")["born"] / 2, ended * each, delta=4 + 2 * 25 * each, msg=when
            )
            self.assertAlmostEqual(
                sim.counts("l1")["born"] / 2 / 10.0, 50 * each, delta=50 * each * 0.06, msg=when
            )

    def test_an_avalanche_ends_at_the_caps_and_says_so(self):
        bang = {"origin.when": "death", "origin.count": 10, "launch.lifetime": 0.1, "emit.cap": 300}
        effect = chain_of({"emit.rate": 100, "launch.lifetime": 0.1}, bang, bang, bang)
        sim = Simulation(effect)
        sim.seek(3.0)
        for i in (2, 3):
            self.assertLessEqual(sim.counts(f"l{i}")["alive"], 300)
            self.assertGreater(sim.counts(f"l{i}")["refused"], 100)

    def test_speed_limit_and_window_choose_among_events(self):
        sim = Simulation(chain_of(RAIN, {**STILL, "origin.min_speed": 100}))
        sim.seek(2.0)
        answer = sim.answer("l1", 1.0)
        self.assertEqual((sim.counts("l1")["born"], answer.slow), (0, answer.events))
        sim = Simulation(
            chain_of({**RAIN, "emit.rate": 2000}, {**STILL, "origin.count": 9, "origin.limit": 20})
        )
        sim.seek(2.0)
        before, counts = sim.counts("l1")["born"], sim.counts("l1")
        sim.step()
        self.assertEqual(sim.counts("l1")["born"] - before, 20)
        self.assertGreater(counts["refused"], 1000)
        self.assertGreater(sim.answer("l1", 1.0).limited, 1000)
        sim = Simulation(chain_of(RAIN, {**STILL, "window.begin": 1.0, "window.length": 0.5}))
        sim.seek(5.0)
        self.assertEqual(
            sim.counts("l1")["born"], np.count_nonzero(sim.particles("l1").age * 60 > 3.5 - 1e-4)
        )
        self.assertAlmostEqual(sim.counts("l1")["born"], 100, delta=15)


class PlaceTest(unittest.TestCase):
    def test_children_are_born_where_and_when_the_parent_hits(self):
        for rate in (30, 60, 120):
            drop = {
                "emit.rate": 0,
                "emit.bursts": [{"at": 0, "count": 30}],
                "birthplace.kind": "ball",
                "place.position": [0, 3, 0],
                "launch.push": [1.5, 0, -1],
                "launch.speed": 0,
                "flight.gravity": 1,
                "launch.lifetime": 9,
                "contact.enabled": True,
                "contact.on_hit": "vanish",
                "contact.reach": 0.5,
                "launch.size": 0.2,
            }
            sim = Simulation(chain_of(drop, {**STILL, "flight.gravity": 0}, step_rate=rate))
            sim.seek(0.0)
            start = sim.particles("l0").position.copy()
            sim.seek(1.5)
            child = sim.particles("l1")
            time = np.sqrt(2 * (start[:, 1] - 0.1) / G)
            place = start + np.stack([1.5 * time, 0 * time, -time], axis=1)
            place[:, 1] = 0.0
            order = np.argsort(time)
            np.testing.assert_allclose(child.position, place[order], atol=1e-4)
            np.testing.assert_allclose(1.5 - child.age * 60, time[order], atol=1e-4)

    def test_deaths_and_flights_are_met_on_the_parabola(self):
        throw = {
            "emit.rate": 0,
            "emit.bursts": [{"at": 0, "count": 1}],
            "launch.push": [3, 4, 0],
            "launch.speed": 0,
            "flight.gravity": 1,
            "launch.lifetime": 0.7321,
        }
        for rate in (30, 60, 120):
            sim = Simulation(chain_of(throw, {**STILL, "origin.when": "death"}, step_rate=rate))
            sim.seek(2.0)
            t = 0.7321
            np.testing.assert_allclose(
                sim.particles("l1").position[0], [3 * t, 4 * t - G * t * t / 2, 0], atol=1e-4
            )
            sim = Simulation(
                chain_of(throw, {**STILL, "origin.when": "alive", "origin.rate": 40}, step_rate=rate)
            )
            sim.seek(2.0)
            p = sim.particles("l1")
            born = 2.0 - p.age * 60
            # Between two steps along the chord of the parabola.
            np.testing.assert_allclose(p.position[:, 0], 3 * born, atol=2e-4)
            np.testing.assert_allclose(
                p.position[:, 1], 4 * born - G * born**2 / 2, atol=G / 8 / rate**2 + 2e-4
            )
            np.testing.assert_allclose(np.diff(born), 1 / 40, atol=2e-4)

    def test_velocity_colour_and_size_are_the_parents(self):
        parent = {
            **RAIN,
            "look.color": {"gradient": [[0, "#ff0000"], [1, "#0000ff"]]},
            "look.tint": {"spread": ["#ffffff", "#808080"]},
            "launch.size": {"spread": [0.1, 0.4]},
            "look.grow": {"curve": [[0, 1], [1, 3]]},
            "contact.on_hit": "stick",
            "launch.lifetime": 1e3,
        }
        child = {
            "launch.speed": 0,
            "launch.lifetime": 1e3,
            "origin.carry": 0.25,
            "launch.carry": 0.5,
            "origin.take_color": True,
            "origin.take_size": True,
            "launch.size": 2.0,
        }
        sim = Simulation(chain_of(parent, child))
        sim.seek(1.0)
        p, q = sim.particles("l0"), sim.particles("l1")
        stuck = np.flatnonzero(p.position[:, 1] < 1e-6)
        self.assertEqual(len(stuck), len(q))
        # Both lie where the parent hit; pairs by place.
        own = q.position - 0.0
        for i in range(len(q)):
            at = stuck[
                np.argmin(
                    np.linalg.norm(
                        p.position[stuck][:, [0, 2]]
                        - own[i][[0, 2]]
                        + q.velocity[i][[0, 2]] * (q.age[i] * 1e3),
                        axis=1,
                    )
                )
            ]
            fall = math.sqrt(9 + 2 * G * 2)
            np.testing.assert_allclose(q.velocity[i], [0.75, -0.75 * fall, 0.375], rtol=1e-4)
            np.testing.assert_allclose(q.size[i], 2 * p.size[at], rtol=3e-3)
            np.testing.assert_allclose(q.color[i], p.color[at], atol=2e-3)

    def test_aims_follow_travel_surface_and_mirror_on_tilted_props_and_meshes(self):
        for kind in ("box", "mesh"):
            turn = matrix_of((25, 40, -30))
            out = turn[:, 1]
            prop = {
                "kind": kind,
                "mesh": "box",
                "rotation": [25, 40, -30],
                "size": [4, 0.2, 4],
                "position": [0, 0, 0],
            }
            fall = {
                "emit.rate": 100,
                "place.position": [0.1, 3, 0],
                "launch.push": [0.4, -6, 0.3],
                "launch.speed": 0,
                "launch.lifetime": 5,
                "contact.enabled": True,
                "contact.on_hit": "vanish",
            }
            way = np.array([0.4, -6, 0.3]) / math.sqrt(0.16 + 36 + 0.09)
            wanted = {"own": [0, 1, 0], "travel": way, "surface": out, "mirror": way - 2 * (way @ out) * out}
            for aim, axis in wanted.items():
                effect = chain_of(
                    fall,
                    {"launch.speed": 2, "launch.lifetime": 9, "origin.aim": aim},
                    stage__props=[prop],
                    stage__floor=False,
                )
                sim = Simulation(effect)
                sim.seek(2.0)
                p = sim.particles("l1")
                self.assertGreater(len(p), 100)
                np.testing.assert_allclose(
                    p.velocity, np.broadcast_to(np.array(axis) * 2, (len(p), 3)), atol=2e-5, err_msg=aim
                )

    def test_a_follow_up_takes_its_birthplace_to_the_event(self):
        ring = {
            "birthplace.kind": "ring",
            "birthplace.radius": 0.3,
            "birthplace.fill": "rim",
            "birthplace.aim": "outward",
            "origin.aim": "surface",
        }
        effect = chain_of(
            {**RAIN, "emit.rate": 20},
            {**ring, "origin.count": 50, "launch.speed": 0, "place.position": [9, 9, 9]},
        )
        sim = Simulation(effect)
        sim.seek(1.2)
        p = sim.particles("l1")
        np.testing.assert_allclose(p.position[:, 1], 0.0, atol=1e-5)
        first = p.position[:50]
        np.testing.assert_allclose(np.ptp(first[:, [0, 2]], axis=0), 0.6, atol=0.02)


class DiceTest(unittest.TestCase):
    def test_a_raised_count_leaves_earlier_children_as_they_were(self):
        splash = {
            "launch.speed": {"spread": [1, 3]},
            "birthplace.aim": "random",
            "emit.cap": 100_000,
            "origin.count": 3,
            "launch.lifetime": 60,
        }
        effect = chain_of(RAIN, splash)
        few, many = Simulation(effect), Simulation(effect.edit("layers[1].origin.count", 5))
        few.seek(1.5), many.seek(1.5)
        p, q = few.particles("l1"), many.particles("l1")
        self.assertEqual(len(q) * 3, len(p) * 5)
        kept = np.isin(q.serial, p.serial)
        order, other = np.argsort(p.serial), np.argsort(q.serial[kept])
        np.testing.assert_array_equal(p.position[order], q.position[kept][other])

    def test_other_events_of_the_parent_keep_their_children(self):
        # Another chance, cap or least speed leaves those that are still born the dice they had.
        effect = chain_of(
            RAIN, {"launch.speed": {"spread": [1, 3]}, "birthplace.aim": "random", "origin.count": 4}
        )
        whole, part = Simulation(effect), Simulation(effect.edit("layers[1].origin.chance", 0.4))
        whole.seek(1.2), part.seek(1.2)
        p, q = whole.particles("l1"), part.particles("l1")
        self.assertTrue(0 < len(q) < len(p))
        at = {int(serial): i for i, serial in enumerate(p.serial)}
        np.testing.assert_array_equal(q.position, p.position[[at[int(serial)] for serial in q.serial]])


class ShortLoopsTest(unittest.TestCase):
    def test_the_first_birth_of_each_loop_starts_its_follow_ups_at_clock_0(self):
        for rate, duration in ((60, 0.7), (30, 0.37), (30, 0.7), (60, 0.35), (120, 1 / 3)):
            effect = chain_of(
                {"emit.rate": 0, "emit.bursts": [{"at": 0, "count": 10}], "launch.lifetime": 0.1},
                {
                    "origin.when": "birth",
                    "origin.count": 1,
                    "launch.lifetime": 100,
                    "launch.size": {"curve": [[0, 1], [1, 2]], "along": "clock"},
                },
            )
            effect = effect.edit("duration", duration).edit("loop", True).edit("step_rate", rate)
            sim = Simulation(effect)
            sim.seek(13.5 * duration)
            self.assertEqual(
                (sim.counts("l0")["born"], sim.counts("l1")["born"]), (140, 140), (rate, duration)
            )
            self.assertLess(float(sim.particles("l1").size.max()), 1.001, "at 0 of its clock")


if __name__ == "__main__":
    unittest.main()

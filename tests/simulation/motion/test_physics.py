import math
import unittest

import numpy as np

from pale_ember.simulation import Simulation
from pale_ember.simulation.births.schedule import Schedule
from pale_ember.simulation.layout.program import Surroundings
from pale_ember.simulation.motion.turbulence import APART, stir

from ...building import effect_with, single

ONE = {"emit.rate": 0, "emit.bursts": [{"at": 0, "count": 1}], "launch.lifetime": 100, "launch.speed": 0}
G = 9.81


def eddies(octaves, slid=0.0):
    zero = np.zeros(3, np.float32)
    return Surroundings(
        rotation=np.eye(3, dtype=np.float32),
        centre=zero,
        axis=zero,
        stretch=np.ones(1, np.float32),
        breeze=zero,
        slid=np.array([[0.3, 0.2, 0.9], APART]) + slid,
        eddy=1.0,
        octaves=octaves,
        salt=5,
        speed_range=5.0,
        sides=0,
    )


def at(effect, time, layer="a"):
    sim = Simulation(effect)
    sim.seek(time)
    return sim.particles(layer)


class FlightTest(unittest.TestCase):
    def test_a_thrown_particle_flies_the_same_parabola_at_any_step_rate(self):
        for rate in (30, 60, 120):
            effect = single(
                {**ONE, "launch.push": [3, 8, -1], "flight.gravity": 1}, duration=10.0, step_rate=rate
            )
            p = at(effect, 1.5)
            np.testing.assert_allclose(
                p.position[0], [4.5, 8 * 1.5 - G * 1.5**2 / 2, -1.5], rtol=2e-5, atol=2e-5
            )
            np.testing.assert_allclose(p.velocity[0], [3, 8 - G * 1.5, -1], rtol=1e-5)

    def test_drag_relaxes_to_the_wind_and_to_terminal_velocity(self):
        for rate in (30, 120):
            edits = {
                **ONE,
                "launch.push": [5, 0, 0],
                "flight.gravity": 1,
                "flight.drag": 2,
                "flight.wind": 0.5,
            }
            effect = single(edits, duration=10.0, step_rate=rate).edit("stage.wind", [0, 0, 4])
            for time in (0.1, 1.0, 9.0):
                p, e = at(effect, time), math.exp(-2 * time)
                want = [5 * e, -G / 2 * (1 - e), 2 * (1 - e)]
                np.testing.assert_allclose(p.velocity[0], want, rtol=2e-5, atol=1e-6)
                place = [5 * (1 - e) / 2, -G / 2 * (time - (1 - e) / 2), 2 * (time - (1 - e) / 2)]
                np.testing.assert_allclose(p.position[0], place, rtol=4e-5, atol=4e-6)

    def test_tiny_and_spread_drag_agree_with_the_closed_form(self):
        edits = {
            **ONE,
            "emit.bursts": [{"at": 0, "count": 200}],
            "launch.push": [7, 0, 0],
            "flight.drag": {"spread": [0, 3]},
        }
        p = at(single(edits, duration=10.0), 2.0)
        v = p.velocity[:, 0].astype(float)
        k = -np.log(v / 7) / 2
        self.assertGreater(k.max() - k.min(), 2.5)
        np.testing.assert_allclose(
            p.position[:, 0], 7 * np.where(k > 1e-6, -np.expm1(-2 * k) / np.maximum(k, 1e-9), 2), rtol=3e-4
        )
        p = at(single({**ONE, "launch.push": [7, 0, 0], "flight.drag": 1e-6}, duration=10.0), 2.0)
        np.testing.assert_allclose(p.position[0, 0], 14, rtol=1e-5)

    def test_thrust_and_push_are_turned_and_scaled_with_the_layer(self):
        edits = {**ONE, "launch.push": [0, 2, 0], "flight.thrust": [0, 3, 0], "place.position": [1, 2, 3]}
        edits |= {"place.rotation": [0, 0, 90], "place.scale": 2}
        p = at(single(edits, duration=10.0), 1.0)
        np.testing.assert_allclose(p.position[0], [1 - 4 - 3, 2, 3], atol=2e-5)

    def test_spin_and_curves_along_life_are_integrated(self):
        edits = {
            **ONE,
            "launch.lifetime": 2,
            "flight.spin": {"curve": [[0, 0], [1, 360]]},
            "launch.angle": 10,
        }
        p = at(single(edits, duration=10.0), 1.0)
        np.testing.assert_allclose(p.angle[0], math.radians(10 + 90), rtol=1e-4)

    def test_orbit_keeps_its_radius_and_drift_leaves_velocity_alone(self):
        edits = {
            **ONE,
            "birthplace.kind": "ring",
            "birthplace.radius": 2,
            "birthplace.fill": "rim",
            "flight.orbit": 360,
        }
        p = at(single(edits, duration=20.0), 10.0)
        self.assertAlmostEqual(float(np.hypot(p.position[0, 0], p.position[0, 2])) / 2, 1, delta=1e-3)
        p = at(single({**ONE, "flight.drift": [0, 1.5, 0]}, duration=10.0), 2.0)
        np.testing.assert_allclose(p.position[0], [0, 3, 0], rtol=1e-5)
        np.testing.assert_array_equal(p.velocity[0], [0, 0, 0])

    def test_top_speed_is_never_passed(self):
        edits = {"emit.rate": 100, "flight.thrust": [9, 9, 0], "flight.top_speed": 2, "launch.speed": 1}
        sim = Simulation(single(edits))
        for _ in range(90):
            before = {
                int(n): p
                for n, p in zip(sim.particles("a").serial, sim.particles("a").position.copy(), strict=True)
            }
            sim.step()
            p = sim.particles("a")
            self.assertLessEqual(np.linalg.norm(p.velocity, axis=1).max(), 2 * (1 + 1e-5))
            for n, place in zip(p.serial, p.position, strict=True):
                if int(n) in before:
                    self.assertLessEqual(np.linalg.norm(place - before[int(n)]), 2 / 60 * (1 + 1e-4))

    def test_a_top_speed_that_comes_to_0_stops_and_a_fixed_0_does_not(self):
        top = {"curve": [{"x": 0, "y": 2, "ease": "linear"}, [1, 0]]}
        edits = {**ONE, "launch.lifetime": 2, "launch.push": [5, 0, 0], "flight.top_speed": top}
        for time in (0.5, 1.0, 1.9):
            speed = at(single(edits, duration=10.0), time).velocity[0, 0]
            self.assertAlmostEqual(speed, 2 - time, delta=0.02)
        for still in ({"spread": [0, 0]}, {"curve": [[0, 0], [1, 0]], "along": "clock"}):
            self.assertEqual(
                at(single({**edits, "flight.top_speed": still}, duration=10.0), 1.0).velocity[0, 0], 0
            )
        self.assertEqual(at(single({**edits, "flight.top_speed": 0}, duration=10.0), 1.0).velocity[0, 0], 5)

    def test_pace_goes_along_the_way_and_leaves_velocity_alone(self):
        pace = {"curve": [{"x": 0, "y": 1, "ease": "linear"}, [1, 0]]}
        edits = {**ONE, "launch.lifetime": 2, "launch.push": [3, 0, 1], "flight.pace": pace}
        for time in (0.5, 1.0, 1.9):
            p = at(single(edits, duration=10.0), time)
            way = time - time**2 / 4
            np.testing.assert_allclose(p.position[0], [3 * way, 0, way], atol=2e-4)
            np.testing.assert_array_equal(p.velocity[0], [3, 0, 1])
            sim = Simulation(single(edits, duration=10.0))
            sim.seek(time)
            self.assertAlmostEqual(
                float(sim.lives("a", True).speed[0]), math.sqrt(10) * (1 - time / 2), places=3
            )
        # What it drifts and falls by: drift is a motion of its own, and gravity goes on making it faster.
        p = at(
            single(
                {**edits, "flight.pace": 0, "flight.drift": [0, 2, 0], "flight.gravity": 1}, duration=10.0
            ),
            1.0,
        )
        np.testing.assert_allclose(p.position[0], [0, 2, 0], atol=1e-5)
        self.assertAlmostEqual(float(p.velocity[0, 1]), -G, places=3)
        clock = {"curve": [{"x": 0, "y": 2, "ease": "hold"}, [0.5, 0]], "along": "clock"}
        p = at(single({**edits, "launch.lifetime": 9, "flight.pace": clock}, duration=2.0, loop=False), 2.0)
        self.assertAlmostEqual(float(p.position[0, 0]), 6.0, places=3)

    def test_swirl_gives_what_is_born_on_the_axis_a_side_of_its_own(self):
        many = {
            **ONE,
            "emit.bursts": [{"at": 0, "count": 400}],
            "flight.swirl": 3,
            "place.rotation": [30, 0, 20],
        }
        p = at(single(many, duration=10.0), 0.5)
        speed = np.linalg.norm(p.velocity, axis=1)
        self.assertGreater(speed.min(), 0.5)
        self.assertLess(np.linalg.norm(p.velocity.mean(axis=0)), 0.15 * speed.mean())

    def test_a_scaled_layer_is_the_same_larger_speeds_along_the_range_too(self):
        drag = {"curve": [{"x": 0, "y": 0, "ease": "linear"}, [1, 3]], "along": "speed"}
        edits = {
            "emit.rate": 40,
            "launch.speed": {"spread": [1, 5]},
            "flight.drag": drag,
            "flight.speed_range": 4,
        }
        edits |= {"birthplace.kind": "ball", "look.opacity": {"curve": [[0, 0], [1, 1]], "along": "speed"}}
        p, q = at(single(edits), 1.3), at(single({**edits, "place.scale": 3}), 1.3)
        np.testing.assert_allclose(q.position, 3 * p.position, rtol=1e-4, atol=1e-5)
        np.testing.assert_allclose(q.opacity, p.opacity, atol=1e-5)

    def test_swirl_pushes_along_the_circle_and_pull_to_the_centre(self):
        edits = {**ONE, "birthplace.kind": "ring", "birthplace.fill": "rim", "birthplace.radius": 3}
        for field, along in (("swirl", True), ("pull", False)):
            p = at(single({**edits, f"flight.{field}": 6}, duration=10.0), 1 / 60)
            q = at(single(edits, duration=10.0), 1 / 60)
            out = q.position[0] / np.linalg.norm(q.position[0])
            want = np.cross([0, 1, 0], out) if along else -out
            np.testing.assert_allclose(p.velocity[0], want * 6 / 60, atol=1e-5)

    def test_pull_and_swirl_balance_on_a_circle(self):
        # Pull holds v²/r; swirl makes up for what drag takes.
        v, ring = 2.0, {**ONE, "birthplace.kind": "ring", "birthplace.radius": 1, "birthplace.fill": "rim"}
        out = at(single(ring, duration=20.0), 1 / 60).position[0].astype(float)
        push = (v * np.cross([0, 1, 0], out)).tolist()
        for rate in (30, 60, 120):
            for drag in (0.0, 1.5):
                edits = {
                    **ring,
                    "flight.pull": v * v,
                    "flight.swirl": drag * v,
                    "flight.drag": drag,
                    "launch.push": push,
                }
                p = at(single(edits, duration=20.0, step_rate=rate), 10.0)
                self.assertAlmostEqual(
                    float(np.hypot(*p.position[0, [0, 2]])), 1, delta=0.005, msg=f"{rate} {drag}"
                )
                self.assertAlmostEqual(float(np.linalg.norm(p.velocity[0])) / v, 1, delta=0.005)

    def test_turbulence_stirs_without_gathering(self):
        around = eddies(octaves=1)

        def field(x, y, z):
            out = [np.zeros(1, np.float32) for _ in range(3)]
            stir(*out, *(np.array([at], np.float32) for at in (x, y, z)), 1, around)
            return np.array([float(part[0]) for part in out])

        rng, h = np.random.default_rng(1), 1 / 64
        divergence, slope = [], []
        for x, y, z in rng.uniform(-9, 9, (60, 3)):
            dx, dy, dz = (
                field(x + h, y, z) - field(x - h, y, z),
                field(x, y + h, z) - field(x, y - h, z),
                field(x, y, z + h) - field(x, y, z - h),
            )
            divergence.append((dx[0] + dy[1] + dz[2]) / (2 * h))
            slope.append((abs(dx).sum() + abs(dy).sum() + abs(dz).sum()) / (2 * h))
        self.assertLess(np.abs(divergence).mean(), 0.01 * np.mean(slope))
        edits = {
            "emit.rate": 400,
            "birthplace.kind": "box",
            "launch.speed": 0,
            "flight.turbulence": 2,
            "flight.eddy": 0.4,
        }
        p = at(single(edits), 0.5)
        pushed = np.linalg.norm(p.velocity, axis=1) / np.maximum(p.age * p.lifetime, 1e-3)
        self.assertAlmostEqual(float(np.sqrt((pushed**2).mean())) / 2, 1, delta=0.25)

    def test_eddies_are_as_strong_as_said_whatever_their_octaves(self):
        place = [np.random.default_rng(2).uniform(-60, 60, 60_000).astype(np.float32) for _ in range(3)]
        for octaves in (1, 2, 4):
            out = [np.zeros(60_000, np.float32) for _ in range(3)]
            stir(*out, *place, 60_000, eddies(octaves))
            self.assertAlmostEqual(math.sqrt(sum(float((part**2).mean()) for part in out)), 1, delta=0.04)


class BirthTest(unittest.TestCase):
    def test_a_steady_rate_gives_exact_counts_through_loops(self):
        for rate, loop in ((7.3, True), (60, True), (123.4, False)):
            effect = single({"emit.rate": rate, "emit.cap": 5000}, duration=2.7 if loop else 30.0, loop=loop)
            sim = Simulation(effect)
            for time in (0.5, 3.1, 10.0, 20.05):
                sim.seek(time)
                exact = rate * (math.floor(time * 60 + 1e-6) / 60)
                self.assertLessEqual(abs(sim.counts("a")["born"] - math.floor(exact)), 1)

    def test_a_rate_curve_gives_its_integral(self):
        curve = {
            "curve": [
                {"x": 0, "y": 0, "ease": "linear"},
                {"x": 0.5, "y": 80, "ease": "linear"},
                {"x": 1, "y": 20},
            ]
        }
        effect = single({"emit.rate": curve, "window.begin": 0.5, "window.length": 3}, duration=4.0)
        sim = Simulation(effect)
        for time, exact in (
            (0.5, 0),
            (1.25, 3 * 80 * 0.25 / 4),
            (2.0, 3 * 20),
            (3.5, 3 * (20 + 25)),
            (7.5, 6 * 45),
        ):
            sim.seek(time)
            self.assertLessEqual(abs(sim.counts("a")["born"] - exact), 1, time)

    def test_births_are_evenly_spaced_and_live_the_rest_of_their_step(self):
        for rate in (30, 120):
            effect = single(
                {"emit.rate": 237, "launch.speed": 0, "launch.push": [1, 0, 0], "launch.lifetime": 5},
                step_rate=rate,
            )
            p = at(effect, 2.0)
            ages = (p.age * p.lifetime).astype(float)
            np.testing.assert_allclose(-np.diff(ages), 1 / 237, rtol=2e-3)
            np.testing.assert_allclose(p.position[:, 0], ages, atol=1e-5)

    def test_bursts_repeat_by_chance_and_draw_their_count(self):
        bursts = [{"at": 0.25, "count": {"spread": [3, 9]}, "repeat": 40, "every": 0.05, "chance": 0.5}]
        effect = single({"emit.rate": 0, "emit.bursts": bursts, "launch.lifetime": 0.01}, duration=3.0)
        schedule = Schedule(effect, effect.layers[0])
        fired = np.concatenate([schedule.bursts[0].fired(loop, np.arange(40)) for loop in range(30)])
        hit = fired[fired > 0].tolist()
        self.assertAlmostEqual(len(hit) / len(fired), 0.5, delta=0.06)
        self.assertEqual((min(hit), max(hit)), (3, 9))
        sim = Simulation(effect)
        sim.seek(3.0)
        self.assertEqual(sim.counts("a")["born"], sum(fired[:40]))
        listed = schedule.births(0, 180)
        moments = np.repeat(np.arange(180) + 1, np.diff(listed.first)) / 60 - listed.left
        np.testing.assert_allclose(np.unique(np.round((moments - 0.25) / 0.05, 4) % 1), 0)

    def test_a_window_that_closes_cuts_bursts_and_a_one_shot_ends(self):
        bursts = [{"at": 0, "count": 5, "repeat": 10, "every": 0.5}]
        effect = single(
            {"emit.rate": 0, "emit.bursts": bursts, "window.length": 1.2}, duration=3.0, loop=False
        )
        sim = Simulation(effect)
        sim.seek(20.0)
        self.assertEqual(sim.counts("a")["born"], 15)
        self.assertEqual(sim.counts("a")["alive"], 0)

    def test_deaths_come_at_the_end_of_the_lifetime(self):
        sim = Simulation(single({"emit.rate": 50, "launch.lifetime": 0.8}, duration=10.0))
        sim.seek(5.0)
        counts = sim.counts("a")
        self.assertLessEqual(abs(counts["alive"] - 40), 1)
        self.assertEqual(counts["born"] - counts["died"], counts["alive"])
        self.assertLess(sim.particles("a").age.max(), 1.0)

    def test_a_full_cap_refuses_and_counts(self):
        sim = Simulation(single({"emit.rate": 100, "launch.lifetime": 2, "emit.cap": 50}, duration=10.0))
        sim.seek(1.5)
        counts = sim.counts("a")
        self.assertEqual(counts["alive"], 50)
        self.assertEqual(counts["born"], 50)
        self.assertLessEqual(abs(counts["refused"] - 100), 1)

    def test_warm_up_starts_in_full_swing(self):
        effect = single({"emit.rate": 40, "launch.lifetime": 1}, warm_up=2.5)
        sim = Simulation(effect)
        self.assertLessEqual(abs(sim.counts("a")["alive"] - 40), 1)
        # What stands at time 0 itself is born by then.
        self.assertLessEqual(sim.counts("a")["born"], 1)
        once = Simulation(effect.edit("loop", False))
        self.assertLessEqual(abs(once.counts("a")["alive"] - 40), 1)

    def test_layers_that_are_not_enabled_emit_nothing(self):
        sim = Simulation(effect_with({"a": {"enabled": False}, "b": {}}))
        sim.seek(1.0)
        self.assertEqual((sim.counts("a")["born"], len(sim.particles("a"))), (0, 0))
        self.assertGreater(len(sim.particles("b")), 10)


if __name__ == "__main__":
    unittest.main()

"""Contact: bounces, slopes, thin walls, rest, closed spaces, and props that move, against closed forms."""

import math
import unittest

import numpy as np

from pale_ember.simulation import Simulation

from .contact_effects import G, effect_of, wall


class FloorTest(unittest.TestCase):
    def test_heights_and_moments_of_bounces_are_exact_at_every_step_rate(self):
        for rate in (30, 60, 120):
            bounce, radius = 0.8, 0.05
            effect = effect_of(
                **{
                    "place.position": [0, 1 + radius, 0],
                    "flight.gravity": 1,
                    "contact.bounce": bounce,
                    "contact.reach": 0.25,
                    "step_rate": rate,
                }
            )
            sim = Simulation(effect, threads=1)
            sim.watch_hits(True)
            seen, high = {}, []
            for _ in range(6 * rate):
                sim.step()
                p = sim.particles("a")
                high.append(p.position[0, 1] - radius + p.velocity[0, 1] ** 2 / (2 * G))
                for hit in sim.hits("a"):
                    seen.setdefault(round(float(sim.time - hit[6]), 3), float(sim.time - hit[6]))
            # Height by energy: what it comes to between two hits.
            heights = sorted({round(h, 4) for h in high}, reverse=True)[:8]
            for n, height in enumerate(heights):
                self.assertAlmostEqual(
                    height / bounce ** (2 * n), 1.0, delta=0.005, msg=f"{rate} Hz, bounce {n}"
                )
            fall, moment = math.sqrt(2 / G), math.sqrt(2 / G)
            for n, found in enumerate(sorted(seen.values())[:8]):
                self.assertAlmostEqual(found, moment, delta=1e-4, msg=f"{rate} Hz, hit {n}")
                moment += 2 * fall * bounce ** (n + 1)

    def test_next_to_no_sliding_without_friction_is_no_way_to_lose_a_particle(self):
        for slip in (0.0, 1e-12, 5e-8, 1e-7, 2e-7, 1e-3):
            for on_hit in ("bounce", "vanish"):
                effect = effect_of(
                    **{
                        "place.position": [0, 0.3, 0],
                        "launch.push": [slip, 0, 0],
                        "flight.gravity": 1,
                        "contact.bounce": 0,
                        "contact.friction": 0,
                        "contact.on_hit": on_hit,
                        "flight.turbulence": {"curve": [[0, 0], [1, 0]], "along": "speed"},
                    }
                )
                sim = Simulation(effect, threads=1)
                sim.seek(1.0)
                p = sim.particles("a")
                self.assertEqual(len(p), int(on_hit == "bounce"))
                self.assertTrue(np.isfinite(p.position).all() and np.isfinite(p.velocity).all(), slip)
                np.testing.assert_allclose(p.position[:, 0], slip, rtol=1e-3, atol=1e-9)

    def test_debris_rests_and_does_not_move_nor_sink_in_ten_minutes(self):
        effect = effect_of(
            **{
                "emit.bursts": [{"at": 0, "count": 60}],
                "birthplace.kind": "ball",
                "place.position": [0, 1, 0],
                "birthplace.aim": "random",
                "launch.speed": 3,
                "launch.size": {"spread": [0.02, 0.1]},
                "flight.gravity": 1,
                "flight.spin": 200,
                "contact.bounce": 0.5,
                "contact.friction": 0.4,
                "contact.reach": 0.5,
                "step_rate": 30,
            }
        )
        sim = Simulation(effect, threads=1)
        sim.seek(12.0)
        before = sim.particles("a").position.copy(), sim.particles("a").angle.copy()
        lowest = np.inf
        for _ in range(60):
            sim.seek(sim.time + 10.0)
            lowest = min(
                lowest, float((sim.particles("a").position[:, 1] - 0.5 * sim.particles("a").size).min())
            )
        self.assertGreaterEqual(lowest, -1e-6)
        np.testing.assert_array_equal(sim.particles("a").position, before[0])
        np.testing.assert_array_equal(sim.particles("a").angle, before[1])

    def test_energy_never_grows(self):
        for bounce, friction in ((1.0, 0.0), (0.9, 0.3), (0.3, 1.0)):
            effect = effect_of(
                **{
                    "emit.bursts": [{"at": 0, "count": 200}],
                    "birthplace.kind": "ball",
                    "place.position": [0, 1, 0],
                    "birthplace.aim": "random",
                    "launch.speed": 4,
                    "flight.gravity": 1,
                    "contact.bounce": bounce,
                    "contact.friction": friction,
                    "stage.props": [
                        wall("box", position=[1, 0, 0], rotation=[10, 20, 30], size=[1, 1, 1]),
                        wall("ball", position=[-1, 0, 0.3]),
                        wall("cylinder", position=[0, 0, -1.4], rotation=[50, 0, 0]),
                        wall("mesh", mesh="torus", position=[0, 0.1, 1.5], size=[1.5, 0.5, 1.5]),
                    ],
                }
            )
            sim = Simulation(effect, threads=1)
            # The first step puts out what was born inside.
            sim.step()
            order = np.argsort(sim.particles("a").serial)
            p = sim.particles("a")
            most = (G * p.position[:, 1] + (p.velocity**2).sum(axis=1) / 2)[order]
            for _ in range(300):
                sim.step()
                energy = (G * p.position[:, 1] + (p.velocity**2).sum(axis=1) / 2)[order]
                self.assertLess(float((energy - most).max()), 2e-4 * float(most.max()), f"bounce {bounce}")
                most = np.minimum(most, energy)

    def test_wear_takes_life_and_vanish_ends_it_at_the_hit(self):
        drop = {"place.position": [0, 1, 0], "flight.gravity": 1, "contact.bounce": 1, "launch.lifetime": 100}
        sim = Simulation(effect_of(**drop, **{"contact.wear": 0.3}), threads=1)
        sim.seek(2.0)
        self.assertAlmostEqual(float(sim.particles("a").age[0]), 0.02 + 2 * 0.3, places=5)
        # The fourth hit would take more than there is.
        sim.seek(3.5)
        self.assertEqual(
            sim.counts("a"), {"born": 1, "died": 1, "hits": 4, "refused": 0, "full": 0, "alive": 0}
        )
        sim = Simulation(effect_of(**drop, **{"contact.on_hit": "vanish"}), threads=1)
        sim.seek(0.6)
        self.assertEqual(
            sim.counts("a"), {"born": 1, "died": 1, "hits": 1, "refused": 0, "full": 0, "alive": 0}
        )

    def test_friction_in_a_bounce_is_as_much_as_coulomb_allows(self):
        # A hit that throws back pushes more than one that doesn't: friction takes its share of the whole
        # push.
        for bounce, friction, across, down in ((0.5, 0.3, 10, 2), (0.0, 0.3, 10, 2), (0.9, 0.1, 5, 3)):
            with self.subTest(bounce=bounce, friction=friction):
                edits = {
                    "launch.push": [across, -down, 0],
                    "place.position": [0, 1, 0],
                    "contact.bounce": bounce,
                    "contact.friction": friction,
                    "contact.reach": 0.5,
                }
                sim = Simulation(effect_of(**edits))
                sim.seek(1.0)
                slowed = across - friction * (1 + bounce) * down
                velocity = sim.particles(sim.effect.layers[0].id).velocity[0]
                np.testing.assert_allclose(velocity, [slowed, bounce * down, 0], atol=1e-4)

    def test_friction_turns_spin_to_rolling_and_rest_ends_it(self):
        effect = effect_of(
            **{
                "launch.push": [3, 0, 0],
                "place.position": [0, 0.5, 0],
                "flight.gravity": 1,
                "launch.size": 0.2,
                "flight.spin": 500,
                "contact.reach": 0.5,
                "contact.bounce": 0.2,
                "contact.friction": 0.3,
            }
        )
        sim, turns = Simulation(effect, threads=1), []
        for _ in range(240):
            before = float(sim.particles("a").angle[0])
            sim.step()
            turns.append((float(sim.particles("a").angle[0]) - before) * 60)
        self.assertAlmostEqual(turns[5], math.radians(500), delta=0.01)
        # Rolling to the right is turning clockwise, as seen from the front.
        self.assertLess(min(turns), -1.0)
        self.assertEqual(turns[-1], 0.0)


class SlopeTest(unittest.TestCase):
    def test_sliding_follows_the_closed_form_and_holds_where_the_slope_is_less_than_friction(self):
        for kind in ("box", "mesh"):
            for degrees, friction in ((20, 0.2), (20, 0.5), (35, 0.3), (10, 0.1)):
                lean = math.radians(degrees)
                out, down = (
                    np.array([math.sin(lean), math.cos(lean), 0]),
                    np.array([math.cos(lean), -math.sin(lean), 0]),
                )
                start = out * 0.3 - 8 * down
                for rate in (30, 60, 120):
                    effect = effect_of(
                        **{
                            "stage.floor": False,
                            "stage.props": [wall(kind, rotation=[0, 0, -degrees], size=[40, 0.3, 4])],
                            "flight.gravity": 1,
                            "contact.bounce": 0,
                            "contact.friction": friction,
                            "step_rate": rate,
                            "place.position": (start + 5e-5 * out).tolist(),
                        }
                    )
                    sim = Simulation(effect, threads=1)
                    sim.seek(1.5)
                    pulled = max(G * (math.sin(lean) - friction * math.cos(lean)), 0.0)
                    slid = float((sim.particles("a").position[0] - start) @ down)
                    self.assertAlmostEqual(
                        slid, pulled * 1.5**2 / 2, delta=2e-4, msg=f"{kind} {degrees}° {rate} Hz"
                    )

    def test_a_stop_on_flat_ground_comes_where_friction_says(self):
        for rate in (30, 60, 120):
            effect = effect_of(
                **{
                    "launch.push": [2, 0, 0],
                    "flight.gravity": 1,
                    "contact.friction": 0.4,
                    "contact.bounce": 0,
                    "step_rate": rate,
                }
            )
            sim = Simulation(effect, threads=1)
            sim.seek(2.0)
            self.assertAlmostEqual(float(sim.particles("a").position[0, 0]), 4 / (2 * 0.4 * G), delta=1e-4)


class MovingTest(unittest.TestCase):
    def test_what_sticks_goes_along_to_the_tenth_of_a_millimetre(self):
        path = [
            {"at": 0},
            {"at": 0.5, "position": [1, 0.5, 0], "rotation": [0, 180, 40]},
            {"at": 1, "position": [0, 1, 1]},
        ]
        for kind in ("box", "mesh"):
            effect = effect_of(
                **{
                    "duration": 4,
                    "loop": True,
                    "stage.props": [{**wall(kind, size=[2, 0.2, 2]), "path": path}],
                    "place.position": [0.3, 0.5, 0.2],
                    "flight.gravity": 1,
                    "contact.on_hit": "stick",
                    "emit.bursts": [{"at": 0, "count": 20}],
                    "birthplace.kind": "ball",
                    "birthplace.radius": 0.2,
                }
            )
            from pale_ember.simulation.motion.prop_poses import prop_clock, prop_pose

            sim, own = Simulation(effect, threads=1), []
            # At the end of each loop the prop jumps, and takes them along.
            for time in (1.0, 1.7, 2.5, 3.9, 4.2, 7.3, 8.6, 2.1):
                sim.seek(time)
                pose = prop_pose(effect.stage.props[0], prop_clock(effect, sim.time))
                p = sim.particles("a")
                if not own:
                    first = p.serial.copy()
                there = np.flatnonzero(np.isin(p.serial, first))
                there = there[np.argsort(p.serial[there])]
                own.append((p.position[there] - pose[:3, 3]) @ pose[:3, :3])
                self.assertEqual(len(there), 20)
                self.assertLess(float(np.abs(p.velocity[there]).max()), 10.0)
            self.assertLess(float(np.abs(own - own[0]).max()), 1e-4)
            self.assertAlmostEqual(float(own[0][:, 1].mean()), 0.2, delta=1e-4)

    def test_a_prop_whose_path_stands_still_is_met_as_one_that_rests(self):
        # With all that fills the kernels' memory between steps: eddies, drag, orbit.
        keys = [{"at": 0}, {"at": 1}]
        for kind in ("box", "ball", "mesh"):
            seen = []
            for path in ([], keys):
                effect = effect_of(
                    **{
                        "stage.props": [{**wall(kind, rotation=[20, 30, 10]), "path": path}],
                        "emit.bursts": [{"at": 0, "count": 400}],
                        "birthplace.kind": "box",
                        "birthplace.extents": [3, 0.5, 3],
                        "place.position": [0, 2, 0],
                        "flight.gravity": 1,
                        "flight.drag": 0.3,
                        "flight.turbulence": {"spread": [0, 9]},
                        "flight.orbit": {"spread": [-90, 90]},
                        "flight.drift": [0.2, 0, 0],
                    }
                )
                sim = Simulation(effect, threads=1)
                sim.seek(1.5)
                seen.append((sim.counts("a")["hits"], sim.particles("a").position.copy()))
            self.assertGreater(seen[0][0], 300)
            self.assertEqual(seen[0][0], seen[1][0], kind)
            np.testing.assert_allclose(seen[0][1], seen[1][1], atol=1e-4)

    def test_a_platform_carries_what_lies_on_it_and_a_wall_that_comes_throws(self):
        turning = [{"at": 0, "ease": "linear"}, {"at": 1, "rotation": [0, 90, 0]}]
        effect = effect_of(
            **{
                "stage.props": [{**wall("cylinder", size=[2, 0.2, 2]), "path": turning}],
                "duration": 4,
                "place.position": [0.5, 0.2, 0],
                "flight.gravity": 1,
                "contact.friction": 0.6,
                "contact.bounce": 0,
            }
        )
        sim = Simulation(effect, threads=1)
        sim.seek(4.0)
        x, y, z = sim.particles("a").position[0]
        self.assertAlmostEqual(math.degrees(math.atan2(-z, x)), 90, delta=1.0)
        self.assertAlmostEqual(math.hypot(x, z), 0.5, delta=0.005)
        self.assertAlmostEqual(y, 0.2, delta=1e-4)
        coming = [{"at": 0, "ease": "linear"}, {"at": 1, "position": [8, 0, 0]}]
        effect = effect_of(
            **{
                "stage.props": [{**wall("box", position=[-1, 0, 0], size=[0.1, 4, 4]), "path": coming}],
                "duration": 4,
                "place.position": [0, 1, 0],
                "contact.bounce": 1,
                "contact.friction": 0,
            }
        )
        sim = Simulation(effect, threads=1)
        sim.seek(1.0)
        # A wall at 2 m/s throws what rests off at 4, from the moment when it is there.
        self.assertAlmostEqual(float(sim.particles("a").velocity[0, 0]), 4.0, places=4)
        self.assertAlmostEqual(float(sim.particles("a").position[0, 0]), 4 * (1 - 0.95 / 2), places=3)


if __name__ == "__main__":
    unittest.main()

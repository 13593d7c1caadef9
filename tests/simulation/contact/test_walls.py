"""Walls: hits within one step, fast and slow, thin and closed."""

import unittest

import numpy as np

from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation import Simulation

from .contact_effects import effect_of, wall


class WallTest(unittest.TestCase):
    def test_nothing_passes_a_thin_wall_at_any_speed_and_angle(self):
        roll = np.random.default_rng(5)
        hits = 0
        for turn in range(36):
            angles, kind = roll.uniform(-180, 180, 3), ("box", "mesh", "cylinder")[turn % 3]
            axes = matrix_of(tuple(angles))
            effect = effect_of(
                **{
                    "stage.floor": False,
                    "emit.bursts": [{"at": 0, "count": 300}],
                    "step_rate": (30, 60, 120)[turn // 3 % 3],
                    "stage.props": [wall(kind, rotation=angles.tolist(), size=[40, 0.01, 40])],
                    "place.position": (axes @ np.array([0, 2.0, 0])).tolist(),
                    "launch.speed": {"spread": [5, 400]},
                    "birthplace.kind": "ball",
                    "birthplace.aim": "random",
                    "contact.bounce": 0.9,
                    "contact.reach": 0.0,
                }
            )
            sim = Simulation(effect, threads=1)
            for _ in range(12):
                sim.step()
                p = sim.particles("a")
                here, fast = p.position @ axes, p.velocity @ axes
                # Whoever is behind the wall came round its edge: back along its way it passes the plane
                # outside.
                back = here - fast * (here[:, 1] / np.where(fast[:, 1] == 0, 1, fast[:, 1]))[:, None]
                within = np.hypot(back[:, 0], back[:, 2]) < 19.9
                self.assertFalse(((here[:, 1] < -0.001) & within & (fast[:, 1] < 0)).any(), f"{kind} {turn}")
            hits += sim.counts("a")["hits"]
        self.assertGreater(hits, 3000)

    def test_a_ball_stays_in_a_closed_box_for_an_hour(self):
        walls = [
            wall("box", position=[0, -0.02, 0], size=[1.04, 0.02, 1.04]),
            wall("box", position=[0, 1, 0], size=[1.04, 0.02, 1.04]),
            wall("box", position=[-0.51, -0.02, 0], size=[0.02, 1.04, 1.04]),
            wall("box", position=[0.51, -0.02, 0], size=[0.02, 1.04, 1.04]),
            wall("box", position=[0, -0.02, -0.51], size=[1.04, 1.04, 0.02]),
            wall("box", position=[0, -0.02, 0.51], size=[1.04, 1.04, 0.02]),
        ]
        effect = effect_of(
            **{
                "stage.floor": False,
                "stage.props": walls,
                "place.position": [0.1, 0.5, -0.2],
                "launch.push": [3.1, 4.7, 2.3],
                "contact.bounce": 1,
                "contact.friction": 0,
                "contact.reach": 0.25,
                "launch.size": 0.2,
                "flight.gravity": 0.3,
                "step_rate": 30,
            }
        )
        sim = Simulation(effect, threads=1)
        for second in range(1, 60):
            sim.seek(60.0 * second)
            here = sim.particles("a").position[0] - np.array([0, 0.5, 0])
            self.assertLess(float(np.abs(here).max()), 0.45 + 1e-5)
        self.assertGreater(sim.counts("a")["hits"], 10_000)

    def test_what_is_born_inside_is_put_out_and_not_shot_out(self):
        for kind in ("box", "ball", "cylinder", "mesh"):
            prop = {
                **wall(kind, position=[0, 0.5, 0], size=[1, 1, 1]),
                **({"mesh": "ball"} if kind == "mesh" else {}),
            }
            effect = effect_of(
                **{
                    "stage.props": [prop],
                    "emit.bursts": [{"at": 0, "count": 300}],
                    "birthplace.kind": "ball",
                    "birthplace.radius": 0.4,
                    "place.position": [0, 1, 0],
                    "launch.speed": 0,
                    "contact.reach": 0.1,
                    "launch.size": 0.1,
                }
            )
            sim = Simulation(effect, threads=1)
            sim.seek(0.5)
            p = sim.particles("a")
            self.assertEqual(float(np.abs(p.velocity).max()), 0.0, kind)
            away = p.position - np.array([0, 1, 0])
            if kind == "box":
                self.assertGreaterEqual(float(np.abs(away).max(axis=1).min()), 0.51 - 1e-5)
            elif kind in ("ball", "mesh"):
                self.assertGreaterEqual(
                    float(np.linalg.norm(away, axis=1).min()), 0.5 if kind == "mesh" else 0.51 - 1e-5
                )

    def test_hits_in_one_step_use_up_what_is_left_of_it(self):
        # Between two walls 2 cm apart at 6 m/s: five hits in a step of 1/60 s.
        walls = [wall("box", position=[x, -5, 0], size=[0.1, 10, 10]) for x in (-0.06, 0.06)]
        effect = effect_of(
            **{
                "stage.floor": False,
                "stage.props": walls,
                "launch.push": [6, 0, 0],
                "contact.bounce": 1,
                "contact.friction": 0,
            }
        )
        sim = Simulation(effect, threads=1)
        for step in range(1, 60):
            sim.step()
            way = 0.01 + 6 * step / 60
            there = abs(way % 0.04 - 0.02) - 0.01
            self.assertAlmostEqual(float(sim.particles("a").position[0, 0]), -there, delta=2e-5)

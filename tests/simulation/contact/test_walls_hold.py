"""What is inside of a closed room stays inside: thin walls, concave meshes, rooms that turn and grow,
doors.
"""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation import Simulation
from pale_ember.simulation.contact.world import mesh_tree
from pale_ember.simulation.motion.prop_poses import prop_clock, prop_pose

from .contact_effects import G, effect_of, wall
from .rooms import are_inside, ball_of, walls_around, write_stl

FORCES = (
    {"flight.gravity": 3},
    {"flight.drag": 10},
    {"flight.orbit": 250},
    {"flight.turbulence": 50},
    {"flight.drift": [1, 2, 30]},
    {"flight.drag": 5, "flight.wind": 1, "stage.wind": [20, 5, 3]},
    {"flight.pull": 30, "flight.top_speed": 8},
    {"flight.swirl": 20, "flight.pace": 1.6},
)


def burst(count, **edits):
    """Return an effect of one burst into all directions from a small ball."""
    return effect_of(
        **{
            "stage.floor": False,
            "emit.cap": count,
            "emit.bursts": [{"at": 0, "count": count}],
            "birthplace.kind": "ball",
            "birthplace.radius": 0.05,
            "birthplace.aim": "random",
            "contact.reach": 0,
            "launch.size": 0.02,
            **edits,
        }
    )


class ThinWallsTest(unittest.TestCase):
    def test_nothing_leaves_a_room_of_thin_props_whatever_bends_its_way(self):
        turn, hits = (20.0, 30.0, 10.0), 0
        for i, forces in enumerate(FORCES):
            for kind in ("box", "cylinder"):
                rate, speed = (30, 60, 120)[i % 3], (5, 30, 150, 500)[i % 4]
                effect = burst(
                    300,
                    **{
                        "stage.props": walls_around(1.0, 0.001, kind, turn),
                        "launch.speed": speed,
                        "contact.bounce": (0.7, 0, 1)[i % 3],
                        "contact.friction": 0.1 * (i % 2),
                        "step_rate": rate,
                        **forces,
                    },
                )
                sim = Simulation(effect, threads=1)
                sim.seek(1.5)
                p = sim.particles("a").position @ matrix_of(turn)
                self.assertEqual(len(p), 300)
                self.assertLess(float(np.abs(p).max()), 1.0005, (kind, rate, speed, forces))
                hits += sim.counts("a")["hits"]
        self.assertGreater(hits, 10_000)

    def test_walls_that_grow_each_for_itself_hold_what_waits_in_their_corners(self):
        walls, turn = walls_around(1.0, 0.001, "cylinder", (20.0, 30.0, 10.0)), (20.0, 30.0, 10.0)
        for one in walls:
            one["path"] = [{"at": 0, "ease": "smooth"}, {"at": 1, "scale": 1.4, "ease": "smooth"}]
        for orbit, bounce in ((-205, 0.5), (120, 0)):
            effect = burst(
                500,
                **{
                    "duration": 2.5,
                    "stage.props": walls,
                    "launch.speed": 1,
                    "contact.bounce": bounce,
                    "contact.friction": 0,
                    "flight.gravity": 2.6,
                    "flight.orbit": orbit,
                    "flight.pull": 1,
                },
            )
            sim = Simulation(effect, threads=1)
            sim.seek(2.0)
            self.assertLess(float(np.abs(sim.particles("a").position @ matrix_of(turn)).max()), 1.001, orbit)

    def test_energy_stays_in_a_room_where_nothing_is_lost(self):
        for rate, speed, reach in ((30, 3, 0.0), (60, 40, 0.5), (120, 500, 0.0)):
            effect = burst(
                200,
                **{
                    "stage.props": walls_around(1.0, 0.001),
                    "launch.speed": speed,
                    "contact.bounce": 1,
                    "contact.friction": 0,
                    "flight.gravity": 1,
                    "step_rate": rate,
                    "contact.reach": reach,
                },
            )
            sim = Simulation(effect, threads=1)
            sim.step()
            most = None
            for _ in range(rate):
                p = sim.particles("a")
                energy = ((p.velocity.astype(float) ** 2).sum(axis=1) / 2 + G * p.position[:, 1])[
                    np.argsort(p.serial)
                ]
                if most is not None:
                    self.assertLess(float((energy - most).max()), 1e-4 * (float(most.max()) + 2 * G))
                most = energy if most is None else np.minimum(most, energy)
                sim.step()


class ConcaveTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def valley(self):
        left = [[(-1, 1, -2), (0, 0, -2), (0, 0, 2)], [(-1, 1, -2), (0, 0, 2), (-1, 1, 2)]]
        right = [[(1, 1, -2), (0, 0, 2), (0, 0, -2)], [(1, 1, -2), (1, 1, 2), (0, 0, 2)]]
        return write_stl(self.folder / "valley.stl", np.array(left + right, float))

    def test_a_valley_and_bowls_hold_what_slides_in_them(self):
        ball = ball_of(3)
        bowl = write_stl(self.folder / "bowl.stl", ball[ball[:, :, 1].mean(axis=1) < 0])
        valley = self.valley()
        for rate in (30, 60, 120):
            for mesh, size, lowest in ((valley, [4, 4, 4], 0.0), (bowl, [2, 1, 2], 0.0)):
                for friction in (0.0, 0.2):
                    effect = burst(
                        200,
                        **{
                            "stage.props": [wall("mesh", mesh=mesh, size=size)],
                            "place.position": [0, 0.8, 0],
                            "birthplace.radius": 0.3,
                            "flight.gravity": 1,
                            "contact.bounce": 0.4,
                            "contact.friction": friction,
                            "step_rate": rate,
                        },
                    )
                    sim = Simulation(effect, threads=1)
                    sim.seek(3.0)
                    self.assertGreater(
                        float(sim.particles("a").position[:, 1].min()), lowest - 1e-3, (mesh, rate, friction)
                    )

    def test_rest_is_rest_far_from_the_origin_too(self):
        bowl = write_stl(
            self.folder / "bowl.stl", (lambda ball: ball[ball[:, :, 1].mean(axis=1) < 0])(ball_of(3))
        )
        for far in (0.0, 300.0, 1000.0):
            effect = burst(
                100,
                **{
                    "stage.props": [wall("mesh", mesh=bowl, size=[2, 1, 2], position=[far, 0, -far])],
                    "place.position": [far, 0.8, -far],
                    "birthplace.radius": 0.3,
                    "flight.gravity": 1,
                    "contact.bounce": 0.2,
                    "contact.friction": 0.8,
                    "launch.speed": 0.5,
                },
            )
            sim = Simulation(effect, threads=1)
            sim.seek(4.0)
            before = sim.particles("a").position.copy()
            sim.seek(8.0)
            moved = np.abs(sim.particles("a").position - before).max()
            self.assertLess(float(moved), 1e-6 + 3e-7 * far, far)
            self.assertGreater(float(sim.particles("a").position[:, 1].min()), -5e-3)

    def test_a_crease_is_slid_along_as_fast_as_a_plane(self):
        tilt = (20.0, 0.0, 0.0)
        axes = matrix_of(tilt)
        for rate in (30, 120):
            for bounce in (0, 0.4):
                effect = burst(
                    1,
                    **{
                        "stage.props": [
                            wall("mesh", mesh=self.valley(), size=[4, 4, 40], rotation=list(tilt))
                        ],
                        "place.position": (axes @ [0, 0.001, -10]).tolist(),
                        "birthplace.kind": "point",
                        "launch.speed": 0,
                        "flight.gravity": 1,
                        "contact.bounce": bounce,
                        "contact.friction": 0,
                        "step_rate": rate,
                    },
                )
                sim = Simulation(effect, threads=1)
                sim.seek(1.5)
                slid = sim.particles("a").position[0] @ axes - np.array([0, 0, -10])
                self.assertAlmostEqual(float(slid[2]), G * np.sin(np.radians(20)) * 1.5**2 / 2, delta=2e-3)

    def test_what_is_fast_inside_a_dome_stays_under_it(self):
        for rate in (30, 60, 120):
            effect = burst(
                200,
                **{
                    "stage.floor": True,
                    "stage.props": [wall("mesh", mesh="dome", size=[2, 1, 2])],
                    "place.position": [0, 0.4, 0],
                    "launch.speed": 100,
                    "contact.bounce": 0,
                    "contact.friction": 0,
                    "step_rate": rate,
                },
            )
            sim = Simulation(effect, threads=1)
            sim.seek(2.0)
            self.assertLess(float(np.linalg.norm(sim.particles("a").position, axis=1).max()), 1.001, rate)


class MovingTest(unittest.TestCase):
    def test_nothing_leaves_a_mesh_that_turns_grows_and_goes(self):
        roll = np.random.default_rng(4)
        with tempfile.TemporaryDirectory() as folder:
            for turn in range(10):
                file = write_stl(Path(folder) / f"{turn}.stl", ball_of(turn % 4, 0.25 * (turn % 3)))
                linear = "linear" if turn % 2 else "smooth"
                path = [
                    {"at": 0, "ease": linear},
                    {
                        "at": 1,
                        "ease": linear,
                        "rotation": (roll.integers(0, 2, 3) * roll.uniform(-700, 700, 3)).tolist(),
                        "position": (roll.uniform(-4, 4, 3) * (turn % 3 == 0)).tolist(),
                        "scale": float(roll.uniform(0.6, 1.8)) if turn % 4 else 1.0,
                    },
                ]
                prop = {
                    "kind": "mesh",
                    "mesh": file,
                    "size": [2, 2, 2],
                    "position": [0, -1, 0],
                    "rotation": roll.uniform(-90, 90, 3).tolist(),
                    "path": path,
                }
                corners = mesh_tree(file, (2.0, 2.0, 2.0))[0].corners
                middle = np.array(prop["position"]) + matrix_of(tuple(prop["rotation"])) @ corners.mean(
                    axis=(0, 1)
                )
                effect = burst(
                    150,
                    **{
                        "duration": 2.5,
                        "stage.props": [prop],
                        "place.position": middle.tolist(),
                        "launch.speed": (1, 20, 300)[turn % 3],
                        "contact.bounce": (0, 0.5, 1)[turn % 3],
                        "contact.friction": 0.3 * (turn % 2),
                        "step_rate": (30, 60, 120)[turn % 3],
                        **FORCES[turn % len(FORCES)],
                    },
                )
                sim = Simulation(effect, threads=1)
                sim.seek(2.0)
                pose = prop_pose(effect.stage.props[0], prop_clock(effect, sim.time))
                own = (sim.particles("a").position - pose[:3, 3]) @ np.linalg.inv(pose[:3, :3]).T
                self.assertEqual(int((~are_inside(corners, own)).sum()), 0, turn)

    def test_doors_sweep_before_them_whatever_they_meet(self):
        for kind, more, thick in (
            ("mesh", {"mesh": "plane"}, 1.0),
            ("box", {}, 0.05),
            ("box", {}, 0.001),
            ("cylinder", {}, 0.001),
        ):
            for degrees, rate in ((30, 30), (180, 60), (720, 120)):
                path = [
                    {"at": 0, "ease": "linear"},
                    {"at": 1, "ease": "linear", "rotation": [0, 0, degrees * 3]},
                ]
                door = {"kind": kind, "size": [60, thick, 60], "rotation": [20, 10, 40], "path": path, **more}
                for bounce, speed in ((0, 0), (1, 20)):
                    effect = burst(
                        200,
                        **{
                            "duration": 3,
                            "stage.props": [door],
                            "birthplace.radius": 1,
                            "launch.speed": speed,
                            "contact.bounce": bounce,
                            "step_rate": rate,
                            "flight.drag": 0.5 * (degrees == 180),
                        },
                    )
                    sim, before = Simulation(effect, threads=1), None
                    for _ in range(rate):
                        sim.step()
                        p = sim.particles("a")
                        pose = prop_pose(effect.stage.props[0], prop_clock(effect, sim.time))
                        own = ((p.position - pose[:3, 3]) @ pose[:3, :3])[np.argsort(p.serial)]
                        above, near = (
                            own[:, 1] > (0.0 if kind == "mesh" else thick / 2),
                            np.hypot(own[:, 0], own[:, 2]) < 28,
                        )
                        if before is not None:
                            crossed = (above != before[0]) & near & before[1]
                            self.assertFalse(crossed.any(), (kind, thick, degrees, rate, bounce))
                        before = above, near


if __name__ == "__main__":
    unittest.main()

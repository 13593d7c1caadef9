import math
import unittest

import numpy as np

from pale_ember.effect.chapters.path import MOTIONS, evaluate_path, ready_motion
from pale_ember.effect.chapters.place import PathKey
from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation import Simulation
from pale_ember.simulation.layout.program import POSE
from pale_ember.simulation.motion.path import carried, pose, pose_at, track_of

from ...building import single

FAST = [{"position": [-20, 0, 0]}, {"at": 1, "position": [140, 0, 0]}]
STILL = {"emit.rate": 0, "launch.speed": 0, "launch.lifetime": 50, "emit.cap": 20_000}
WINDING = [
    {"position": [0, 0, 0]},
    {"at": 0.3, "position": [1, 0.5, -1], "rotation": [20, 90, -10], "scale": 1.5},
    {"at": 1, "position": [-1, 0, 2], "rotation": [0, 400, 60], "scale": 0.7},
]


def run(edits, time, **whole):
    sim = Simulation(single(edits, **whole))
    sim.seek(time)
    return sim.particles("a")


class PathTest(unittest.TestCase):
    def test_per_metre_leaves_particles_evenly_at_any_step_rate(self):
        for rate in (30, 60, 120):
            p = run({**STILL, "path": FAST, "emit.per_metre": 5, "flight.follow": False}, 3.9, step_rate=rate)
            x = np.sort(p.position[:, 0].astype(float))
            self.assertAlmostEqual(len(x), 3.9 * 40 * 5, delta=1)
            np.testing.assert_allclose(np.diff(x), 0.2, rtol=0.01)
            np.testing.assert_allclose(x[0], -20, atol=1e-5)

    def test_per_metre_counts_the_way_of_a_winding_scaled_path(self):
        keys = [PathKey(**key) for key in WINDING]
        fine = evaluate_path(tuple(keys), np.linspace(0, 1, 400_001))[:, :3]
        way = 2 * np.linalg.norm(np.diff(fine, axis=0), axis=1).sum()
        edits = {**STILL, "path": WINDING, "place.scale": 2, "emit.per_metre": 40, "flight.follow": False}
        p = run(edits, 4.2, loop=False)
        self.assertAlmostEqual(len(p), way * 40, delta=1)
        # Its density follows a curve along the clock.
        edits["emit.per_metre"] = {"curve": [{"x": 0, "y": 0, "ease": "linear"}, [1, 80]], "along": "clock"}
        edits["path"] = [{"ease": "linear"}, {"at": 1, "position": [10, 0, 0]}]
        edits["place.scale"] = 1
        x = run(edits, 4.2, loop=False).position[:, 0].astype(float)
        self.assertAlmostEqual(len(x), 400, delta=1)
        np.testing.assert_allclose(np.sort(x), np.sqrt(np.arange(400) / 4), atol=1e-4)

    def test_jumps_go_no_way_and_loops_go_on_counting(self):
        path = [
            {"ease": "hold"},
            {"at": 0.5, "position": [9, 0, 0], "ease": "linear"},
            {"at": 1, "position": [9, 1.25, 0]},
        ]
        edits = {**STILL, "path": path, "emit.per_metre": 2, "flight.follow": False}
        sim = Simulation(single(edits, duration=1.0))
        for loops in (1, 2, 4):
            sim.seek(loops - 1e-3)
            self.assertAlmostEqual(sim.counts("a")["born"], loops * 2.5, delta=1)
        np.testing.assert_allclose(sim.particles("a").position[:, 0], 9, atol=1e-5)

    def test_those_that_stay_are_born_where_the_layer_was_at_their_moment(self):
        edits = {**STILL, "emit.rate": 97, "path": WINDING, "birthplace.kind": "ball", "flight.follow": False}
        effect = single(edits)
        sim = Simulation(effect)
        sim.seek(3.0)
        p = sim.particles("a")
        still = run({**edits, "path": []}, 3.0)
        for i in range(0, len(p), 23):
            clock = (i / 97) / 4
            at = pose_at(effect.layers[0], clock)
            want = at.centre + at.scale * at.rotation @ still.position[i].astype(float)
            np.testing.assert_allclose(p.position[i], want, atol=2e-5)
            self.assertAlmostEqual(float(p.size[i]), 0.2 * at.scale, places=5)

    def test_those_that_follow_keep_their_place_in_the_layer(self):
        edits = {
            "emit.rate": 97,
            "path": WINDING,
            "birthplace.kind": "ball",
            "launch.speed": {"spread": [0, 2]},
        }
        edits |= {
            "flight.drag": 1,
            "flight.pull": 2,
            "flight.swirl": 1,
            "launch.push": [0.3, 0, 0],
            "emit.cap": 900,
        }
        effect = single(edits)
        for time in (0.9, 3.4):
            p, still = run(edits, time), run({**edits, "path": []}, time)
            now = pose_at(effect.layers[0], time / 4)
            want = now.centre + now.scale * still.position.astype(float) @ now.rotation.T
            np.testing.assert_array_equal(p.serial, still.serial)
            # Where pull and swirl act about a centre that turns, steps see it at their end.
            np.testing.assert_allclose(p.position, want, atol=3e-2)
            plain = {k: v for k, v in edits.items() if k not in ("flight.pull", "flight.swirl")}
            p, still = run(plain, time), run({**plain, "path": []}, time)
            want = now.centre + now.scale * still.position.astype(float) @ now.rotation.T
            np.testing.assert_allclose(p.position, want, atol=2e-4)
            np.testing.assert_allclose(p.size, still.size * now.scale, rtol=1e-5)

    def test_carry_gives_the_velocity_of_the_birthplace(self):
        # A wheel: 2 m out on an arm that turns once in 4 s while its hub goes 3 m/s.
        path = [{"ease": "linear"}, {"at": 1, "position": [0, 0, 12], "rotation": [0, 360, 0]}]
        edits = {**STILL, "emit.rate": 50, "path": path, "flight.follow": False, "launch.carry": 0.5}
        edits |= {"birthplace.kind": "line", "birthplace.extents": [4, 0, 0]}
        p = run(edits, 2.0)
        still = run({**STILL, "emit.rate": 50, **{k: v for k, v in edits.items() if "birthplace" in k}}, 2.0)
        for i in (0, 13, 60, 90):
            x, turn = float(still.position[i, 0]), math.pi / 2 * (i / 50)
            want = np.array([-x * math.sin(turn), 0, -x * math.cos(turn)]) * (math.pi / 2) + [0, 0, 3]
            np.testing.assert_allclose(p.velocity[i], 0.5 * want, atol=1e-4)
        # A layer that is followed carries them along as well.
        edits["flight.follow"], edits["launch.carry"] = True, 0
        self.assertAlmostEqual(float(np.abs(run(edits, 1.0).velocity).max()), 0, places=6)

    def test_velocity_is_the_slope_of_the_pose(self):
        layer = single({"path": WINDING, "place.rotation": [10, 30, 50], "place.scale": 1.7}).layers[0]
        track, h = track_of(layer), 1e-5
        local = np.array([0.4, -0.3, 0.8])
        out = np.empty(POSE)

        def at(clock):
            found = pose_at(layer, clock)
            return found.centre + found.scale * found.rotation @ local

        for clock in (0.1, 0.29, 0.31, 0.77):
            pose(track, clock, out)
            now = pose_at(layer, clock)
            way = now.scale * now.rotation @ local
            found = np.empty(3)
            carried(track, clock, out, *way, found)
            np.testing.assert_allclose(found, (at(clock + h) - at(clock - h)) / (2 * h), rtol=1e-5, atol=1e-6)

    def test_turns_go_about_x_then_y_then_z(self):
        np.testing.assert_allclose(matrix_of((90, 0, 0)) @ [0, 1, 0], [0, 0, 1], atol=1e-12)
        np.testing.assert_allclose(matrix_of((90, 90, 0)) @ [0, 1, 0], [1, 0, 0], atol=1e-12)
        np.testing.assert_allclose(matrix_of((90, 90, 90)) @ [0, 1, 0], [0, 1, 0], atol=1e-12)

    def test_ready_motions_end_where_they_should(self):
        for name in MOTIONS:
            keys = ready_motion(name, 2.0)
            self.assertEqual((keys[0].at, keys[-1].at), (0.0, 1.0))
            places = evaluate_path(keys, np.linspace(0, 1, 200))
            self.assertLess(float(np.abs(places[:, :3]).max()), 2.01)
            if name != "line":
                np.testing.assert_allclose(places[0], places[-1], atol=1e-3)
        round_way = evaluate_path(ready_motion("circle", 2.0), np.linspace(0, 1, 200))
        np.testing.assert_allclose(np.hypot(round_way[:, 0], round_way[:, 2]), 2.0, rtol=0.01)

    def test_a_growing_path_stretches_forces_too(self):
        path = [{"scale": 3}]
        edits = {"path": path, "flight.thrust": [0, {"curve": [[0, 1], [1, 1]]}, 0], "launch.speed": 0}
        p = run(edits, 1.0)
        age = p.age * p.lifetime
        np.testing.assert_allclose(p.position[:, 1], 1.5 * age**2, atol=1e-4)

"""Meshes to be drawn: shipped ones, files of all kinds, and how particles that wear them stand."""

import tempfile
import time
import unittest
from pathlib import Path

import numpy as np
import trimesh
from scipy.spatial.transform import Rotation

from pale_ember.effect import EffectError
from pale_ember.effect.chapters.source import SHIPPED_MESHES
from pale_ember.simulation import Simulation
from pale_ember.simulation.meshes.drawn import body_of, rounded_normals
from pale_ember.simulation.values.dice import layer_key, property_key, random_share

from ...building import single

MESH = {"look.draw": "mesh", "emit.rate": 0, "emit.bursts": [{"count": 40}], "launch.lifetime": 2}


def turned(sim):
    rows = sim.instances("a")
    return Rotation.from_quat(rows["turn"].astype(float)), rows


class BodyTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_shipped_ones_have_whole_normals_and_pictures(self):
        for name in SHIPPED_MESHES:
            for part in body_of(name):
                corners, normals = part.vertices[part.faces, :3], part.vertices[part.faces, 3:6]
                np.testing.assert_allclose(np.linalg.norm(normals, axis=2), 1.0, atol=1e-5)
                across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                self.assertTrue(((across[:, None] * normals).sum(axis=2) > 0).all(), name)
                uv = part.vertices[:, 6:]
                self.assertTrue((uv > -1e-6).all() and (uv < 1 + 1e-6).all(), name)
        for name in ("cylinder", "cone"):
            # Open at both ends: as many edges stand alone as go around twice.
            (part,) = body_of(name)
            mesh = trimesh.Trimesh(part.vertices[:, :3], part.faces)
            mesh.merge_vertices(merge_tex=True, merge_norm=True)
            self.assertFalse(mesh.is_watertight)
            self.assertEqual(len(trimesh.grouping.group_rows(mesh.edges_sorted, require_count=1)), 96)
        self.assertEqual(len(body_of("shards")), len(body_of("rocks")), 6)

    def test_files_are_read_in_all_kinds_at_the_same_size(self):
        box = trimesh.creation.box((2, 4, 1))
        for ending in ("obj", "stl", "ply", "glb", "gltf"):
            box.export(self.folder / f"a.{ending}")
            (part,) = body_of(str(self.folder / f"a.{ending}"))
            np.testing.assert_allclose(np.ptp(part.vertices[:, :3], axis=0), [0.5, 1, 0.25], atol=1e-5)
            self.assertEqual(len(part.faces), 12)
            # Corners without normals of their own are flat where faces meet sharply.
            self.assertEqual(len(np.unique(np.round(part.vertices[:, 3:6], 3), axis=0)), 6, ending)

    def test_parts_stand_each_in_its_own_middle_and_particles_take_one_at_random(self):
        scene = trimesh.Scene(
            [
                trimesh.creation.icosphere(2, 0.5).apply_translation((3, 0, 0)),
                trimesh.creation.box((2, 2, 2)).apply_translation((-5, 1, 0)),
            ]
        )
        scene.export(self.folder / "two.glb")
        parts = body_of(str(self.folder / "two.glb"))
        self.assertEqual(len(parts), 2)
        for part in parts:
            np.testing.assert_allclose(
                part.vertices[:, :3].min(axis=0) + part.vertices[:, :3].max(axis=0), 0, atol=1e-5
            )
        self.assertAlmostEqual(max(np.ptp(part.vertices[:, :3]) for part in parts), 1.0, delta=1e-5)
        sim = Simulation(
            single(MESH | {"emit.bursts": [{"count": 400}], "look.mesh.mesh": str(self.folder / "two.glb")})
        )
        sim.seek(0.1)
        self.assertEqual(len(sim.body("a")), 2)
        self.assertAlmostEqual((sim.instances("a")["lot"] < 0.5).mean(), 0.5, delta=0.1)

    def test_two_hundred_thousand_triangles_are_read_in_time(self):
        ball = trimesh.creation.icosphere(7, 1.0)
        self.assertGreater(len(ball.faces), 200_000)
        path = self.folder / "large.stl"
        ball.export(path)
        start = time.perf_counter()
        (part,) = body_of(str(path))
        self.assertEqual(len(part.faces), len(ball.faces))
        self.assertLess(time.perf_counter() - start, 60)
        # Without normals of its own it is round.
        np.testing.assert_allclose(part.vertices[:, 3:6] / 2, part.vertices[:, :3], atol=2e-3)

    def test_what_is_no_mesh_is_a_sentence_and_a_ball(self):
        (self.folder / "none.obj").write_text("v 0 0 0\nv 1 0 0\n")
        (self.folder / "flat.obj").write_text("v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n")
        (self.folder / "cut.glb").write_bytes(b"glTF\x02\0\0\0\xff\0\0\0")
        (self.folder / "nan.obj").write_text("v 0 nan 0\nv 1 0 0\nv 2 0 1\nf 1 2 3\n")
        for name in ("none.obj", "flat.obj", "cut.glb", "nan.obj", "gone.stl", "no mesh"):
            mesh = str(self.folder / name) if "." in name else name
            with self.assertRaises(EffectError) as wrong:
                body_of(mesh)
            self.assertEqual(wrong.exception.place, "look.mesh.mesh")
            self.assertTrue(wrong.exception.reason.endswith((".", "?")), wrong.exception.reason)
            sim = Simulation(single(MESH | {"look.mesh.mesh": mesh}))
            sim.seek(0.2)
            self.assertEqual(sim.counts("a")["alive"], 40)
            self.assertEqual(sim.body("a"), body_of("ball"))
            self.assertEqual([one.place for one in sim.problems()], ["layers[0].look.mesh.mesh"])

    def test_odd_normals_and_pictures_are_made_anew(self):
        (self.folder / "odd.obj").write_text(
            "v 0 0 0\nv 1 0 0\nv 0 0 -1\nvn 0 0 0\nvt nan 0\nf 1/1/1 2/1/1 3/1/1\n"
        )
        (part,) = body_of(str(self.folder / "odd.obj"))
        np.testing.assert_allclose(part.vertices[:, 3:6], np.broadcast_to([0, 1, 0], (3, 3)), atol=1e-6)
        self.assertTrue(np.isfinite(part.vertices).all())

    def test_normals_round_what_is_round_and_keep_what_is_sharp(self):
        box = trimesh.creation.box()
        flat = rounded_normals(box.triangles)
        np.testing.assert_allclose(flat, np.repeat(box.face_normals[:, None], 3, axis=1), atol=1e-9)
        ball = trimesh.creation.icosphere(4)
        self.assertLess(np.abs(rounded_normals(ball.triangles) - ball.triangles).max(), 8e-3)


class StandTest(unittest.TestCase):
    def test_in_the_layers_axes_turned_by_angle_and_spin(self):
        effect = single(
            MESH | {"place.rotation": [30, 40, 50], "launch.angle": {"spread": [-90, 90]}, "flight.spin": 100}
        )
        sim = Simulation(effect)
        sim.seek(0.5)
        found, _ = turned(sim)
        own = Rotation.from_euler("xyz", [30, 40, 50], degrees=True)
        expected = own * Rotation.from_rotvec(np.outer(sim.particles("a").angle, [0, 1, 0]))
        self.assertLess((found.inv() * expected).magnitude().max(), 2e-3)

    def test_along_their_travel(self):
        sim = Simulation(
            single(
                MESH
                | {
                    "birthplace.aim": "random",
                    "flight.gravity": 1,
                    "look.mesh.stand": "travel",
                    "launch.speed": 3,
                }
            )
        )
        for time_ in (0.1, 0.6):
            sim.seek(time_)
            found, _ = turned(sim)
            velocity = sim.particles("a").velocity.astype(float) + np.array([0, 9.81 / 120, 0])
            np.testing.assert_allclose(
                found.apply([0, 1, 0]), velocity / np.linalg.norm(velocity, axis=1, keepdims=True), atol=0.02
            )

    def test_tumbling_about_an_axis_of_its_own(self):
        effect = single(
            MESH
            | {
                "look.mesh.stand": "tumble",
                "launch.angle": {"spread": [-180, 180]},
                "flight.spin": {"spread": [-400, 400]},
            }
        )
        sim = Simulation(effect)
        sim.seek(0.3)
        found, _ = turned(sim)
        serial, key = sim.particles("a").serial, property_key(layer_key(effect.seed, "a"), "look.mesh/lots")
        up = 1 - 2 * random_share(int(np.uint32(key) ^ np.uint32(0x9E3779B9)), serial).astype(float)
        turn = 2 * np.pi * random_share(int(np.uint32(key) ^ np.uint32(0x85EBCA6B)), serial).astype(float)
        wide = np.sqrt(1 - up**2)
        axis = np.stack([wide * np.cos(turn), up, wide * np.sin(turn)], axis=1)
        expected = Rotation.from_rotvec(axis * sim.particles("a").angle[:, None].astype(float))
        self.assertLess((found.inv() * expected).magnitude().max(), 2e-3)
        # All ways are as likely.
        self.assertLess(np.abs(axis.mean(axis=0)).max(), 0.4)

    def test_stretch_is_read_along_life_for_each_axis(self):
        sim = Simulation(
            single(
                MESH
                | {
                    "look.mesh.stretch": [{"curve": [[0, 0], [1, 2]]}, {"spread": [1, 3]}, 0.5],
                    "look.mesh.rim": {"curve": [[0, 4], [1, 0]]},
                }
            )
        )
        sim.seek(1.0)
        rows = sim.instances("a")
        np.testing.assert_allclose(rows["stretch"][:, 0], 1.0, atol=0.02)
        self.assertTrue(
            (rows["stretch"][:, 1] >= 1).all()
            and (rows["stretch"][:, 1] <= 3).all()
            and np.ptp(rows["stretch"][:, 1]) > 1
        )
        np.testing.assert_allclose(rows["stretch"][:, 2], 0.5, atol=1e-6)
        np.testing.assert_allclose(rows["rim_light"], 2.0, atol=0.04)

    def test_those_that_stay_behind_stand_as_they_were_born(self):
        path = [{}, {"at": 1, "rotation": [0, 0, 180]}]
        sim = Simulation(
            single(
                MESH
                | {
                    "path": path,
                    "flight.follow": False,
                    "emit.rate": 10,
                    "emit.bursts": [],
                    "launch.speed": 0,
                    "launch.lifetime": 9,
                }
            )
        )
        sim.seek(3.0)
        found, _ = turned(sim)
        clock = sim.lives("a").rows[3].astype(float)
        expected = Rotation.from_rotvec(np.outer(np.pi * clock, [0, 0, 1]))
        self.assertLess((found.inv() * expected).magnitude().max(), 2e-3)


if __name__ == "__main__":
    unittest.main()

import tempfile
import unittest
from pathlib import Path

import numpy as np
import trimesh
from scipy import stats

from pale_ember.effect import EffectError, load_effect, save_effect
from pale_ember.effect.chapters.source import SHIPPED_MESHES
from pale_ember.simulation import Simulation
from pale_ember.simulation.meshes.faces import mesh_faces

from ...building import single

COUNT = 6000


def born(mesh, time=1 / 60, **more):
    edits = {
        "emit.rate": 0,
        "emit.cap": COUNT,
        "emit.bursts": [{"at": 0, "count": COUNT}],
        "launch.lifetime": 100,
        "launch.speed": 1,
        "birthplace.kind": "mesh",
        "birthplace.mesh": str(mesh),
        "birthplace.aim": "outward",
    }
    sim = Simulation(single(edits | {f"birthplace.{k}": v for k, v in more.items()}))
    sim.seek(time)
    p = sim.particles("a")
    v = p.velocity.astype(float)
    return p.position.astype(float) - v * time, v, sim


class MeshTest(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)

    def path(self, name):
        return Path(self.folder.name) / name

    def test_births_lie_on_faces_by_area_with_their_normal(self):
        # Faces of very different areas, so that a draw by number would show.
        shape = trimesh.creation.box(extents=(4, 1, 0.2)).subdivide_loop(0)
        shape = trimesh.util.concatenate(
            [shape, trimesh.creation.icosphere(subdivisions=2, radius=0.3).apply_translation([0, 3, 0])]
        )
        for name in ("a.obj", "a.stl", "a.ply", "a.glb", "a.gltf"):
            shape.export(self.path(name))
            place, v, _ = born(self.path(name), mesh_scale=2)
            _, far, face = trimesh.proximity.closest_point_naive(shape, place / 2)
            np.testing.assert_allclose(far, 0, atol=2e-3)
            found = np.bincount(face, minlength=len(shape.faces))
            wanted = shape.area_faces / shape.area * COUNT
            big = wanted > 40
            rest = [found[~big].sum()], [wanted[~big].sum()]
            counts, expected = np.append(found[big], rest[0]), np.append(wanted[big], rest[1])
            self.assertGreater(stats.chisquare(counts, expected).pvalue, 1e-3)
            along = (v * shape.face_normals[face]).sum(axis=1)
            self.assertGreater(np.mean(along > 0.99), 0.99)

    def test_faces_are_filled_evenly(self):
        place, _, _ = born("plane")
        for axis in (0, 2):
            self.assertGreater(stats.kstest(place[:, axis] + 0.5, "uniform").pvalue, 1e-3)

    def test_shipped_meshes_face_outward(self):
        areas = {
            "ball": np.pi,
            "box": 6,
            "cone": np.pi / 4 + np.pi / 2 * np.sqrt(1.25),
            "cylinder": np.pi,
            "plane": 1,
        }
        areas["torus"] = 4 * np.pi**2 * 0.5 * 0.15
        areas |= {"dome": np.pi / 2, "ring": np.pi * (0.25 - 0.0625)}
        for name in SHIPPED_MESHES:
            faces = mesh_faces(name)
            across = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
            if name in areas:
                self.assertAlmostEqual(np.linalg.norm(across, axis=1).sum() / 2 / areas[name], 1, delta=0.01)
            if name not in ("plane", "ring"):
                # By the divergence theorem, faces that look outward enclose a volume above 0.
                self.assertGreater((faces.mean(axis=1) * across).sum(), 0.1)

    def test_glitter_gives_a_new_place_at_each_step_and_keeps_the_flight(self):
        place, _, sim = born("plane", aim="axis", glitter=True)
        sim.seek(0.5)
        p = sim.particles("a")
        np.testing.assert_allclose(p.position[:, 1], 0.5, atol=1e-4)
        moved = p.position[:, 0] - place[:, 0]
        self.assertGreater(np.abs(moved).mean(), 0.2)
        self.assertGreater(stats.kstest(p.position[:, 0] + 0.5, "uniform").pvalue, 1e-3)
        self.assertLess(abs(np.corrcoef(p.position[:, 0], place[:, 0])[0, 1]), 0.05)

    def test_what_is_no_mesh_is_said_and_the_rest_goes_on(self):
        self.path("bad.obj").write_text("nonsense")
        self.path("bad.glb").write_bytes(b"glTF" + bytes(40))
        self.path("empty.stl").write_bytes(bytes(84))
        for name, words in (
            ("bad.obj", "no"),
            ("bad.glb", "no"),
            ("empty.stl", "no"),
            ("none.ply", "read"),
            ("x", "neither"),
        ):
            mesh = name if name == "x" else str(self.path(name))
            with self.assertRaises(EffectError) as caught:
                mesh_faces(mesh)
            self.assertIn(words, caught.exception.reason)
            _, _, sim = born(mesh)
            self.assertEqual(sim.problems()[0].place, "layers[0].birthplace.mesh")
            self.assertEqual(len(sim.particles("a")), COUNT)

    def test_a_mesh_file_is_found_from_where_the_effect_lies(self):
        trimesh.creation.box().export(self.path("block.obj"))
        effect = single({"birthplace.kind": "mesh", "birthplace.mesh": str(self.path("block.obj"))})
        save_effect(effect, self.path("a.ember"))
        self.assertIn('"mesh": "block.obj"', self.path("a.ember").read_text())
        self.assertEqual(load_effect(self.path("a.ember")), effect)

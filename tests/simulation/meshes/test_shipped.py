"""Shipped bodies against closed forms and another library's hulls."""

import math
import unittest

import numpy as np
import trimesh
from scipy.spatial import ConvexHull

from pale_ember.simulation.meshes.drawn import shipped_body


def solid(part):
    """Return a part as a mesh whose equal corners are one."""
    mesh = trimesh.Trimesh(part.vertices[:, :3], part.faces, process=False)
    mesh.merge_vertices(merge_tex=True, merge_norm=True, digits_vertex=5)
    return mesh


class Shipped(unittest.TestCase):
    def test_pieces_are_the_hulls_of_their_corners_one_metre_long_in_their_middle(self):
        for name in ("rocks", "shards"):
            pieces = shipped_body(name)
            self.assertEqual(len({part.vertices.tobytes() for part in pieces}), len(pieces))
            for part in pieces:
                mesh, corners = solid(part), part.vertices[:, :3].astype(float)
                low, high = corners.min(axis=0), corners.max(axis=0)
                self.assertAlmostEqual(float((high - low).max()), 1.0, places=5)
                np.testing.assert_allclose(low + high, 0.0, atol=1e-5)
                hull = ConvexHull(corners)
                self.assertTrue(mesh.is_watertight)
                self.assertAlmostEqual(float(mesh.volume), hull.volume, places=5)
                self.assertAlmostEqual(float(mesh.area), hull.area, places=4)
                # Each face has all of the picture, and one normal that is its own.
                for row in part.faces:
                    a, b, c = part.vertices[row, :3].astype(float)
                    way = np.cross(b - a, c - a)
                    np.testing.assert_allclose(
                        part.vertices[row, 3:6], np.repeat([way / np.linalg.norm(way)], 3, axis=0), atol=2e-3
                    )
                self.assertEqual((part.vertices[:, 6:].min(), part.vertices[:, 6:].max()), (0.0, 1.0))

    def test_round_ones_have_the_sizes_and_normals_of_what_they_are(self):
        ball = solid(*shipped_body("ball"))
        self.assertAlmostEqual(float(ball.volume), 4 / 3 * math.pi / 8, delta=0.005)
        torus = solid(*shipped_body("torus"))
        self.assertAlmostEqual(float(torus.volume), 2 * math.pi**2 * 0.5 * 0.15**2, delta=0.004)
        for name, radii in (("cylinder", (0.5, 0.5)), ("cone", (0.5, 0.15))):
            (part,) = shipped_body(name)
            place = part.vertices[:, :3].astype(float)
            radius = radii[0] + (radii[1] - radii[0]) * place[:, 1]
            np.testing.assert_allclose(np.hypot(place[:, 0], place[:, 2]), radius, atol=1e-6)
            side = math.pi * sum(radii) * math.hypot(1.0, radii[0] - radii[1])
            self.assertAlmostEqual(float(solid(part).area), side, delta=0.01)
            lean = (radii[0] - radii[1]) / math.hypot(1.0, radii[0] - radii[1])
            np.testing.assert_allclose(part.vertices[:, 4], lean, atol=1e-6)
        for name in ("ball", "dome"):
            (part,) = shipped_body(name)
            np.testing.assert_allclose(part.vertices[:, 3:6], part.vertices[:, :3] * 2, atol=1e-5)
        (dome,) = shipped_body("dome")
        self.assertAlmostEqual(float(dome.vertices[:, 1].min()), 0.0, places=6)
        # The picture goes once around, and upwards as the way is long.
        for name in ("ball", "torus", "dome", "cylinder"):
            (part,) = shipped_body(name)
            turn = np.arctan2(-part.vertices[:, 2], part.vertices[:, 0]) / (2 * math.pi) % 1.0
            off = np.abs(turn - part.vertices[:, 6] % 1.0)
            far = np.hypot(part.vertices[:, 0], part.vertices[:, 2]) > 1e-3
            self.assertLess(float(np.minimum(off, 1 - off)[far].max()), 1e-5, name)
            if name != "torus":
                lean = np.arcsin(np.clip(part.vertices[:, 4], -1, 1)) / math.pi
                wanted = {"ball": lean + 0.5, "dome": lean * 2, "cylinder": part.vertices[:, 1]}[name]
                np.testing.assert_allclose(part.vertices[:, 7], wanted, atol=1e-4)

    def test_flat_ones_and_the_box(self):
        (ring,) = shipped_body("ring")
        self.assertAlmostEqual(float(solid(ring).area), math.pi * (0.25 - 0.0625), delta=0.003)
        np.testing.assert_allclose(ring.vertices[:, 3:6], [[0, 1, 0]] * len(ring.vertices))
        radius = np.hypot(ring.vertices[:, 0], ring.vertices[:, 2])
        np.testing.assert_allclose(ring.vertices[:, 7], (radius - 0.25) * 4, atol=1e-6)
        across = np.cross(
            ring.vertices[ring.faces[:, 1], :3] - ring.vertices[ring.faces[:, 0], :3],
            ring.vertices[ring.faces[:, 2], :3] - ring.vertices[ring.faces[:, 0], :3],
        )
        self.assertTrue((across[:, 1] > 0).all())
        (plane,) = shipped_body("plane")
        self.assertEqual(np.ptp(plane.vertices[:, :3], axis=0).tolist(), [1, 0, 1])
        self.assertEqual(float(np.abs(plane.vertices[:, 1]).max()), 0.0)
        (box,) = shipped_body("box")
        mesh = solid(box)
        self.assertTrue(mesh.is_watertight)
        self.assertAlmostEqual(float(mesh.volume), 1.0, places=6)
        np.testing.assert_allclose(mesh.bounds, [[-0.5] * 3, [0.5] * 3])

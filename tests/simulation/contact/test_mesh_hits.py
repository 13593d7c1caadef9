"""Where particles meet a mesh, against every triangle tried one by one."""

import unittest

import numpy as np

from pale_ember.effect.values.rotations import matrix_of
from pale_ember.simulation import Simulation
from pale_ember.simulation.contact.mesh_trees import cells_of, is_closed, tree_of
from pale_ember.simulation.meshes.faces import body_corners, mesh_faces

from .contact_effects import effect_of


def first_on_way(corners, begin, way):
    """Return the share of a straight way at which it first goes through a triangle (T. Möller, B.
    Trumbore, 1997); 2 for none.
    """
    a, u, v = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    p = np.cross(way, v)
    whole = np.sum(u * p, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        s = np.sum((begin - a) * p, axis=1) / whole
        q = np.cross(begin - a, u)
        t, share = q @ way / whole, np.sum(v * q, axis=1) / whole
    good = (np.abs(whole) > 1e-14) & (s >= 0) & (t >= 0) & (s + t <= 1) & (share > 0) & (share <= 1)
    return float(share[good].min(initial=2.0))


class MeshTest(unittest.TestCase):
    def test_shots_from_all_sides_hit_where_the_nearest_triangle_is(self):
        roll = np.random.default_rng(6)
        turn, place, size = (25.0, -40.0, 70.0), (0.3, 0.8, -0.2), (2.0, 1.2, 1.6)
        for mesh in ("torus", "cone", "ball"):
            corners = body_corners(mesh_faces(mesh)) * np.array(size) @ matrix_of(turn).T + place
            middle, hits = corners.mean(axis=(0, 1)), 0
            for rate, speed in ((30, 3.0), (60, 40.0), (120, 900.0)):
                for _ in range(12):
                    begin = middle + 2.5 * (lambda d: d / np.linalg.norm(d))(roll.normal(size=3))
                    aim = middle + roll.uniform(-0.8, 0.8, 3) - begin
                    push = aim / np.linalg.norm(aim) * speed
                    effect = effect_of(
                        **{
                            "stage.floor": False,
                            "stage.props": [
                                {
                                    "kind": "mesh",
                                    "mesh": mesh,
                                    "position": place,
                                    "rotation": turn,
                                    "size": size,
                                }
                            ],
                            "place.position": begin.tolist(),
                            "launch.push": push.tolist(),
                            "contact.on_hit": "stick",
                            "step_rate": rate,
                        }
                    )
                    sim = Simulation(effect, threads=1)
                    sim.seek(5.0 / speed + 2.0 / rate)
                    p, share = sim.particles("a"), first_on_way(corners, begin, 5.0 * push / speed)
                    self.assertEqual(sim.counts("a")["hits"], int(share <= 1), (mesh, begin, push))
                    if share <= 1:
                        hits += 1
                        np.testing.assert_allclose(
                            p.position[0], begin + share * 5.0 * push / speed, atol=2e-3
                        )
            self.assertGreater(hits, 12)

    def test_each_of_several_meshes_is_met_as_if_it_were_alone(self):
        names, turn = ("torus", "cone", "ball", "rocks"), [20.0, 50.0, -10.0]
        props = [
            {
                "kind": "mesh",
                "mesh": name,
                "position": [4.0 * i, 0.2, 0.0],
                "rotation": turn,
                "size": [2, 1, 2],
            }
            for i, name in enumerate(names)
        ]
        for i, name in enumerate(names):
            edits = {
                "emit.rate": 150,
                "emit.cap": 900,
                "birthplace.kind": "box",
                "birthplace.extents": [1.6, 0.2, 1.6],
                "place.position": [4.0 * i, 1.8, 0.0],
                "launch.lifetime": 3,
                "contact.bounce": 0.3,
                "flight.gravity": 1,
                "flight.drag": 0.5,
            }
            found = []
            for some in (props, [props[i]]):
                sim = Simulation(effect_of(**edits, **{"stage.props": some}))
                sim.seek(2.0)
                found.append((sim.counts("a"), sim.particles("a").position.tobytes()))
            self.assertGreater(found[0][0]["hits"], 200, name)
            self.assertEqual(found[0], found[1], name)

    def test_the_tree_and_the_cells_hold_every_triangle(self):
        corners = body_corners(mesh_faces("torus"))
        tree = tree_of(corners)
        leaves = tree.links[tree.links[:, 1] > 0]
        named = np.concatenate([np.arange(first, first + some) for first, some in leaves])
        self.assertCountEqual(named.tolist(), range(len(corners)))
        for (first, some), box in zip(tree.links, tree.boxes, strict=True):
            inside = (
                tree.corners[first : first + some]
                if some > 0
                else tree.boxes[first : first + 2].reshape(-1, 2, 3)
            )
            self.assertTrue((inside >= box[:3] - 1e-9).all() and (inside <= box[3:] + 1e-9).all())
        np.testing.assert_allclose(np.linalg.norm(tree.planes[:, :3], axis=1), 1.0, atol=1e-12)
        np.testing.assert_allclose(
            np.einsum("tk,tck->tc", tree.planes[:, :3], tree.corners),
            tree.planes[:, 3:4] * np.ones(3),
            atol=1e-9,
        )
        balls = np.linalg.norm(tree.corners - tree.planes[:, None, 4:7], axis=2)
        self.assertTrue((balls <= tree.planes[:, 7:8] + 1e-12).all())
        cells = cells_of(tree.corners)
        # Any point of a triangle lies in a cell that lists it.
        share = np.random.default_rng(2).dirichlet((1, 1, 1), len(corners))
        points = np.einsum("tc,tck->tk", share, tree.corners)
        at = ((points - cells.low) * cells.dense).astype(int)
        row = (at[:, 0] * cells.many[1] + at[:, 1]) * cells.many[2] + at[:, 2]
        for t, k in enumerate(row):
            self.assertIn(t, cells.listed[cells.first[k] : cells.first[k + 1]])

    def test_what_encloses_a_space_is_known(self):
        for mesh, closed in (
            ("torus", True),
            ("ball", True),
            ("box", True),
            ("cone", True),
            ("plane", False),
        ):
            self.assertEqual(is_closed(body_corners(mesh_faces(mesh))), closed, mesh)
        torn = body_corners(mesh_faces("torus"))[1:]
        self.assertFalse(is_closed(torn))


if __name__ == "__main__":
    unittest.main()

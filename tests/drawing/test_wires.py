"""The lines of a birthplace are where its particles are born, at any place, turn and scale."""

import unittest

import numpy as np

from pale_ember.drawing.wires import birthplace_wire, path_line
from pale_ember.effect import Effect
from pale_ember.effect.chapters.path import evaluate_path
from pale_ember.effect.chapters.place import PathKey
from pale_ember.effect.effect import Layer
from pale_ember.effect.kinds import EmitterShape
from pale_ember.simulation import Simulation
from pale_ember.simulation.motion.path import Pose, pose_at


def layer_of(kind, **edits):
    fields = {
        "birthplace.kind": kind,
        "birthplace.radius": 0.7,
        "birthplace.tube": 0.2,
        "birthplace.height": 0.9,
        "birthplace.extents": [1.2, 0.6, 0.8],
        "birthplace.angle": 30,
        "birthplace.mesh": "torus",
        "place.position": [0.3, -0.4, 0.8],
        "place.rotation": [25, 60, -35],
        "place.scale": 1.7,
        "emit.rate": 0,
        "emit.bursts": [{"at": 0, "count": 4000}],
        "emit.cap": 4000,
        "launch.speed": 0,
        "launch.lifetime": 60,
        **edits,
    }
    effect = Effect(layers=(Layer(id="a", name="a"),), loop=False)
    for path, value in fields.items():
        effect = effect.edit(f"layers[0].{path}", value)
    return effect


def inside(layer, points):
    """Return points of the world in the layer's own axes and metres."""
    pose = pose_at(layer, 0.0)
    return (points - pose.centre) @ pose.rotation / pose.scale


class WireTest(unittest.TestCase):
    def test_births_fill_what_the_lines_enclose(self):
        for kind in EmitterShape:
            if kind == EmitterShape.POINT:
                continue
            effect = layer_of(kind)
            sim = Simulation(effect, threads=1)
            sim.seek(0.02)
            born = inside(effect.layers[0], sim.particles("a").position.astype(float))
            # The last lines are the axis and its foot.
            lines = np.concatenate(birthplace_wire(effect.layers[0])[:-3])
            drawn = inside(effect.layers[0], lines)
            if kind == EmitterShape.BOW:
                # Behind its curve stand its two pulls.
                drawn = drawn[:-4]
            for corner, drawn_corner in (
                (born.min(axis=0), drawn.min(axis=0)),
                (born.max(axis=0), drawn.max(axis=0)),
            ):
                np.testing.assert_allclose(
                    corner, drawn_corner, atol=0.12 if kind == EmitterShape.CONE else 0.06, err_msg=kind
                )
                self.assertTrue((np.abs(corner) <= np.abs(drawn_corner) + 1e-2).all(), kind)

    def test_part_of_a_round_shape_is_drawn_as_the_part_that_it_is(self):
        for kind in (EmitterShape.BALL, EmitterShape.CYLINDER, EmitterShape.RING, EmitterShape.CONE):
            effect = layer_of(kind, **{"birthplace.arc": 100})
            sim = Simulation(effect, threads=1)
            sim.seek(0.02)
            for points in (
                sim.particles("a").position.astype(float),
                np.concatenate(birthplace_wire(effect.layers[0])[:-3]),
            ):
                x, _, z = inside(effect.layers[0], points).T
                far = np.hypot(x, z) > 0.3
                angle = np.degrees(np.arctan2(z, x))[far]
                self.assertTrue((angle > -1).all() and (angle < 101).all(), kind)
                self.assertGreater(np.ptp(angle), 90)

    def test_at_an_event_the_lines_stand_there(self):
        layer = layer_of(EmitterShape.RING).layers[0]
        at = Pose(np.array([5.0, 1.0, 2.0]), np.eye(3), 2.0)
        ring = np.concatenate(birthplace_wire(layer, 0.0, at)[:-3]) - at.centre
        self.assertAlmostEqual(float(np.hypot(ring[:, 0], ring[:, 2]).max()), 2.0 * 0.9, delta=0.01)
        self.assertLessEqual(float(np.abs(ring[:, 1]).max()), 0.41)

    def test_a_path_is_drawn_through_its_keys(self):
        keys = (PathKey(at=0.0), PathKey(at=0.4, position=(1, 2, 0)), PathKey(at=1.0, position=(3, 0, 1)))
        layer = layer_of(EmitterShape.POINT).layers[0].model_copy(update={"path": keys})
        line = inside(layer.model_copy(update={"path": ()}), path_line(layer))
        for key in keys:
            self.assertLess(np.linalg.norm(line - key.position, axis=1).min(), 1e-9)
        dense = evaluate_path(keys, np.linspace(0, 1, 2000))[:, :3]
        far = np.linalg.norm(line[:, None] - dense[None], axis=2).min(axis=1)
        self.assertLess(far.max(), 5e-3)


if __name__ == "__main__":
    unittest.main()

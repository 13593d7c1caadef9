"""Handles as geometry: each tells the value that stands there, and goes where the mouse is."""

import math
import unittest

import numpy as np

from pale_ember.app.stage.handles import dragged_to, handles_of, handles_of_prop, ray, ring_of, tidy
from pale_ember.drawing.camera import project
from pale_ember.effect import Effect
from pale_ember.effect.chapters.place import PathKey, Place
from pale_ember.effect.chapters.source import Birthplace
from pale_ember.effect.chapters.stage import Camera, Prop
from pale_ember.effect.effect import Layer
from pale_ember.effect.kinds import EmitterShape
from pale_ember.effect.rules.edit import get

CAMERA = Camera(target=(0.2, 0.6, -0.1), distance=5.0, yaw=25.0, pitch=18.0)
SIZE = (900, 500)


def layer_of(kind, **more):
    place = Place(position=(0.4, 0.7, -0.3), rotation=(20.0, 35.0, -50.0), scale=1.5)
    shape = Birthplace(
        kind=kind,
        radius=0.6,
        tube=0.15,
        height=0.8,
        extents=(1.0, 0.5, 0.7),
        angle=25.0,
        arc=210.0,
        mesh="torus",
        mesh_scale=0.8,
    )
    return Layer(id="a", place=place, birthplace=shape, **more)


class HandleTest(unittest.TestCase):
    def same(self, value, wanted, words):
        np.testing.assert_allclose(
            np.atleast_1d(np.array(value, float)),
            np.atleast_1d(np.array(wanted, float)),
            atol=1e-6,
            err_msg=str(words),
        )

    def test_each_handle_gives_the_value_that_its_field_has_where_it_stands(self):
        for kind in EmitterShape:
            layer = layer_of(
                kind,
                path=(
                    PathKey(at=0.0),
                    PathKey(at=0.6, position=(1.0, 0.2, 0.0), rotation=(0, 90, 0), scale=2.0),
                ),
            )
            effect = Effect(layers=(layer,))
            for clock in (0.0, 0.4, 1.0):
                for handle in handles_of(layer, clock, CAMERA, 1):
                    value = get(effect, f"layers[0].{handle.path}")
                    if handle.look == "turn":
                        # A turn counts from where it is taken.
                        value = layer.place.rotation
                    self.same(handle.value_at(handle.place), value, (kind, clock, handle.label))

    def test_sizes_grow_by_as_much_as_they_are_dragged_in_the_layers_own_metres(self):
        for kind, path, metres in (
            (EmitterShape.BALL, "birthplace.radius", 1.0),
            (EmitterShape.RING, "birthplace.tube", 1.0),
            (EmitterShape.CYLINDER, "birthplace.height", 1.0),
            (EmitterShape.BOX, "birthplace.extents", 2.0),
            (EmitterShape.LINE, "birthplace.extents", 2.0),
        ):
            layer = layer_of(kind)
            handle = next(one for one in handles_of(layer, 0.0, CAMERA, -1) if one.path == path)
            before, after = (
                np.atleast_1d(handle.value_at(handle.place + far * handle.along))[0] for far in (0.0, 0.3)
            )
            self.assertAlmostEqual(
                float(after - before), metres * 0.3 / layer.place.scale, places=9, msg=kind
            )
            # Nothing is smaller than nothing.
            self.assertEqual(float(np.atleast_1d(handle.value_at(handle.place - 99 * handle.along))[0]), 0.0)

    def test_a_handle_dragged_to_the_pixel_that_it_is_on_stays_and_its_ways_are_kept(self):
        layer = layer_of(EmitterShape.CONE)
        for axes in ("world", "layer"):
            for handle in handles_of(layer, 0.0, CAMERA, -1, axes):
                (x, y), seen = (one[0] for one in project(CAMERA, *SIZE, np.array([handle.place])))
                self.assertTrue(seen)
                at = dragged_to(handle, CAMERA, SIZE, x, y)
                np.testing.assert_allclose(at, handle.place, atol=1e-9)
                there = dragged_to(handle, CAMERA, SIZE, x + 40, y - 25)
                if there is None:
                    continue
                if handle.way == "line":
                    off = there - handle.place
                    np.testing.assert_allclose(off - (off @ handle.along) * handle.along, 0, atol=1e-9)
                    # No other place of the line is nearer to the way through the pixel.
                    eye, way = ray(CAMERA, SIZE, x + 40, y - 25)
                    far = [
                        np.linalg.norm(np.cross(there + k * handle.along - eye, way))
                        for k in (-1e-3, 0.0, 1e-3)
                    ]
                    self.assertEqual(int(np.argmin(far)), 1)
                else:
                    pixel = project(CAMERA, *SIZE, np.array([there]))[0][0]
                    np.testing.assert_allclose(pixel, (x + 40, y - 25), atol=1e-6)
                    if handle.way == "plane":
                        self.assertAlmostEqual(float((there - handle.place) @ handle.along), 0.0, places=9)

    def test_a_prop_stands_on_its_foot_and_its_handles_know(self):
        prop = Prop(
            name="p", kind="box", position=(0.5, 0.2, 0.1), rotation=(0.0, 30.0, 0.0), size=(1.0, 2.0, 3.0)
        )
        effect = Effect().edit("stage.props", (prop,))
        found = handles_of_prop(prop, 0, CAMERA)
        self.assertTrue(all(handle.prop == 0 for handle in found))
        for handle in found:
            if handle.look != "turn":
                self.same(
                    handle.value_at(handle.place), get(effect, f"stage.props[0].{handle.path}"), handle.label
                )
        tall = next(handle for handle in found if handle.label == "Size y")
        self.assertAlmostEqual(float(tall.place[1]), 0.2 + 2.0)

    def test_the_ring_of_a_turn_goes_round_its_axis_through_the_handle(self):
        layer = layer_of(EmitterShape.POINT)
        for handle in handles_of(layer, 0.0, CAMERA, -1):
            if handle.look != "turn":
                continue
            ring = ring_of(handle, np.array(layer.place.position)) - layer.place.position
            np.testing.assert_allclose(np.linalg.norm(ring, axis=1), np.linalg.norm(ring[0]), atol=1e-9)
            np.testing.assert_allclose(ring @ handle.along, 0.0, atol=1e-9)
            # A quarter of the ring is a right angle.
            quarter = handle.value_at(layer.place.position + ring[12])
            self.assertGreater(
                max(abs(a - b) for a, b in zip(quarter, layer.place.rotation, strict=True)), 1.0
            )

    def test_numbers_are_rounded_to_what_a_pixel_tells(self):
        self.assertEqual(tidy(0.123456, 0.01), 0.12)
        self.assertEqual(tidy((1.23456, -0.00001), 0.001), (1.235, 0.0))
        self.assertEqual(tidy(123.456, 10.0), 120.0)
        self.assertEqual(math.copysign(1.0, tidy(-0.0001, 0.1)), 1.0)


if __name__ == "__main__":
    unittest.main()

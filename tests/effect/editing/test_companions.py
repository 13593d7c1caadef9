"""What goes along with an edit, so that what it asks for is seen at once."""

import unittest

import numpy as np

from pale_ember.effect.editing.companions import anchor_of, companions, reanchored
from pale_ember.effect.values.rotations import matrix_of

from ...building import effect_with

PROPS = [{"name": "lamp", "kind": "box", "position": [2, 0, 0], "rotation": [0, 90, 0], "size": [1, 3, 1]}]
CLOSED = [
    {"at": 0, "position": [1, 0, 0]},
    {"at": 0.5, "position": [0, 0, 2]},
    {"at": 1, "position": [1, 0, 0]},
]


def effect(edits=None, **others):
    return effect_with({"a": edits or {}, **others}).edit("stage.props", PROPS)


class Companions(unittest.TestCase):
    def assert_goes_along(self, before, path, value, *wanted):
        self.assertEqual(companions(before, path, value), list(wanted), path)

    def test_a_bow_begins_in_a_row_unless_it_is_one_already(self):
        along = ("layers[0].birthplace.in_row", True)
        self.assert_goes_along(effect(), "layers[0].birthplace.kind", "bow", along)
        self.assert_goes_along(effect(), "layers[0].birthplace.kind", "ring")
        self.assert_goes_along(effect({"birthplace.kind": "bow"}), "layers[0].birthplace.kind", "bow")

    def test_ribbons_behind_particles_join_by_parent_and_meshes_are_lit(self):
        child = {"origin.parent": "a", "origin.when": "alive"}
        join, lit = ("layers[1].look.ribbon.join", "parent"), ("layers[0].look.lit", 1.0)
        self.assert_goes_along(effect(b=child), "layers[1].look.draw", "ribbon", join)
        self.assert_goes_along(effect(b=child | {"origin.when": "death"}), "layers[1].look.draw", "ribbon")
        self.assert_goes_along(effect(), "layers[0].look.draw", "ribbon")
        self.assert_goes_along(effect(), "layers[0].look.draw", "mesh", lit)
        for edits in (
            {"look.lit": 0.3},
            {"look.blend": "add"},
            {"look.blend": "multiply"},
            {"look.draw": "mesh"},
        ):
            self.assert_goes_along(effect(edits), "layers[0].look.draw", "mesh")

    def test_a_ribbon_across_its_line_has_one(self):
        kind = ("layers[0].birthplace.kind", "line")
        self.assert_goes_along(
            effect({"birthplace.kind": "ball"}), "layers[0].look.ribbon.across", "line", kind
        )
        self.assert_goes_along(effect({"birthplace.kind": "line"}), "layers[0].look.ribbon.across", "line")
        self.assert_goes_along(effect(), "layers[0].look.ribbon.across", "view")

    def test_a_closed_path_stays_closed_and_an_open_one_is_left_alone(self):
        closed = effect({"path": CLOSED})
        there = (5, 0, 0)
        self.assert_goes_along(
            closed, "layers[0].path[0].position", there, ("layers[0].path[2].position", there)
        )
        self.assert_goes_along(
            closed, "layers[0].path[2].position", there, ("layers[0].path[0].position", there)
        )
        self.assert_goes_along(closed, "layers[0].path[0].scale", 2.0, ("layers[0].path[2].scale", 2.0))
        self.assert_goes_along(closed, "layers[0].path[1].position", there)
        self.assert_goes_along(closed, "layers[0].path[0].at", 0.1)
        for at, field, value in (
            (2, "position", [1, 0, 0.1]),
            (2, "rotation", [0, 90, 0]),
            (2, "scale", 2),
            (0, "at", 0.1),
            (2, "at", 0.9),
        ):
            other = closed.edit(f"layers[0].path[{at}].{field}", value)
            self.assert_goes_along(other, "layers[0].path[0].position", there)
        self.assert_goes_along(effect({"path": CLOSED[::2]}), "layers[0].path[0].position", there)

    def test_bows_stay_on_a_prop_that_is_renamed(self):
        bow = {"birthplace.kind": "bow", "birthplace.start_on": "prop:lamp", "birthplace.end_on": "layer:a"}
        both = effect(b=bow, c={"birthplace.end_on": "prop:lamp"})
        self.assert_goes_along(
            both,
            "stage.props[0].name",
            "torch",
            ("layers[1].birthplace.start_on", "prop:torch"),
            ("layers[2].birthplace.end_on", "prop:torch"),
        )
        self.assert_goes_along(both, "stage.props[1].name", "torch")

    def test_nothing_goes_along_with_what_is_not_there(self):
        for path in ("layers[5].look.draw", "duration", "layers[0].name", "stage.props[0].size"):
            self.assert_goes_along(effect(), path, "mesh")

    def test_an_end_stands_on_a_props_top_and_on_a_layers_centre(self):
        before = effect(
            {"birthplace.kind": "bow", "birthplace.start": [0, 0, 0], "birthplace.end": [3, 0, 0]}, b={}
        )
        found = companions(before, "layers[0].birthplace.end_on", "prop:lamp")
        self.assertEqual(found[0], ("layers[0].birthplace.end", (0.0, 3, 0.0)))
        found = companions(before, "layers[0].birthplace.start_on", "layer:b")
        self.assertEqual(found[0], ("layers[0].birthplace.start", (0.0, 0.0, 0.0)))

    def test_an_end_that_stands_on_nothing_any_more_stays_where_it_was(self):
        place = {"place.position": [0.5, 1, 0], "place.rotation": [10, 40, 5], "place.scale": 2}
        bow = {"birthplace.kind": "bow", "birthplace.end": [0.2, 1, 0.3], "birthplace.end_on": "prop:lamp"}
        before = effect(place | bow)
        (path, end), *_ = companions(before, "layers[0].birthplace.end_on", "")
        self.assertEqual(path, "layers[0].birthplace.end")
        own, lamp = before.layers[0].place, before.stage.props[0]
        world = np.array(lamp.position) + matrix_of(lamp.rotation) @ [0.2, 1, 0.3]
        again = np.array(own.position) + own.scale * (matrix_of(own.rotation) @ np.array(end))
        np.testing.assert_allclose(again, world, atol=1e-3)
        free = effect(place | bow | {"birthplace.end_on": ""})
        self.assertEqual(companions(free, "layers[0].birthplace.end_on", "")[0][1], (0.2, 1.0, 0.3))

    def test_pulls_that_lead_away_are_turned_towards_the_other_end(self):
        bow = {
            "birthplace.kind": "bow",
            "birthplace.start": [0, 0, 0],
            "birthplace.end": [-4, 0, 3],
            "birthplace.start_pull": [2, 1, 0],
            "birthplace.end_pull": [1, 0.5, -1],
        }
        found = dict(companions(effect(bow, b={}), "layers[0].birthplace.start_on", "layer:b"))
        # Level by 2 towards (-4, 3) of length 5, rising as before; the other leads there already.
        self.assertEqual(found["layers[0].birthplace.start_pull"], (-1.6, 1.0, 1.2))
        self.assertNotIn("layers[0].birthplace.end_pull", found)
        turned = effect(bow | {"birthplace.end_pull": [-3, 0, 0]}, b={})
        found = dict(companions(turned, "layers[0].birthplace.start_on", "layer:b"))
        self.assertEqual(found["layers[0].birthplace.end_pull"], (2.4, 0.0, -1.8))

    def test_anchors_are_found_by_name_and_by_id_and_copies_stand_on_copies(self):
        before = effect(b={"birthplace.start_on": "layer:a", "birthplace.end_on": "prop:lamp"})
        self.assertEqual(anchor_of(before, "prop:lamp"), before.stage.props[0])
        self.assertEqual(anchor_of(before, "layer:b"), before.layers[1])
        for on in ("", "prop:b", "layer:lamp", "lamp"):
            self.assertIsNone(anchor_of(before, on))
        moved = reanchored(before.layers[1], {"a": "a2"})
        self.assertEqual((moved.birthplace.start_on, moved.birthplace.end_on), ("layer:a2", "prop:lamp"))
        self.assertIs(reanchored(before.layers[1], {"b": "b2"}), before.layers[1])

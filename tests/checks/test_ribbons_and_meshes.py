"""Ribbons that can't look as they are meant, and meshes that can't be read, are told by their fields."""

import tempfile
import unittest
from pathlib import Path

from pale_ember.checks.meshes import unread_birthplace, unread_body, unread_props
from pale_ember.checks.ribbons import ribbon_troubles

from ..building import effect_with, single

TRIANGLE = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"


class Ribbons(unittest.TestCase):
    def troubles(self, edits, **parent):
        layers = {
            "a": {"look.draw": "ribbon", "launch.lifetime": 1} | edits,
            **({"p": parent} if parent else {}),
        }
        effect = effect_with(layers)
        return dict(ribbon_troubles(effect, effect.layers[0]))

    def test_a_sound_ribbon_and_what_is_no_ribbon_are_not_blamed(self):
        wrong = {
            "look.ribbon.join": "parent",
            "look.ribbon.across": "line",
            "launch.lifetime": {"spread": [1, 9]},
        }
        self.assertEqual(self.troubles({}), {})
        self.assertEqual(self.troubles(wrong | {"look.draw": "sprite"}), {})
        line = {"look.ribbon.across": "line", "birthplace.kind": "line"}
        self.assertEqual(self.troubles(line), {})

    def test_each_trouble_is_told_once_by_its_field(self):
        self.assertIn("follows no layer", self.troubles({"look.ribbon.join": "parent"})["look.ribbon.join"])
        found = self.troubles({"look.ribbon.across": "line", "birthplace.kind": "ring"})
        self.assertIn("born in a ring", found["look.ribbon.across"])
        child = {"origin.parent": "p", "origin.when": "alive"}
        found = self.troubles(child | {"look.ribbon.join": "layer"}, name="p")
        self.assertIn("from parent to parent", found["look.ribbon.join"])
        self.assertEqual(self.troubles(child | {"look.ribbon.join": "parent"}, name="p"), {})
        self.assertEqual(self.troubles(child | {"origin.when": "death"}, name="p"), {})

    def test_lifetimes_may_differ_by_a_twentieth(self):
        for high, told in ((1.0, False), (1.05, False), (1.06, True)):
            found = self.troubles({"launch.lifetime": {"spread": [1, high]}})
            self.assertEqual("launch.lifetime" in found, told, high)
        clock = {"band": [[[0, 1], [1, 2]], [[0, 2], [1, 3]]], "along": "clock"}
        self.assertEqual(self.troubles({"launch.lifetime": clock}), {})


class Meshes(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.good, self.bad = Path(folder.name, "good.obj"), Path(folder.name, "bad.obj")
        self.good.write_text(TRIANGLE)
        self.bad.write_text("nothing\n")

    def test_what_particles_are_born_on_drawn_as_or_would_meet(self):
        for mesh, count in ((self.good, 0), (self.bad, 1), (self.bad.with_name("none.obj"), 1)):
            born = single({"birthplace.kind": "mesh", "birthplace.mesh": str(mesh)})
            found = list(unread_birthplace(born, born.layers[0]))
            self.assertEqual([place for place, _ in found], ["birthplace.mesh"] * count)
            drawn = single({"look.draw": "mesh", "look.mesh.mesh": str(mesh)})
            found = list(unread_body(drawn, drawn.layers[0]))
            self.assertEqual([place for place, _ in found], ["look.mesh.mesh"] * count)
            for other in (
                born.edit("layers[0].birthplace.kind", "ball"),
                drawn.edit("layers[0].look.draw", "sprite"),
            ):
                self.assertEqual(list(unread_birthplace(other, other.layers[0])), [])
                self.assertEqual(list(unread_body(other, other.layers[0])), [])

    def test_props_count_where_something_meets_them(self):
        props = [
            {"kind": "box"},
            {"kind": "mesh", "mesh": str(self.bad)},
            {"kind": "mesh", "mesh": str(self.good)},
        ]
        meets = single({"contact.enabled": True}).edit("stage.props", props)
        self.assertEqual([wrong.place for wrong in unread_props(meets)], ["stage.props[1].mesh"])
        for path, value in (
            ("layers[0].contact.enabled", False),
            ("layers[0].contact.props", False),
            ("layers[0].enabled", False),
            ("stage.props[1].hit", False),
            ("stage.props[1].kind", "box"),
        ):
            self.assertEqual(list(unread_props(meets.edit(path, value))), [], path)

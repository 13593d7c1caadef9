"""Files dropped on the window: where they land says what they mean."""

from pathlib import Path

from PIL import Image
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication, QLineEdit

from pale_ember.app.widgets.controls import Line
from pale_ember.effect import save_effect
from pale_ember.effect.values.colors import Gradient, Stop
from pale_ember.files.palettes import save_palette

from ...building import effect_with, single
from ..case import WindowCase


class DropTest(WindowCase):
    def first_effect(self):
        return effect_with({"a": {}, "b": {}})

    def file(self, name):
        return Path(self.folder.name) / name

    def test_an_effect_opens_wherever_it_lands_but_on_the_timeline_gives_its_layers(self):
        save_effect(single({"name": "dropped"}), self.file("x.ember"))
        self.file("x.ember").rename(self.file("X.EMBER"))
        self.drop(self.file("X.EMBER"), self.window.timeline.rows, QPoint(300, 40))
        self.assertEqual(self.hinted, "Add the layers of X.EMBER")
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["a", "dropped", "b"])
        self.session.undo()
        self.drop(self.file("X.EMBER"), self.row("launch.speed").controls[0])
        self.assertEqual(self.hinted, "Open X.EMBER")
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["dropped"])

    def test_files_on_a_line_of_text_are_taken_by_the_window(self):
        for widget in self.window.findChildren(QLineEdit):
            self.assertFalse(widget.acceptDrops(), widget.accessibleName())
        line = self.window.recipe.search
        self.assertIsInstance(line, Line)
        self.drop("/nowhere/cup.obj", line)
        self.assertEqual((line.text(), self.session.layer.birthplace.mesh), ("", "/nowhere/cup.obj"))

    def test_births_on_a_mesh_go_outward_unless_the_artist_aims_otherwise(self):
        layer = self.session.layer
        for kind, aim, becomes in (
            ("point", "axis", "outward"),
            ("ball", "inward", "inward"),
            ("mesh", "axis", "axis"),
            ("mesh", "random", "random"),
        ):
            self.session.edit(self.session.layer_path("birthplace.kind"), kind, "Kind")
            self.session.edit(self.session.layer_path("birthplace.aim"), aim, "Aim")
            self.window.drops._be_born_on("/nowhere/cup.obj", self.session.effect.layer(layer.id))
            place = self.session.layer.birthplace
            self.assertEqual((place.kind, place.aim, place.mesh), ("mesh", becomes, "/nowhere/cup.obj"))

    def test_a_mesh_on_a_layers_row_is_that_layers_birthplace(self):
        box = self.window.timeline.rows.places.name_box(1).center().toPoint()
        self.drop("/nowhere/CUP.OBJ", self.window.timeline.rows, box)
        self.assertEqual(self.hinted, "Let b be born on CUP.OBJ")
        kinds = [layer.birthplace.kind for layer in self.session.effect.layers]
        self.assertEqual([str(kind) for kind in kinds], ["point", "mesh"])

    def test_palettes_and_pictures_give_their_colours_to_what_they_land_on(self):
        stops = (Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff"))
        save_palette(stops, "two", self.file("p.gpl"))
        Image.new("RGB", (8, 8), "#20c040").save(self.file("P.PNG"))
        self.drop(self.file("p.gpl"))
        self.assertIn("colour of a", self.hinted)
        self.assertEqual([stop.color for stop in self.session.layer.look.color.stops], ["#ff0000", "#0000ff"])
        row = self.row("look.tint")
        QApplication.processEvents()
        self.drop(self.file("p.gpl"), row.label)
        self.assertIn("tint of a", self.hinted)
        self.assertIsInstance(self.session.layer.look.tint, Gradient)
        self.assertEqual(self.session.layer.look.tint.along, "clock")
        self.drop(self.file("P.PNG"), self.window.strip.lanes["look.color"])
        self.assertEqual({stop.color for stop in self.session.layer.look.color.stops}, {"#20c040"})

    def test_what_is_nothing_for_an_effect_is_said_and_changes_nothing(self):
        before = self.session.effect
        self.file("a.txt").write_text("x")
        self.file("bad.gpl").write_text("x")
        for name, words in (
            ("a.txt", "is no effect, mesh, palette or picture"),
            ("bad.gpl", "Nothing taken"),
        ):
            self.drop(self.file(name))
            self.assertIn(words, self.window.notice.words.text())
        self.assertIs(self.session.effect, before)

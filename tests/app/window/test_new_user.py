"""What a new user would do in the first hour, with real clicks and keys, saved, opened again and undone."""

from pathlib import Path
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from pale_ember.effect import load_effect
from pale_ember.effect.kinds import When
from pale_ember.simulation.time.population import HITS

from ..case import LEFT, WindowCase

CTRL, SHIFT, ALT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)


class NewUserTest(WindowCase):
    def tile(self, name):
        shelf = self.window.shelf
        QTest.mouseClick(shelf.tiles[[start.name for start in shelf.found].index(name)], LEFT)

    def from_library(self, name):
        QTest.keyClick(self.window, Qt.Key.Key_A, CTRL | SHIFT)
        view = self.on_top()
        row = [start.name for start in view.found].index(name)
        place = view.list.visualItemRect(view.list.item(row)).center()
        QTest.mouseClick(view.list.viewport(), LEFT, pos=place)
        QTest.keyClick(view.list, Qt.Key.Key_Return)
        self.wait(lambda: self.on_top() is self.window)

    def drag_handle(self, label, way):
        """Drag a handle of the stage by so many metres."""
        grip = self.window.stage.handle_drag
        handle = next(h for h in grip.handles() if h.label == label)
        places = [
            grip._pixels([handle._replace(place=at)])[0]
            for at in (handle.place, handle.place + np.array(way))
        ]
        self.drag(self.window.stage, places[0], places[1])

    def save_open_and_undo(self, layers):
        path = Path(self.folder.name) / "mine.ember"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            QTest.keyClick(self.window, Qt.Key.Key_S, CTRL)
        saved = load_effect(path)
        self.assertEqual(saved, self.session.effect)
        self.assertEqual([layer.name for layer in saved.layers], layers)
        while self.session.document.undo_name:
            self.window.actions_by_name["undo"].trigger()
        self.assertEqual(self.session.effect.layers, ())
        self.assertTrue(self.window.shelf.isVisible())
        self.window.files.load(path)
        self.assertEqual(self.session.effect, saved)

    def test_a_campfire_of_three_layers_that_share_a_birthplace(self):
        self.tile("Flame")
        self.from_library("Ember")
        self.from_library("Smoke")
        QTest.keyClick(self.window, Qt.Key.Key_A, CTRL)
        self.assertEqual(len(self.session.chosen), 3)
        self.row("birthplace.kind").controls[0].textActivated.emit("dome")
        self.set_field("birthplace.radius", "30 cm")
        self.drag_handle("Place x", (0.8, 0, 0))
        shapes = {
            (str(layer.birthplace.kind), layer.birthplace.radius) for layer in self.session.effect.layers
        }
        self.assertEqual(shapes, {("dome", 0.3)})
        xs = [layer.place.position[0] for layer in self.session.effect.layers]
        self.assertTrue(all(abs(x - 0.8) < 0.08 for x in xs), xs)
        QTest.keyClick(self.window, Qt.Key.Key_G, CTRL | SHIFT)
        self.wait(lambda: self.session.moment.alive > 30)
        self.save_open_and_undo(["Flame", "Ember", "Smoke"])

    def port_to_empty_space(self, when):
        rows = self.window.timeline.rows
        row = rows.places.row_of_layer(self.session.selected)
        self.drag(rows, rows.places.port_box(row, when).center(), QPointF(150, rows.height() - 6.0))

    def test_rain_that_splashes_in_a_crown_and_leaves_ripples(self):
        self.tile("Rain")
        self.session.seek(2.0)
        self.wait(lambda: (self.session.moment.each_second(self.session.selected, HITS) or 0.0) > 1000)
        rain = self.session.selected
        self.port_to_empty_space(When.HIT)
        self.row("birthplace.kind").controls[0].textActivated.emit("ring")
        self.set_field("birthplace.radius", "1.5 cm")
        self.row("birthplace.aim").controls[0].textActivated.emit("outward")
        self.set_field("launch.push", "0", "1.2", "0")
        crown = self.session.selected
        self.wait(lambda: self.session.moment.counts.get(crown, {}).get("alive", 0) > 200)
        self.assertEqual(self.session.moment.counts[crown]["refused"], 0)
        # All of them where a drop has hit the floor.
        drawn = next(layer for layer in self.session.moment.layers if layer.id == crown)
        self.assertLess(float(np.abs(drawn.instances["place"][:, 1]).max()), 1.5)
        self.session.select(rain)
        QTest.keyClick(self.window, Qt.Key.Key_3, ALT)
        self.assertEqual(self.session.layer.origin.parent, rain)
        self.save_open_and_undo([layer.name for layer in self.session.effect.layers])

    def test_sparks_that_glint_where_they_land_and_their_glints_go_with_a_copy(self):
        self.tile("Spark")
        self.port_to_empty_space(When.HIT)
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["Spark", "Spark glint"])
        self.assertTrue(self.session.effect.layers[0].contact.enabled)
        self.session.seek(1.2)
        glint = self.session.selected
        self.wait(lambda: self.session.moment.counts.get(glint, {}).get("born", 0) > 20)
        QTest.keyClick(self.window, Qt.Key.Key_A, CTRL)
        QTest.keyClick(self.window, Qt.Key.Key_D, CTRL)
        parents = [layer.origin.parent for layer in self.session.effect.layers]
        ids = [layer.id for layer in self.session.effect.layers]
        self.assertEqual(parents, ["", ids[0], "", ids[2]])
        self.save_open_and_undo([layer.name for layer in self.session.effect.layers])

    def test_six_jets_round_a_hull(self):
        self.tile("Plain layer")
        self.set_field("place.position", "1.5", "0.5", "0")
        self.set_field("place.rotation", "0", "0", "-90")
        self.set_field("launch.speed", "4", "6")
        QTest.keyClick(self.window, Qt.Key.Key_D, CTRL | ALT)
        self.wait(lambda: QApplication.activeModalWidget() is not None)
        dialog = QApplication.activeModalWidget()
        self.assertEqual(len(self.session.effect.layers), 6, "the copies are there before anything is typed")
        QTest.mouseClick(dialog.findChildren(type(dialog.count))[0], LEFT)
        dialog.accept()
        self.wait_for_moment()
        self.session.seek(1.5)
        self.wait_for_moment()
        # Each blows outward.
        for drawn in self.session.moment.layers:
            layer = self.session.effect.layer(drawn.id)
            out = np.array(layer.place.position) * (1, 0, 1)
            far = drawn.instances["place"] * np.array((1, 0, 1), np.float32)
            self.assertGreater(float((far @ (out / np.linalg.norm(out))).mean()), 1.6)
        self.save_open_and_undo(["Layer 1", *(f"Layer {i}" for i in range(2, 7))])

    def test_fog_at_two_places(self):
        self.tile("Mist")
        QTest.keyClick(self.window, Qt.Key.Key_D, CTRL)
        self.drag_handle("Place x", (2.0, 0, 0))
        a, b = (layer.place.position for layer in self.session.effect.layers)
        self.assertAlmostEqual(b[0] - a[0], 2.0, delta=0.15)
        row = self.window.timeline.rows
        QTest.mouseClick(row, LEFT, pos=row.places.bar_box(1).center().toPoint())
        self.assertEqual(self.session.selected, self.session.effect.layers[1].id)
        lane = self.window.strip.lanes["look.opacity"]
        keys = len(self.session.layer.look.opacity.keys)
        level = float(self.session.layer.look.opacity.bounds_at([0.5])[0][0])
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.5), lane.y_of(level)).toPoint())
        self.assertEqual(len(self.session.layer.look.opacity.keys), keys + 1)
        self.save_open_and_undo(["Mist", "Mist 2"])

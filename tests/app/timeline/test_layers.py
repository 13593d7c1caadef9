"""Layers in the timeline and by commands: alone, several at once, the clipboard, undo of deletions,
renaming, offsets.
"""

import itertools
import json
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from pale_ember.effect import effect_text, load_effect
from pale_ember.effect.values.values import Fixed

from ...building import effect_with
from ..case import LEFT
from .layers_case import CTRL, NONE, LayersCase


class LayersTest(LayersCase):
    # Alone

    def test_alone_on_a_layer_that_goes_shows_all_again(self):
        self.choose("b")
        self.act("alone")
        self.assertEqual([self.session.is_shown(x) for x in "abcd"], [False, True, False, False])
        self.act("delete")
        self.assertTrue(all(self.session.is_shown(x) for x in "acd"))
        self.act("add")
        fresh = self.session.selected
        self.act("alone")
        self.session.undo()
        self.assertNotIn(fresh, self.ids())
        self.assertTrue(all(self.session.is_shown(x) for x in self.ids()))

    def test_no_layer_is_born_unseen(self):
        self.choose("a")
        self.act("alone")
        self.act("add")
        self.assertTrue(self.session.is_shown(self.session.selected))
        self.assertFalse(self.session.is_shown("c"))

    # Chapters as a whole

    def test_each_chapter_is_copied_pasted_and_reset_whatever_it_holds(self):
        self.session.edit("layers[0].path", [{}, {"at": 1, "position": [1, 0, 0]}], "Path")
        self.session.edit("layers[0].place.scale", 2, "Scale")
        self.session.edit("layers[0].look.order", 4, "Order")
        self.session.edit("layers[0].group", "Fire", "Group")
        for chapter, parts in (
            ("1", ("emit", "window")),
            ("2", ("birthplace", "place", "path")),
            ("3", ("launch",)),
            ("4", ("flight",)),
            ("5", ("look", "group", "enabled")),
        ):
            self.choose("a")
            self.act(f"chapter_{chapter}")
            self.act("copy_chapter")
            json.loads(QApplication.clipboard().text())
            self.choose("d")
            self.act("paste_chapter")
            for part in parts:
                self.assertEqual(getattr(self.layer(3), part), getattr(self.layer(0), part), part)
            steps = self.session.document.index
            self.act("reset_chapter")
            plain = type(self.layer(3))(id="x")
            for part in parts:
                self.assertEqual(getattr(self.layer(3), part), getattr(plain, part), part)
            self.assertLessEqual(self.session.document.index, steps + 1)

    # The clipboard

    def test_layers_are_copied_cut_and_pasted_as_the_files_own_json(self):
        self.choose("a", "c")
        self.rows.setFocus()
        QTest.keyClick(self.rows, Qt.Key.Key_C, CTRL)
        text = QApplication.clipboard().text()
        self.assertEqual([one["id"] for one in json.loads(text)["layers"]], ["a", "c"])
        self.assertIn('"rate": 10', text)
        QTest.keyClick(self.rows, Qt.Key.Key_V, CTRL)
        self.assertEqual(
            [layer.name for layer in self.session.effect.layers], ["a", "b", "c", "a 2", "c 2", "d"]
        )
        self.assertEqual(len(set(self.ids())), 6)
        self.assertEqual(self.session.effect.layers[3].emit, self.session.effect.layers[0].emit)
        QTest.keyClick(self.rows, Qt.Key.Key_X, CTRL)
        self.assertEqual(self.ids(), ["a", "b", "c", "d"])
        other = self.open_window(effect_with({"z": {}}))
        other.actions_by_name["paste"].trigger()
        self.assertEqual([layer.name for layer in other.session.effect.layers], ["z", "a 2", "c 2"])
        other.shut()
        other.hide()
        # A whole file's text gives its layers; what is broken is said.
        QApplication.clipboard().setText(effect_text(effect_with({"y": {"emit.rate": 3}})))
        self.act("paste")
        self.assertIn("y", [layer.name for layer in self.session.effect.layers])
        before, said = self.session.effect, []
        self.session.said.connect(said.append)
        for text in (
            '{"format": "pale-ember/layers", "layers": [{"emit": {"rat": 1}}]}',
            "hello",
            '{"format": "pale-ember/keys"}',
        ):
            QApplication.clipboard().setText(text)
            self.act("paste")
            self.assertIs(self.session.effect, before)
        self.assertEqual(len(said), 3)
        self.assertIn("rat", said[0])

    def test_delete_deletes_layers_only_where_they_have_the_focus(self):
        self.choose("b")
        self.window.stage.setFocus()
        QTest.keyClick(self.window.stage, Qt.Key.Key_Delete)
        self.assertEqual(len(self.ids()), 4)
        self.rows.setFocus()
        QTest.keyClick(self.rows, Qt.Key.Key_Delete)
        self.assertEqual(self.ids(), ["a", "c", "d"])

    def test_keys_are_copied_into_another_lane_and_another_layer(self):
        strip = self.window.strip
        self.session.edit("layers[0].look.opacity", {"curve": [[0, 0], [0.2, 0.8], [1, 0]]}, "Curve")
        lane = strip.lanes["look.opacity"]
        lane.setFocus()
        strip.selection.take_all(lane.all_keys())
        QTest.keyClick(lane, Qt.Key.Key_C, CTRL)
        rows = json.loads(QApplication.clipboard().text())["lines"]
        self.assertEqual(rows[0]["path"], "look.opacity")
        self.choose("b")
        self.session.edit("layers[1].look.grow", {"curve": [[0, 1], [0.5, 2], [1, 3]]}, "Curve")
        lane = strip.lanes["look.grow"]
        lane.setFocus()
        QTest.keyClick(lane, Qt.Key.Key_V, CTRL)
        keys = self.layer(1).look.grow.keys
        self.assertEqual([(key.x, key.y) for key in keys], [(0, 0), (0.2, 0.8), (0.5, 2), (1, 0)])
        self.assertEqual(len(strip.selection.held), 3)
        QTest.keyClick(lane, Qt.Key.Key_X, CTRL)
        self.assertEqual([(key.x, key.y) for key in self.layer(1).look.grow.keys], [(0.5, 2)])

    def test_a_field_or_a_lane_is_copied_by_the_same_keys(self):
        row = self.row("emit.rate")
        row.controls[1].setFocus()
        QTest.keyClick(row.controls[1], Qt.Key.Key_C, CTRL)
        self.choose("d")
        row = self.row("emit.rate")
        row.controls[1].setFocus()
        QTest.keyClick(row.controls[1], Qt.Key.Key_V, CTRL)
        self.assertEqual(self.layer(3).emit.rate, Fixed(10))
        lane = self.window.strip.lanes["look.opacity"]
        self.session.edit("layers[3].look.opacity", 0.4, "Opacity")
        lane = self.window.strip.lanes["look.opacity"]
        lane.setFocus()
        QTest.keyClick(lane, Qt.Key.Key_C, CTRL)
        self.choose("c")
        lane = self.window.strip.lanes["look.opacity"]
        lane.setFocus()
        QTest.keyClick(lane, Qt.Key.Key_V, CTRL)
        self.assertEqual(self.layer(2).look.opacity, Fixed(0.4))

    # Undo, renaming, seeking

    def test_undo_of_a_deletion_selects_what_was_selected(self):
        self.choose("b", "c")
        self.act("delete")
        self.assertEqual(self.ids(), ["a", "d"])
        self.act("undo")
        self.assertEqual(self.session.chosen, ["b", "c"])
        self.act("redo")
        self.assertEqual(self.ids(), ["a", "d"])

    def test_escape_leaves_a_name_and_a_drag_as_they_were(self):
        line = self.row("name").controls[0]
        line.setFocus()
        QTest.keyClicks(line, "Other")
        QTest.keyClick(line, Qt.Key.Key_Escape)
        self.assertEqual((self.session.layer.name, line.text()), ("a", "a"))
        self.rows.rename(0)
        editor = self.rows.findChild(QLineEdit)
        QTest.keyClicks(editor, "Sparks")
        QTest.keyClick(editor, Qt.Key.Key_Escape)
        self.assertEqual(self.layer(0).name, "a")
        self.assertIsNone(self.rows.editor)
        # Nothing is no name.
        said = []
        self.session.said.connect(said.append)
        self.rows.rename(0)
        editor = self.rows.editor
        editor.clear()
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.assertEqual((self.layer(0).name, said), ("a", []))
        before, steps = self.session.effect, len(self.session.document.history)
        bar = self.places.bar_box(0).center().toPoint()
        QTest.mousePress(self.rows, LEFT, NONE, bar)
        for x in (10, 30, 50):
            QTest.mouseMove(self.rows, bar + QPointF(x, 0).toPoint())
        self.assertIsNot(self.session.effect, before)
        QTest.keyClick(self.window.stage, Qt.Key.Key_Escape)
        self.assertIs(self.session.effect, before)
        QTest.mouseRelease(self.rows, LEFT, NONE, bar)
        self.assertEqual(len(self.session.document.history), steps)
        lane = self.window.strip.lanes["look.opacity"]
        self.session.edit("layers[0].look.opacity", {"curve": [[0, 0], [0.5, 1], [1, 0]]}, "Curve")
        before = self.session.effect
        key = lane.place_of((lane.path, 0, 1)).toPoint()
        QTest.mousePress(lane, LEFT, NONE, key)
        for x in (10, 30, 50):
            QTest.mouseMove(lane, key + QPointF(x, 5).toPoint())
        self.assertIsNot(self.session.effect, before)
        QTest.keyClick(lane, Qt.Key.Key_Escape)
        self.assertIs(self.session.effect, before)
        QTest.mouseMove(lane, key + QPointF(70, 5).toPoint())
        QTest.mouseRelease(lane, LEFT, NONE, key)
        self.assertIs(self.session.effect, before)
        self.assertFalse(self.session.hasty)

    def test_a_layer_that_is_deleted_while_it_is_renamed_is_gone_without_a_word(self):
        self.rows.rename(1)
        editor = self.rows.findChild(QLineEdit)
        QTest.keyClicks(editor, "Sparks")
        self.session.select("b")
        self.session.layers.remove()
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.assertEqual(self.ids(), ["a", "c", "d"])

    def test_a_click_on_a_lanes_body_or_bar_seeks(self):
        self.session.play(False)
        for time in (0.5, 2.5):
            at = QPointF(self.places.x_of(time), self.places.bar_box(0).center().y()).toPoint()
            QTest.mouseClick(self.rows, LEFT, pos=at)
            self.assertAlmostEqual(self.session.time, time, delta=0.03)

    def test_an_effect_without_a_loop_ends_and_begins_again_only_when_played(self):
        for i in range(4):
            self.session.edit(f"layers[{i}].launch.lifetime", 0.1, "Short")
        self.session.edit("duration", 0.3, "Short")
        self.session.edit("loop", False, "Once")
        self.session.seek(0.0)
        self.session.play(True)
        self.wait(lambda: not self.session.playing)
        self.assertGreater(self.session.time, 0.3)
        stood = self.session.time
        QTest.qWait(300)
        self.assertEqual(self.session.time, stood)
        self.act("play")
        self.assertTrue(self.session.playing)
        self.assertLess(self.session.time, 0.3)

    def test_path_keys_added_while_playing_stand_apart(self):
        self.choose("a")
        self.session.play(True)
        for _ in range(5):
            self.act("path_key")
            QTest.qWait(15)
        ats = [key.at for key in self.layer(0).path]
        self.assertEqual(len(ats), 5)
        self.assertTrue(all(b - a > 0.03 for a, b in itertools.pairwise(ats)), ats)
        self.assertFalse(
            self.session.playing, "time stands still, so that the key can be put where it belongs"
        )

    def test_more_layers_than_there_may_be_are_refused_in_a_sentence(self):
        said = []
        self.session.said.connect(said.append)
        self.session.edit("layers", [{"id": f"l{i}", "emit": {"rate": 0}} for i in range(256)], "Many")
        before = self.session.effect
        for name in ("add", "duplicate"):
            self.act(name)
        self.session.layers.add_many(before.layers[:2], "Paste")
        self.assertIs(self.session.effect, before)
        self.assertEqual(len(said), 3)
        self.assertIn("256", said[0])

    def test_a_field_on_the_clipboard_is_pasted_into_the_field_with_the_focus_not_into_its_text(self):
        self.row("emit.rate").copy()
        self.choose("d")
        box = self.row("emit.rate").controls[0]
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_V, CTRL)
        self.assertEqual(self.layer(3).emit.rate, Fixed(10))
        QApplication.clipboard().setText("33")
        box = self.row("emit.rate").controls[0]
        box.setFocus()
        box.selectAll()
        QTest.keyClick(box, Qt.Key.Key_V, CTRL)
        QTest.keyClick(box, Qt.Key.Key_Return)
        self.assertEqual(self.layer(3).emit.rate, Fixed(33))

    # Enabled, refused births, offsets

    def test_the_eye_is_saved_and_undone(self):
        QTest.mouseClick(self.rows, LEFT, pos=self.places.switch_box(2, "eye").center().toPoint())
        path = f"{self.folder.name}/x.ember"
        self.window.files._write(Path(path))
        self.assertEqual([layer.enabled for layer in load_effect(path).layers], [True, True, False, True])
        self.session.undo()
        self.assertTrue(self.layer(2).enabled)

    def test_refused_births_are_said_on_the_lane_and_beside_cap_with_a_mend(self):
        self.choose("d")
        self.session.edit("layers[3].emit", {"rate": 500, "cap": 50}, "Many")
        self.wait(lambda: self.session.moment.counts.get("d", {}).get("refused", 0) > 0)
        row = self.row("emit.cap")
        self.wait(lambda: row.problem is not None and row.problem.isVisible())
        self.assertIn("births are refused", row.problem.text().lower())
        painted = []
        with mock.patch("PyQt6.QtGui.QPainter.drawText", lambda painter, *args: painted.append(args[-1])):
            self.rows.repaint()
        self.assertTrue(any("refused" in str(text) for text in painted))
        row.problem.linkActivated.emit("mend")
        cap = self.layer(3).emit.cap
        self.session.seek(0.0)
        self.session.play(True)
        self.wait(lambda: self.session.time > 3.0)
        self.wait_for_moment()
        self.assertEqual(self.session.moment.counts["d"]["refused"], 0)
        self.assertLess(cap, 1200)

    def test_duplicates_with_an_offset_stand_in_a_ring(self):
        self.choose("d")
        self.session.edit("layers[3].place.position", [2, 0, 0], "Place")
        steps = len(self.session.document.history)
        dialog = self.window.open_offset()
        self.type_into(dialog.count, "5")
        self.type_into(dialog.turn_boxes[1], "60")
        self.assertEqual(len(self.ids()), 9)
        dialog.accept()
        places = [layer.place for layer in self.session.effect.layers[3:]]
        for place in places:
            x, y, z = place.position
            self.assertAlmostEqual((x * x + z * z) ** 0.5, 2, places=4)
            self.assertAlmostEqual(y, 0, places=5)
        self.assertAlmostEqual(places[3].position[0], -2, places=4)
        self.assertEqual(len(self.session.document.history), steps + 1)
        self.session.undo()
        dialog = self.window.open_offset()
        dialog.axes.setCurrentIndex(1)
        self.type_into(dialog.move_boxes[0], "1")
        dialog.reject()
        self.assertEqual((len(self.ids()), len(self.session.document.history)), (4, steps))
        self.assertEqual(self.session.chosen, ["d"])
        # One after the other, as long as there is time for them.
        self.session.edit("layers[3].window.begin", 0.5, "Begin")
        dialog = self.window.open_offset()
        self.type_into(dialog.count, "3")
        self.type_into(dialog.later, "0.25")
        self.assertNotIn("over", dialog.words.text())
        self.assertEqual(
            [layer.window.begin for layer in self.session.effect.layers[3:]], [0.5, 0.75, 1.0, 1.25]
        )
        self.type_into(dialog.later, "-0.4")
        self.assertEqual(
            [layer.window.begin for layer in self.session.effect.layers[3:]], [0.5, 0.1, 0.0, 0.0]
        )
        self.type_into(dialog.later, "60")
        self.assertIn("3 of them would begin after", dialog.words.text())
        dialog.reject()
        self.assertEqual(len(self.ids()), 4)

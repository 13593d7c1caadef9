import json
import random
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QPushButton, QToolButton, QWidget

from pale_ember.app.window.command_rows import COMMANDS
from pale_ember.app.window.launch import window_picture
from pale_ember.demo import kiln_mouth
from pale_ember.drawing import moment_of
from pale_ember.drawing.environment import environment_of
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect import effect_text, load_effect, save_effect
from pale_ember.effect.values.values import Curve, Fixed, Spread
from pale_ember.files.textures import textures_of
from pale_ember.simulation import Simulation

from ..case import LEFT, WindowCase

CTRL = Qt.KeyboardModifier.ControlModifier


class BlankTest(WindowCase):
    def test_from_blank_to_a_file_and_back(self):
        window, session = self.window, self.session
        self.assertEqual(session.effect.layers, ())
        add = next(
            b for b in window.findChildren(QToolButton) if b.defaultAction() is window.actions_by_name["add"]
        )
        QTest.mouseClick(add, LEFT)
        self.wait(lambda: session.moment.alive > 3)
        self.set_field("emit.rate", "30*2")
        self.set_field("launch.lifetime", "0.5", "1/2+0.4")
        self.set_field("launch.size", ".2", ".4")
        QTest.keyClick(window, Qt.Key.Key_5)
        row = self.row("look.blend")
        QTest.keyClick(row.controls[0], Qt.Key.Key_Down)
        row.controls[0].textActivated.emit("add")
        lane = window.strip.lanes["look.opacity"]
        level = float(session.layer.look.opacity.bounds_at([0.6])[0][0])
        QTest.mouseClick(lane, LEFT, pos=QPointF(lane.x_of(0.6), lane.y_of(level)).toPoint())
        self.drag(lane, QPointF(lane.x_of(0.2), lane.y_of(0.8)), QPointF(lane.x_of(0.2), lane.y_of(0.5)))
        opacity = session.layer.look.opacity
        self.assertIsInstance(opacity, Curve)
        self.assertEqual([round(k.x, 1) for k in opacity.keys], [0, 0.2, 0.6, 1])
        self.assertAlmostEqual(opacity.keys[1].y, 0.5, delta=0.02)
        QTest.keyClick(window, Qt.Key.Key_D, CTRL)
        QTest.keyClick(window, Qt.Key.Key_L, CTRL)
        self.assertEqual([layer.name for layer in session.effect.layers], ["Layer 1", "Layer 2", "Layer 3"])
        self.assertEqual(session.effect.layers[0].emit.rate, Fixed(60.0))
        self.assertEqual(session.effect.layers[0].launch.lifetime, Spread(0.5, 0.9))
        self.assertTrue(session.document.dirty)
        path = Path(self.folder.name) / "mine.ember"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path.with_suffix("")), "")):
            QTest.keyClick(window, Qt.Key.Key_S, CTRL)
        self.assertFalse(session.document.dirty)
        self.assertEqual(load_effect(path), session.effect)
        saved = session.effect
        QTest.keyClick(window, Qt.Key.Key_N, CTRL)
        self.assertEqual(session.effect.layers, ())
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            QTest.keyClick(window, Qt.Key.Key_O, CTRL)
        self.assertEqual(session.effect, saved)
        self.assertEqual(window.windowTitle(), "mine · Pale Ember")
        self.assertEqual(window.files.recent()[0], str(path))

    def test_unsaved_changes_are_guarded(self):
        self.window.actions_by_name["add"].trigger()
        self.answer("Cancel")
        self.window.actions_by_name["new"].trigger()
        self.assertEqual(len(self.session.effect.layers), 1)
        self.answer("Don't save")
        self.window.actions_by_name["new"].trigger()
        self.assertEqual(len(self.session.effect.layers), 0)

    def test_a_wrong_file_is_said_and_changes_nothing(self):
        self.window.actions_by_name["add"].trigger()
        before = self.session.effect
        path = Path(self.folder.name) / "bad.ember"
        path.write_text(
            '{"format": "pale-ember/effect", "version": 1, "layers": [{"id": "a", "emit": {"rat": 2}}]}'
        )
        self.assertFalse(self.window.files.load(path))
        self.assertIs(self.session.effect, before)
        self.assertTrue(self.window.notice.isVisible())
        self.assertIn("layers[0].emit.rat", self.window.notice.words.text())

    def test_a_dropped_file_opens(self):
        path = Path(self.folder.name) / "k.ember"
        save_effect(kiln_mouth(), path)
        self.drop(path)
        self.assertEqual(self.session.effect.name, "Kiln mouth")


class DemoTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def test_each_command_has_a_key_and_a_tooltip_and_works(self):
        keys = [key for command in COMMANDS for key in command.key.split()]
        self.assertEqual(len(keys), len(set(keys)))
        for command in COMMANDS:
            action = self.window.actions_by_name[command.name]
            self.assertEqual(command.key.split(), [k.toString() for k in action.shortcuts()])
            self.assertGreater(len(action.toolTip()), len(command.key) + 3)
        with (
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", "")),
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")),
            mock.patch.object(QFileDialog, "getExistingDirectory", return_value=""),
            mock.patch.object(QInputDialog, "getText", return_value=("Fire", True)),
        ):
            for command in COMMANDS:
                if command.name not in (
                    "quit",
                    "new",
                    "open",
                    "keep_layer",
                    "delete",
                    "cut",
                ) and not command.name.startswith("demo"):
                    self.window.actions_by_name[command.name].trigger()
                    QApplication.processEvents()
                    if command.name in ("find", "library", "offset", "preferences", "compression"):
                        self.on_top().reject()
        self.assertIsNotNone(self.session.layer)

    def test_all_buttons_and_fields_say_what_they_do(self):
        for chapter in range(6):
            self.window.recipe.show_chapter(chapter)
            for widget in self.window.findChildren(QWidget):
                if (
                    isinstance(widget, QToolButton | QPushButton)
                    and widget.isVisible()
                    and widget.isEnabled()
                ):
                    own = widget.objectName().startswith("qt_")
                    self.assertTrue(
                        own or widget.toolTip(), (widget, widget.parent(), widget.accessibleName())
                    )

    def test_undo_to_the_start_and_redo_to_the_end_after_random_edits(self):
        rng = random.Random(21)
        self.session.play(False)
        # What the stage draws is not what is asked here, and without a GPU it takes most of the time.
        self.window.stage.setUpdatesEnabled(False)
        document = self.session.document
        # One thing done may be several steps; what it came to is remembered at its last one.
        effects = {0: self.session.effect}
        for _ in range(500):
            self.random_edit(rng)
            document.end_merge()
            effects[document.index] = self.session.effect
        last, text = document.index, effect_text(self.session.effect)
        self.assertGreater(len(effects), 350)
        while document.undo_name:
            self.window.actions_by_name["undo"].trigger()
            self.assertEqual(self.session.effect, effects.get(document.index, self.session.effect))
        self.assertFalse(document.dirty)
        self.assertEqual(effect_text(self.session.effect), effect_text(kiln_mouth()))
        while document.redo_name:
            self.window.actions_by_name["redo"].trigger()
        self.assertEqual((document.index, effect_text(self.session.effect)), (last, text))
        QApplication.processEvents()

    def random_edit(self, rng: random.Random) -> None:
        window, session = self.window, self.session
        if not session.effect.layers:
            window.actions_by_name["add"].trigger()
            return
        what = rng.random()
        if what < 0.18:
            name = rng.choice(
                ["add", "duplicate", "delete", "up", "down", "burst", "loop", "backdrop", "keep_view"]
            )
            if name in ("add", "duplicate") and len(session.effect.layers) > 7:
                name = "delete"
            window.actions_by_name[name].trigger()
        elif what < 0.6:
            page = rng.choice(list(window.recipe.chapters.values()))
            window.recipe.show_chapter(list(window.recipe.chapters.values()).index(page))
            rows = [row for row in page.rows.values() if row.isVisibleTo(page)]
            if not rows:
                return  # all of the chapter is at rest
            row = rng.choice(rows)
            boxes = [part for part in row.controls if hasattr(part, "edited")]
            if boxes and row.rule.label not in ("Cap", "Duration", "Warm-up"):
                box = rng.choice(boxes)
                box.setFocus()
                QTest.keyClick(box, rng.choice([Qt.Key.Key_Up, Qt.Key.Key_Down]))
                box.clearFocus()
            elif row.rule.kind == "color_value":
                row.parts._to_form(rng.choice(["fixed", "spread", "curve", "band"]), "")
        elif what < 0.75:
            rows = [
                r
                for p in ("Launch", "Flight", "Look")
                for r in window.recipe.chapters[p].rows.values()
                if r.rule.kind == "value"
            ]
            rng.choice(rows).parts._to_form(rng.choice(["fixed", "spread", "curve", "band"]), "")
        elif window.strip.lanes:
            lane = rng.choice(list(window.strip.lanes.values()))
            lane.add_at(rng.random())
            if rng.random() < 0.5:
                window.strip.selection.nudge(rng.uniform(-0.2, 0.2), rng.uniform(-0.3, 0.3))
            elif rng.random() < 0.3:
                window.strip.selection.delete()
        if rng.random() < 0.3 and session.effect.layers:
            session.select(rng.choice(session.effect.layers).id)

    def test_the_stage_shows_what_render_draws(self):
        window, session = self.window, self.session
        session.play(False)
        session.seek(1.0)
        self.wait_for_moment()
        self.assertTrue(session.textures.wait())
        QTest.qWait(150)
        window.stage.repaint()
        QTest.qWait(50)
        image = window.stage.picture()
        size = (image.width(), image.height())
        image = image.convertToFormat(image.Format.Format_RGB888)
        data = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8)
        shown = (
            data.reshape(size[1], image.bytesPerLine())[:, : size[0] * 3]
            .reshape(size[1], size[0], 3)
            .astype(int)
        )
        effect = kiln_mouth()
        sim = Simulation(effect)
        sim.seek(1.0)
        with OffscreenRenderer() as studio:
            textures, wrong = textures_of(effect, lambda path: False)
            self.assertEqual(wrong, [])
            moment = moment_of(sim, textures=textures)
            drawn = np.asarray(
                studio.picture(moment, size, effect.stage.camera, environment_of(effect.stage))
            ).astype(int)
        self.assertLessEqual(np.abs(shown - drawn).max(), 2)
        self.assertGreater(drawn.max(), 200)
        picture = window_picture(window)
        self.assertEqual((picture.width(), picture.height()), (1280, 800))

    def test_layout_floats_and_is_restored(self):
        dock = self.window.panels.docks["recipe"]
        before = dock.geometry()
        dock.setFloating(True)
        QApplication.processEvents()
        self.assertTrue(dock.isWindow())
        QTest.keyClick(self.window, Qt.Key.Key_L, CTRL | Qt.KeyboardModifier.ShiftModifier)
        QApplication.processEvents()
        self.assertFalse(dock.isFloating())
        self.assertAlmostEqual(dock.geometry().width(), before.width(), delta=12)

    def test_the_finder_goes_to_fields_layers_and_commands(self):
        session = self.session
        finder = self.window.open_finder()
        QTest.keyClicks(finder.line, "turbul")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        self.assertEqual(self.window.recipe.buttons.checkedId(), 3)
        finder = self.window.open_finder()
        QTest.keyClicks(finder.line, "pale")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        self.assertEqual(session.layer.name, "Pale embers")
        finder = self.window.open_finder()
        QTest.keyClicks(finder.line, "floor grid")
        QTest.keyClick(finder.line, Qt.Key.Key_Return)
        self.assertFalse(self.window.stage.show_grid)

    def test_edits_while_paused_show_at_that_moment(self):
        session = self.session
        session.play(False)
        session.seek(2.4)
        self.wait_for_moment()
        before = session.moment
        session.edit(session.layer_path("launch.size"), 2.9, "Change size")
        self.wait_for_moment()
        self.assertEqual(session.moment.time, before.time)
        a, b = before.layers[0].instances, session.moment.layers[0].instances
        np.testing.assert_array_equal(a["place"], b["place"])
        self.assertGreater(b["size"].mean(), 1.5 * a["size"].mean())

    def test_the_saved_file_is_the_effect(self):
        path = Path(self.folder.name) / "k.ember"
        self.session.document.path = path
        self.session.edit("name", "Other", "Rename")
        self.window.actions_by_name["save"].trigger()
        self.assertEqual(json.loads(path.read_text())["name"], "Other")


if __name__ == "__main__":
    unittest.main()

"""Panels that fold, widen and go away; the empty effect; preferences; the stage alone."""

from unittest import mock

from PyQt6.QtCore import QLocale, QPoint, QSettings, Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.widgets.arithmetic import shown
from pale_ember.app.window.command_rows import COMMANDS
from pale_ember.app.window.preferences import Preferences, scale_factor
from pale_ember.demo import kiln_mouth
from pale_ember.effect import save_effect

from ..case import LEFT, WindowCase


class EmptyTest(WindowCase):
    def visible(self):
        return {name for name, dock in self.window.panels.docks.items() if dock.isVisible()}

    def test_an_empty_effect_shows_the_shelf_and_one_click_makes_it_burn(self):
        shelf = self.window.shelf
        self.assertEqual(self.visible(), set())
        self.assertTrue(shelf.isVisible())
        self.assertEqual(shelf.geometry(), self.window.stage.rect())
        names = [tile.text() for tile in shelf.tiles]
        self.assertEqual(names[-1], "Plain layer")
        flame = next(i for i, start in enumerate(shelf.found) if start.name == "Flame")
        self.wait(lambda: len(shelf.moving.pictures_of(shelf.found[flame])) > 3, 90)
        QTest.mouseClick(shelf.tiles[flame], LEFT)
        self.assertEqual([layer.name for layer in self.session.effect.layers], ["Flame"])
        self.assertEqual(self.visible(), {"recipe", "timeline", "strip"})
        self.assertFalse(shelf.isVisible())
        self.wait(lambda: self.session.moment.alive > 3)
        QTest.keyClick(self.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(shelf.isVisible())
        self.assertEqual(self.visible(), set())

    def test_the_effects_own_fields_can_be_asked_for_all_the_same(self):
        QTest.keyClick(self.window, Qt.Key.Key_6)
        self.assertEqual(self.visible(), {"recipe"})
        QApplication.processEvents()
        self.assertEqual(
            self.window.shelf.geometry(), self.window.stage.rect(), "the shelf keeps to the stage"
        )
        self.set_field("duration", "7")
        self.assertEqual(self.visible(), {"recipe"}, "an edit doesn't send it away")
        notes = self.row("notes").controls[0]
        notes.setFocus()
        QTest.keyClicks(notes, "half typed")
        self.answer("Cancel")
        self.window.close()
        self.assertTrue(self.window.isVisible())
        self.assertEqual(self.session.effect.notes, "half typed")

    def test_recent_files_and_demos_are_a_click_away(self):
        path = f"{self.folder.name}/kiln.ember"
        save_effect(kiln_mouth(), path)
        self.window.files.settings.setValue("recent", [path, "/nowhere/x.ember"])
        self.window.files.new()
        shelf = self.window.shelf
        shelf.show_recent(self.window.files.recent())
        buttons = [b for b in shelf.findChildren(type(shelf.demos.itemAt(0).widget())) if b.toolTip() == path]
        self.assertEqual(len(buttons), 1)
        QTest.mouseClick(buttons[0], LEFT)
        self.assertEqual(self.session.effect.name, "Kiln mouth")
        self.window.files.new()
        QTest.mouseClick(shelf.demos.itemAt(2).widget(), LEFT)
        self.assertEqual(self.session.effect.name, "Quench")


class PanelsTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def setUp(self):
        super().setUp()
        self.panels = self.window.panels

    def test_a_panel_beside_an_open_one_folds_upright_and_both_folded_lie(self):
        panels = self.window.panels

        def states():
            QApplication.processEvents()
            return {name: (bar.folded, bar.upright) for name, bar in panels.bars.items() if name != "recipe"}

        open_one, lies, stands = (False, False), (True, False), (True, True)
        self.assertEqual(states(), {"timeline": open_one, "strip": open_one})
        panels.toggle_fold("timeline")
        self.assertEqual(states(), {"timeline": stands, "strip": open_one})
        panels.toggle_fold("strip")
        self.assertEqual(states(), {"timeline": lies, "strip": lies})
        panels.toggle_fold("timeline")
        self.assertEqual(states(), {"timeline": open_one, "strip": stands})
        panels.toggle_fold("recipe")
        bar = panels.bars["recipe"]
        self.assertEqual((bar.folded, bar.upright, self.window.recipe.isVisible()), (True, True, False))
        panels.show("recipe")
        self.assertTrue(self.window.recipe.isVisible())

    def test_one_key_leaves_the_stage_alone_and_brings_all_back(self):
        before = self.window.stage.size()
        QTest.keyClick(self.window, Qt.Key.Key_T)
        QApplication.processEvents()
        self.assertEqual(self.window.stage.width(), self.window.width())
        self.assertGreater(self.window.stage.height(), self.window.height() - 40)
        self.assertTrue(self.window.slim_bar.isVisible())
        self.assertIn("s", self.window.slim_bar.time.text())
        QTest.keyClick(self.window, Qt.Key.Key_Escape)
        self.wait(lambda: self.window.stage.size() == before)
        self.assertTrue(self.window.top_bar.isVisible())

    def test_whatever_ends_the_stage_alone_brings_the_top_bar_back(self):
        for end in ("chapter_3", "field", "layout", "stage_alone"):
            self.window.actions_by_name["stage_alone"].trigger()
            self.assertTrue(self.window.slim_bar.isVisible() and not self.window.top_bar.isVisible(), end)
            self.window.actions_by_name[end].trigger()
            self.assertTrue(self.window.top_bar.isVisible() and not self.window.slim_bar.isVisible(), end)
            self.assertTrue(self.window.recipe.isVisible(), end)

    def test_an_edit_looks_at_no_file_and_no_setting(self):
        with mock.patch.object(
            type(self.window.files), "recent", side_effect=AssertionError("read for an edit")
        ):
            self.session.edit("layers[0].launch.size", 0.4, "Size")
        self.assertEqual(self.session.layer.launch.size.number, 0.4)

    def test_panels_fold_to_their_titles_and_give_the_room_to_others(self):
        strip, high = self.window.strip.width(), self.window.strip.height()
        bar = self.panels.bars["timeline"]
        QTest.mouseClick(bar, LEFT, pos=QPoint(10, 13))
        QApplication.processEvents()
        self.assertFalse(self.window.timeline.isVisible())
        self.assertEqual(self.panels.docks["timeline"].width(), 26)
        QTest.qWait(60)
        self.assertGreater(self.window.strip.width(), strip + 200)
        self.assertAlmostEqual(self.window.strip.height(), high, delta=8)
        stage = self.window.stage.height()
        self.window.actions_by_name["fold_strip"].trigger()
        QApplication.processEvents()
        self.assertGreater(self.window.stage.height(), stage + 250)
        wide = self.window.stage.width()
        self.window.actions_by_name["fold_recipe"].trigger()
        QApplication.processEvents()
        self.assertGreater(self.window.stage.width(), wide + 250)
        for name in ("fold_timeline", "fold_strip", "fold_recipe"):
            self.window.actions_by_name[name].trigger()
        QApplication.processEvents()
        self.assertTrue(all(widget.isVisible() for widget in self.panels.widgets.values()))

    def test_the_timeline_takes_the_whole_width_as_the_strip_does(self):
        narrow = self.window.timeline.width()
        self.window.actions_by_name["wide_time"].trigger()
        QApplication.processEvents()
        self.assertGreater(self.window.timeline.width(), narrow + 300)
        self.assertFalse(self.window.strip.isVisible())
        self.window.actions_by_name["wide"].trigger()
        QApplication.processEvents()
        self.assertTrue(self.window.strip.isVisible())
        self.assertFalse(self.window.timeline.isVisible())
        # What is asked for comes into view, whatever keeps it away.
        self.window.recipe.wishes.lane.emit("layers[0].look.opacity")
        self.window.actions_by_name["layout"].trigger()
        QApplication.processEvents()
        self.assertTrue(self.window.timeline.isVisible() and self.window.strip.isVisible())

    def test_the_arrangement_is_kept_for_the_next_time(self):
        settings = QSettings(f"{self.folder.name}/s.ini", QSettings.Format.IniFormat)
        self.panels.toggle_fold("timeline")
        self.panels.keep(settings)
        other = self.open_window(kiln_mouth())
        other.panels.restore(settings)
        self.assertEqual(other.panels.folded, {"timeline"})
        self.assertFalse(other.timeline.isVisible())
        for broken in (7, "x", ["recipe", "none"], None):
            settings.setValue("folded", broken)
            settings.setValue("full width", broken)
            settings.setValue("layout", broken)
            other.panels.restore(settings)
        other.shut()
        other.hide()


class PreferencesTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def setUp(self):
        super().setUp()
        self.settings = QSettings(f"{self.folder.name}/p.ini", QSettings.Format.IniFormat)
        self.window.preferences = Preferences(self.settings)
        self.dialog = self.window.open_preferences()
        self.addCleanup(QLocale.setDefault, QLocale.c())

    def choose(self, name):
        tree = self.dialog.tree
        for i in range(tree.topLevelItemCount()):
            if tree.topLevelItem(i).data(0, Qt.ItemDataRole.UserRole) == name:
                tree.setCurrentItem(tree.topLevelItem(i))

    def test_keys_are_changed_clashes_told_and_usual_ones_given_back(self):
        self.choose("backdrop")
        self.dialog.edit.setKeySequence(QKeySequence("G"))
        self.dialog.edit.editingFinished.emit()
        self.assertIn("that of “Floor grid”, which has none now", self.dialog.problem.text())
        # Of two keys the other stays.
        self.choose("figure")
        self.dialog.edit.setKeySequence(QKeySequence("Ctrl+Del"))
        self.dialog.edit.editingFinished.emit()
        self.assertIn("which has Ctrl+Backspace now", self.dialog.problem.text())
        self.dialog.accept()
        grid, backdrop = self.window.stage.show_grid, self.session.effect.stage.backdrop
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window, 2000)
        QTest.keyClick(self.window, Qt.Key.Key_G)
        self.assertEqual(self.window.stage.show_grid, grid)
        self.assertNotEqual(self.session.effect.stage.backdrop, backdrop)
        self.assertIn("(G)", self.window.actions_by_name["backdrop"].toolTip())
        self.dialog = self.window.open_preferences()
        for name in ("grid", "backdrop", "figure", "delete"):
            self.choose(name)
            self.dialog.usual.click()
        self.dialog.accept()
        for command in COMMANDS:
            keys = [k.toString() for k in self.window.actions_by_name[command.name].shortcuts()]
            self.assertEqual(keys, command.key.split())

    def test_undo_steps_autosave_and_decimals_count_at_once(self):
        self.type_into(self.dialog.undo, "12")
        self.type_into(self.dialog.autosave, "90 s")
        for i in range(40):
            self.session.edit("duration", 2.0 + i, "Longer")
        self.assertEqual(len(self.session.document.history), 13)
        self.assertEqual(self.window.files.timer.interval(), 90_000)
        with mock.patch.object(QLocale, "system", return_value=QLocale("de_DE")):
            self.dialog._set("decimals", "system")
            self.assertEqual(shown(1.25, 2), "1,25")
            self.assertEqual(self.row("launch.size").controls[0].text().count("."), 0)
            self.dialog._set("decimals", "point")
        self.assertEqual(shown(1.25, 2), "1.25")
        self.dialog._set("scale", "150 %")
        self.assertEqual(scale_factor(self.settings), "1.5")
        self.settings.setValue("undo steps", "nonsense")
        self.settings.setValue("scale", "9")
        self.assertEqual((Preferences(self.settings).undo_steps, scale_factor(self.settings)), (500, ""))

"""By keyboard alone: every control is reached, has a name, and shows that it has the focus."""

import itertools
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QScrollBar,
    QWidget,
)

from pale_ember.demo import kiln_mouth
from pale_ember.effect import load_effect
from pale_ember.effect.chapters.stage import Camera

from ..case import WindowCase

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
TAB = Qt.FocusReason.TabFocusReason


def pixels(widget: QWidget) -> np.ndarray:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    data = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8)
    return data.reshape(image.height(), image.bytesPerLine())[:, : image.width() * 3].astype(int)


class FocusTest(WindowCase):
    def first_effect(self):
        return kiln_mouth()

    def focusable(self):
        taken = Qt.FocusPolicy.TabFocus
        return [
            widget
            for widget in self.window.findChildren(QWidget)
            if widget.isVisible()
            and widget.isEnabled()
            and widget.focusPolicy() & taken
            and widget.window() is self.window
        ]

    def test_each_control_has_a_name_and_shows_its_focus(self):
        self.session.play(False)
        self.session.point_at(None)
        self.wait_for_moment()
        QTest.qWait(300)
        names, seen = {}, 0
        for chapter in range(6):
            self.window.recipe.show_chapter(chapter)
            QApplication.processEvents()
            for widget in self.focusable():
                if isinstance(widget, QScrollBar) or widget in names:
                    continue
                name = widget.accessibleName() or (
                    widget.text() if isinstance(widget, QAbstractButton) else ""
                )
                self.assertTrue(name.strip() and name.strip() != "•", (widget, widget.parent()))
                names[widget] = name
                holder = widget.parentWidget() if isinstance(widget, QAbstractButton) else widget
                focus = QApplication.focusWidget()
                if focus is not None:
                    focus.clearFocus()
                QApplication.processEvents()
                before = pixels(holder)
                widget.setFocus(TAB)
                if isinstance(widget, QLineEdit):
                    # Not by its selection alone: a field may be empty.
                    widget.deselect()
                QApplication.processEvents()
                after = pixels(holder)
                self.assertTrue(
                    before.shape != after.shape or np.abs(after - before).max() > 30, (name, widget)
                )
                seen += 1
        self.assertGreater(seen, 90)
        self.assertGreater(len(set(names.values())), 80, "names tell one from another")

    def test_tab_reaches_the_stage_and_leads_to_the_fields_without_a_walk_through_the_sentence(self):
        stage = self.window.stage
        self.window.recipe.search.setFocus()
        for _ in range(12):
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
            focus = QApplication.focusWidget()
            if isinstance(focus, QLineEdit | QComboBox) and self.window.recipe.pages.isAncestorOf(focus):
                break
        else:
            self.fail("the fields are more than twelve steps from the search")
        self.window.top_bar.backdrop.setFocus()
        for _ in range(4):
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
            if stage.hasFocus():
                break
        self.assertTrue(stage.hasFocus())

    def walked(self, start):
        """Return the controls that Tab leads through in the recipe, from one on."""
        recipe, found = self.window.recipe, []
        start.setFocus(TAB)
        for _ in range(200):
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
            focus = QApplication.focusWidget()
            if not recipe.isAncestorOf(focus) or focus in found:
                return found
            found.append(focus)
        self.fail("Tab never comes out of the recipe")

    def assert_in_sight_order(self, widgets):
        places = [
            widget.mapTo(self.window.recipe.pages.currentWidget().widget(), QPoint(0, 0))
            for widget in widgets
        ]
        for before, after in itertools.pairwise(places):
            self.assertTrue(after.y() > before.y() - 9, (before, after))
            self.assertTrue(after.x() > before.x() or after.y() > before.y() + 3, (before, after))

    def test_tab_goes_through_every_chapter_as_one_sees_it_and_a_rebuilt_field_stays_where_it_is(self):
        self.session.play(False)
        recipe = self.window.recipe
        for chapter, page in enumerate(recipe.chapters.values()):
            recipe.show_chapter(chapter)
            QApplication.processEvents()
            walked = self.walked(recipe.search)
            fields = [widget for widget in walked if recipe.pages.isAncestorOf(widget)]
            self.assert_in_sight_order(fields)
            # Every control that can be reached is, and what leads there is short.
            shown = [
                widget
                for widget in self.focusable()
                if recipe.pages.isAncestorOf(widget) and not isinstance(widget, QScrollBar)
            ]
            self.assertEqual(
                {id(widget) for widget in shown} - {id(widget) for widget in fields}, set(), list(page.rows)
            )
            self.assertLessEqual(walked.index(fields[0]), 2)
        recipe.show_chapter(2)
        for form in ("spread", "fixed"):
            recipe.chapters["Launch"].rows["launch.lifetime"].parts._to_form(form, "")
            QApplication.processEvents()
            fields = [widget for widget in self.walked(recipe.search) if recipe.pages.isAncestorOf(widget)]
            self.assert_in_sight_order(fields)
        back = list(fields[:8])
        back[-1].setFocus(TAB)
        for widget in back[-2::-1]:
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Backtab, SHIFT)
            self.assertIs(QApplication.focusWidget(), widget)

    def test_the_field_in_focus_is_reset_by_key(self):
        self.session.play(False)
        row = self.row("launch.lifetime")
        default = row.default
        self.session.edit("layers[0].launch.lifetime", 7.5, "Life")
        row.controls[0].setFocus(TAB)
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_R, CTRL)
        self.assertEqual(self.session.layer.launch.lifetime, default)

    def test_on_the_bench_buttons_are_called_what_they_do_there(self):
        def names():
            return {button.accessibleName() for button in self.window.panels.bars["timeline"].buttons}

        here = names()
        QTest.keyClick(self.window.stage, Qt.Key.Key_N)
        QApplication.processEvents()
        self.assertTrue(self.window.bench.is_open)
        there = names()
        self.assertNotEqual(here, there)
        self.assertFalse([name for name in there if "layer" in name.lower()], there)
        QTest.keyClick(self.window.picture_view, Qt.Key.Key_Escape)
        QApplication.processEvents()
        self.assertEqual(names(), here)

    def test_arrows_orbit_the_stage(self):
        stage, camera = self.window.stage, self.session.camera
        stage.setFocus(TAB)
        QTest.keyClick(stage, Qt.Key.Key_Left)
        QTest.keyClick(stage, Qt.Key.Key_Up)
        turned = self.session.camera
        self.assertNotEqual((turned.yaw, turned.pitch), (camera.yaw, camera.pitch))
        QTest.keyClick(stage, Qt.Key.Key_Right, SHIFT)
        self.assertNotEqual(self.session.camera.target, camera.target)
        QTest.keyClick(stage, Qt.Key.Key_PageUp)
        self.assertLess(self.session.camera.distance, camera.distance)
        self.assertIsInstance(self.session.camera, Camera)


class KeyboardAloneTest(WindowCase):
    """From a blank effect to a saved fire of three layers, without a mouse."""

    def key(self, key, held=Qt.KeyboardModifier.NoModifier):
        widget = self.active()
        QTest.keyClick(widget.focusWidget() or widget, key, held)
        QApplication.processEvents()

    def active(self):
        """Return the window that keys go to; without a window manager nobody gives it back when a dialog
        is gone.
        """
        widget = self.on_top().window()
        if not widget.isActiveWindow():
            widget.activateWindow()
            QTest.qWaitForWindowActive(widget, 2000)
        return widget

    def keys(self, text):
        widget = self.active()
        QTest.keyClicks(widget.focusWidget() or widget, text)
        QApplication.processEvents()

    def field(self, name, *typed):
        """Find a field by its name and type into its boxes, one after the other."""
        self.key(Qt.Key.Key_F, CTRL)
        self.keys(name)
        self.key(Qt.Key.Key_Return)
        for i, text in enumerate(typed):
            if i:
                self.key(Qt.Key.Key_Tab)
            self.keys(text)
            self.key(Qt.Key.Key_Return)
        self.key(Qt.Key.Key_F, CTRL)
        self.key(Qt.Key.Key_Escape)

    def choose(self, name, times):
        self.key(Qt.Key.Key_F, CTRL)
        self.keys(name)
        self.key(Qt.Key.Key_Return)
        for _ in range(times):
            self.key(Qt.Key.Key_Down)
        self.key(Qt.Key.Key_F, CTRL)
        self.key(Qt.Key.Key_Escape)

    def test_from_blank_to_a_saved_fire(self):
        session = self.session
        self.key(Qt.Key.Key_L, CTRL)
        self.field("rate", "90")
        self.field("lifetime", "0.4", "0.9")
        self.field("gravity", "-0.3")
        self.choose("blend", 1)
        self.key(Qt.Key.Key_F2)
        self.keys("Core")
        self.key(Qt.Key.Key_Return)
        # A key on the opacity's curve, half as high.
        lane = self.window.strip.lanes["look.opacity"]
        lane.setFocus(TAB)
        self.key(Qt.Key.Key_Home)
        self.key(Qt.Key.Key_PageDown)
        self.key(Qt.Key.Key_Down, SHIFT)
        self.assertAlmostEqual(session.layer.look.opacity.keys[1].y, 0.7, delta=0.03)
        self.key(Qt.Key.Key_D, CTRL)
        self.field("lifetime", "1", "2")
        self.field("speed", "1.5", "2.5")
        self.key(Qt.Key.Key_K, CTRL)
        self.keys("library")
        self.key(Qt.Key.Key_Return)
        self.keys("Smo")
        self.key(Qt.Key.Key_Return)
        self.assertEqual([layer.name for layer in session.effect.layers], ["Core", "Core 2", "Smoke"])
        self.key(Qt.Key.Key_Up, CTRL)
        self.key(Qt.Key.Key_Up, CTRL)
        path = f"{self.folder.name}/fire.ember"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(path, "")):
            self.key(Qt.Key.Key_S, CTRL)
        saved = load_effect(path)
        self.assertEqual(saved, session.effect)
        core = saved.layers[0]
        self.assertEqual(
            (core.emit.rate.number, core.flight.gravity.number, str(core.look.blend)), (90, -0.3, "add")
        )
        self.assertEqual((saved.layers[1].launch.lifetime.low, saved.layers[1].launch.speed.high), (1, 2.5))
        self.wait(lambda: session.moment.alive > 20)

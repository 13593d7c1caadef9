"""Whatever opens over the window and is given up leaves the file as it was, to the byte, however it is
given up.
"""

import os
import random
from unittest import mock

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QListWidget, QToolButton

from pale_ember.app.widgets.number_box import NumberBox
from pale_ember.app.widgets.sheet import open_sheet
from pale_ember.effect import effect_text

from ...building import effect_with
from ..case import LEFT, WindowCase

# Commands that open something, and those that ask by a question of their own.
OPENERS = ("find", "library", "offset", "preferences", "group", "lane", "shelf", "pack", "keep_layer")
WAYS = ("Esc", "close", "elsewhere")
# More of them by hand: so many places for each chapter, and other ones.
PLACES, SEED = int(os.environ.get("PLACES", "3")), int(os.environ.get("SEED", "1"))


class CancelledTest(WindowCase):
    def first_effect(self):
        gradient = {"gradient": [[0, "#ff8040"], [1, "#204060"]]}
        return effect_with(
            {"a": {"look.color": gradient, "emit.rate": 8}, "b": {"look.color": "#336699"}, "c": {}}
        )

    def what_is_open(self):
        return QApplication.activePopupWidget() or QApplication.activeModalWidget() or open_sheet(self.window)

    def touch(self, top):
        """Change what can be changed in it, without taking it."""
        for box in top.findChildren(NumberBox)[:3]:
            if box.isVisible() and box.isEnabled():
                QTest.mouseClick(box, LEFT)
                QTest.keyClicks(box, "3")
                QTest.keyClick(box, Qt.Key.Key_Tab)
        for line in [
            one
            for one in top.findChildren(QLineEdit)
            if type(one).__name__ in ("Line", "QLineEdit") and one.isVisible() and one.isEnabled()
        ][:1]:
            QTest.keyClicks(line, "x")
        for listed in top.findChildren(QListWidget)[:1]:
            listed.setCurrentRow(min(2, listed.count() - 1))
        for combo in top.findChildren(QComboBox)[:2]:
            if combo.isVisible() and combo.count() > 1:
                combo.setCurrentIndex(1)
        QApplication.processEvents()

    def give_up(self, top, way):
        if way == "Esc":
            QTest.keyClick(top.focusWidget() or top, Qt.Key.Key_Escape)
            if self.what_is_open() is top:
                # The first one may only end what is typed.
                QTest.keyClick(top, Qt.Key.Key_Escape)
        elif way == "close":
            top.close()
        else:
            # A click beside it; a dialog lets none through, and is closed by its button then.
            QTest.mouseClick(self.window, LEFT, pos=QPoint(3, self.window.height() - 3))
            QApplication.processEvents()
            if self.what_is_open() is top:
                top.close()

    def cancelled(self, name, way):
        """Open something by its command, touch it, give it up; return whether anything opened."""
        seen = []

        def act():
            top = self.what_is_open()
            if top is None:
                if len(seen) < 100:
                    seen.append(None)
                    QTimer.singleShot(10, act)
                return
            seen.append(top)
            self.touch(top)
            self.give_up(top, way)

        QTimer.singleShot(0, act)
        self.window.actions_by_name[name].trigger()
        QTest.qWait(60)
        if not any(seen):
            act()
        return any(one is not None for one in seen)

    def test_every_dialog_and_sheet_given_up_each_way_leaves_the_file_as_it_was(self):
        self.session.play(False)
        self.session.edit("layers[0].emit.rate", 9, "Rate")
        with (
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", "")),
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")),
            mock.patch("pale_ember.app.window.keeping.own_of_name", lambda name: object()),
        ):
            for several in (False, True):
                self.session.select("a")
                if several:
                    self.session.others = {"b", "c"}
                    self.session.selection_changed.emit()
                before, at = effect_text(self.session.effect), self.session.document.index
                chosen = self.session.selected, set(self.session.others)
                for name in OPENERS:
                    for way in WAYS[:2] if several else WAYS:
                        with self.subTest(name=name, way=way, several=several):
                            self.activate(self.window)
                            self.assertTrue(self.cancelled(name, way), "nothing opened")
                            QTest.qWait(30)
                            self.assertIsNone(self.what_is_open())
                            self.assertEqual(effect_text(self.session.effect), before)
                            self.assertEqual(self.session.document.index, at)
                            self.assertEqual((self.session.selected, set(self.session.others)), chosen)


class AnywhereTest(WindowCase):
    """From any place of the window."""

    def first_effect(self):
        curve = {"curve": [[0, 0], [0.4, 1], [1, 0.2]]}
        one = {
            "look.color": {"gradient": [[0, "#ff8040"], [1, "#204060"]]},
            "look.tint": {"one_of": ["#ffffff", "#ff8080"]},
            "look.grow": curve,
            "emit.rate": 8,
            "emit.bursts": [{"at": 0.5, "count": 5}],
            "path": [{}, {"at": 1, "position": [1, 0.5, 0]}],
        }
        return effect_with(
            {"a": one, "b": {"look.color": "#336699", "origin": {"parent": "a", "when": "death"}}, "c": {}}
        )

    def target(self, dice):
        """Return a widget under a random place of the window, and the place in it."""
        at = QPoint(dice.randrange(self.window.width()), dice.randrange(self.window.height()))
        widget = self.window.childAt(at) or self.window
        return widget, widget.mapFrom(self.window, at)

    def drag_and_give_up(self, dice):
        widget, at = self.target(dice)
        if isinstance(widget, QToolButton) and widget.menu() is not None:
            return  # its menu opens with the press, and waits
        what = f"{type(widget).__name__} {widget.accessibleName()} {at.x()},{at.y()}"
        keys = dice.choice(
            (
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ControlModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.AltModifier,
            )
        )
        before = effect_text(self.session.effect), self.session.document.index
        QTest.mousePress(widget, LEFT, keys, at)
        for part in range(1, 4):
            QTest.mouseMove(widget, at + QPoint(dice.randrange(-30, 30), dice.randrange(-30, 30)) * part)
            QApplication.processEvents()
        QTest.keyClick(QApplication.focusWidget() or self.window, Qt.Key.Key_Escape)
        far = at + QPoint(3000, 3000)
        QTest.mouseMove(widget, far)
        QTest.mouseRelease(widget, LEFT, keys, far)
        self.put_away()
        self.assertEqual(
            (effect_text(self.session.effect), self.session.document.index),
            before,
            f"dragged {what}, keys {keys}",
        )

    def menu_and_give_up(self, dice):
        widget, at = self.target(dice)
        what = f"{type(widget).__name__} {widget.accessibleName()} {at.x()},{at.y()}"
        before = effect_text(self.session.effect), self.session.document.index

        def ask(one, place):
            QApplication.sendEvent(
                one, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, one.mapToGlobal(place))
            )
            QApplication.processEvents()
            return QApplication.activePopupWidget()

        menu = ask(widget, at)
        if menu is not None:
            way = dice.choice(("Esc", "close", "elsewhere", "another"))
            for _ in range(dice.randrange(3)):
                QTest.keyClick(menu, Qt.Key.Key_Down)
            if way == "Esc":
                QTest.keyClick(menu, Qt.Key.Key_Escape)
            elif way == "close":
                menu.close()
            elif way == "elsewhere":
                QTest.mouseClick(menu, LEFT, pos=QPoint(-5, -5))
            else:
                ask(*self.target(dice))
        self.put_away()
        self.assertEqual(
            (effect_text(self.session.effect), self.session.document.index), before, f"menu of {what}"
        )
        return menu is not None

    def put_away(self):
        """Close what a click or a key has opened."""
        for _ in range(8):
            QApplication.processEvents()
            top = (
                QApplication.activePopupWidget()
                or QApplication.activeModalWidget()
                or open_sheet(self.window)
            )
            if top is None:
                break
            top.close()
        self.window.picking.close()

    def all_chosen(self):
        self.session.select("a")
        self.session.select("b", "also")
        self.session.select("c", "also")

    def test_drags_and_menus_given_up_leave_the_file_as_it_was(self):
        dice = random.Random(SEED)
        self.session.play(False)
        self.window.stage.setUpdatesEnabled(False)
        for chapter in range(8):
            for several in (False, True):
                self.session.select("a")
                if several:
                    self.all_chosen()
                self.window.recipe.show_chapter(chapter)
                self.activate(self.window)
                for _ in range(PLACES):
                    with self.subTest(chapter=chapter, several=several):
                        self.drag_and_give_up(dice)
                        self.menu_and_give_up(dice)

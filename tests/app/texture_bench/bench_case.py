"""The bench in the real window."""

from __future__ import annotations

import os
from unittest import mock

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu

from pale_ember.app.texture_bench.placing import in_view
from pale_ember.app.texture_bench.step_rows import ROW
from pale_ember.app.widgets.controls import Combo
from pale_ember.app.widgets.number_box import NumberBox

from ...building import single
from ..case import LEFT, WindowCase

CTRL = Qt.KeyboardModifier.ControlModifier


class BenchCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        patch = mock.patch.dict(
            os.environ,
            {
                "PALE_EMBER_TEXTURES": f"{self.folder.name}/shelf",
                "PALE_EMBER_CACHE": f"{self.folder.name}/cache",
            },
        )
        patch.start()
        self.addCleanup(patch.stop)

    def first_effect(self):
        return single({"emit.rate": 40})

    @property
    def bench(self):
        return self.window.bench

    @property
    def view(self):
        return self.window.picture_view

    @property
    def rows(self):
        return self.window.step_list.rows

    @property
    def film(self):
        return self.window.frame_strip.film

    @property
    def kinds(self) -> list[str]:
        return [step.step for step in self.bench.steps]

    def begin(self) -> None:
        """Put a new texture on the bench, by key."""
        QTest.keyClick(self.window.stage, Qt.Key.Key_N)
        self.assertTrue(self.bench.is_open)
        QApplication.processEvents()

    def made(self) -> None:
        """Wait until the texture on the bench is made."""
        self.wait(lambda: not self.session.textures.busy and self.bench.ready is not None, 60)
        QApplication.processEvents()

    def add(self, group: str, name: str) -> None:
        """Add a step with the mouse, from the button in the steps' title and its menu."""
        button = next(
            one
            for one in self.window.panels.bars["timeline"].buttons
            if one.accessibleName().startswith("Add")
        )
        QTest.mouseClick(button, LEFT)
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        for word in (group, name):
            action = next(one for one in menu.actions() if one.text().replace("&", "") == word)
            QTest.mouseClick(menu, LEFT, pos=menu.actionGeometry(action).center())
            if action.menu() is not None:
                menu = action.menu()
                self.wait(menu.isVisible)
        # Clicks that follow one another faster than a hand can leave the first menu standing.
        while (left := QApplication.activePopupWidget()) is not None:
            left.close()
        self.assertEqual(self.bench.step.step, name.lower())

    def field(self, name: str):
        """Return the row of a field of the step in view, or of the sheet."""
        panel = self.window.step_panel
        panel.show_chapter(0 if name in panel.step_page.rows else 1)
        row = panel.step_page.rows.get(name) or panel.sheet_page.rows[name]
        panel.pages.currentWidget().ensureWidgetVisible(row)
        QApplication.processEvents()
        return row

    def give(self, name: str, text: str) -> None:
        """Type a number into a field."""
        self.type_into(next(part for part in self.field(name).controls if isinstance(part, NumberBox)), text)

    def choose(self, name: str, word: str) -> None:
        """Choose a word of a field with the keyboard."""
        self.pick(next(part for part in self.field(name).controls if isinstance(part, Combo)), word)

    def pick(self, box: Combo, word: str) -> None:
        box.setFocus()
        QTest.keyClick(box, Qt.Key.Key_Return)
        at = next(i for i in range(box.count()) if box.itemText(i).startswith(word))
        box.view().setCurrentIndex(box.model().index(at, 0))
        QTest.keyClick(box.view(), Qt.Key.Key_Return)

    def on_picture(self, x: float, y: float) -> QPointF:
        """Return where a place of the picture, −1…1, is in the view."""
        return in_view(self.view.box, x, y)

    def draw(self, *places: tuple[float, float]) -> None:
        """Draw a stroke through places of the picture with the mouse."""
        points = [self.on_picture(*place) for place in places]
        self.drag(self.view, points[0], *points[1:])

    def click_step(self, index: int) -> None:
        QTest.mouseClick(self.rows, LEFT, pos=QPoint(80, index * ROW + ROW // 2))
        self.assertEqual(self.bench.index, index)

    def undo_all(self) -> None:
        self.activate(self.window)
        while self.session.document.undo_name:
            before = self.session.document.index
            QTest.keyClick(self.window, Qt.Key.Key_Z, CTRL)
            QApplication.processEvents()
            self.assertLess(self.session.document.index, before, "undo does nothing here")


STEPS = [
    {"step": "dot"},
    {"step": "cloud", "blend": "multiply"},
    {"step": "levels", "bend": 2},
    {"step": "color"},
]


DOT = [
    {
        "step": "dot",
        "radius": {"curve": [{"x": 0, "y": 0.2, "ease": "linear"}, {"x": 1, "y": 0.9, "ease": "linear"}]},
    }
]


class SheetCase(BenchCase):
    steps = STEPS
    frames = 6

    def first_effect(self):
        textures = [{"name": "puff", "frames": self.frames, "build": {"size": 48, "steps": self.steps}}]
        return single({"emit.rate": 40}).edit("textures", textures).edit("layers[0].look.texture", "puff")

    def setUp(self):
        super().setUp()
        self.session.play(False)
        self.begin()
        self.made()

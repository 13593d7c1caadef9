"""The controls of one of several colours: a swatch for each, and what adds one."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent
from PyQt6.QtWidgets import QMenu, QWidget

from ...effect.values.colors import MOST_COLORS, OneOf
from ..widgets.controls import ToolButton
from ..widgets.swatch import Swatch
from .row import Row

# Swatches in a row.
ACROSS = 4
_OUT = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)


class ListSwatch(Swatch):
    """One colour of a list; Delete or its menu takes it out."""

    out_wanted = pyqtSignal()

    def show_color(self, color: str, mixed: bool = False) -> None:
        super().show_color(color, mixed)
        self.setToolTip(f"{self.toolTip()}; Delete takes it out")

    def event(self, event: QEvent | None) -> bool:
        # Else the window's command would delete the layer.
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and event.key() in _OUT
            and not event.modifiers()
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in _OUT and not event.modifiers():
            self.out_wanted.emit()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        action = menu.addAction("&Take this colour out")
        assert action is not None
        action.triggered.connect(self.out_wanted)
        menu.popup(event.globalPos())


def one_of_lines(row: Row, controls: list[Any], value: OneOf) -> list[list[QWidget]]:
    """Return lines of controls for a list of colours; all are put among ``controls`` too."""
    widgets: list[QWidget] = []
    for number in range(len(value.colors)):
        name = f"colour {number + 1}"
        swatch = ListSwatch(f"{row.rule.label} {name}")
        swatch.setMinimumWidth(24)
        swatch.clicked.connect(lambda _=False, number=number, name=name: row.pick_color(number, name))
        swatch.out_wanted.connect(lambda number=number: _take_out(row, number))
        widgets.append(swatch)
    add = ToolButton()
    add.setText("+")
    add.setFixedSize(24, 22)
    add.setAccessibleName(f"Add a colour to {row.rule.label.lower()}")
    add.setToolTip(
        "Add a colour, and choose it"
        if len(value.colors) < MOST_COLORS
        else f"There are {MOST_COLORS} colours, the most that fit"
    )
    add.setEnabled(len(value.colors) < MOST_COLORS)
    add.clicked.connect(lambda: _add(row))
    widgets.append(add)
    controls.extend(widgets)
    if len(widgets) > ACROSS:
        # The last line's are as wide as those above.
        widgets += [QWidget() for _ in range(-len(widgets) % ACROSS)]
    return [widgets[i : i + ACROSS] for i in range(0, len(widgets), ACROSS)]


def _add(row: Row) -> None:
    """Add a colour like the last one, and ask for it."""
    number = len(row.value.colors)
    if row.edit_each(lambda old: OneOf((*old.colors, old.colors[-1])), said="Add a colour to {}"):
        row.pick_color(number, f"colour {number + 1}")


def _take_out(row: Row, number: int) -> None:
    """Take a colour out; the last one stays."""
    if len(row.value.colors) > 1:
        row.edit_each(
            lambda old: OneOf((*old.colors[:number], *old.colors[number + 1 :])),
            said="Take a colour out of {}",
        )

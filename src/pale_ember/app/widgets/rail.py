"""The narrow rail of chapters at the side of a panel."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QVBoxLayout, QWidget

from . import theme
from .controls import Button

WIDTH = 82


def rail_button(name: str, tip: str) -> Button:
    """Return a button of a rail."""
    button = Button(name)
    button.setCheckable(True)
    button.setToolTip(tip)
    button.setStyleSheet(
        f"QPushButton {{ border: 1px solid transparent; border-radius: 0; background: transparent;"
        f" border-left: 2px solid transparent; color: {theme.DIM}; text-align: left; padding: 7px 4px "
        f"7px 9px; }}"
        f"QPushButton:hover {{ color: {theme.BRIGHT}; }}"
        f"QPushButton:checked {{ background: {theme.ASH_1}; color: {theme.BRIGHT}; border-left-color: "
        f"{theme.EMBER}; }}"
        f"QPushButton:focus {{ border: 1px solid {theme.EMBER}; border-left: 2px solid {theme.EMBER}; }}"
    )
    return button


def rail_column(rail: QWidget) -> QVBoxLayout:
    """Dress a widget as a rail and return the column for its buttons."""
    rail.setFixedWidth(WIDTH)
    rail.setStyleSheet(f"background: {theme.ASH_0};")
    column = QVBoxLayout(rail)
    column.setContentsMargins(0, 4, 0, 4)
    column.setSpacing(1)
    return column


class Rail(QWidget):
    """A rail of a few chapters; the first is chosen."""

    chosen = pyqtSignal(int)

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__()
        column = rail_column(self)
        self.buttons = QButtonGroup(self)
        for i, name in enumerate(names):
            button = rail_button(name, f"Show the chapter {name}")
            self.buttons.addButton(button, i)
            column.addWidget(button)
        column.addStretch(1)
        self.check(0)
        self.buttons.idClicked.connect(self.chosen)

    def check(self, index: int) -> None:
        """Show which is chosen."""
        button = self.buttons.button(index)
        if button is not None:
            button.setChecked(True)

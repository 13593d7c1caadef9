"""What a part of the window says, as text, beside what was read.

``PALE_EMBER_PICTURES=write`` keeps what it says now, to be read.
"""

from __future__ import annotations

import re

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QMenu,
    QPlainTextEdit,
    QTreeWidget,
    QWidget,
)

from pale_ember.app.widgets.number_box import NumberBox

from ..looked_at import compare_text
from .case import WindowCase
from .pictures import FOLDER

# Commands that ask for files, end the window, or load what is large.
AWAY = {"open", "save", "save_as", "picture", "quit", "new", "keep_bundle", "hand_over_now", "compression"}


def words_of(widget: QWidget, tips: bool) -> str:
    """Return what one widget says: its text, its choices, its state, its tip."""
    said = []
    if isinstance(widget, QLabel | QAbstractButton | QLineEdit):
        said.append(widget.text())
    if isinstance(widget, QLineEdit) and widget.placeholderText():
        said.append(f"({widget.placeholderText()})")
    if isinstance(widget, NumberBox):
        ends = (*widget.hard, *widget.soft)
        said.append(f"{' '.join(f'{end:g}' for end in ends)}, {widget.digits} digits, {widget.unit}")
    if isinstance(widget, QComboBox):
        choices = [widget.itemText(i) for i in range(widget.count())]
        said.append(f"{widget.currentText()} of {', '.join(choices)}")
    if isinstance(widget, QPlainTextEdit):
        said.append(widget.toPlainText())
    if isinstance(widget, QListWidget):
        said += [widget.item(i).text() for i in range(widget.count())]
    if isinstance(widget, QTreeWidget):
        for i in range(widget.topLevelItemCount()):
            item = widget.topLevelItem(i)
            said.append(": ".join(item.text(column) for column in range(widget.columnCount())))
    if isinstance(widget, QAbstractButton) and widget.isCheckable():
        said.append("on" if widget.isChecked() else "off")
    if not widget.isEnabled():
        said.append("disabled")
    if widget.accessibleName():
        said.append(f"name: {widget.accessibleName()}")
    if tips and widget.toolTip():
        said.append(f"tip: {widget.toolTip()}")
    return " | ".join(said).replace("\n", " / ")


def told(widget: QWidget, depth: int = 0, tips: bool = True) -> list[str]:
    """Return a line for each part of a widget that is to be seen, below what holds it, with its tip."""
    if depth and widget.isHidden():
        return []
    own = words_of(widget, tips)
    lines = [f"{'  ' * depth}{own}"] if own.strip() else []
    for child in widget.children():
        # A menu is told by itself; what belongs to Qt's own parts says nothing more.
        inside = isinstance(child, QWidget) and not isinstance(child, QMenu)
        if inside and not isinstance(widget, QComboBox | QLineEdit):
            lines += told(child, depth + bool(lines), tips)
    return lines


def places(widget: QWidget, depth: int = 0) -> list[str]:
    """Return a line for each part of a widget that is to be seen: what it is, its place in what holds it, its
    size.
    """
    if depth and widget.isHidden():
        return []
    at = widget.geometry()
    name = widget.accessibleName() or (widget.text() if isinstance(widget, QLabel | QAbstractButton) else "")
    said = f"{type(widget).__name__} {name[:24]}".strip().replace("\n", " ")
    lines = [f"{'  ' * depth}{said}: {at.x()}, {at.y()}, {at.width()} x {at.height()}"]
    for child in widget.children():
        # What belongs to Qt's own parts, and windows of their own, are placed by others.
        if (
            isinstance(child, QWidget)
            and not child.isWindow()
            and not isinstance(widget, QComboBox | QLineEdit)
        ):
            lines += places(child, depth + 1)
    return lines


def told_action(action: QAction) -> str:
    """Return what an action says: its words, keys and state."""
    said = [action.text(), action.shortcut().toString()]
    if action.isCheckable():
        said.append("on" if action.isChecked() else "off")
    if not action.isEnabled():
        said.append("disabled")
    return " | ".join(part for part in said if part)


def told_menu(menu: QMenu, depth: int = 0) -> list[str]:
    """Return a line for each item of a menu, with those of its submenus below them."""
    lines = []
    for action in menu.actions():
        lines.append("  " * depth + ("---" if action.isSeparator() else told_action(action)))
        inside = action.menu()
        if isinstance(inside, QMenu):
            inside.aboutToShow.emit()
            lines += told_menu(inside, depth + 1)
    return lines


class ToldCase(WindowCase):
    """Compares what the window says with what was read."""

    def setUp(self) -> None:
        super().setUp()
        self.session.play(False)
        self.session.seek(0.5)
        self.wait_for_moment()

    def told(self, widget: QWidget, tips: bool = True) -> list[str]:
        """Return what a widget says once nothing in it changes any more."""
        lines: list[str] = self.settled(lambda: told(widget, tips=tips))
        return lines

    def assert_says(self, name: str, lines: list[str]) -> None:
        """Compare lines with those that were read; the test's own folder is left out of them."""
        now = "\n".join(lines).replace(self.folder.name, "…")
        # How quick this machine is says nothing of the window.
        now = re.sub(r"[\d,]+ alive   .*? \|", "… alive |", now)
        now = re.sub(r"[ \t]+$", "", now, flags=re.M) + "\n"
        compare_text(self, FOLDER / f"{name}.txt", now)

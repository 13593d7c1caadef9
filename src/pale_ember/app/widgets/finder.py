"""Type to find a command, a field or a layer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QWidget

from .matching import score
from .sheet import Sheet


@dataclass(frozen=True)
class Finding:
    """One thing that can be found, with its help, other words for it and what can be chosen in it; ``go``
    is done.
    """

    title: str
    kind: str
    key: str
    help: str
    also: str
    go: Callable[[], Any]
    choices: str = ""


class Finder(Sheet):
    """A line to type in over a list that follows."""

    def __init__(self, parent: QWidget, findings: list[Finding]) -> None:
        super().__init__(parent, "Find", QSize(460, 360))
        self.findings = findings
        self.line = QLineEdit()
        self.line.setPlaceholderText("A command, a field, a layer")
        self.line.setAccessibleName("Find")
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        self.column.addWidget(self.line)
        self.column.addWidget(self.list)
        self.line.textChanged.connect(self._search)
        self.line.returnPressed.connect(self._go)
        self.list.itemActivated.connect(lambda _: self._go())
        self.list.itemClicked.connect(lambda _: self._go())
        self.line.installEventFilter(self)
        self._search("")

    def _search(self, text: str) -> None:
        """List what is found by words, the best first."""
        self.list.clear()
        scored = [
            (score(text, one.title, one.also, one.kind, one.help, one.choices), one) for one in self.findings
        ]
        rows = [one for good, one in sorted(scored, key=lambda pair: -pair[0]) if good]
        for finding in rows[:60]:
            key = f"   {finding.key}" if finding.key else ""
            item = QListWidgetItem(f"{finding.title}   ·   {finding.kind}{key}")
            item.setData(Qt.ItemDataRole.UserRole, finding)
            self.list.addItem(item)
        if rows:
            self.list.setCurrentRow(0)
        else:
            self.list.addItem("Nothing is called so.")

    def _go(self) -> None:
        item = self.list.currentItem()
        finding = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if finding is not None:
            self.accept()
            finding.go()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if by is not None:
                self.list.setCurrentRow(min(max(self.list.currentRow() + by, 0), self.list.count() - 1))
                return True
        return super().eventFilter(watched, event)

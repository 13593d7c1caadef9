"""Type to find a command, a field or a layer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget


@dataclass(frozen=True)
class Finding:
    """One thing that can be found: ``words`` are searched, ``go`` is done."""

    title: str
    kind: str
    key: str
    words: str
    go: Callable[[], Any]


class Finder(QDialog):
    """A line to type in over a list that follows."""

    def __init__(self, parent: QWidget, findings: list[Finding]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(460, 360)
        self.findings = findings
        column = QVBoxLayout(self)
        self.line = QLineEdit()
        self.line.setPlaceholderText("A command, a field, a layer")
        self.line.setAccessibleName("Find")
        self.list = QListWidget()
        self.list.setAccessibleName("Found")
        column.addWidget(self.line)
        column.addWidget(self.list)
        self.line.textChanged.connect(self._search)
        self.line.returnPressed.connect(self._go)
        self.list.itemActivated.connect(lambda _: self._go())
        self.list.itemClicked.connect(lambda _: self._go())
        self.line.installEventFilter(self)
        self._search("")

    def _search(self, text: str) -> None:
        self.list.clear()
        words = text.lower().split()
        rows = [f for f in self.findings if all(word in f.words for word in words)]
        rows.sort(key=lambda f: not f.title.lower().startswith(text.lower().strip()))
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

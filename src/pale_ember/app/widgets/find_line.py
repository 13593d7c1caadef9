"""The line that finds fields: Down and Enter go to what was found, Esc clears it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent

from .controls import Line


class FindLine(Line):
    """A line to type in; ``entered`` says that the first of what was found is wanted."""

    entered = pyqtSignal()

    def __init__(self, name: str, tip: str) -> None:
        super().__init__()
        self.setPlaceholderText("Find a field")
        self.setClearButtonEnabled(True)
        self.setAccessibleName(name)
        self.setToolTip(tip)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        else:
            super().keyPressEvent(event)

    def give_up(self) -> None:
        """Find nothing, and leave the line."""
        self.clear()
        self.clearFocus()

"""Two colours side by side."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QWidget


class Compared(QWidget):
    """The colour as it was and as it is, side by side."""

    def __init__(self, colors: Callable[[], tuple[str, str]]) -> None:
        super().__init__()
        self._colors = colors
        self.setFixedHeight(26)
        self.setToolTip("Before, and now")

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        half, (first, now) = self.width() // 2, self._colors()
        painter.fillRect(0, 0, half, self.height(), QColor(first))
        painter.fillRect(half, 0, self.width() - half, self.height(), QColor(now))
        painter.end()

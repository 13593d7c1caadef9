"""The box that is dragged over keys."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from PyQt6.QtCore import QPoint, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ..widgets import theme
from .key_selection import Held
from .lane import Lane


class Band(QWidget):
    """The box that is dragged over keys."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._start = QPoint()
        self._box = QRect()
        self.before: set[Held] = set()
        self.hide()

    def begin(self, at: QPoint, before: set[Held]) -> None:
        """Begin at a place; ``before`` stays held whatever the box takes."""
        self._start, self._box, self.before = at, QRect(), before

    def drag(self, at: QPoint) -> None:
        """Go on to a place."""
        self._box = QRect(self._start, at).normalized()
        self.setGeometry(self._box.adjusted(0, 0, 1, 1))
        self.raise_()
        self.show()

    def holding(self, lanes: Iterable[Lane]) -> set[Held]:
        """Return what was held before, and all keys of the lanes that are in the box."""
        inside, parent = set(self.before), self.parentWidget()
        for lane in lanes:
            for held in lane.all_keys() if lane.isVisible() and not lane.folded else ():
                if self._box.contains(lane.mapTo(parent, lane.place_of(held).toPoint())):
                    inside.add(held)
        return inside

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme.color(theme.EMBER), 1))
        painter.setBrush(theme.color(theme.EMBER, 28))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

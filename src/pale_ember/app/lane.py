"""What the lanes of the life strip share: the axis, the head, the selected key, the keys of the keyboard."""

from __future__ import annotations

import itertools
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ..effect.edit import get
from ..effect.fields import Rule
from . import theme
from .session import Session

HEAD = 100
RIGHT = 10
GRAB = 7
_strokes = itertools.count(1)


class Lane(QWidget):
    """What lanes share: the axis, the head, the selected key.

    ``picked`` says that another key was selected in this lane.
    """

    picked = pyqtSignal(object)

    def __init__(self, session: Session, path: str, rule: Rule) -> None:
        super().__init__()
        self.session, self.path, self.rule = session, path, rule
        self.side, self.key = 0, -1
        self._stroke = ""
        self.painted: Any = None
        self._held_range: tuple[float, float] | None = None
        self.setMinimumHeight(44)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{rule.label} lane")
        self.setToolTip(
            f"{rule.help}\nClick on the line to add a key, drag keys, Delete removes one, right-click for eases."
        )

    @property
    def value(self) -> Any:
        return get(self.session.effect, self.path)

    @property
    def plot(self) -> QRectF:
        return QRectF(HEAD, 6, max(self.width() - HEAD - RIGHT, 10), max(self.height() - 12, 10))

    def x_of(self, x: float) -> float:
        return self.plot.left() + x * self.plot.width()

    def share_of(self, x: float) -> float:
        return min(max((x - self.plot.left()) / self.plot.width(), 0.0), 1.0)

    def give(self, value: Any, name: str) -> None:
        """Send an edit; what belongs to one stroke of the mouse is one step."""
        self.session.edit(
            self.path, value, f"{name} of {self.rule.label.lower()}", self._stroke and f"{self.path} {self._stroke}"
        )

    def begin_stroke(self) -> None:
        self._stroke = f"stroke {next(_strokes)}"

    def end_stroke(self) -> None:
        self._stroke = ""
        self._held_range = None
        self.session.document.end_merge()
        self.update()

    def select_key(self, side: int, key: int) -> None:
        self.side, self.key = side, key
        self.picked.emit(self)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.end_stroke()

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        self.picked.emit(self)

    def paint_head(self, painter: QPainter, low: str, high: str) -> None:
        painter.setFont(theme.font(12))
        painter.setPen(theme.color(theme.BRIGHT if self.hasFocus() else theme.TEXT))
        painter.drawText(QRectF(10, 4, HEAD - 14, 16), Qt.AlignmentFlag.AlignLeft, self.rule.label)
        painter.setFont(theme.font(10))
        painter.setPen(theme.color(theme.DIM))
        if self.height() >= 56:
            along = getattr(self.value, "along", "")
            painter.drawText(
                QRectF(10, 20, HEAD - 14, 14),
                Qt.AlignmentFlag.AlignLeft,
                self.rule.unit if along in ("", "life") else f"along {along}",
            )
        painter.drawText(QRectF(0, self.plot.top() - 2, HEAD - 6, 13), Qt.AlignmentFlag.AlignRight, high)
        painter.drawText(QRectF(0, self.plot.bottom() - 11, HEAD - 6, 13), Qt.AlignmentFlag.AlignRight, low)

    def paint_frame(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        painter.fillRect(self.plot, theme.color(theme.ASH_0))
        painter.setPen(QPen(theme.color(theme.ASH_2)))
        for i in range(1, 10):
            x = self.x_of(i / 10)
            painter.drawLine(QPointF(x, self.plot.top()), QPointF(x, self.plot.bottom()))
        if self.hasFocus():
            painter.fillRect(QRectF(0, 4, 2, self.height() - 8), theme.color(theme.EMBER))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        pace = 0.1 if shift else 0.01
        moves = {
            Qt.Key.Key_Left: (-pace, 0.0),
            Qt.Key.Key_Right: (pace, 0.0),
            Qt.Key.Key_Up: (0.0, pace),
            Qt.Key.Key_Down: (0.0, -pace),
        }
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.key >= 0:
            self.remove_key()
        elif key in moves and self.key >= 0:
            self._stroke = "keys"
            self.nudge(*moves[Qt.Key(key)])
            self._stroke = ""
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            count = len(self.points(self.side))
            if count:
                self.select_key(self.side, (self.key + (1 if key == Qt.Key.Key_PageDown else -1)) % count)
        elif key == Qt.Key.Key_Insert:
            self.begin_stroke()
            self.add_at(0.5)
            self.end_stroke()
        else:
            super().keyPressEvent(event)

    # To be filled in by each kind of lane

    def points(self, side: int) -> list[Any]:
        raise NotImplementedError

    def add_at(self, x: float) -> None:
        raise NotImplementedError

    def remove_key(self) -> None:
        raise NotImplementedError

    def nudge(self, right: float, up: float) -> None:
        raise NotImplementedError

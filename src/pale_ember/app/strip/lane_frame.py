"""What every lane is drawn on: ground, grid, triangle and label."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ...effect.rules.fields import Rule
from ..session.session import Session
from ..widgets import theme
from ..widgets.along_axis import HEAD, SCALE

FOLDED = 19


class FramedLane(Protocol):
    """A lane as its frame sees it."""

    session: Session
    rule: Rule
    folded: bool

    @property
    def in_layer(self) -> bool: ...

    @property
    def plot(self) -> QRectF: ...
    def rect(self) -> QRect: ...
    def height(self) -> int: ...
    def hasFocus(self) -> bool: ...
    def x_of(self, share: float) -> float: ...


def paint_frame(painter: QPainter, lane: FramedLane) -> None:
    """Draw a lane's ground, grid, triangle and label."""
    painter.fillRect(lane.rect(), theme.color(theme.ASH_1))
    painter.fillRect(lane.plot, theme.color(theme.ASH_0))
    painter.setPen(QPen(theme.color(theme.ASH_2)))
    for i in range(1, 10):
        x = lane.x_of(i / 10)
        painter.drawLine(QPointF(x, lane.plot.top()), QPointF(x, lane.plot.bottom()))
    if lane.hasFocus():
        painter.fillRect(QRectF(0, 3, 2, lane.height() - 6), theme.color(theme.EMBER))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    middle = FOLDED / 2 if lane.folded else 13.0
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.color(theme.DIM))
    opened = [QPointF(6, middle - 2), QPointF(13, middle - 2), QPointF(9.5, middle + 2.5)]
    shut = [QPointF(7.5, middle - 3.5), QPointF(12, middle), QPointF(7.5, middle + 3.5)]
    painter.drawPolygon(QPolygonF(shut if lane.folded else opened))
    painter.setFont(theme.font(12))
    painter.setPen(theme.color(theme.BRIGHT if lane.hasFocus() else theme.TEXT))
    many = len(lane.session.chosen) if lane.in_layer else 1
    label = lane.rule.label if many < 2 else f"{lane.rule.label} ×{many}"
    words = painter.fontMetrics().elidedText(label, Qt.TextElideMode.ElideRight, HEAD - SCALE - 20)
    painter.drawText(QRectF(18, middle - 8, HEAD - SCALE - 18, 16), Qt.AlignmentFlag.AlignVCenter, words)

"""Buttons that show a colour or a small curve."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from ...effect.values.colors import ColorValue
from ...effect.values.values import Value
from . import theme
from .controls import Button
from .curve_paint import paint_gradient, paint_stops, paint_value


class Preview(Button):
    """A small picture of a curve or gradient; a click opens its lane."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.value: Any = None
        self.mixed = False
        self.setMinimumWidth(40)
        self.setFixedHeight(22)
        self.setToolTip("Open its lane in the life strip")
        self.setAccessibleName(f"Open the lane of {name}")

    def show_value(self, value: Any, mixed: bool) -> None:
        self.value, self.mixed = value, mixed
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(80, 22)

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(theme.color(theme.EMBER if self.hasFocus() else theme.ASH_3)))
        painter.setBrush(theme.color(theme.ASH_0))
        painter.drawRoundedRect(box, 3, 3)
        inner = box.adjusted(3, 3, -3, -3)
        if self.mixed:
            painter.setPen(theme.color(theme.DIM))
            painter.drawText(inner, Qt.AlignmentFlag.AlignCenter, "mixed")
        elif isinstance(self.value, tuple):
            paint_stops(painter, inner, self.value)
        elif isinstance(self.value, ColorValue):
            paint_gradient(painter, inner, self.value)
        elif isinstance(self.value, Value):
            paint_value(painter, inner, self.value)
        painter.end()


class Swatch(Button):
    """A colour; a click asks for another."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.color = "#ffffff"
        self.mixed = False
        self.setFixedHeight(22)
        self.setMinimumWidth(30)
        self.setAccessibleName(name)

    def show_color(self, color: str, mixed: bool = False) -> None:
        self.color, self.mixed = color, mixed
        self.setToolTip(f"{'Mixed' if mixed else color}: click to choose another")
        self.update()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.color(theme.EMBER if self.hasFocus() else theme.ASH_4)))
        painter.setBrush(theme.color(theme.ASH_2) if self.mixed else QColor(self.color))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        if self.mixed:
            painter.setPen(theme.color(theme.DIM))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, "mixed")
        painter.end()

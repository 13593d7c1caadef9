"""The box that is dragged over keys."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ..widgets import theme


class Band(QWidget):
    """The box that is dragged over keys."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()

    def show_box(self, box: QRect) -> None:
        self.setGeometry(box.adjusted(0, 0, 1, 1))
        self.raise_()
        self.show()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme.color(theme.EMBER), 1))
        painter.setBrush(theme.color(theme.EMBER, 28))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

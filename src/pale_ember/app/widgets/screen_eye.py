"""Any colour of the screen, by a click on it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QCursor, QGuiApplication, QKeyEvent, QMouseEvent, QPainter, QPixmap
from PyQt6.QtWidgets import QWidget
from PyQt6.sip import voidptr


class ScreenEye(QWidget):
    """A picture of the screen over the screen, waiting for a click."""

    picked = pyqtSignal(str)

    def __init__(self, picture: QPixmap) -> None:
        super().__init__(None, Qt.WindowType.FramelessWindowHint | Qt.WindowType.WindowStaysOnTopHint)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.picture, self.image = picture, picture.toImage()
        self.setCursor(Qt.CursorShape.CrossCursor)

    @classmethod
    def over_all(cls, give: Callable[[str], None]) -> ScreenEye | None:
        """Cover the screen that the mouse is on; None where the desktop doesn't let programs see it."""
        screen = QGuiApplication.screenAt(QCursor.pos()) or QGuiApplication.primaryScreen()
        picture = screen.grabWindow(voidptr(0)) if screen is not None else QPixmap()
        if screen is None or picture.isNull():
            return None
        eye = cls(picture)
        eye.picked.connect(give)
        eye.setGeometry(screen.geometry())
        eye.show()
        eye.activateWindow()
        return eye

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        ratio = self.picture.devicePixelRatio()
        at = event.position() * ratio
        x, y = min(int(at.x()), self.image.width() - 1), min(int(at.y()), self.image.height() - 1)
        self.picked.emit(self.image.pixelColor(max(x, 0), max(y, 0)).name())
        self.close()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.close()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self.picture)
        painter.end()

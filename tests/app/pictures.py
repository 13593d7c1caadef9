"""Pictures of what the window paints, beside those that were looked at.

``PALE_EMBER_PICTURES=write`` keeps what is painted now, to be looked at.
"""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QCursor, QImage, QPainter
from PyQt6.QtWidgets import QApplication, QWidget

from pale_ember.app.widgets import theme

from ..looked_at import is_writing
from .case import WindowCase, application

FOLDER = Path(__file__).parent / "looked_at"
# So many levels of 255 make a pixel another one, and so many pixels a picture.
LEVELS, PIXELS = 28, 6


def pixels(image: QImage) -> np.ndarray:
    """Return an image as (high, wide, 3) of 0…255, over the window's own ground."""
    whole = QImage(image.size(), QImage.Format.Format_RGB32)
    whole.fill(QColor(theme.ASH_1))
    painter = QPainter(whole)
    painter.drawImage(0, 0, image)
    painter.end()
    bits = whole.constBits()
    bits.setsize(whole.sizeInBytes())
    rows = np.frombuffer(bits, np.uint8).reshape(whole.height(), whole.bytesPerLine() // 4, 4)
    return rows[:, : whole.width(), :3].astype(np.int16)


def drawn(wide: int, high: int, paint) -> QImage:
    """Return what a function paints into a picture of a size."""
    image = QImage(wide, high, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint(painter)
    painter.end()
    return image


def _text() -> QImage:
    def paint(painter: QPainter) -> None:
        painter.setFont(theme.font(12))
        painter.setPen(QColor(theme.TEXT))
        painter.drawText(QRectF(2, 2, 200, 20), Qt.AlignmentFlag.AlignVCenter, "Quench 0.25 s, 1,024 ×")

    return drawn(204, 24, paint)


class PictureCase(WindowCase):
    """Compares pictures of widgets. Nothing has the focus, and the mouse is away."""

    def setUp(self) -> None:
        # Before there is a window, which nobody would close after a test that is skipped here.
        if application().devicePixelRatio() != 1.0 or not self._is_alike("text", _text()):
            self.skipTest("text is drawn otherwise here than where the pictures were made")
        super().setUp()
        self.session.play(False)
        self.window.setFocus()
        QCursor.setPos(5, 1190)

    def assert_looks(self, name: str, found: QWidget | QImage) -> None:
        """Compare a widget, or a picture, with the one that was looked at."""
        if isinstance(found, QWidget):
            focus = QApplication.focusWidget()
            if focus is not None:
                focus.clearFocus()
            QApplication.processEvents()
            widget = found
            found = self.settled(lambda: widget.grab().toImage())
        self.assertTrue(self._is_alike(name, found), f"{name} looks otherwise; see {self._beside(name)}")

    def _beside(self, name: str) -> Path:
        return Path(os.environ.get("TMPDIR", "/tmp")) / f"pale-ember-{name}.png"

    def _is_alike(self, name: str, image: QImage) -> bool:
        file = FOLDER / f"{name}.png"
        if is_writing():
            plain = pixels(image).astype(np.uint8)[..., ::-1].copy()
            high, wide, _ = plain.shape
            whole = QImage(plain.tobytes(), wide, high, wide * 3, QImage.Format.Format_RGB888)
            whole.save(str(file))
            return True
        kept = pixels(QImage(str(file)))
        now = pixels(image)
        if kept.shape != now.shape:
            image.save(str(self._beside(name)))
            return False
        other = int((np.abs(kept - now).max(axis=2) > LEVELS).sum())
        if other > PIXELS:
            image.save(str(self._beside(name)))
        return other <= PIXELS

"""Pictures that are drawn anew only when what they show is another."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter, QPixmap


class CachedPixmap:
    """A picture, and the size, ratio and key that it was drawn for."""

    def __init__(self) -> None:
        self._picture = QPixmap()
        self._of: tuple[Any, ...] | None = None

    def picture(
        self, size: QSize, ratio: float, key: tuple[Any, ...], paint: Callable[[QPainter], None]
    ) -> QPixmap:
        """Return the picture, drawn by ``paint`` if size, ratio or key are not those of the last time.

        Parameters
        ----------
        size : QSize
            In the widget's own pixels; each has ``ratio`` times as many of the screen's, each way.
        key : tuple
            All that the picture depends on besides.
        """
        of = (size, ratio, *key)
        if of != self._of:
            self._picture, self._of = QPixmap(size * ratio), of
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            painter = QPainter(self._picture)
            paint(painter)
            painter.end()
        return self._picture

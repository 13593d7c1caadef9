"""Python's cycles of garbage, collected by the interface's thread alone.

Python looks for them in whichever thread happens to make the next object. What is found there, pictures,
fonts and painters among it, would be released by that thread while the interface draws with others of its
kind, which Qt doesn't allow.
"""

from __future__ import annotations

import gc
import time

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtWidgets import QApplication

TICK_MS = 100
# So many new objects, and so many looks at new ones, before the next look; what has been there for long is
# looked at so rarely, s.
YOUNG, LOOKS, FULL_S = 2000, 10, 60.0


class Tidying(QObject):
    """Collects while the application's events run; there is one for the whole process."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        gc.disable()
        # The program itself is there for good.
        gc.freeze()
        self._full = time.monotonic()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(TICK_MS)

    def _look(self) -> None:
        young, looks, _ = gc.get_count()
        # A whole look takes some tens of milliseconds, so none while something is dragged.
        if time.monotonic() - self._full > FULL_S and QApplication.mouseButtons() == Qt.MouseButton.NoButton:
            gc.collect(2)
            self._full = time.monotonic()
        elif looks > LOOKS:
            gc.collect(1)
        elif young > YOUNG:
            gc.collect(0)

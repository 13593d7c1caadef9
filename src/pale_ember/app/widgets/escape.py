"""Esc gives up a drag, wherever the keyboard's focus is."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication


class EscapeGuard(QObject):
    """Watches for Esc from :meth:`begin` to :meth:`end`, and takes it from everyone else meanwhile."""

    def __init__(self) -> None:
        super().__init__()
        self._cancel: Callable[[], None] | None = None

    @property
    def is_watching(self) -> bool:
        """Return whether something is underway that Esc would take back."""
        return self._cancel is not None

    def begin(self, cancel: Callable[[], None]) -> None:
        """Call ``cancel`` if Esc is pressed before the end."""
        app = QApplication.instance()
        if app is not None and self._cancel is None:
            app.installEventFilter(self)
        self._cancel = cancel

    def end(self) -> None:
        app = QApplication.instance()
        if app is not None and self._cancel is not None:
            app.removeEventFilter(self)
        self._cancel = None

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            if event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if event.type() == QEvent.Type.KeyPress and self._cancel is not None:
                cancel = self._cancel
                self.end()
                cancel()
                return True
        return False

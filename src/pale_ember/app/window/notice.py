"""A line under the top bar: what went wrong, or unsaved work that was found."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from ...files.autosave import Leftover
from ..widgets import theme
from ..widgets.controls import Button

# How long a sentence is shown; how often it is looked whether it may come or go, ms.
SHOWN_MS, LOOKS_MS = 9000, 200


class Notice(QWidget):
    """A line under the top bar: what went wrong, or work to bring back. It goes by itself, or when
    answered.

    Parameters
    ----------
    is_busy : callable
        Whether something is dragged: meanwhile the line neither comes nor goes by itself, for it would move
        everything below it under the hand.
    """

    restored = pyqtSignal(object)  # the Leftover that is wanted back
    given_up = pyqtSignal(object)

    def __init__(self, is_busy: Callable[[], bool]) -> None:
        super().__init__()
        self._is_busy = is_busy
        self.left: Leftover | None = None
        self.setStyleSheet(f"background: {theme.EMBER_DARK};")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 5, 10, 5)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setStyleSheet(f"color: {theme.BRIGHT};")
        row.addWidget(self.words, 1)
        self.restore = Button("Bring it back")
        self.restore.setToolTip("Open the unsaved work")
        self.restore.clicked.connect(self._restore)
        self.drop = Button("Throw it away")
        self.drop.setToolTip("Delete the unsaved work for good")
        self.drop.clicked.connect(self._give_up)
        self.close_button = Button("OK")
        self.close_button.setToolTip("Close this line")
        self.close_button.clicked.connect(self.hide)
        for button in (self.restore, self.drop, self.close_button):
            row.addWidget(button)
        self.timer = QTimer(self)
        self.timer.setSingleShot(True)
        self.timer.timeout.connect(self._time_out)
        # Looks whether what is dragged has come to its end, while the line waits for that.
        self._waits = QTimer(self)
        self._waits.setSingleShot(True)
        self._waits.timeout.connect(self._come)
        self.hide()

    def _restore(self) -> None:
        if self.left is not None:
            self.restored.emit(self.left)

    def _give_up(self) -> None:
        if self.left is not None:
            self.given_up.emit(self.left)

    def say(self, words: str) -> None:
        """Show a sentence for a while."""
        self.words.setText(words)
        self._buttons(offering=False)
        self.timer.start(SHOWN_MS)
        self._come()

    def _come(self) -> None:
        if not self._is_busy() or self.isVisible():
            self.show()
            return
        if self.timer.isActive():
            self.timer.start(SHOWN_MS)
        self._waits.start(LOOKS_MS)

    def offer(self, left: Leftover | None) -> None:
        """Offer unsaved work; None takes an offer back."""
        self.left = left
        if left is None:
            self._waits.stop()
            self.hide()
            return
        what = f"“{left.path.name}”" if left.path else "an effect that had no file yet"
        self.words.setText(
            f"Unsaved work on {what} was found, from "
            f"{time.strftime('%d %B, %H:%M', time.localtime(left.when))}."
        )
        self._buttons(offering=True)
        self.timer.stop()
        self._come()

    def _buttons(self, offering: bool) -> None:
        self.restore.setVisible(offering)
        self.drop.setVisible(offering)
        self.close_button.setVisible(not offering)

    def _time_out(self) -> None:
        if self._is_busy():
            self.timer.start(LOOKS_MS)
        elif self.left is not None:
            self.offer(self.left)
        else:
            self.hide()

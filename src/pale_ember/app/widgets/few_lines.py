"""Sentences that take few lines until one asks for all of them."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget

from . import theme
from .controls import Button

MOST_LINES = 4
_UNBOUND = 16_777_215


class FewLines(QWidget):
    """Rich text with links; where it is longer than a few lines, a button shows the rest.

    Attributes
    ----------
    opened : bool
        Whether all of it is shown.
    """

    linkActivated = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.setSpacing(0)
        self.label = QLabel()
        self.label.setWordWrap(True)
        self.label.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.label.setStyleSheet(f"color: {theme.DIM};")
        self.label.setTextFormat(Qt.TextFormat.RichText)
        self.label.setIndent(0)
        self.label.linkActivated.connect(self.linkActivated)
        # The fields themselves are what Tab leads to.
        self.label.setTextInteractionFlags(Qt.TextInteractionFlag.LinksAccessibleByMouse)
        self.label.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.more = Button()
        self.more.setFlat(True)
        self.more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.more.setCursor(Qt.CursorShape.PointingHandCursor)
        self.more.setStyleSheet(
            f"QPushButton {{ color: {theme.EMBER}; text-align: left; padding: 0; border: none; "
            f"background: transparent; }}"
        )
        self.more.clicked.connect(self._turn)
        self.opened = False
        column.addWidget(self.label)
        column.addWidget(self.more, 0, Qt.AlignmentFlag.AlignLeft)
        self._fit()

    def text(self) -> str:
        return self.label.text()

    def setText(self, text: str) -> None:
        if text != self.label.text():
            self.label.setText(text)
            self._fit()

    def _turn(self) -> None:
        self.opened = not self.opened
        self._fit()

    def _fit(self) -> None:
        """Show a few lines or all, and the button only where there are more."""
        line = self.label.fontMetrics().lineSpacing()
        room = self.width() - 24
        needed = self.label.heightForWidth(room) if room > 0 else 0
        # A line more would cost as much as the button does.
        long = needed > (MOST_LINES + 1) * line + 2
        self.label.setMaximumHeight(MOST_LINES * line + 1 if long and not self.opened else _UNBOUND)
        self.more.setVisible(long)
        self.more.setText("Less" if self.opened else "… all of it")
        self.more.setToolTip(
            "Show a few lines of it again" if self.opened else "Show all that the layer does"
        )
        # Lay out at once, so that widgets below move up when the text is shorter.
        column = self.layout()
        if column is not None and self.width() > 0:
            column.invalidate()
            wanted = column.heightForWidth(self.width())
            self.setFixedHeight(max(wanted, 1))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.FontChange:
            self._fit()

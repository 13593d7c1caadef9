"""A name that gives way: where there is no room for all of it, an ellipsis stands for the rest."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QLabel


class NameLabel(QLabel):
    """One line of plain text, cut by an ellipsis; its tooltip is the whole where something is cut.

    Attributes
    ----------
    whole : str
        All of the text.
    """

    def __init__(self) -> None:
        super().__init__()
        self.whole = ""
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setIndent(0)

    def show_name(self, name: str) -> None:
        """Show a name, on one line."""
        self.whole = " ".join(name.split())
        self._fit()

    def minimumSizeHint(self) -> QSize:
        return QSize(20, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        # Padding of a style sheet is no margin: what is between the hint and the text counts as well.
        around = max(super().minimumSizeHint().width() - self.fontMetrics().horizontalAdvance(self.text()), 0)
        shown = self.fontMetrics().elidedText(
            self.whole, Qt.TextElideMode.ElideRight, max(self.width() - around, 0)
        )
        if shown != self.text():
            self.setText(shown)
        self.setToolTip(self.whole if shown != self.whole else "")

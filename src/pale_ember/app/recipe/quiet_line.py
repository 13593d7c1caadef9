"""What a group of fields could do besides, as one quiet line of words; each opens its field."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from ..widgets import theme
from ..widgets.controls import OWN, is_own_key

LEFT, GAP, HIGH, TEXT_LEFT = 18, 14, 20, 100


class QuietLine(QWidget):
    """Words in a row, wrapped where there is no room. Left and right choose one, Enter or Space opens it."""

    opened = pyqtSignal(str)

    def __init__(self, title: str) -> None:
        super().__init__()
        self.title = title
        self.words: list[tuple[str, str, str]] = []
        self._chosen, self._under = 0, -1
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._headed = False
        self.setFixedHeight(HIGH)

    def show_words(self, words: list[tuple[str, str, str]], headed: bool) -> None:
        """Show words for fields: path, label and help of each; ``headed`` where the title stands above
        already.
        """
        self.setVisible(bool(words))
        if words != self.words or headed != self._headed:
            self.words, self._headed = words, headed
            self._chosen = min(self._chosen, max(len(words) - 1, 0))
            self.setAccessibleName(f"More of {self.title}: {', '.join(label for _, label, _ in words)}")
            self._fit()
            self.update()

    def boxes(self) -> list[QRectF]:
        """Return the place of each word."""
        metrics = self.fontMetrics()
        x, y, found = float(TEXT_LEFT), 0.0, []
        for _, label, _ in self.words:
            wide = metrics.horizontalAdvance(label) + 2.0
            if x > TEXT_LEFT and x + wide > self.width() - 4:
                x, y = float(TEXT_LEFT), y + HIGH
            found.append(QRectF(x, y, wide, HIGH))
            x += wide + GAP
        return found

    def _fit(self) -> None:
        """Take the height that the words need."""
        boxes = self.boxes()
        self.setFixedHeight(int(boxes[-1].bottom()) + 2 if boxes else HIGH)

    def sizeHint(self) -> QSize:
        return QSize(200, self.height())

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self._fit()

    def _at(self, at: QPointF) -> int:
        return next(
            (i for i, box in enumerate(self.boxes()) if box.adjusted(-GAP / 2, 0, GAP / 2, 0).contains(at)),
            -1,
        )

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._under = self._at(event.position())
        self.update()

    def leaveEvent(self, event: Any) -> None:
        self._under = -1
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = self._at(event.position())
        if at >= 0 and event.button() == Qt.MouseButton.LeftButton:
            self.opened.emit(self.words[at][0])

    def event(self, event: QEvent | None) -> bool:
        """Show the help of the word under the pointer, and keep the keys that choose words."""
        if is_own_key(event) and event is not None:
            event.accept()
            return True
        if isinstance(event, QHelpEvent):
            at = self._at(QPointF(event.pos()))
            if at >= 0:
                QToolTip.showText(event.globalPos(), f"{self.words[at][1]}: {self.words[at][2]}", self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if by and self.words:
            self._chosen = (self._chosen + by) % len(self.words)
            self.update()
        elif event.key() in OWN and self.words:
            self.opened.emit(self.words[self._chosen][0])
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        self.update()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setFont(self.font())
        if not self._headed:
            painter.setPen(theme.color(theme.DIM))
            title = painter.fontMetrics().elidedText(
                self.title.capitalize(), Qt.TextElideMode.ElideRight, TEXT_LEFT - LEFT - 6
            )
            painter.drawText(QRectF(LEFT, 0, TEXT_LEFT - LEFT, HIGH), Qt.AlignmentFlag.AlignVCenter, title)
        for i, (box, (_, label, _)) in enumerate(zip(self.boxes(), self.words, strict=True)):
            here = self.hasFocus() and i == self._chosen
            lit = here or i == self._under
            painter.setPen(theme.color(theme.EMBER if here else theme.BRIGHT if lit else theme.DIM))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, label)
            painter.setPen(QPen(theme.color(theme.EMBER if here else theme.ASH_4), 1))
            painter.drawLine(
                QPointF(box.left(), box.bottom() - 3), QPointF(box.right() - 2, box.bottom() - 3)
            )
        painter.end()

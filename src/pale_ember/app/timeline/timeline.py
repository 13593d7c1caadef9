"""The timeline: a ruler over the lanes of the layers, with a view of time that can be zoomed."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from ..session.session import Session
from ..stage.thumbnails import Thumbnails
from ..widgets import theme
from .layer_rows import LayerRows
from .rows import LANE
from .time_view import HEAD, TimeView

RULER = 24
TICKS = (0.01, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60, 300, 900)


class Timeline(QWidget):
    """The ruler over a scrolling column of lanes."""

    def __init__(self, session: Session, thumbnails: Thumbnails) -> None:
        super().__init__()
        self.setAccessibleName("Timeline")
        self.view = TimeView(session)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.ruler = Ruler(session, self.view)
        self.rows = LayerRows(session, self.view, thumbnails)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.rows)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        column.addWidget(self.ruler)
        column.addWidget(scroll, 1)
        self.setMinimumSize(HEAD + 100, RULER + 2 * LANE)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Zoom with Ctrl, move along time with Shift or a sideways wheel."""
        assert event is not None
        wheel, keys = event.angleDelta(), event.modifiers()
        if keys & Qt.KeyboardModifier.ControlModifier:
            time = self.view.time_of(event.position().x(), self.rows.width())
            self.view.zoom_at(1.2 ** (wheel.y() / 120.0), time)
        elif wheel.x() or keys & Qt.KeyboardModifier.ShiftModifier:
            self.view.scroll(-(wheel.x() or wheel.y()) / 120.0 * self.view.span * 0.1)
        else:
            super().wheelEvent(event)

    def zoom(self, factor: float) -> None:
        """Zoom about the playhead."""
        session = self.view.session
        self.view.zoom_at(factor, min(session.phase, session.effect.duration))


class Ruler(QWidget):
    """Seconds, and the playhead to scrub."""

    def __init__(self, session: Session, view: TimeView) -> None:
        super().__init__()
        self.session, self.view = session, view
        self.setFixedHeight(RULER)
        self.setToolTip("Click or drag to scrub; Ctrl and the wheel zoom")
        self._scrubbing = False
        for signal in (session.clock_changed, session.effect_changed, view.changed):
            signal.connect(self._again)

    def _again(self) -> None:
        # A drag in the life strip moves nothing here.
        if not self.session.hasty:
            self.update()

    def x_of(self, time: float) -> float:
        return self.view.x_of(time, self.width())

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        room = (self.x_of(1.0) - self.x_of(0.0)) or 1.0
        step = next((s for s in TICKS if s * room >= 44), 900.0)
        painter.setFont(theme.font(11))
        first = int(self.view.start / step + 1 - 1e-6)
        for i in range(first, int((self.view.start + self.view.span) / step + 1e-9) + 1):
            x = self.x_of(i * step)
            painter.setPen(QPen(theme.color(theme.ASH_4)))
            painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER))
            painter.setPen(theme.color(theme.DIM))
            if x + 30 < self.width():
                painter.drawText(QPointF(x + 3, RULER - 8), f"{i * step:g} s")
        x = self.x_of(min(self.session.phase, self.session.effect.duration))
        if x >= HEAD - 1:
            painter.setBrush(theme.color(theme.EMBER))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(
                QPolygonF([QPointF(x - 5, RULER - 9), QPointF(x + 5, RULER - 9), QPointF(x, RULER)])
            )
        painter.end()

    def _seek(self, x: float) -> None:
        effect = self.session.effect
        # A hair before the end: the end itself is the next loop's start.
        self.session.seek(min(self.view.time_of(x, self.width()), effect.duration - 0.5 / effect.step_rate))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() >= HEAD - 4:
            self._scrubbing = True
            self.session.play(False)
            self._seek(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._scrubbing:
            self._seek(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._scrubbing = False

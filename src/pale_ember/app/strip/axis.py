"""The axis over all lanes: shares and seconds of life, of the clock, or of speed; and the held keys' span."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QWidget

from ...effect.values.values import Fixed, Spread
from ..widgets import theme
from ..widgets.along_axis import HEAD, RIGHT, AlongAxis
from ..widgets.arithmetic import shown
from ..widgets.cached import CachedPixmap
from .host import Host

HIGH = 32


class Axis(QWidget, AlongAxis):
    """Drag on it to move the cursor; drag the ends of the held keys' span to stretch them."""

    def __init__(self, strip: Host) -> None:
        super().__init__()
        self.strip, self.session = strip, strip.session
        self._drag: tuple[str, float, float] | None = None
        self._kept = CachedPixmap()
        self.setFixedHeight(HIGH)
        self.setMouseTracking(True)
        self.setAccessibleName("Axis")
        self.setToolTip("Drag to move the cursor. Drag an end of the bracket over held keys to stretch them.")

    @property
    def plot(self) -> QRectF:
        return QRectF(HEAD, 0, max(self.width() - HEAD - RIGHT - self.strip.bar_room, 10), HIGH)

    def span(self) -> tuple[float, float] | None:
        """Return the first and last age of the held keys, if they are apart."""
        ages = [point.x for _, point in self.strip.selection.points()]
        return (min(ages), max(ages)) if len(ages) > 1 and max(ages) - min(ages) > 1e-3 else None

    def handle_at(self, at: QPointF) -> str:
        """Return which end of the span is at a place: ``left``, ``right`` or none."""
        span = self.span()
        if span is not None and at.y() > HIGH - 12:
            for name, share in (("right", span[1]), ("left", span[0])):
                if abs(self.x_of(share) - at.x()) <= 7:
                    return name
        return ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        handle, span = self.handle_at(event.position()), self.span()
        if handle and span is not None:
            still, moving = (span[0], span[1]) if handle == "right" else (span[1], span[0])
            self._drag = (handle, still, moving)
            self.strip.selection.begin()
        else:
            self._drag = ("cursor", 0.0, 0.0)
            self.session.pin_cursor(self.share_of(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        share = self.share_of(event.position().x())
        if self._drag is None:
            over = self.handle_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        what, still, moving = self._drag
        if what == "cursor":
            self.session.pin_cursor(share)
        else:
            self.strip.selection.stretch(still, max((share - still) / (moving - still), 0.01))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag[0] != "cursor":
            self.strip.selection.end()

    def leaveEvent(self, event: QEvent | None) -> None:
        self.setCursor(Qt.CursorShape.ArrowCursor)
        self.session.point_at(None)

    def second_row(self, share: float) -> str:
        """Return what a share of the axis is in seconds, metres a second, or frames."""
        layer = self.session.layer
        if layer is None:
            return ""
        if self.strip.axis_name == "speed":
            return f"{shown(share * layer.flight.speed_range, 2, 2)} m/s"
        if self.strip.axis_name == "clock":
            begin, length = layer.window.span(self.session.effect.duration)
            return f"{shown(begin + share * length, 2, 2)} s"
        life = self.strip.lifetime
        if life is not None:
            return f"{shown(share * life, 2, 2)} s"
        value = layer.launch.lifetime
        if isinstance(value, Fixed):
            return f"{shown(share * value.number, 2, 2)} s"
        if isinstance(value, Spread):
            return f"{shown(share * value.low, 1, 1)}–{shown(share * value.high, 1, 1)} s"
        return ""

    def _ticks(self) -> QPixmap:
        """Return the axis without what moves over it, drawn anew only when it says something else."""
        layer = self.session.layer
        timed = None if layer is None else (layer.launch.lifetime, layer.window, layer.flight.speed_range)
        duration = self.session.effect.duration
        key = (
            self.plot.width(),
            self.strip.axis_name,
            self.strip.lifetime,
            timed,
            duration,
            self.second_row(1.0),
        )
        return self._kept.picture(self.size(), self.devicePixelRatioF(), key, self._paint_ticks)

    def _paint_ticks(self, painter: QPainter) -> None:
        """Draw the shares and, under them, the seconds or metres per second."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        painter.setFont(theme.font(11))
        metrics = painter.fontMetrics()
        ends = {
            "life": ("birth", "death"),
            "clock": ("begin", "end"),
            "speed": ("at rest", "fastest"),
            "frames": ("first", "last"),
        }
        first, last = ends[self.strip.axis_name]
        steps = 5 if self.plot.width() < 700 else 10
        taken: tuple[list[tuple[float, float]], ...] = ([], [])
        # The ends first: what has no room beside them is left out.
        for i in (0, steps, *range(1, steps)):
            share, x = i / steps, self.x_of(i / steps)
            for row, words in (
                (0, {0: first, steps: last}.get(i, f"{share:g}")),
                (1, self.second_row(share)),
            ):
                wide = metrics.horizontalAdvance(words)
                left = min(max(x - wide / 2, HEAD + 3), self.plot.right() + RIGHT - wide - 2)
                if any(left < right + 4 and left + wide + 4 > begin for begin, right in taken[row]):
                    continue
                taken[row].append((left, left + wide))
                painter.setPen(theme.color(theme.TEXT if row == 0 else theme.DIM))
                painter.drawText(QPointF(left, 12.0 + 13.0 * row), words)
            painter.setPen(QPen(theme.color(theme.ASH_4)))
            painter.drawLine(QPointF(x, HIGH - 4), QPointF(x, HIGH))

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._ticks())
        painter.setFont(theme.font(11))
        self._paint_cursor(painter)
        span = self.span()
        if span is not None:
            painter.setPen(QPen(theme.color(theme.BRIGHT), 1.4))
            a, b = self.x_of(span[0]), self.x_of(span[1])
            painter.drawLine(QPointF(a, HIGH - 2.5), QPointF(b, HIGH - 2.5))
            painter.setBrush(theme.color(theme.BRIGHT))
            for x in (a, b):
                # Below the figures, which it must not hide.
                painter.drawRect(QRectF(x - 2.5, HIGH - 4.5, 5, 4))
        painter.end()

    def _paint_cursor(self, painter: QPainter) -> None:
        """Draw the cursor, and where it stands in words."""
        share = self.session.cursor
        x, words = self.x_of(share), f"{share:.2f}"
        second = self.second_row(share)
        words = f"{words} · {second}" if second else words
        words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, HEAD - 14)
        # In the head's room at the left: over the ticks it would hide them.
        painter.setPen(theme.color(theme.EMBER))
        painter.drawText(QRectF(10, 0, HEAD - 14, 14), Qt.AlignmentFlag.AlignLeft, words)
        painter.setPen(theme.color(theme.DIM))
        name = {"life": "Age", "clock": "Clock", "speed": "Speed", "frames": "Frame"}[self.strip.axis_name]
        painter.drawText(QRectF(10, 15, HEAD - 14, 14), Qt.AlignmentFlag.AlignLeft, name)
        painter.setPen(QPen(theme.color(theme.EMBER), 1.0))
        painter.drawLine(QPointF(x, HIGH - 6), QPointF(x, HIGH))

"""A lane of one colour: its gradient, or the two of a band, with stops to drag."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QMenu

from ..effect.colors import ColorValue, Gradient, GradientBand, Stop
from ..effect.forms import color_at, to_color_form
from . import theme
from .curve_paint import color_sides, paint_gradient, paint_stops
from .lane import GRAB, Lane
from .swatch import pick_color


class ColorLane(Lane):
    """A colour's gradient, or the two of a band, with stops to drag."""

    def points(self, side: int) -> list[Stop]:
        sides = color_sides(self.value)
        return list(sides[side]) if side < len(sides) else []

    def bar(self, side: int) -> QRectF:
        count = max(len(color_sides(self.value)), 1)
        high = self.plot.height() / count
        return QRectF(self.plot.left(), self.plot.top() + side * high, self.plot.width(), high - 9)

    def _with_side(self, stops: tuple[Stop, ...], side: int) -> ColorValue:
        value = self.value
        if isinstance(value, GradientBand):
            ends = (stops, value.high) if side == 0 else (value.low, stops)
            return GradientBand(*ends, value.along)
        return Gradient(stops, value.along)

    def _stop_at(self, at: QPointF) -> tuple[int, int] | None:
        for side in range(len(color_sides(self.value))):
            bar = self.bar(side)
            for i, stop in enumerate(self.points(side)):
                if abs(self.x_of(stop.x) - at.x()) <= GRAB and bar.bottom() - 4 <= at.y() <= bar.bottom() + 11:
                    return side, i
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        self.begin_stroke()
        found = self._stop_at(at)
        if found is not None:
            self.select_key(*found)
            return
        if self.plot.contains(at):
            count = max(len(color_sides(self.value)), 1)
            self.side = min(int((at.y() - self.plot.top()) / self.plot.height() * count), count - 1)
            self.add_at(self.share_of(at.x()))

    def add_at(self, x: float) -> None:
        """Add a stop that leaves the gradient as it looks; a plain colour first becomes a gradient."""
        value = self.value
        if not color_sides(value):
            value = to_color_form(value, "curve", self.rule.along[0])
            self.give(value, "Stop")
        side = min(self.side, len(color_sides(value)) - 1)
        stops = list(color_sides(value)[side])
        new = Stop(round(x, 4), color_at(tuple(stops), x))
        index = sum(stop.x <= new.x for stop in stops)
        stops.insert(index, new)
        self.give(self._with_side(tuple(stops), side), "Stop")
        self.select_key(side, index)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._stroke and self.key >= 0:
            self.move_key(self.share_of(event.position().x()))

    def move_key(self, x: float, color: str | None = None) -> None:
        """Move the selected stop between its neighbours, or give it another colour."""
        stops = self.points(self.side)
        if not 0 <= self.key < len(stops):
            return
        left = stops[self.key - 1].x if self.key > 0 else 0.0
        right = stops[self.key + 1].x if self.key + 1 < len(stops) else 1.0
        old = stops[self.key]
        stops[self.key] = Stop(round(min(max(x, left), right), 4), color or old.color)
        self.give(self._with_side(tuple(stops), self.side), "Move stop" if color is None else "Colour")
        self.picked.emit(self)

    def nudge(self, right: float, up: float) -> None:
        self.move_key(self.points(self.side)[self.key].x + right)

    def remove_key(self) -> None:
        stops = self.points(self.side)
        if len(stops) > 1 and 0 <= self.key < len(stops):
            del stops[self.key]
            self.give(self._with_side(tuple(stops), self.side), "Delete stop")
            self.select_key(self.side, -1)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        found = self._stop_at(event.position())
        if found is not None:
            self.select_key(*found)
            self.pick()

    def pick(self) -> None:
        """Open the colour picker for the selected stop."""
        stops = self.points(self.side)
        if not 0 <= self.key < len(stops):
            return
        side, index = self.side, self.key

        def give(color: str, merge: str) -> None:
            self.side, self.key, self._stroke = side, index, merge
            self.move_key(self.points(side)[index].x, color)
            self._stroke = ""

        pick_color(self, stops[index].color, give)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        found = self._stop_at(QPointF(event.pos()))
        if found is None:
            return
        self.select_key(*found)
        menu = QMenu(self)
        menu.addAction("Colour …", self.pick)
        gone = menu.addAction("Delete stop", self.remove_key)
        assert gone is not None
        gone.setEnabled(len(self.points(self.side)) > 1)
        menu.exec(event.globalPos())

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        if self.hasFocus():
            painter.fillRect(QRectF(0, 4, 2, self.height() - 8), theme.color(theme.EMBER))
        self.paint_head(painter, "", "")
        sides = color_sides(self.value)
        if not sides:
            paint_gradient(painter, self.bar(0), self.value)
        for side, stops in enumerate(sides):
            bar = self.bar(side)
            paint_stops(painter, bar, stops)
            for i, stop in enumerate(stops):
                chosen = self.hasFocus() and (side, i) == (self.side, self.key)
                x = self.x_of(stop.x)
                painter.setPen(QPen(theme.color(theme.BRIGHT if chosen else theme.DIM), 2.0 if chosen else 1.2))
                painter.setBrush(QColor(stop.color))
                low = bar.bottom()
                triangle = [QPointF(x, low - 1), QPointF(x + 5.5, low + 8), QPointF(x - 5.5, low + 8)]
                painter.drawPolygon(QPolygonF(triangle))
        painter.end()

"""A lane of one colour: its gradient, or the two of a band, with stops to drag."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ...effect.values.colors import Flat, OneOf, Stop, evaluate_stops, linear_to_hex
from ...effect.values.forms import color_at, sides_of, to_color_form
from ..widgets import theme
from ..widgets.along_axis import HEAD
from ..widgets.curve_paint import paint_gradient, paint_stops
from .key_selection import Held
from .lane import Lane
from .tracks import with_points


class ColorLane(Lane):
    """A colour's gradient, or the two of a band."""

    def bar(self, side: int) -> QRectF:
        count = max(len(sides_of(self.value)), 1)
        high = self.plot.height() / count
        room = 0 if self.folded else 9
        return QRectF(self.plot.left(), self.plot.top() + side * high, self.plot.width(), max(high - room, 3))

    def place_of(self, held: Held) -> QPointF:
        stop = sides_of(self.value)[held[1]][held[2]]
        return QPointF(self.x_of(stop.x), self.bar(held[1]).bottom() + 4)

    def add_at(self, x: float, near: QPointF | None = None) -> bool:
        """Add a stop that leaves the gradient as it looks; a plain colour first becomes a gradient."""
        value = self.value
        if not sides_of(value):
            value = to_color_form(
                value, "curve" if isinstance(value, Flat | OneOf) else "band", self.strip.axis_name
            )
        count = len(sides_of(value))
        side = self.selection.main[1] if self.selection.main is not None and near is None else 0
        if near is not None:
            side = min(int((near.y() - self.plot.top()) / self.plot.height() * count), count - 1)
        side = min(side, count - 1)
        stops = list(sides_of(value)[side])
        there = self.index_at(stops, x)
        if there >= 0 and value is self.value:
            self.selection.take((self.path, side, there))
            return True
        new = Stop(round(x, 4), color_at(tuple(stops), x))
        index = sum(stop.x <= new.x for stop in stops)
        stops.insert(index, new)
        edits = [(self.path, with_points(value, side, stops))]
        self.session.edit_chosen(edits, f"Stop of {self.rule.label.lower()}", self.selection.stroke)
        self.selection.take((self.path, side, index))
        return True

    def open_key(self, held: Held) -> None:
        """Open the colour picker for the held stops."""
        self.strip.pick_stops()

    def reading(self) -> str:
        sides = sides_of(self.value)
        if not sides:
            if isinstance(self.value, OneOf):
                return f"one of {len(self.value.colors)}"
            return str(getattr(self.value, "color", "a spread"))
        return " · ".join(linear_to_hex(evaluate_stops(stops, [self.session.cursor])[0]) for stops in sides)

    def paint_lines(self, painter: QPainter) -> None:
        """Draw the gradients with their stops."""
        # The frame's grid is not for colours.
        painter.fillRect(self.plot.adjusted(-1, -1, 1, 1), theme.color(theme.ASH_1))
        sides = sides_of(self.value)
        if not sides:
            paint_gradient(painter, self.bar(0), self.value)
        for side, stops in enumerate(sides):
            bar = self.bar(side)
            paint_stops(painter, bar, stops)
            for i, stop in enumerate(stops) if not self.folded else ():
                chosen = (self.path, side, i) in self.selection.held
                x, low = self.x_of(stop.x), bar.bottom()
                painter.setPen(
                    QPen(theme.color(theme.BRIGHT if chosen else theme.DIM), 2.0 if chosen else 1.2)
                )
                painter.setBrush(QColor(stop.color))
                triangle = [QPointF(x, low - 1), QPointF(x + 5.5, low + 8), QPointF(x - 5.5, low + 8)]
                painter.drawPolygon(QPolygonF(triangle))

    def paint_moving(self, painter: QPainter) -> None:
        super().paint_moving(painter)
        if self.folded or not sides_of(self.value):
            return
        # The colour under the cursor, large enough to be judged.
        for side, stops in enumerate(sides_of(self.value)):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(linear_to_hex(evaluate_stops(stops, [self.session.cursor])[0])))
            painter.drawRoundedRect(QRectF(HEAD - 17 - 13 * side, 7, 11, 11), 2, 2)

"""Where everything stands in the rows of the timeline, and what is at a place."""

from __future__ import annotations

from typing import Any, NamedTuple

from PyQt6.QtCore import QPointF, QRectF

from ...effect.effect import Layer
from ..session.session import Session
from ..stage.thumbnails import SIZE
from .rows import LANE, Row, burst_moments, rows_of
from .time_view import HEAD, TimeView

EDGE = 6
PIP = 4.5


class Spot(NamedTuple):
    """What is at a place: a row and a part of it; of a burst its number and turn."""

    row: Row | None
    part: str = ""
    burst: int = -1
    turn: int = 0


class Geometry:
    """The places of heads, switches, window bars and bursts; ``width`` is that of the rows."""

    def __init__(self, session: Session, view: TimeView) -> None:
        self.session, self.view = session, view
        self.width = HEAD + 120
        self._rows: tuple[Any, list[Row]] = (None, [])

    @property
    def rows(self) -> list[Row]:
        key = (self.session.effect.layers, frozenset(self.session.folded))
        if self._rows[0] is None or self._rows[0][0] is not key[0] or self._rows[0][1] != key[1]:
            self._rows = (key, rows_of(self.session.effect, self.session.folded))
        return self._rows[1]

    @property
    def height(self) -> int:
        rows = self.rows
        return (rows[-1].top + rows[-1].height if rows else LANE) + 4

    def row_of(self, index: int) -> Row:
        """Return the row of a layer; where its group is folded, the group's."""
        last = None
        for row in self.rows:
            if row.first == index and not row.is_group:
                return row
            if row.is_group and row.first <= index:
                last = row
        assert last is not None
        return last

    def x_of(self, time: float) -> float:
        return self.view.x_of(time, self.width)

    def time_of(self, x: float) -> float:
        return self.view.time_of(x, self.width)

    @property
    def per_second(self) -> float:
        """Return how many pixels a second is wide."""
        return self.x_of(1.0) - self.x_of(0.0)

    def switch_box(self, index: int, which: str) -> QRectF:
        """Return the place of a layer's switch: ``alone`` or ``eye``."""
        return self.switch_of(self.row_of(index), which)

    def switch_of(self, row: Row, which: str) -> QRectF:
        left = HEAD - (44 if which == "alone" else 24)
        return QRectF(left, row.top + (row.height - 16) / 2, 16, 16)

    def picture_box(self, row: Row) -> QRectF:
        return QRectF(15 if row.inside else 7, row.top + (row.height - SIZE[1]) / 2, *SIZE)

    def name_box(self, index: int) -> QRectF:
        row = self.row_of(index)
        left = self.picture_box(row).right() + 7
        return QRectF(left, row.top + 4, HEAD - left - 50, row.height - 8)

    def window_ends(self, layer: Layer) -> tuple[float, float]:
        begin, length = layer.window.span(self.view.duration)
        return begin, begin + length

    def bar_box(self, index: int) -> QRectF:
        """Return the place of a layer's window bar."""
        return self.bar_of(self.row_of(index), self.session.effect.layers[index])

    def bar_of(self, row: Row, layer: Layer) -> QRectF:
        left, right = (self.x_of(end) for end in self.window_ends(layer))
        return QRectF(left, row.top + 4, max(right - left, 3), row.height - 8)

    def pip_at(self, index: int, burst: int, turn: int = 0) -> QPointF:
        """Return the place of a burst's pip."""
        layer = self.session.effect.layers[index]
        one = layer.emit.bursts[burst]
        time = layer.window.begin + one.at + turn * one.every
        return QPointF(self.x_of(time), self.bar_box(index).center().y())

    def gap_at(self, y: float) -> int:
        """Return before which layer something dropped at a height would go."""
        for row in self.rows:
            if not row.is_group and y < row.top + row.height / 2:
                return row.first
        return len(self.session.effect.layers)

    def spot_at(self, at: QPointF) -> Spot:
        """Return what is at a place."""
        row = next((row for row in self.rows if row.top <= at.y() < row.top + row.height), None)
        if row is None:
            return Spot(None)
        for which in ("alone", "eye"):
            if self.switch_of(row, which).adjusted(-3, -6, 3, 6).contains(at):
                return Spot(row, which)
        if at.x() < HEAD - PIP:
            return Spot(row, "head")
        if row.is_group:
            return Spot(row, "body")
        layer = self.session.effect.layers[row.first]
        near = [
            (abs(at.x() - self.x_of(moment)), burst, turn)
            for burst, turn, moment, _ in burst_moments(layer, self.view.duration)
        ]
        if near and min(near)[0] <= PIP + 1 and abs(at.y() - row.top - row.height / 2) <= 8:
            return Spot(row, "pip", *min(near)[1:])
        bar = self.bar_of(row, layer)
        if abs(at.x() - bar.left()) <= EDGE:
            return Spot(row, "begin")
        if abs(at.x() - bar.right()) <= EDGE:
            return Spot(row, "end")
        return Spot(row, "bar" if bar.contains(at) else "body")

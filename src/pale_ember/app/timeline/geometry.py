"""Where everything stands in the rows of the timeline, and what is at a place."""

from __future__ import annotations

from typing import Any, NamedTuple

from PyQt6.QtCore import QPointF, QRectF

from ...effect.effect import Layer
from ...effect.kinds import When
from ..session.session import Session
from ..stage.thumbnails import SIZE
from .rows import LANE, Row, burst_moments, rows_of
from .time_view import HEAD, TimeView

EDGE = 6
PIP = 4.5
# A port's width and the space behind it; how far a follow-up's lane stands in.
PORT, INDENT = 16, 9
PORTS = (When.BIRTH, When.ALIVE, When.HIT, When.DEATH)


# Parts that act when the mouse is released, as a button does.
SWITCHES = ("alone", "eye", "mend")


class Pressed(NamedTuple):
    """Whose lane is pressed, where, and which part of it."""

    layer_id: str
    at: QPointF
    part: str


class Spot(NamedTuple):
    """What is at a place: a row and a part of it; of a burst its number and turn, of a port its event."""

    row: Row | None
    part: str = ""
    burst: int = -1
    turn: int = 0
    when: When | None = None


class Geometry:
    """The places of heads, switches, window bars and bursts; ``width`` is that of the rows."""

    def __init__(self, session: Session, view: TimeView) -> None:
        self.session, self.view = session, view
        self.width = HEAD + 120
        self._rows: tuple[Any, list[Row]] = (None, [])

    @property
    def rows(self) -> list[Row]:
        key = (self.session.effect.layers, frozenset(self.session.layers.folded))
        if self._rows[0] is None or self._rows[0][0] is not key[0] or self._rows[0][1] != key[1]:
            self._rows = (key, rows_of(self.session.effect, self.session.layers.folded))
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
        return QRectF(7 + 8 * row.inside + INDENT * row.depth, row.top + (row.height - SIZE[1]) / 2, *SIZE)

    def name_box(self, index: int) -> QRectF:
        row = self.row_of(index)
        left = self.picture_box(row).right() + 7
        return QRectF(left, row.top + 3, HEAD - left - 50, row.height - 19)

    def port_box(self, row: Row, when: When) -> QRectF:
        """Return the place of one of a lane's ports, below its name."""
        left = self.picture_box(row).right() + 5
        return QRectF(left + PORT * tuple(PORTS).index(when), row.top + row.height - 15, PORT - 3, PORT - 3)

    def thread_box(self, row: Row) -> QRectF:
        """Return the place of what a follow-up's thread says, on its lane."""
        return QRectF(HEAD + 3, row.top + (row.height - 17) / 2, 74, 17)

    def mend_box(self, row: Row) -> QRectF:
        """Return the place of the mend of a thread that can't work."""
        return QRectF(self.width - 18 - 44, row.top + (row.height - 17) / 2, 44, 17)

    def row_at(self, y: float) -> Row | None:
        """Return the row at a height."""
        return next((row for row in self.rows if row.top <= y < row.top + row.height), None)

    def row_of_layer(self, layer_id: str) -> Row | None:
        """Return the row of a layer by its id; that of its group where that is folded."""
        at = self.session.effect.index(layer_id)
        return self.row_of(at) if at >= 0 else None

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
        row = self.row_at(at.y())
        if row is None:
            return Spot(None)
        for which in ("alone", "eye"):
            if self.switch_of(row, which).adjusted(-3, -6, 3, 6).contains(at):
                return Spot(row, which)
        if at.x() < HEAD - PIP:
            for when in () if row.is_group else PORTS:
                if self.port_box(row, when).adjusted(-1, -1, 2, 2).contains(at):
                    return Spot(row, "port", when=when)
            return Spot(row, "head")
        if row.is_group:
            return Spot(row, "body")
        layer = self.session.effect.layers[row.first]
        if layer.origin.parent:
            trouble = self.session.links.trouble_of(layer)
            if trouble is not None and trouble.mend and self.mend_box(row).contains(at):
                return Spot(row, "mend")
            if self.thread_box(row).contains(at):
                return Spot(row, "thread", when=layer.origin.when)
        near = [
            (abs(at.x() - self.x_of(moment)), burst, turn)
            for burst, turn, moment, _ in burst_moments(layer, self.view.duration)
            if not layer.origin.parent
        ]
        if near and min(near)[0] <= PIP + 1 and abs(at.y() - row.top - row.height / 2) <= 8:
            return Spot(row, "pip", *min(near)[1:])
        bar = self.bar_of(row, layer)
        if abs(at.x() - bar.left()) <= EDGE:
            return Spot(row, "begin")
        if abs(at.x() - bar.right()) <= EDGE:
            return Spot(row, "end")
        return Spot(row, "bar" if bar.contains(at) else "body")

"""Dragging windows and bursts along the time, with snapping to what stands there."""

from __future__ import annotations

import itertools
from typing import TYPE_CHECKING, Any

from ...effect.effect import Layer
from .rows import burst_moments

if TYPE_CHECKING:
    from .layer_rows import LayerRows

NEAR = 6.0
FROM = 3.0
_drags = itertools.count(1)


class Drag:
    """One drag of a part of a lane: ``bar``, ``begin``, ``end`` or ``pip``.

    Attributes
    ----------
    snapped : float or None
        The moment that it has snapped to, s.
    moved : bool
        Whether it went far enough to be a drag at all.
    """

    def __init__(self, lanes: LayerRows, layer: Layer, part: str, burst: int, turn: int, x: float) -> None:
        self.lanes, self.session = lanes, lanes.session
        self.layer, self.part, self.burst, self.turn = layer, part, burst, turn
        self._start = x
        self.moved = False
        self.snapped: float | None = None
        self._merge = f"lane {next(_drags)}"
        effect = self.session.effect
        chosen = self.session.chosen if part == "bar" else [layer.id]
        self._layers = [effect.layer(layer_id) for layer_id in chosen]
        self._marks = self._moments()

    def _moments(self) -> list[float]:
        """Return the moments that others stand at, in the loop."""
        effect = self.session.effect
        moving = {layer.id for layer in self._layers}
        found = [0.0, effect.duration, min(self.session.phase, effect.duration)]
        for layer in effect.layers:
            begin, length = layer.window.span(effect.duration)
            if layer.id not in moving:
                found += [begin, begin + length]
            if layer.id not in moving or self.part in ("begin", "end"):
                found += [moment for _, _, moment, _ in burst_moments(layer, effect.duration)]
        if self.part == "pip":
            begin, length = self.layer.window.span(effect.duration)
            found += [begin, begin + length]
        return found

    def move(self, x: float, exact: bool) -> None:
        """Go to a pixel; ``exact`` leaves out snapping."""
        if not self.moved and abs(x - self._start) < FROM:
            return
        self.moved = True
        view, width = self.lanes.view, self.lanes.width()
        by = (x - self._start) / (view.x_of(1.0, width) - view.x_of(0.0, width))
        if self.part == "pip":
            self._move_pip(by, exact)
        elif self.part == "bar":
            self._move_windows(by, exact)
        else:
            self._move_end(by, exact)

    def _snap(self, time: float, exact: bool, also: tuple[float, ...] = ()) -> float:
        """Return a moment near one: another's mark, or a round number; ``also`` are moved along with it."""
        self.snapped = None
        if exact:
            return round(time, 3)
        view, width = self.lanes.view, self.lanes.width()
        reach = NEAR / (view.x_of(1.0, width) - view.x_of(0.0, width))
        near = [(abs(mark - time - gap), mark, gap) for mark in self._marks for gap in (0.0, *also)]
        far, mark, gap = min(near)
        if far <= reach:
            self.snapped = mark
            return round(mark - gap, 4)
        grid = next(step for step in (0.001, 0.005, 0.01, 0.05, 0.25, 1.0, 5.0, 1e9) if step >= reach / 3)
        return round(round(time / grid) * grid, 4)

    def _move_windows(self, by: float, exact: bool) -> None:
        duration = self.session.effect.duration
        begin, length = self.layer.window.span(duration)
        by = self._snap(begin + by, exact, (length,) if self.layer.window.length is not None else ()) - begin
        by = max(by, -min(layer.window.begin for layer in self._layers))
        by = min(by, *(max(duration - 0.001 - layer.window.begin, 0.0) for layer in self._layers))
        edits = [
            (self.session.layer_path("window.begin", layer.id), round(layer.window.begin + by, 4))
            for layer in self._layers
        ]
        self.session.edit_many(edits, "Move window" if len(edits) == 1 else f"Move {len(edits)} windows", self._merge)

    def _move_end(self, by: float, exact: bool) -> None:
        duration = self.session.effect.duration
        begin, length = self.layer.window.span(duration)
        end, window = begin + length, self.layer.window
        fields: dict[str, Any]
        if self.part == "begin":
            begin = min(max(self._snap(begin + by, exact), 0.0), end - 0.001)
            fields = {"begin": begin, "length": round(end - begin, 4) if window.length is not None else None}
        else:
            end = max(self._snap(end + by, exact), begin + 0.001)
            fields = {"begin": window.begin, "length": None if end >= duration - 1e-9 else round(end - begin, 4)}
        self.session.edit(self.session.layer_path("window", self.layer.id), fields, "Change window", self._merge)

    def _move_pip(self, by: float, exact: bool) -> None:
        """The first pip moves the burst, a later one changes the pause between turns."""
        begin, burst = self.layer.window.begin, self.layer.emit.bursts[self.burst]
        before = begin + burst.at + self.turn * burst.every
        after = self._snap(before + by, exact) - begin - burst.at
        path = f"emit.bursts[{self.burst}]"
        if self.turn == 0:
            field, value = "at", max(round(burst.at + after, 4), 0.0)
        else:
            field, value = "every", max(round(after / self.turn, 4), 0.001)
        self.session.edit(self.session.layer_path(f"{path}.{field}", self.layer.id), value, "Move burst", self._merge)

"""Dragging windows and bursts along the time, with snapping to other marks."""

from __future__ import annotations

import itertools
from typing import Any

from ...effect.effect import Layer
from .geometry import Geometry
from .rows import burst_moments

NEAR = 6.0
FROM = 3.0
_drags = itertools.count(1)


class TimeDrag:
    """One drag of a part of a lane: ``bar``, ``begin``, ``end`` or ``pip``.

    Attributes
    ----------
    snapped : float or None
        The moment that it has snapped to, s.
    moved : bool
        Whether it went far enough to be a drag at all.
    """

    def __init__(self, places: Geometry, layer: Layer, part: str, burst: int, turn: int, x: float) -> None:
        self.places, self.session = places, places.session
        self.layer, self.part, self.burst, self.turn = layer, part, burst, turn
        self._start = x
        self.moved = False
        self.snapped: float | None = None
        self._merge = f"lane {next(_drags)}"
        effect = self.session.effect
        chosen = [layer.id, *(one for one in self.session.chosen if one != layer.id)]
        self._layers = [effect.layer(layer_id) for layer_id in chosen]
        self._marks = self._moments()

    def _moments(self) -> list[float]:
        """Return the moments that others stand at, in the loop."""
        effect = self.session.effect
        moving = {layer.id for layer in self._layers}
        found = [0.0, effect.duration]
        if not self.session.playing:
            # While it plays, the moment is gone from there before the drag is.
            found.append(min(self.session.phase, effect.duration))
        for layer in effect.layers:
            begin, length = layer.window.span(effect.duration)
            if layer.id not in moving:
                found += [begin, begin + length]
            if layer.id not in moving or (self.part in ("begin", "end") and layer.id == self.layer.id):
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
        by = (x - self._start) / self.places.per_second
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
        reach = NEAR / self.places.per_second
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
        self.session.edit_many(edits, self._said("Move", "window"), self._merge)

    def _move_end(self, by: float, exact: bool) -> None:
        """Move the same end of all selected layers' windows by as much."""
        duration = self.session.effect.duration
        begin, length = self.layer.window.span(duration)
        edge = begin if self.part == "begin" else begin + length
        by = self._snap(edge + by, exact) - edge
        edits = [(self.session.layer_path("window", one.id), self._window(one, by)) for one in self._layers]
        self.session.edit_many(edits, self._said("Change", "window"), self._merge)

    def _window(self, layer: Layer, by: float) -> dict[str, Any]:
        """Return a layer's window with one end moved."""
        duration, window = self.session.effect.duration, layer.window
        begin, length = window.span(duration)
        end = begin + length
        if self.part == "begin":
            begin = round(min(max(begin + by, 0.0), end - 0.001), 4)
            return {"begin": begin, "length": round(end - begin, 4) if window.length is not None else None}
        end = max(end + by, begin + 0.001)
        return {"begin": window.begin, "length": None if end >= duration - 1e-9 else round(end - begin, 4)}

    def _move_pip(self, by: float, exact: bool) -> None:
        """The first pip moves the burst, a later one changes the pause between turns; the same in all
        selected layers.
        """
        begin, burst = self.layer.window.begin, self.layer.emit.bursts[self.burst]
        before = begin + burst.at + self.turn * burst.every
        by = self._snap(before + by, exact) - before
        edits = []
        for layer in self._layers:
            if self.burst >= len(layer.emit.bursts):
                continue
            one = layer.emit.bursts[self.burst]
            if self.turn == 0:
                field, value = "at", max(round(one.at + by, 4), 0.0)
            else:
                field, value = "every", max(round(one.every + by / self.turn, 4), 0.001)
            edits.append((self.session.layer_path(f"emit.bursts[{self.burst}].{field}", layer.id), value))
        self.session.edit_many(edits, self._said("Move", "burst"), self._merge)

    def _said(self, what: str, noun: str) -> str:
        count = len(self._layers)
        return f"{what} {noun}" if count == 1 else f"{what} {noun}s of {count} layers"

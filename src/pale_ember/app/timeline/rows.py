"""The rows of the timeline: layers, and groups over their members."""

from __future__ import annotations

from typing import NamedTuple

from ...effect.editing.chains import ancestors
from ...effect.effect import Effect, Layer

LANE = 36
GROUP = 24


class Row(NamedTuple):
    """A row: of the layer at index ``first``, or of the group of the layers ``ids``, which begins there.

    ``depth`` tells how many layers that follow one another it hangs under.
    """

    first: int
    top: int
    height: int
    group: str = ""
    ids: tuple[str, ...] = ()
    inside: bool = False
    depth: int = 0

    @property
    def is_group(self) -> bool:
        return bool(self.ids)


def rows_of(effect: Effect, folded: set[str]) -> list[Row]:
    """Return the rows from top to bottom; neighbours of the same group share a head, which may be folded."""
    rows: list[Row] = []
    top, last = 0, ""
    for index, layer in enumerate(effect.layers):
        if layer.group and layer.group != last:
            ids = _run_of(effect, index)
            rows.append(Row(index, top, GROUP, layer.group, ids))
            top += GROUP
        last = layer.group
        if not (layer.group and layer.group in folded):
            rows.append(Row(index, top, LANE, inside=bool(layer.group), depth=len(ancestors(effect, layer))))
            top += LANE
    return rows


def _run_of(effect: Effect, first: int) -> tuple[str, ...]:
    found = []
    for layer in effect.layers[first:]:
        if layer.group != effect.layers[first].group:
            break
        found.append(layer.id)
    return tuple(found)


def burst_moments(layer: Layer, duration: float, most: int = 200) -> list[tuple[int, int, float, bool]]:
    """Return burst, turn, moment in the loop, and whether it fires: one behind the window's end never
    does.
    """
    begin, length = layer.window.span(duration)
    found = []
    for i, burst in enumerate(layer.emit.bursts):
        for turn in range(min(burst.repeat, most)):
            after = burst.at + turn * burst.every
            found.append((i, turn, layer.window.begin + after, after < length and begin < duration))
    return found

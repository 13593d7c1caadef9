"""Birth schedules for pictures of the rate, kept as long as their layer stays the same."""

from __future__ import annotations

from ..effect.effect import Effect, Layer
from ..simulation.births import Schedule


class Schedules:
    """The schedule of each layer seen lately."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[object, Schedule]] = {}

    def of(self, effect: Effect, layer: Layer) -> Schedule:
        """Return a layer's schedule."""
        key = (layer.emit, layer.window, effect.duration, effect.loop, effect.seed)
        known = self._known.get(layer.id)
        if known is None or known[0] != key:
            known = (key, Schedule(effect, layer))
            self._known[layer.id] = known
        return known[1]

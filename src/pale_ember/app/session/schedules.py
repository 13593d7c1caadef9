"""Rates for pictures of them, kept as long as their layer stays the same."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect, Layer
from ...simulation.births.schedule import Schedule
from ...simulation.layout import dependence


class Schedules:
    """The rate of each layer seen lately, as shares of its most."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[object, NDArray[np.float64] | None]] = {}

    def rates(self, effect: Effect, layer: Layer, count: int) -> NDArray[np.float64] | None:
        """Return a layer's rate at ``count`` clocks from 0 to 1, as shares of its most; None if nothing
        is born by rate.
        """
        key = (dependence.births(effect, layer), count)
        known = self._known.get(layer.id)
        if known is None or known[0] != key:
            rates = Schedule(effect, layer).rate_at(np.linspace(0.0, 1.0, count))
            most = float(rates.max())
            known = (key, rates / most if most > 0 else None)
            self._known[layer.id] = known
        return known[1]

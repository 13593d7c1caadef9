"""Simulates the layers that a follow-up comes from, to find single births of it. Used by
:mod:`.biography`.
"""

from __future__ import annotations

import numpy as np

from ...effect.editing.chains import ancestors
from ...effect.effect import Effect, Layer
from ..births.schedule import Birth
from ..follow_ups.schedule import FollowUp, asked_by, wants_of
from ..layout import payload_columns
from .layer_run import LayerRun
from .snapshots import Budget

# Steps that are looked through at a time; and in all, for a first birth and for many.
STRETCH, MOST_SECONDS = 8, 20.0
_NOTHING = (0.0,) * payload_columns.COLOR + (1.0,) * (payload_columns.COLUMNS - payload_columns.COLOR)


class Ancestors:
    """What a follow-up's births come from.

    Parameters
    ----------
    effect : Effect
    layer : Layer
        One of the effect's that follows another.
    """

    def __init__(self, effect: Effect, layer: Layer) -> None:
        budget, run = Budget(), None
        above = ancestors(effect, layer)
        # A parent that is disabled starts nothing.
        there = all(one.enabled for one in above)
        for one in reversed(above if there else []):
            run = LayerRun(effect, one, None, budget, run)
            # A follow-up that is disabled itself asks too.
            run.ask(wants_of(effect, one) | (asked_by(layer) if layer.origin.parent == one.id else 0))
        self._follow = FollowUp(effect, layer, run) if run is not None else None
        self._last = round(min(effect.duration, MOST_SECONDS) * effect.step_rate)
        self._known: list[Birth] = []
        # From the step before the first one: what stands at its beginning is listed there.
        self._looked = -int(np.ceil(effect.warm_up * effect.step_rate - 1e-9)) - 1

    def nth(self, index: int) -> Birth | None:
        """Return the birth that is so many behind the first one; behind the last of the first seconds,
        the first again.
        """
        while len(self._known) <= index and self._looked < self._last:
            self._look()
        return self._known[index % len(self._known)] if self._known else None

    def beside(self, index: int, most: int) -> list[Birth]:
        """Return the birth of :meth:`nth` and those behind it that are found with it."""
        first = self.nth(index)
        at = index % max(len(self._known), 1)
        return self._known[at : at + most] if first is not None else []

    def sample(self, count: int) -> list[Birth]:
        """Return so many births, or as many as there are, evenly spread over those of the first seconds."""
        while self._looked < self._last and len(self._known) < 20 * count:
            self._look()
        total = len(self._known)
        return [self._known[i * total // count] for i in range(count)] if total > count else list(self._known)

    def found(self, birth: Birth) -> Birth:
        """Return a birth with what it is given of its event, by its number and step."""
        if self._follow is None:
            return birth._replace(payload=_NOTHING)
        listed = self._births(birth.step, birth.step + 1)
        return next((one for one in listed if one.serial == birth.serial), birth._replace(payload=_NOTHING))

    def _look(self) -> None:
        stop = min(self._looked + STRETCH, max(self._last, self._looked + 1))
        if self._follow is not None:
            self._known += [one for one in self._births(self._looked, stop) if one.step >= -1]
        self._looked = stop

    def _births(self, first: int, stop: int) -> list[Birth]:
        """Return the follow-up's births in some steps."""
        assert self._follow is not None
        listed = self._follow.births(first, stop, 100_000)
        steps = first + np.repeat(np.arange(stop - first), np.diff(listed.first))
        return [
            Birth(int(number), int(step), float(left), float(clock), tuple(payload), float(row))
            for number, step, left, clock, payload, row in zip(
                listed.number,
                steps,
                listed.left,
                listed.clock,
                listed.payload_each().tolist(),
                listed.row if len(listed.row) else np.zeros(len(steps)),
                strict=True,
            )
        ]

"""The history of a layer's events by step. It is kept beside the snapshots, so that follow-ups need not
simulate again.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..layout.program import Log
from ..layout.recording import FLIGHT_COLUMNS, KIND, STEP
from .snapshots import Budget

Rows = tuple[NDArray[np.float32], NDArray[np.int64]]
# About what a step takes that nothing happened in, bytes.
EMPTY_STEP = 100
# Of the memory for snapshots, what all of this may take together.
SHARE = 0.5
# So many steps are kept in any case: those that a follow-up asks for at once.
LEAST = 32


def nothing() -> Rows:
    """Return no events."""
    return np.zeros((0, FLIGHT_COLUMNS), np.float32), np.zeros((0, 4), np.int64)


class EventHistory:
    """A layer's events by step.

    Parameters
    ----------
    budget : Budget
        Its memory is counted there. When all have too much, the steps that were simulated first are
        forgotten.
    """

    def __init__(self, budget: Budget) -> None:
        self._budget = budget
        self._steps: dict[int, Rows | None] = {}
        self.bytes = 0
        budget.event_histories.append(self)

    def missing(self, first: int, stop: int) -> int | None:
        """Return the first of some steps that isn't known; None if all are."""
        return next((step for step in range(first, stop) if step not in self._steps), None)

    def take(self, first: int, stop: int, log: Log) -> None:
        """Keep what a log has of some steps that were just simulated."""
        used = int(log.used[0])
        steps = log.who[:used, STEP]
        edges = np.searchsorted(steps, np.arange(first, stop + 1))
        for step, a, b in zip(range(first, stop), edges[:-1].tolist(), edges[1:].tolist(), strict=True):
            self._forget(step)
            rows = (log.what[a:b].copy(), log.who[a:b].copy()) if b > a else None
            self._steps[step] = rows
            self._count(EMPTY_STEP + (rows[0].nbytes + rows[1].nbytes + 300 if rows else 0))
        most = SHARE * self._budget.most / max(len(self._budget.event_histories), 1)
        while self.bytes > most and len(self._steps) > LEAST:
            self._forget(next(iter(self._steps)))
        self._budget.make_room()

    def between(self, first: int, stop: int, kind: int) -> Rows:
        """Return the events of a kind in some steps, in the order of steps and particles."""
        found = [rows for step in range(first, stop) if (rows := self._steps.get(step)) is not None]
        if not found:
            return nothing()
        what, who = (
            (np.concatenate(side) for side in zip(*found, strict=True)) if len(found) > 1 else found[0]
        )
        own = who[:, KIND] == kind
        return (what, who) if own.all() else (what[own], who[own])

    def _forget(self, step: int) -> None:
        rows = self._steps.pop(step, self)
        if rows is not self:
            self._count(-EMPTY_STEP - (rows[0].nbytes + rows[1].nbytes + 300 if rows else 0))  # type: ignore[index]

    def _count(self, size: int) -> None:
        self.bytes += size
        self._budget.bytes += size

    def clear(self) -> None:
        """Forget all, and give the memory back."""
        self._count(-self.bytes)
        self._steps = {}

    def end(self) -> None:
        """Forget all; its layer is gone."""
        self.clear()
        if self in self._budget.event_histories:
            self._budget.event_histories.remove(self)

"""Snapshots of layers at intervals, within one memory budget for the whole effect. Seeks start from them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right, insort
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

# Between snapshots at first, steps; in all, bytes; of one layer, behind its horizon and before it.
STEPS = 8
BYTES = 256 << 20
MOST_INSIDE, MOST_OUTSIDE = 1024, 256
# A snapshot larger than this share of the budget is not kept.
LARGEST_SHARE = 8


class Snapshot(NamedTuple):
    """A layer's living particles at a step: ``state`` (rows, n), ``serial`` (n,), and its counters."""

    state: NDArray[np.float32]
    serial: NDArray[np.uint32]
    counters: NDArray[np.int64]

    @property
    def bytes(self) -> int:
        return self.state.nbytes + self.serial.nbytes + self.counters.nbytes + 512


class Budget:
    """Counts the bytes of all layers' snapshots, and thins them out where they are too many.

    Snapshots up to a layer's horizon, where artists scrub, stay closer together than those behind it.
    """

    def __init__(self, most: int | None = None) -> None:
        self.most = BYTES if most is None else most
        self.bytes = 0
        self.pasts: list[Past] = []
        # What is kept beside them of events counts here too.
        self.event_histories: list[object] = []

    def make_room(self) -> None:
        """Thin out the largest past, first behind its horizon, until all are within the budget."""
        while self.bytes > self.most:
            if not self.pasts:
                return
            outside = max(self.pasts, key=lambda past: past.bytes_outside)
            largest = outside if outside.bytes_outside > 0 else max(self.pasts, key=lambda past: past.bytes)
            if not largest.thin(outside.bytes_outside > 0):
                return


class Past:
    """One layer's snapshots by step.

    Parameters
    ----------
    budget : Budget
        Shared by the layers of an effect.
    horizon : int
        The step up to which seeks shall be short.
    """

    def __init__(self, budget: Budget, horizon: int) -> None:
        self.budget, self.horizon = budget, horizon
        self.interval = self.interval_outside = STEPS
        self.bytes = self.bytes_outside = 0
        self.steps: list[int] = []
        self._kept: dict[int, Snapshot] = {}
        self.version = 0
        budget.pasts.append(self)

    def __len__(self) -> int:
        return len(self.steps)

    def __contains__(self, step: int) -> bool:
        return step in self._kept

    def __getitem__(self, step: int) -> Snapshot:
        return self._kept[step]

    def step_interval(self, step: int) -> int:
        """Return how far apart snapshots are at a step."""
        return self.interval if step <= self.horizon else self.interval_outside

    def due(self, step: int) -> bool:
        """Return whether one is to be taken at a step."""
        return step % self.step_interval(step) == 0 and step not in self._kept

    def next_due(self, step: int) -> int:
        """Return the first step behind one at which a snapshot may be due."""
        interval = self.step_interval(step + 1)
        return (step // interval + 1) * interval

    def keep(self, step: int, kept: Snapshot) -> None:
        """Keep one, unless it would take a large share of the budget alone."""
        if kept.bytes > self.budget.most // LARGEST_SHARE:
            return
        self._kept[step] = kept
        insort(self.steps, step)
        self.version += 1
        self._count(step, kept.bytes)
        outside = len(self.steps) - bisect_right(self.steps, self.horizon)
        if outside > MOST_OUTSIDE:
            self.thin(True)
        elif len(self.steps) - outside > MOST_INSIDE:
            self.thin(False)
        self.budget.make_room()

    def _count(self, step: int, size: int) -> None:
        self.bytes += size
        self.budget.bytes += size
        if step > self.horizon:
            self.bytes_outside += size

    def thin(self, outside: bool) -> bool:
        """Drop every other one behind the horizon, or before it, and take half as many; return whether
        any went.
        """
        if outside:
            self.interval_outside *= 2
        else:
            self.interval *= 2
            self.interval_outside = max(self.interval_outside, self.interval)
        gone = [k for k in self.steps if (k > self.horizon) == outside and k % self.step_interval(k)]
        if not gone and (self.interval_outside if outside else self.interval) > 1 << 40:
            return False
        for step in gone:
            self._drop(step)
        return True

    def _drop(self, step: int) -> None:
        self._count(step, -self._kept.pop(step).bytes)
        del self.steps[bisect_left(self.steps, step)]
        self.version += 1

    def clear(self) -> None:
        """Give back all that it holds; its layer is gone."""
        for step in list(self.steps):
            self._drop(step)
        if self in self.budget.pasts:
            self.budget.pasts.remove(self)

    def before(self, step: int) -> int | None:
        """Return the last step at or before one that has a snapshot."""
        at = bisect_right(self.steps, step)
        return self.steps[at - 1] if at else None

    def after(self, step: int, otherwise: int) -> int:
        """Return the first step behind one that has a snapshot."""
        at = bisect_right(self.steps, step)
        return self.steps[at] if at < len(self.steps) else otherwise

    def gap(self, last: int) -> int | None:
        """Return the first step up to ``last`` at which one is missing."""
        return next((k for k in range(self.interval, last + 1, self.interval) if k not in self._kept), None)

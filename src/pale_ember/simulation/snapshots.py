"""A layer's past, kept at intervals within a memory budget."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

STEPS = 8
BYTES = 192 << 20


class Snapshot(NamedTuple):
    """A layer's living particles at a step: ``state`` (rows, n), ``serial`` (n,), and its counters."""

    state: NDArray[np.float32]
    serial: NDArray[np.uint32]
    counters: NDArray[np.int64]

    @property
    def bytes(self) -> int:
        return self.state.nbytes + self.serial.nbytes + 64


class Snapshots(dict[int, Snapshot]):
    """Snapshots by step. When they grow too large, every other one is dropped and half as many are taken."""

    def __init__(self) -> None:
        super().__init__()
        self.interval = STEPS
        self._bytes = 0

    def keep(self, step: int, kept: Snapshot) -> None:
        """Keep one, unless it would take a large part of the budget alone."""
        if kept.bytes > BYTES // 4:
            return
        self[step] = kept
        self._bytes += kept.bytes
        while self._bytes > BYTES:
            self.interval *= 2
            for k in [k for k in self if k % self.interval]:
                self._bytes -= self.pop(k).bytes

    def due(self, step: int) -> bool:
        """Return whether one is to be taken at a step."""
        return step % self.interval == 0 and step not in self

    def before(self, step: int) -> int | None:
        """Return the last step at or before one that has a snapshot."""
        return max((k for k in self if k <= step), default=None)

    def after(self, step: int, otherwise: int) -> int:
        """Return the first step behind one that has a snapshot."""
        return min((k for k in self if k > step), default=otherwise)

    def gap(self, last: int) -> int | None:
        """Return the first step up to ``last`` at which one is missing."""
        return next((k for k in range(self.interval, last + 1, self.interval) if k not in self), None)

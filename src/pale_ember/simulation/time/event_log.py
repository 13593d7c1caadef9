"""A layer's event log: memory that its kernels write events into, and the history that is kept of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..layout import recording
from ..layout.program import LayerProgram, Log
from .events import EventHistory, nothing
from .snapshots import Budget

# Steps that are written down at once; rows of a step besides those of each particle.
STRETCH, SPARE = 8, 1024
# Rows of a step and a particle, for all that may be wanted but stretches of flight, and those.
EACH, EACH_FLIGHT = 2, 3


class EventLog:
    """A layer's events.

    Attributes
    ----------
    wants : int
        A sum of the bits in :mod:`..layout.recording`.
    """

    def __init__(self, budget: Budget) -> None:
        self.wants = 0
        self._budget = budget
        self._kept: EventHistory | None = None
        self._logs: dict[int, Log] = {}

    def ask(self, wants: int) -> bool:
        """Take what is wanted; return whether that is more than before. What was kept is forgotten then."""
        more = wants & ~self.wants != 0
        if more:
            self.wants |= wants
            self._logs = {}
            if self._kept is None:
                self._kept = EventHistory(self._budget)
            self._kept.clear()
        return more

    def program(self, program: LayerProgram, particles: int, steps: int, thread: int = 0) -> LayerProgram:
        """Return a program whose log has room for so many particles and steps; its count begins at 0."""
        each = EACH + (EACH_FLIGHT if self.wants & recording.FLIGHT else 0)
        room = steps * (each * particles + SPARE) if self.wants else 0
        log = self._logs.get(thread)
        if log is None or len(log.what) < room:
            log = self._logs[thread] = recording.new_log(self.wants, room)
        log.used[:] = 0
        return program._replace(log=log)

    def join(self, to: Log, threads: list[Log]) -> None:
        """Put what threads wrote into one log, in their order."""
        for log in threads:
            first, some = int(to.used[0]), int(log.used[0])
            some = min(some, len(to.what) - first)
            to.what[first : first + some] = log.what[:some]
            to.who[first : first + some] = log.who[:some]
            to.used[0] += some
            to.used[1] += log.used[1]

    def keep(self, first: int, stop: int, log: Log) -> None:
        """Keep what was written down in some steps."""
        if self._kept is not None:
            self._kept.take(first, stop, log)

    def missing(self, first: int, stop: int) -> int | None:
        """Return the first of some steps of which nothing is known; None if all are."""
        return self._kept.missing(first, stop) if self._kept is not None else None

    def between(self, first: int, stop: int, kind: int) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
        """Return the events of a kind in some steps."""
        if self._kept is None:
            return nothing()
        return self._kept.between(first, stop, kind)

    def end(self) -> None:
        """Give the memory back."""
        if self._kept is not None:
            self._kept.end()

"""Work on many particles split over threads: each has a stretch of them, and results are the same to the bit."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from . import look, motion

# Fewer particles than this are not worth a second thread.
WORTH_SPLITTING = 32_000


class Crew:
    """A few threads that share the particles of one layer at a time.

    Parameters
    ----------
    threads : int, optional
        How many work together; the machine's processors by default.
    worth : int
        From how many particles on they do.
    """

    def __init__(self, threads: int | None = None, worth: int = WORTH_SPLITTING) -> None:
        self.threads = max(1, threads or os.cpu_count() or 1)
        self.worth = worth
        self._pool = ThreadPoolExecutor(self.threads - 1, "particles") if self.threads > 1 else None

    def splits(self, count: int) -> bool:
        """Return whether so many particles are split."""
        return self._pool is not None and count >= self.worth

    def share(self, count: int, work: Callable[[int, int, int], Any]) -> list[tuple[int, int, Any]]:
        """Call ``work(part, first, last)`` for each thread's stretch; return stretches and results in order."""
        edges = np.linspace(0, count, self.threads + 1).astype(int).tolist()
        parts = list(zip(range(self.threads), edges[:-1], edges[1:]))
        assert self._pool is not None
        others = [self._pool.submit(work, *part) for part in parts[1:]]
        found = [work(*parts[0])] + [other.result() for other in others]
        return [(first, last, result) for (_, first, last), result in zip(parts, found)]


class Bench:
    """Working memory for one layer's kernels, one set for each thread, made when it is first asked for."""

    def __init__(self) -> None:
        self._motion: dict[int, Any] = {}
        self._look: dict[int, Any] = {}

    def motion(self, part: int = 0) -> Any:
        if part not in self._motion:
            self._motion[part] = motion.scratch()
        return self._motion[part]

    def look(self, part: int = 0) -> Any:
        if part not in self._look:
            self._look[part] = look.scratch()
        return self._look[part]

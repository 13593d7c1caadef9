"""Splits work on many particles over threads, a stretch for each. Results are the same to the bit."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..appearance.appear import look_scratch
from ..layout.scratch import motion_scratch

# Fewer particles than this are not worth a second thread.
WORTH_SPLITTING = 32_000


class ThreadPool:
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
        """Call ``work(thread, first, last)`` for each thread's stretch; return stretches and results in
        order.
        """
        edges = np.linspace(0, count, self.threads + 1).astype(int).tolist()
        stretches = list(zip(range(self.threads), edges[:-1], edges[1:]))
        assert self._pool is not None
        others = [self._pool.submit(work, *stretch) for stretch in stretches[1:]]
        found = [work(*stretches[0])] + [other.result() for other in others]
        return [(first, last, result) for (_, first, last), result in zip(stretches, found)]


class ScratchMemory:
    """Working memory for one layer's kernels, one set for each thread, made when it is first asked for."""

    def __init__(self) -> None:
        self._motion: dict[int, NDArray[np.float32]] = {}
        self._look: dict[int, NDArray[np.float32]] = {}

    def motion(self, thread: int = 0) -> NDArray[np.float32]:
        if thread not in self._motion:
            self._motion[thread] = motion_scratch()
        return self._motion[thread]

    def look(self, thread: int = 0) -> NDArray[np.float32]:
        if thread not in self._look:
            self._look[thread] = look_scratch()
        return self._look[thread]

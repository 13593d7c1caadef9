"""The counts of a layer over time: alive, refused, hits and births, at the moments of its past that are
known.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# Rows kept behind the horizon, the newest ones; and about how many in all.
MOST_RECENT, MOST = 1024, 4096
# Columns: time, s; number alive; refused, hits and born since time 0.
TIME, ALIVE, REFUSED, HITS, BORN = range(5)
COLUMNS = 5


class Population:
    """Rows of time, s, number alive, and refused, hits and born since time 0, in the order of time.

    Parameters
    ----------
    horizon : float
        The time, s, up to which all rows are kept.
    """

    def __init__(self, horizon: float) -> None:
        self._horizon = horizon
        self._rows = np.empty((64, COLUMNS))
        self._count = 0
        self._known = self._rows[:0]

    @property
    def known(self) -> NDArray[np.float64]:
        """Return all rows; the same array as long as nothing more is known, and never changed afterwards."""
        if len(self._known) != self._count or self._known.base is not self._rows:
            self._known = self._rows[: self._count]
        return self._known

    def note(self, time: float, alive: int, refused: int, hits: int = 0, born: int = 0) -> None:
        """Take in a moment."""
        n = self._count
        if n and time <= self._rows[n - 1, 0]:
            at = int(np.searchsorted(self._rows[:n, 0], time))
            if self._rows[at, 0] == time:
                return
            self._rows = np.insert(self._rows[:n], at, (time, alive, refused, hits, born), axis=0)
            self._count += 1
            return
        if n == len(self._rows):
            self._make_room()
            n = self._count
        self._rows[n] = (time, alive, refused, hits, born)
        self._count = n + 1

    def _make_room(self) -> None:
        rows = self._rows[: self._count]
        if len(rows) >= MOST:
            early = rows[rows[:, 0] <= self._horizon]
            # Of a long horizon every other row does.
            early = early[:: 2 if len(early) > MOST // 2 else 1]
            rows = np.concatenate([early, rows[rows[:, 0] > self._horizon][-MOST_RECENT:]])
        self._count = len(rows)
        self._rows = np.concatenate([rows, np.empty((max(64, min(len(rows), MOST)), COLUMNS))])

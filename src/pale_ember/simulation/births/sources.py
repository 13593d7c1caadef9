"""The number of a birth, from its source (a rate, or one firing of a burst), its loop and its place there.

A number is the start of its source in a loop plus its place among the births of that source there; so nothing
that happens to other births changes it. Sources are the rate, the metres, and each firing of each burst.
"""

from __future__ import annotations

import hashlib

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.source import Burst
from ..values.dice import mixed, property_key, random_share, wrapped

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]
# A firing this near to the window's end, s, is not inside it any more.
_AT_END = 1e-9


def source_key(name: str) -> np.uint32:
    """Return the 32-bit key of a source, such as ``rate`` or ``burst/3``."""
    return np.uint32(int.from_bytes(hashlib.blake2s(name.encode(), digest_size=4).digest(), "little"))


def starts_of(source: np.uint32, loop: Ints | int, turn: Ints | int = 0) -> NDArray[np.uint32]:
    """Return the numbers at which a source's births begin, for loops and firings; (n,) uint32."""
    loops, turns = np.broadcast_arrays(wrapped(np.atleast_1d(loop)), wrapped(np.atleast_1d(turn)))
    return mixed(mixed(loops + source) + turns)


class BurstSource:
    """One burst of a layer.

    Parameters
    ----------
    burst : Burst
    index : int
        Its place in the layer's list.
    length : float
        The window's, s.
    dice : int
        The layer's key.
    repeats : bool
        Whether each loop has the dice of the first.

    Attributes
    ----------
    turns : int
        How often it fires before its window closes.
    """

    def __init__(self, burst: Burst, index: int, length: float, dice: int, repeats: bool) -> None:
        self.burst, self.length, self._repeats = burst, length, repeats
        self.source = source_key(f"burst/{index}")
        key = property_key(dice, f"emit.bursts/{index}")
        self._chance, self._count = property_key(key, "chance"), property_key(key, "count")
        room = np.ceil((length - _AT_END - burst.at) / burst.every)
        self.turns = int(min(burst.repeat, max(0, room)))
        clock = (burst.at + np.arange(self.turns) * burst.every) / max(length, 1e-9)
        low, high = burst.count.bounds_at(clock)
        # Each whole number between low and high is as likely as any other.
        self._low = np.maximum(np.rint(np.minimum(low, high)), 0.0)
        self._span = np.maximum(np.rint(np.maximum(low, high)), 0.0) - self._low + 1.0
        self._ahead: Ints = np.zeros(1, np.int64)

    @property
    def is_certain(self) -> bool:
        """Return whether every loop has the same births."""
        return self._repeats or (self.burst.chance >= 1.0 and bool(np.all(self._span == 1.0)))

    def most(self, fires: int) -> float:
        """Return a number that the births of so many firings, one behind the other, don't exceed."""
        return float(np.max(self._low + self._span - 1.0, initial=0.0)) * fires

    def at(self, turn: Ints) -> Floats:
        """Return when it fires, s since the window began."""
        return (self.burst.at + turn * self.burst.every).astype(np.float64)

    def turns_between(self, start: float, stop: float) -> tuple[int, int]:
        """Return which firings can lie between two moments, s since the window began; one too many at
        each end.
        """
        first = max(0, int(np.floor((start - self.burst.at) / self.burst.every)) - 1)
        last = min(self.turns, int(np.ceil((stop - self.burst.at) / self.burst.every)) + 2)
        return first, max(last, first)

    def starts(self, loop: Ints | int, turn: Ints) -> NDArray[np.uint32]:
        """Return the number of each firing's first birth."""
        return starts_of(self.source, 0 * loop if self._repeats else loop, turn)

    def fired(self, loop: Ints | int, turn: Ints) -> Ints:
        """Return how many are born in each firing; 0 where chance is against it."""
        starts = self.starts(loop, turn)
        count = self._low[turn] + np.floor(
            random_share(self._count, starts).astype(np.float64) * self._span[turn]
        )
        if self.burst.chance < 1.0:
            count = np.where(random_share(self._chance, starts) < self.burst.chance, count, 0.0)
        return count.astype(np.int64)

    def before(self, loop: int) -> int:
        """Return how many are born in all loops from the first up to one."""
        if self.turns == 0:
            return 0
        turns = np.arange(self.turns)
        if self.is_certain:
            return loop * int(np.sum(self.fired(0, turns)))
        while len(self._ahead) <= loop:
            # Loops at a time, so many that their firings stay within some memory.
            count = max(1, min(len(self._ahead), 2_000_000 // self.turns))
            loops = len(self._ahead) - 1 + np.arange(count)
            fired = self.fired(np.repeat(loops, self.turns), np.tile(turns, count)).reshape(count, -1)
            self._ahead = np.concatenate([self._ahead, self._ahead[-1] + np.cumsum(fired.sum(axis=1))])
        return int(self._ahead[loop])

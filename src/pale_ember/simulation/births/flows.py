"""Births at a rate: so many a second, or so many for each metre that the layer moves.

A flow's births are counted by the integral C of its rate since time 0; birth k happens where C passes k.
Whoever asks how many were born reads the same whole numbers (:meth:`Flow.counts`), and the births of a
stretch of time are those between two of them.

Rates don't go through the tables that all else is baked into: those have even cells, and an integral must
begin and end exactly where the rate does.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...effect.values.curves import evaluate
from ...effect.values.forms import sides_of
from ...effect.values.values import Band, Curve, Value
from ..layout.program import Track
from ..values.dice import random_share, wrapped

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# Values at the start of each cell, and how far they rise over it; straight between.
Cells = tuple[Floats, Floats]
# Rates are taken as straight between so many moments of the window, and between all keys.
_MOMENTS = 256
_GAUSS = np.sqrt(0.6) / 2 * np.array([-1.0, 0.0, 1.0]) + 0.5
_WEIGHTS = np.array([5.0, 8.0, 5.0]) / 18.0


class Flow:
    """A rate over the window, piecewise linear, between two sides with one draw for each loop.

    Parameters
    ----------
    borders : (n + 1,) array
        Where cells begin and end, as shares of the window.
    low, high : cells
        Births a second, none below 0; the same object if the sides agree.
    length : float
        The window's, s.
    key : int
        Of the draw.
    repeats : bool
        Whether each loop begins to count anew, with the dice of the first.
    """

    def __init__(
        self, borders: Floats, low: Cells, high: Cells, length: float, key: int, repeats: bool = False
    ) -> None:
        self.borders, self.length = borders, length
        self._low, self._high, self._key, self._repeats = low, high, key, repeats
        self._width = np.diff(borders) * length
        self._sums = [
            np.concatenate([[0.0], np.cumsum((v + rise / 2) * self._width)]) for v, rise in (low, high)
        ]
        # Births before each loop, for loops from 0 up and from 0 down.
        self._ahead, self._behind = np.zeros(1), np.zeros(1)

    @property
    def never(self) -> bool:
        """Return whether it never gives a birth."""
        return self._sums[1][-1] <= 0.0 and self._sums[0][-1] <= 0.0

    def most(self) -> float:
        """Return a rate that is never passed."""
        return max(float(np.max(np.maximum(value, value + rise))) for value, rise in (self._low, self._high))

    def most_within(self, span: float, loops: int) -> float:
        """Return a number that births in any span of time, s, which touches so many loops, don't exceed."""
        return min(self.most() * span, loops * max(float(sums[-1]) for sums in self._sums)) + 2.0

    def rate_at(self, clock: Floats, loop: int) -> Floats:
        """Return the rate at clocks 0…1 of a loop."""
        value, rise = self._cells(loop)
        cell = np.clip(np.searchsorted(self.borders, clock, side="right") - 1, 0, len(value) - 1)
        share = (np.clip(clock, 0.0, 1.0) - self.borders[cell]) / (
            self.borders[cell + 1] - self.borders[cell]
        )
        return value[cell] + rise[cell] * share

    def before(self, loop: int) -> float:
        """Return the births in all loops before one, from time 0; below zero for warm-up."""
        if self._repeats:
            return 0.0
        while len(self._ahead) <= loop:
            self._ahead = self._longer(self._ahead, 1)
        while len(self._behind) <= -loop:
            self._behind = self._longer(self._behind, -1)
        return float(self._ahead[loop] if loop >= 0 else self._behind[-loop])

    def first(self, loop: int) -> int:
        """Return the number of a loop's first birth, counted from time 0."""
        return int(_whole(np.array([self.before(loop)]))[0])

    def total(self, loop: int) -> int:
        """Return how many are born in a loop."""
        return int(self.counts(loop, np.array([self.length]))[0]) - self.first(loop)

    def counts(self, loop: int, local: Floats) -> Ints:
        """Return how many were born before some moments of a loop, s since its window began, counted from
        time 0.
        """
        return _whole(self._integral(loop, np.asarray(local, dtype=np.float64)))

    def moments(self, loop: int, number: Ints) -> Floats:
        """Return when births of a loop happen, s since its window began, by their numbers counted from
        time 0.
        """
        value, rise = self._cells(loop)
        sums = self._edges(loop)
        k = number.astype(np.float64)
        cell = np.clip(np.searchsorted(sums, k, side="right") - 1, 0, len(value) - 1)
        inside = _inside(k - sums[cell], value[cell] * self._width[cell], rise[cell] * self._width[cell])
        return self.borders[cell] * self.length + self._width[cell] * inside

    def _draw(self, loop: Ints | int) -> Floats:
        return random_share(self._key, wrapped(np.atleast_1d(0 * loop if self._repeats else loop))).astype(
            np.float64
        )

    def _cells(self, loop: int) -> Cells:
        (low, low_rise), (high, high_rise) = self._low, self._high
        if self._low is self._high:
            return low, low_rise
        u = float(self._draw(loop)[0])
        return low + (high - low) * u, low_rise + (high_rise - low_rise) * u

    def _edges(self, loop: int) -> Floats:
        """Return the births up to each border of a loop; at its end those that the next begins with."""
        low, high = self._sums
        inside = low if self._low is self._high else low + (high - low) * float(self._draw(loop)[0])
        sums = inside + self.before(loop)
        if not self._repeats:
            sums = np.minimum(sums, self.before(loop + 1))
            sums[-1] = self.before(loop + 1)
        return sums

    def _integral(self, loop: int, local: Floats) -> Floats:
        """Return the integral of the rate up to some times of a loop."""
        value, rise = self._cells(loop)
        sums = self._edges(loop)
        edges = self.borders * self.length
        cell = np.clip(np.searchsorted(edges, local, side="right") - 1, 0, len(value) - 1)
        width = self._width[cell]
        share = np.clip(
            np.divide(local - edges[cell], width, out=np.zeros_like(local), where=width > 0.0), 0.0, 1.0
        )
        found = sums[cell] + width * (value[cell] * share + rise[cell] * share * share / 2)
        found = np.clip(found, sums[cell], sums[cell + 1])
        return np.where(local <= 0.0, sums[0], np.where(local >= self.length, sums[-1], found))

    def _longer(self, known: Floats, way: int) -> Floats:
        """Return births before loops for twice as many of them, in one direction."""
        low, high = (float(sums[-1]) for sums in self._sums)
        count = max(len(known), 64)
        index = np.arange(len(known), len(known) + count)
        loops = index - 1 if way > 0 else -index
        each = low + (high - low) * (0.0 if low == high else self._draw(loops))
        # One sum from the start, so that it is the same however often it was made longer.
        return np.concatenate([known, known[-1] + way * np.cumsum(np.broadcast_to(each, len(loops)))])


def rate_flow(rate: Value, length: float, key: int, repeats: bool) -> Flow:
    """Return the flow of a rate per second along the clock."""
    borders = _borders(rate)
    low, high = _sides(rate, borders, np.ones_like)
    return Flow(borders, low, high, length, key, repeats)


def metre_flow(per_metre: Value, track: Track, length: float, key: int, repeats: bool) -> Flow:
    """Return the flow of so many births a metre along a track; jumps go no way."""
    borders = _borders(per_metre, track.x, np.array([track.end]))
    middle = (borders[:-1] + borders[1:]) / 2
    low, high = _sides(per_metre, borders, lambda x: _pace(track, middle, x) / max(length, 1e-9))
    return Flow(borders, low, high, length, key, repeats)


def _borders(value: Value, *others: Floats) -> Floats:
    """Return where cells begin and end: at even moments, and exactly at all keys."""
    keys = np.array([key.x for side in sides_of(value) for key in side], dtype=np.float64)
    even = (
        np.arange(_MOMENTS + 1) / _MOMENTS
        if isinstance(value, Curve | Band) or others
        else np.array([0.0, 1.0])
    )
    borders = np.unique(np.clip(np.concatenate([even, keys, *others]), 0.0, 1.0))
    return borders


def _sides(value: Value, borders: Floats, factor: object) -> tuple[Cells, Cells]:
    """Return the low and the high side as cells; the same object for both if they agree.

    Each cell's integral is that of three-point Gauss quadrature, which is exact for the cubics of curves.
    """
    start, width = borders[:-1], np.diff(borders)
    # Start, three points inside, end; all on the cell's own side of what jumps at its borders.
    at = start[:, None] + width[:, None] * np.concatenate([[0.0], _GAUSS, [1.0]])
    times = factor(at)  # type: ignore[operator]

    def side(keys: object) -> Cells:
        """Return the rate of one side by cells: its mean and its rise."""
        if isinstance(keys, float):
            rate = np.full(at.shape, max(keys, 0.0)) * times
        else:
            rate = evaluate(keys, at.reshape(-1)).reshape(at.shape)  # type: ignore[arg-type]
            rate[:, -1] = evaluate(keys, borders[1:], before=True)  # type: ignore[arg-type]
            # Free keys may swing below 0; nothing is ever unborn.
            rate = np.maximum(rate, 0.0) * times
        wanted, first, last = rate[:, 1:4] @ _WEIGHTS, rate[:, 0], rate[:, 4]
        mean = (first + last) / 2
        gain = np.divide(wanted, mean, out=np.ones_like(mean), where=mean > 0.0)
        begin = np.where(mean > 0.0, first * gain, wanted)
        return begin, np.where(mean > 0.0, (last - first) * gain, 0.0)

    if isinstance(value, Curve):
        cells = side(value.keys)
        return cells, cells
    if isinstance(value, Band):
        return side(value.low), side(value.high)
    low, high = (float(bound[0]) for bound in value.bounds_at([0.0]))
    cells = side(low)
    return cells, cells if low == high else side(high)


def _pace(track: Track, middle: Floats, at: Floats) -> Floats:
    """Return the pace at clocks, shape (n, m), on the pieces that the middles lie on; m per unit of clock."""
    if len(track.x) == 0:
        return np.zeros_like(at)
    piece = np.clip(np.searchsorted(track.x, middle, side="right") - 1, 0, len(track.x) - 1)
    s = (at - track.x[piece][:, None])[:, :, None]
    c = track.c[piece][:, None, :3]
    slope = c[..., 1] + s * (2.0 * c[..., 2] + s * 3.0 * c[..., 3])
    there = (middle >= track.x[0]) & (middle < track.end)
    return track.scale * np.linalg.norm(slope, axis=2) * there[:, None]


def _whole(sums: Floats) -> Ints:
    """Return how many births lie before sums: those that are whole but for rounding count as whole."""
    near = np.rint(sums)
    rounding = 1e-9 + 4e-15 * np.abs(sums)
    return np.ceil(np.where(np.abs(sums - near) <= rounding, near, sums)).astype(np.int64)


def _inside(count: Floats, value: Floats, rise: Floats) -> Floats:
    """Return where in a cell, 0…1, ``value·t + rise·t²/2`` reaches count; stable for small rises."""
    root = np.sqrt(np.maximum(value * value + 2.0 * rise * count, 0.0))
    under = value + root
    return np.clip(np.divide(2.0 * count, under, out=np.zeros_like(count), where=under > 0.0), 0.0, 1.0)

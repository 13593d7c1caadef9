"""Births that flow: so many a second, or so many a metre of the layer's way.

A flow's births are counted by the integral C of its rate since time 0; birth k happens where C reaches k.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..effect.values import Band, Curve, Value
from .dice import draw
from .path import Track
from .tables import baked_keys

Floats = NDArray[np.float64]
# Values at the start of each cell, and how far they rise over it.
Cells = tuple[Floats, Floats]
# Along a path, rates are taken as straight between so many moments of the window.
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
        Births a second; the same object if the sides agree.
    length : float
        The window's, s.
    key : int
        Of the draw.
    """

    def __init__(self, borders: Floats, low: Cells, high: Cells, length: float, key: int) -> None:
        self.borders, self.length = borders, length
        self._low, self._high, self._key = low, high, key
        # Births before each loop, for loops from 0 up and from 0 down.
        self._ahead: list[float] = [0.0]
        self._behind: list[float] = [0.0]

    def cells(self, loop: int) -> Cells:
        """Return the rate in a loop."""
        (low, low_rise), (high, high_rise) = self._low, self._high
        if self._low is self._high:
            return low, low_rise
        u = float(draw(self._key, np.uint32(loop & 0xFFFFFFFF))[0])
        return low + (high - low) * u, low_rise + (high_rise - low_rise) * u

    def most(self) -> float:
        """Return a rate that is never passed."""
        return max(float(np.max(np.maximum(value, value + rise))) for value, rise in (self._low, self._high))

    def rate_at(self, clock: Floats, loop: int) -> Floats:
        """Return the rate at clocks 0…1 of a loop."""
        value, rise = self.cells(loop)
        cell = np.clip(np.searchsorted(self.borders, clock, side="right") - 1, 0, len(value) - 1)
        share = (np.clip(clock, 0.0, 1.0) - self.borders[cell]) / (self.borders[cell + 1] - self.borders[cell])
        return value[cell] + rise[cell] * share  # type: ignore[no-any-return]

    def before(self, loop: int) -> float:
        """Return the births in all loops before one, from time 0; below zero for warm-up."""
        while len(self._ahead) <= loop:
            self._ahead.append(self._ahead[-1] + self._total(len(self._ahead) - 1))
        while len(self._behind) <= -loop:
            self._behind.append(self._behind[-1] - self._total(-len(self._behind)))
        return self._ahead[loop] if loop >= 0 else self._behind[-loop]

    def births(self, loop: int, start: float, stop: float) -> Floats:
        """Return a loop's births near [start, stop): seconds since its window began, in order."""
        value, rise = self.cells(loop)
        width = np.diff(self.borders) * self.length
        before = np.concatenate([[0.0], np.cumsum((value + rise / 2) * width)]) + self.before(loop)
        near = np.interp([start, stop], self.borders * self.length, before)
        first = max(math.ceil(before[0]), math.floor(near[0]) - 1)
        last = min(math.ceil(before[-1]), math.ceil(near[1]) + 1)
        if last <= first:
            return np.empty(0)
        k = np.arange(first, last, dtype=np.float64)
        cell = np.clip(np.searchsorted(before, k, side="right") - 1, 0, len(value) - 1)
        inside = _inside(k - before[cell], value[cell] * width[cell], rise[cell] * width[cell])
        return self.borders[cell] * self.length + width[cell] * inside  # type: ignore[no-any-return]

    def _total(self, loop: int) -> float:
        value, rise = self.cells(loop)
        return float(np.sum((value + rise / 2) * np.diff(self.borders))) * self.length


def rate_flow(rate: Value, length: float, key: int) -> Flow:
    """Return the flow of a rate per second along the clock."""
    low, high = _sides(rate)
    return Flow(np.arange(len(low[0]) + 1) / len(low[0]), low, high, length, key)


def metre_flow(per_metre: Value, track: Track, length: float, key: int) -> Flow:
    """Return the flow of so many births a metre along a track; jumps go no way.

    Each cell's count is right to the error of three-point Gauss quadrature of the track's pace.
    """
    sides = _sides(per_metre)
    fine = np.arange(len(sides[0][0]) + 1) / len(sides[0][0])
    knots = np.concatenate([np.arange(_MOMENTS + 1) / _MOMENTS, fine, track.x, [track.end]])
    borders = np.unique(np.clip(knots, 0.0, 1.0))
    borders = borders[np.concatenate([[True], np.diff(borders) > 1e-9])]
    borders[-1] = 1.0
    start, width = borders[:-1], np.diff(borders)
    # Start, three points inside, end; all on the cell's own side of what jumps at its borders.
    at = start[:, None] + width[:, None] * np.concatenate([[0.0], _GAUSS, [1.0]])
    middle = start + width / 2
    pace = _pace(track, middle, at)

    def side(cells: Cells) -> Cells:
        value, rise = cells
        cell = np.minimum((middle * len(value)).astype(int), len(value) - 1)
        rate = (
            pace * (value[cell][:, None] + rise[cell][:, None] * (at * len(value) - cell[:, None])) / max(length, 1e-9)
        )
        wanted, first, last = rate[:, 1:4] @ _WEIGHTS, rate[:, 0], rate[:, 4]
        mean = (first + last) / 2
        gain = np.divide(wanted, mean, out=np.ones_like(mean), where=mean > 0.0)
        first = np.where(mean > 0.0, first * gain, wanted)
        return first, np.where(mean > 0.0, (last - rate[:, 0]) * gain, 0.0)

    low = side(sides[0])
    return Flow(borders, low, low if sides[0] is sides[1] else side(sides[1]), length, key)


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


def _sides(rate: Value) -> tuple[Cells, Cells]:
    """Return the low and the high side as cells of the same number; the same object for both if they agree."""
    if isinstance(rate, Curve):
        cells = _not_below_zero(*baked_keys(rate.keys))
        return cells, cells
    if isinstance(rate, Band):
        sides = [_not_below_zero(*baked_keys(rate.low)), _not_below_zero(*baked_keys(rate.high))]
        most = max(len(side[0]) for side in sides)
        return _refined(sides[0], most), _refined(sides[1], most)
    low, high = (np.maximum(side, 0.0) for side in rate.bounds_at([0.0]))
    if low[0] == high[0]:
        cells = (low, np.zeros(1))
        return cells, cells
    return (low, np.zeros(1)), (high, np.zeros(1))


def _not_below_zero(value: Floats, rise: Floats) -> Cells:
    stop = np.maximum(value + rise, 0.0)
    value = np.maximum(value, 0.0)
    return value, stop - value


def _refined(cells: Cells, count: int) -> Cells:
    value, rise = cells
    times = count // len(value)
    part = np.tile(np.arange(times) / times, len(value))
    return np.repeat(value, times) + np.repeat(rise, times) * part, np.repeat(rise, times) / times


def _inside(count: Floats, value: Floats, rise: Floats) -> Floats:
    """Return where in a cell, 0…1, ``value·t + rise·t²/2`` reaches count; stable for small rises."""
    root = np.sqrt(np.maximum(value * value + 2.0 * rise * count, 0.0))
    under = value + root
    return np.clip(np.divide(2.0 * count, under, out=np.zeros_like(count), where=under > 0.0), 0.0, 1.0)

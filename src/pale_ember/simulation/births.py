"""When particles are born: exact moments from rate and bursts, each a function of its number alone.

A layer's births are counted by the integral C of its rate since time 0; birth k happens where C reaches
k. That moment doesn't depend on steps or on how a time was reached.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..effect.chapters import Burst
from ..effect.effect import Effect, Layer
from ..effect.values import Value
from .dice import draw, layer_key, property_key
from .tables import baked_keys

Floats = NDArray[np.float64]


class Schedule:
    """The births of one layer.

    Attributes
    ----------
    begin, length : float
        The window inside each loop, s; ``length`` is cut at the effect's duration.
    """

    def __init__(self, effect: Effect, layer: Layer) -> None:
        self.duration = effect.duration
        self.loop = effect.loop
        self.warm_up = effect.warm_up
        self.begin = min(layer.window.begin, effect.duration)
        rest = max(effect.duration - self.begin, 0.0)
        self.length = rest if layer.window.length is None else min(layer.window.length, rest)
        self.bursts: tuple[Burst, ...] = layer.emit.bursts
        self.dice = layer_key(effect.seed, layer.id)
        self.rate_key = property_key(self.dice, "emit.rate")
        self._low, self._high = _rate_cells(layer.emit.rate)
        # Births before each loop, for loops from 0 up and from 0 down.
        self._ahead: list[float] = [0.0]
        self._behind: list[float] = [0.0]

    def clock(self, time: float) -> float:
        """Return the window's clock, 0…1, at a time."""
        if self.length <= 0.0:
            return 0.0
        local = time - self.loop_of(time) * self.duration
        return min(max((local - self.begin) / self.length, 0.0), 1.0)

    def loop_of(self, time: float) -> int:
        """Return the number of the loop that a time is in; 0 throughout if the effect doesn't loop."""
        return math.floor(time / self.duration + 1e-12) if self.loop else 0

    def moments(self, start: float, stop: float) -> Floats:
        """Return the births in [start, stop), s, in order."""
        found: list[Floats] = []
        if self.length > 0.0 and stop > start:
            first = self.loop_of(start - 1e-6) if self.loop else 0
            for loop in range(first, self.loop_of(stop) + 1):
                found += self._rate_births(loop, start, stop)
                found += self._burst_births(loop, start, stop)
        if not found:
            return np.empty(0)
        times = np.concatenate(found)
        times = times[(times >= start) & (times < stop)]
        times.sort(kind="stable")
        return times

    def count(self, start: float, stop: float) -> int:
        """Return how many are born in [start, stop); whole loops are counted without listing moments."""
        first, last = self.loop_of(start) + 1, self.loop_of(stop) - 1
        if not self.loop or last <= first:
            return len(self.moments(start, stop))
        whole = math.ceil(self._before(last)) - math.ceil(self._before(first))
        turns = [self._turns(burst) for burst in self.bursts]
        whole += sum(
            self.fired(i, turn, loop)
            for loop in range(first, last)
            for i, most in enumerate(turns)
            for turn in range(most)
        )
        ends = len(self.moments(start, first * self.duration)) + len(self.moments(last * self.duration, stop))
        return whole + ends

    def most_within(self, span: float) -> float:
        """Return a number that births in any span of time don't exceed."""
        if self.length <= 0.0:
            return 0.0
        (low, low_rise), (high, high_rise) = self._low, self._high
        rate = max(float(np.max(side)) for side in (low, low + low_rise, high, high + high_rise))
        loops = math.ceil(span / self.duration) + 1 if self.loop else 1
        bursts = 0.0
        for burst in self.bursts:
            # Free keys may swing beyond the keys' own values.
            most = np.max(np.concatenate(burst.count.bounds_at(np.linspace(0, 1, 257)))) * 1.05 + 1
            bursts += float(most) * min(self._turns(burst), math.ceil(span / burst.every) + 1)
        return rate * span + loops * bursts + 2

    def _turns(self, burst: Burst) -> int:
        """Return how often a burst fires before its window closes."""
        return min(burst.repeat, max(0, math.ceil((self.length - burst.at) / burst.every - 1e-12)))

    def rate_at(self, clock: Floats, loop: int = 0) -> Floats:
        """Return births per second at clocks 0…1 of a loop."""
        value, rise = self._cells(loop)
        x = np.clip(np.asarray(clock), 0.0, 1.0) * len(value)
        cell = np.minimum(x.astype(int), len(value) - 1)
        return value[cell] + rise[cell] * (x - cell)

    def _cells(self, loop: int) -> tuple[Floats, Floats]:
        """Return the rate's cells in a loop; a spread or band has one draw for each."""
        (low, low_rise), (high, high_rise) = self._low, self._high
        if low is high:
            return low, low_rise
        u = float(draw(self.rate_key, np.uint32(loop & 0xFFFFFFFF))[0])
        return low + (high - low) * u, low_rise + (high_rise - low_rise) * u

    def _total(self, loop: int) -> float:
        value, rise = self._cells(loop)
        return float(np.sum(value + rise / 2)) * self.length / len(value)

    def _before(self, loop: int) -> float:
        """Return the births by rate in all loops before one, from time 0; below zero for warm-up."""
        while len(self._ahead) <= loop:
            self._ahead.append(self._ahead[-1] + self._total(len(self._ahead) - 1))
        while len(self._behind) <= -loop:
            self._behind.append(self._behind[-1] - self._total(-len(self._behind)))
        return self._ahead[loop] if loop >= 0 else self._behind[-loop]

    def _rate_births(self, loop: int, start: float, stop: float) -> list[Floats]:
        value, rise = self._cells(loop)
        base = loop * self.duration + self.begin
        width = self.length / len(value)
        counts = (value + rise / 2) * width
        found = []
        if not self.loop and self.begin == 0.0 and self.warm_up > 0.0 and start < 0.0 and value[0] > 0.0:
            # A one-shot whose window opens at 0 is already at its first rate through the warm-up.
            first = math.ceil((start - 1.0) * value[0])
            last = math.ceil(min(stop, 0.0) * value[0])
            k = np.arange(first, last, dtype=np.float64)
            found.append(k / value[0])
        before = np.concatenate([[0.0], np.cumsum(counts)]) + self._before(loop)
        edges = np.array([start, stop]) - base
        near = np.interp(edges, np.arange(len(value) + 1) * width, before)
        first = max(math.ceil(before[0]), math.floor(near[0]) - 1)
        last = min(math.ceil(before[-1]), math.ceil(near[1]) + 1)
        if last > first:
            k = np.arange(first, last, dtype=np.float64)
            cell = np.clip(np.searchsorted(before, k, side="right") - 1, 0, len(value) - 1)
            found.append(base + width * (cell + _inside(k - before[cell], value[cell] * width, rise[cell] * width)))
        return found

    def _burst_births(self, loop: int, start: float, stop: float) -> list[Floats]:
        found = []
        for index, burst in enumerate(self.bursts):
            local = self.begin + burst.at
            first = max(0, math.floor((start - loop * self.duration - local) / burst.every) - 1)
            last = min(self._turns(burst), math.ceil((stop - loop * self.duration - local) / burst.every) + 1)
            for turn in range(first, last):
                inside = local + turn * burst.every
                time = loop * self.duration + inside
                if not start <= time < stop:
                    continue
                number = self.fired(index, turn, loop)
                if number:
                    found.append(np.full(number, time))
        return found

    def fired(self, index: int, turn: int, loop: int) -> int:
        """Return how many are born when a burst fires for the given time in a loop; 0 if chance is against it."""
        burst = self.bursts[index]
        serial = np.uint32((loop * 10_007 + turn) & 0xFFFFFFFF)
        key = property_key(self.dice, f"emit.bursts/{index}")
        if burst.chance < 1.0 and float(draw(property_key(key, "chance"), serial)[0]) >= burst.chance:
            return 0
        clock = (burst.at + turn * burst.every) / self.length
        low, high = burst.count.bounds_at([clock])
        u = float(draw(property_key(key, "count"), serial)[0])
        return max(0, round(float(low[0]) + (float(high[0]) - float(low[0])) * u))


def _rate_cells(rate: Value) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
    """Return the low and the high rate as cells of the same number; the same object for both if they agree."""
    from ..effect.values import Band, Curve

    if isinstance(rate, Curve):
        cells = _not_below_zero(*baked_keys(rate.keys))
        return cells, cells
    if isinstance(rate, Band):
        sides = [_not_below_zero(*baked_keys(rate.low)), _not_below_zero(*baked_keys(rate.high))]
        most = max(len(side[0]) for side in sides)
        a, b = (_refined(side, most) for side in sides)
        return a, b
    low, high = (np.maximum(side, 0.0) for side in rate.bounds_at([0.0]))
    if low[0] == high[0]:
        cells = (low, np.zeros(1))
        return cells, cells
    return (low, np.zeros(1)), (high, np.zeros(1))


def _not_below_zero(value: Floats, rise: Floats) -> tuple[Floats, Floats]:
    stop = np.maximum(value + rise, 0.0)
    value = np.maximum(value, 0.0)
    return value, stop - value


def _refined(cells: tuple[Floats, Floats], count: int) -> tuple[Floats, Floats]:
    value, rise = cells
    times = count // len(value)
    part = np.tile(np.arange(times) / times, len(value))
    return np.repeat(value, times) + np.repeat(rise, times) * part, np.repeat(rise, times) / times


def _inside(count: Floats, value: Floats, rise: Floats) -> Floats:
    """Return where in a cell, 0…1, ``value·t + rise·t²/2`` reaches count; stable for small rises."""
    root = np.sqrt(np.maximum(value * value + 2.0 * rise * count, 0.0))
    under = value + root
    return np.clip(np.divide(2.0 * count, under, out=np.zeros_like(count), where=under > 0.0), 0.0, 1.0)

"""When particles are born: exact moments from rate, way and bursts, none of which depends on steps."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..effect.effect import Effect, Layer
from ..effect.source import Burst
from ..effect.values import Fixed
from .dice import draw, layer_key, property_key
from .flows import Flow, metre_flow, rate_flow
from .path import track_of

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
        flows = [rate_flow(layer.emit.rate, self.length, property_key(self.dice, "emit.rate"))]
        if layer.path and layer.emit.per_metre != Fixed(0.0):
            key = property_key(self.dice, "emit.per_metre")
            flows.append(metre_flow(layer.emit.per_metre, track_of(layer), self.length, key))
        self.flows: tuple[Flow, ...] = tuple(flows)

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
                base = loop * self.duration + self.begin
                for flow in self.flows:
                    found.append(base + flow.births(loop, start - base, stop - base))
                found += self._held_births(start, stop)
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
        whole = sum(math.ceil(flow.before(last)) - math.ceil(flow.before(first)) for flow in self.flows)
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
        rate = sum(flow.most() for flow in self.flows)
        loops = math.ceil(span / self.duration) + 1 if self.loop else 1
        bursts = 0.0
        for burst in self.bursts:
            # Free keys may swing beyond the keys' own values.
            most = np.max(np.concatenate(burst.count.bounds_at(np.linspace(0, 1, 257)))) * 1.05 + 1
            bursts += float(most) * min(self._turns(burst), math.ceil(span / burst.every) + 1)
        return rate * span + loops * bursts + 2 * len(self.flows)

    def _turns(self, burst: Burst) -> int:
        """Return how often a burst fires before its window closes."""
        return min(burst.repeat, max(0, math.ceil((self.length - burst.at) / burst.every - 1e-12)))

    def rate_at(self, clock: Floats, loop: int = 0) -> Floats:
        """Return births per second, by time and by metre, at clocks 0…1 of a loop."""
        return np.sum([flow.rate_at(np.asarray(clock), loop) for flow in self.flows], axis=0)  # type: ignore[no-any-return]

    def _held_births(self, start: float, stop: float) -> list[Floats]:
        """Return the births of a one-shot's warm-up: if its window opens at 0, it is already at its first rate."""
        if self.loop or self.begin > 0.0 or self.warm_up <= 0.0 or start >= 0.0:
            return []
        rate = float(self.flows[0].cells(0)[0][0])
        if rate <= 0.0:
            return []
        first = math.ceil((start - 1.0) * rate)
        return [np.arange(first, math.ceil(min(stop, 0.0) * rate), dtype=np.float64) / rate]

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

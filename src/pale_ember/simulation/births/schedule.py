"""When a layer's particles are born: exact moments by its rates and bursts, which do not depend on the
step rate.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect, Layer
from ...effect.values.values import Fixed
from ..layout.dependence import is_in_row
from ..layout.program import Births, Clock
from ..motion.path import track_of
from ..values.dice import layer_key, property_key
from .flows import Flow, metre_flow, rate_flow
from .sources import BurstSource, source_key, starts_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# A burst this near to the start of a step, in steps, is at it.
_AT_STEP = 1e-6


class Birth(NamedTuple):
    """One birth: the particle's number, the step that it is born in, how much of that it lives, s, and its
    clock.

    ``row`` is its place in the layer's row, 0…1, if it is born in one. Of a follow-up ``payload`` is what it
    has of its event, as :mod:`..layout.payload_columns` numbers it; empty where nobody looked yet.
    """

    serial: int
    step: int
    left: float
    clock: float
    payload: tuple[float, ...] = ()
    row: float = 0.0


class _Group(NamedTuple):
    """Births listed from one source: their steps, the seconds left of those, clocks, numbers, places in
    the row.
    """

    step: Ints
    left: Floats
    clock: Floats
    number: NDArray[np.uint32]
    row: Floats


class Schedule:
    """The births of one layer.

    Births of a flow at the very start of a step belong to it; a burst at the very start of a step belongs to
    the one before, so that at its moment it is there.

    Attributes
    ----------
    begin, length : float
        The window inside each loop, s; ``length`` is cut at the effect's duration.
    whole : int
        How many steps a loop has if it is a whole number of them, else 0.
    """

    def __init__(self, effect: Effect, layer: Layer) -> None:
        self.duration, self.loop, self.warm_up = effect.duration, effect.loop, effect.warm_up
        self.rate, self.repeats = effect.step_rate, effect.repeat and effect.loop
        self.in_row = is_in_row(layer.birthplace)
        self.begin, self.length = layer.window.span(effect.duration)
        steps = effect.duration * effect.step_rate
        self.whole = round(steps) if effect.loop and abs(steps - round(steps)) < 1e-9 else 0
        dice = layer_key(effect.seed, layer.id)
        emit = layer.emit
        self.flows: list[tuple[np.uint32, Flow]] = []
        flow = rate_flow(emit.rate, self.length, property_key(dice, "emit.rate"), self.repeats)
        self._rate = flow
        if not flow.never:
            self.flows.append((source_key("rate"), flow))
        self._metres: Flow | None = None
        if layer.path and emit.per_metre != Fixed(0.0):
            key = property_key(dice, "emit.per_metre")
            self._metres = metre_flow(emit.per_metre, track_of(layer), self.length, key, self.repeats)
            if not self._metres.never:
                self.flows.append((source_key("metres"), self._metres))
        self.bursts = [
            BurstSource(burst, i, self.length, dice, self.repeats) for i, burst in enumerate(emit.bursts)
        ]
        if self.length <= 0.0:
            self.flows, self.bursts = [], []
        # The rate at which a one-shot begins; its warm-up has the same rate.
        self._held = float(flow.rate_at(np.zeros(1), 0)[0]) if not self.loop and self.begin <= 0.0 else 0.0

    # Time

    def loop_of(self, step: float) -> int:
        """Return the number of the loop that the start of a step is in; 0 throughout if the effect
        doesn't loop.
        """
        if not self.loop:
            return 0
        if self.whole:
            return math.floor(step / self.whole)
        return math.floor(step / self.rate / self.duration + 1e-12)

    def local(self, step: Floats | float, loop: int) -> Floats:
        """Return the time of the starts of steps, s since a loop's window began."""
        at = np.asarray(step, dtype=np.float64)
        inside = (at - loop * self.whole) / self.rate if self.whole else at / self.rate - loop * self.duration
        return inside - self.begin

    def clock(self, step: float) -> float:
        """Return the window's clock, 0…1, at the start of a step."""
        if self.length <= 0.0:
            return 0.0
        local = float(self.local(step, self.loop_of(step)))
        return min(max(local / self.length, 0.0), 1.0)

    @property
    def clock_bundle(self) -> Clock:
        """Return the clock as the kernels take it."""
        return Clock(
            rate=float(self.rate),
            duration=self.duration if self.loop else 0.0,
            whole=self.whole,
            begin=float(self.begin),
            length=float(self.length),
        )

    def rate_at(self, clock: Floats, loop: int = 0) -> Floats:
        """Return births per second, by time and by metre, at clocks 0…1 of a loop."""
        flows = [self._rate] + ([self._metres] if self._metres is not None else [])
        return np.sum([flow.rate_at(np.asarray(clock), loop) for flow in flows], axis=0)

    # How many

    def most_within(self, span: float) -> float:
        """Return a number that births in any span of time, s, don't exceed."""
        loops = math.ceil(span / self.duration) + 1 if self.loop else 1
        flows = sum(flow.most_within(span, loops) for _, flow in self.flows)
        bursts = 0.0
        for burst in self.bursts:
            fires = min(burst.turns, math.ceil(span / burst.burst.every) + 1)
            bursts += burst.most(fires * loops)
        return flows + bursts + (self._held * span + 2.0 if self._held else 0.0)

    def born_until(self, step: int) -> int:
        """Return how many are born from time 0 until the start of a step, if no cap refuses any."""
        if step < 0:
            return 0
        loop = self.loop_of(step)
        local = self.local(step, loop)
        born = 0
        for _, flow in self.flows:
            inside = int(flow.counts(loop, np.atleast_1d(local))[0])
            # Where loops repeat, each counts from its own first.
            born += inside + loop * flow.total(0) if self.repeats else inside - flow.first(0)
        for burst in self.bursts:
            turns = np.arange(*burst.turns_between(-1.0, float(local)))
            there = self._burst_steps(burst, loop, turns) <= step
            born += burst.before(loop) + int(np.sum(burst.fired(loop, turns)[there]))
            if self.loop:
                # The next loop's first may stand at this very step, which by rounding is still in this loop.
                ahead = self._burst_steps(burst, loop + 1, np.arange(min(burst.turns, 1))) <= step
                born += int(np.sum(burst.fired(loop + 1, np.arange(min(burst.turns, 1)))[ahead]))
        return born

    def _burst_steps(self, burst: BurstSource, loop: int, turns: Ints) -> Floats:
        """Return when a burst fires, in steps since time 0; whole where it is at the start of one."""
        start = loop * self.whole if self.whole else loop * self.duration * self.rate
        at = start + (self.begin + burst.at(turns)) * self.rate
        near = np.rint(at)
        return np.where(np.abs(at - near) < _AT_STEP, near, at)

    # Which

    def births(self, first: int, stop: int, cap: int = 4_000_000) -> Births:
        """Return the births of steps ``first`` to ``stop``, in order.

        Parameters
        ----------
        cap : int
            In each step no more are listed, the first ones; those behind are only counted.
        """
        steps = stop - first
        found: list[_Group] = []
        total, since_zero = np.zeros(steps, np.int64), np.zeros(steps, np.int64)

        def take(group: _Group, count: Ints, step: Ints, timely: bool | NDArray[np.bool_]) -> None:
            found.append(group)
            np.add.at(total, step - first, count)
            np.add.at(since_zero, step - first, np.where(timely, count, 0))

        if self.flows or self.bursts:
            for loop in range(self.loop_of(first), self.loop_of(stop) + 1 if self.loop else 1):
                for source, flow in self.flows:
                    self._list_flow(source, flow, loop, first, stop, cap, take)
                self._list_bursts(loop, first, stop, cap, take)
            if self.loop and self.bursts:
                # Bursts at the very start of the next loop belong to the last step of this one.
                self._list_bursts(self.loop_of(stop) + 1, first, stop, cap, take)
        if self._held > 0.0 and first < 0:
            self._list_held(first, stop, cap, take)
        return _merged(found, first, steps, cap, total, since_zero, self.in_row)

    def no_births(self, first: int, stop: int) -> Births:
        """Return no births in some steps."""
        return _merged([], first, stop - first, 0, np.zeros(0, np.int64), np.zeros(0, np.int64))

    def _list_flow(self, source, flow, loop, first, stop, cap, take) -> None:  # type: ignore[no-untyped-def]
        """List the births of a rate in some steps of a loop."""
        if self.loop:
            # Only the steps that this loop touches.
            start = (loop * self.whole) if self.whole else loop * self.duration * self.rate
            here = max(first, math.floor(start) - 1)
            stop = min(stop, math.ceil(start + self.duration * self.rate) + 1)
            if stop <= here:
                return
            first = here
        bounds = np.arange(first, stop + 1)
        local = self.local(bounds.astype(np.float64), loop)
        counts = flow.counts(loop, local)
        each = np.diff(counts)
        where = np.flatnonzero(each)
        if len(where) == 0:
            return
        listed = np.minimum(each[where], cap)
        at = np.repeat(where, listed)
        place = np.arange(listed.sum()) - np.repeat(np.cumsum(listed) - listed, listed)
        k = counts[at] + place
        moment = np.clip(flow.moments(loop, k), np.maximum(local[at], 0.0), local[at + 1])
        # Never at the very end of a step: that is where bursts of the next moment stand.
        left = np.maximum(local[at + 1] - moment, 1e-9)
        clock = np.clip(moment / self.length, 0.0, 1.0)
        number = starts_of(source, 0 if self.repeats else loop) + (k - flow.first(loop)).astype(np.uint32)
        take(_Group(first + at, left, clock, number, clock), each[where], first + where, first + where >= 0)

    def _list_bursts(self, loop: int, first: int, stop: int, cap: int, take) -> None:  # type: ignore[no-untyped-def]
        """List the births of bursts in some steps of a loop."""
        start, end = (float(self.local(float(step), loop)) for step in (first, stop))
        for burst in self.bursts:
            turns = np.arange(*burst.turns_between(start, end))
            if len(turns) == 0:
                continue
            at = self._burst_steps(burst, loop, turns)
            step = np.ceil(at).astype(np.int64) - 1
            inside = (step >= first) & (step < stop)
            turns, at, step = turns[inside], at[inside], step[inside]
            count = burst.fired(loop, turns)
            turns, at, step, count = turns[count > 0], at[count > 0], step[count > 0], count[count > 0]
            if len(turns) == 0:
                continue
            listed = np.minimum(count, cap)
            # A burst that fires often in one step lists no more than a cap could hold.
            ahead = np.cumsum(listed) - listed
            ahead -= np.maximum.accumulate(np.where(np.append(-1, step[:-1]) != step, ahead, 0))
            listed = np.clip(cap - ahead, 0, listed)
            of = np.repeat(np.arange(len(turns)), listed)
            place = np.arange(listed.sum()) - np.repeat(np.cumsum(listed) - listed, listed)
            number = burst.starts(loop, turns)[of] + place.astype(np.uint32)
            left = ((step + 1 - at) / self.rate)[of]
            clock = np.clip(burst.at(turns) / self.length, 0.0, 1.0)[of]
            row = np.where(count[of] > 1, place / np.maximum(count[of] - 1, 1), 0.5)
            take(_Group(step[of], left, clock, number, row), count, step, (step >= 0) | (at == 0.0))

    def _list_held(self, first: int, stop: int, cap: int, take) -> None:  # type: ignore[no-untyped-def]
        """List the births of a one-shot's warm-up: as it begins at time 0, its rate has been before."""
        bounds = np.minimum(np.arange(first, stop + 1), 0) / self.rate
        counts = np.ceil(bounds * self._held - 1e-9).astype(np.int64)
        each = np.diff(counts)
        where = np.flatnonzero(each)
        listed = np.minimum(each[where], cap)
        at = np.repeat(where, listed)
        k = counts[at] + np.arange(listed.sum()) - np.repeat(np.cumsum(listed) - listed, listed)
        left = np.maximum(bounds[at + 1] - np.clip(k / self._held, bounds[at], bounds[at + 1]), 1e-9)
        number = starts_of(source_key("rate"), -1) + (-k).astype(np.uint32)
        take(
            _Group(first + at, left, np.zeros(len(at)), number, np.zeros(len(at))),
            each[where],
            first + where,
            False,
        )

    def nth(self, index: int) -> Birth | None:
        """Return the birth that is so many behind the first since time 0, if no cap refuses any.

        Returns
        -------
        Birth or None
            An index past the first loop's births starts again at
            its first. None if there are none.
        """
        found, total = self._found([index])
        if not found and total > 0:
            found, _ = self._found([index % total])
        return found[0] if found else None

    def sample(self, indices: Sequence[int]) -> list[Birth]:
        """Return the births that are so many behind the first since time 0, if no cap refuses any.

        Parameters
        ----------
        indices : sequence of int
            In rising order; those past the first loop's births are left out.
        """
        return self._found(indices)[0]

    def _found(self, indices: Sequence[int]) -> tuple[list[Birth], int]:
        """Return births of the first loop by rising indices, and how many were passed on the way."""
        last = max(1, math.ceil(self.duration * self.rate - 1e-9))
        before, start = 0, -1
        found: list[Birth] = []
        while start < last and len(found) < len(indices):
            # In steps -1 and below only what stands at time 0 counts.
            stop = min(last, max(start + 1, 2 * start, 16))
            listed = self.births(start, stop, 1_000_000)
            early = int(np.count_nonzero(listed.left[: listed.first[1]])) if start == -1 else 0
            here = len(listed.number) - early
            while len(found) < len(indices) and indices[len(found)] < before + here:
                found.append(_birth(listed, early + indices[len(found)] - before, start))
            before, start = before + here, stop
        return found, before


def _birth(listed: Births, at: int, start: int) -> Birth:
    """Return one of the births that are listed from a step on."""
    step = start + int(np.searchsorted(listed.first, at, side="right")) - 1
    row = float(listed.row[at]) if len(listed.row) else 0.0
    return Birth(int(listed.number[at]), step, float(listed.left[at]), float(listed.clock[at]), (), row)


def _merged(
    found: list[_Group], first: int, steps: int, cap: int, total: Ints, since_zero: Ints, in_row: bool = False
) -> Births:
    """Return groups of births as one list by step and moment, cut at a cap in each step."""
    if not found:
        none = np.zeros(0)
        return Births(
            left=none.astype(np.float32),
            clock=none,
            number=none.astype(np.uint32),
            first=np.zeros(steps + 1, np.int64),
            rest=np.zeros(steps, np.int64),
        )
    step, left, clock, number, row = (np.concatenate(column) for column in zip(*found, strict=True))
    if len(found) > 1:
        order = np.lexsort((-left, step))
        step, left, clock, number, row = step[order], left[order], clock[order], number[order], row[order]
    here = step - first
    listed = np.bincount(here, minlength=steps)[:steps]
    if listed.max(initial=0) > cap:
        place = np.arange(len(here)) - np.repeat(np.cumsum(listed) - listed, listed)
        kept = place < cap
        left, clock, number, row = left[kept], clock[kept], number[kept], row[kept]
        listed = np.minimum(listed, cap)
    rest = total - listed
    # In the step before time 0, what is counted stands last.
    rest = np.where(np.arange(first, first + steps) >= 0, rest, np.minimum(rest, since_zero))
    offsets = np.concatenate([[0], np.cumsum(listed)])
    births = Births(
        left=left.astype(np.float32),
        clock=clock,
        number=number,
        first=offsets.astype(np.int64),
        rest=rest.astype(np.int64),
    )
    return births._replace(row=row.astype(np.float32)) if in_row else births

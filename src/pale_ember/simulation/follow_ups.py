"""The births of a follow-up: each event of its parent that it answers, and what its particles are given of it."""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from ..effect.contact import Origin
from ..effect.effect import Effect, Layer
from ..effect.kinds import FollowAim, When
from ..effect.values import Fixed, Value
from . import dependence
from . import given as g
from . import recording as e
from . import slots as s
from .births import Schedule
from .course import Births
from .dice import draw, layer_key, mixed, property_key
from .kernels import helper, kernel
from .path import channel, piece_at
from .sampling import one
from .signatures import BOOL, D1, F2, NOTHING, REAL, TABLES, TRACK, U1
from .sources import source_key, starts_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Numbers = NDArray[np.uint32]
# What of a parent each kind of follow-up asks for.
WANTED = {When.BIRTH: e.BIRTH, When.HIT: e.HIT, When.DEATH: e.DEATH, When.ALIVE: e.FLIGHT}
# Events by the metre have numbers of their own beside those by the second.
BY_METRE = 1 << 30
# Of all flights in one step, events that are looked at for each that could be born.
_MOST_LOOKED = 8


class Events(NamedTuple):
    """Events of parents, in the order of their moments.

    ``step`` (n,), ``left`` (n,) s of the step behind them, ``number`` (n,) of the parents, ``nth`` (n,) the event's
    place among its parent's; ``place``, ``normal``, ``velocity`` (n, 3); ``age``, ``clock`` (n,) and ``taken`` (n, 4)
    of the parents.
    """

    step: Ints
    left: Floats
    number: Numbers
    nth: Ints
    place: Floats
    normal: Floats
    velocity: Floats
    age: Floats
    clock: Floats
    taken: Floats

    def only(self, kept: NDArray[np.bool_] | Ints) -> Events:
        """Return some of them."""
        return Events(*(column[kept] for column in self))  # type: ignore[arg-type]


class Answer(NamedTuple):
    """What became of a parent's events in some steps: how many there were, too slow, left to chance, outside the window;
    of the births how many, and how many the limit refused; and how many seconds the steps took."""

    events: int
    slow: int
    chance: int
    outside: int
    births: int
    limited: int
    seconds: float = 0.0

    @property
    def each_second(self) -> float:
        """Return how many births the layer is asked for in a second, those included that its limit refuses."""
        return (self.births + self.limited) / self.seconds if self.seconds > 0.0 else 0.0


class _Chosen(NamedTuple):
    """Events that are answered, by step and moment: the layer's clock at each, the number of its first birth, how many
    births it has, and how many stand before them in its step; and for each step, events that nobody looked at."""

    events: Events
    clock: Floats
    starts: Numbers
    many: Ints
    ahead: Ints
    unseen: Ints


class Parent(Protocol):
    """What a follow-up asks of the layer that it follows."""

    def events(self, first: int, stop: int, kind: int) -> tuple[NDArray[np.float32], Ints]:
        """Return the events of a kind in some steps, as :mod:`.recording` numbers their columns."""

    def looks(self, events: Events) -> NDArray[np.float32]:
        """Return colour and height, (n, 4), of its particles at some events."""


class FollowUp:
    """The births of one layer that follows another.

    Parameters
    ----------
    effect : Effect
    layer : Layer
    parent : Parent
        The layer that it follows.
    """

    def __init__(self, effect: Effect, layer: Layer, parent: Parent) -> None:
        self.parent, self.origin, self.rate = parent, layer.origin, effect.step_rate
        self._schedule = Schedule(effect, layer)
        self._launch_carry = layer.launch.carry
        self._most_born = int(min(layer.origin.limit, layer.emit.cap) / max(layer.origin.chance, 0.01)) + 8
        dice = layer_key(effect.seed, layer.id)
        self._keys = {name: property_key(dice, f"origin.{name}") for name in ("count", "chance", "carry", "rate", "per_metre", "phase")}
        self._keys["launch.carry"] = property_key(dice, "launch.carry")
        self._source = source_of(self.origin)
        self.kind = WANTED[self.origin.when]

    def births(self, first: int, stop: int, cap: int) -> Births:
        """Return the births of steps ``first`` to ``stop``, in order; in each step no more than a cap are listed."""
        chosen, _ = self._chosen(first, stop)
        events, clock, starts, count, ahead = chosen.events, chosen.clock, chosen.starts, chosen.many, chosen.ahead
        step = events.step - first
        listed = np.clip(min(self.origin.limit, cap) - ahead, 0, count)
        refused = np.where((events.step >= 0) | (events.left == 0.0), count - listed, 0)
        rest = np.bincount(step, weights=refused, minlength=stop - first).astype(np.int64) + chosen.unseen
        rest[: max(min(-1 - first, stop - first), 0)] = 0
        of = np.repeat(np.arange(len(step)), listed)
        place = np.arange(len(of)) - np.repeat(np.cumsum(listed) - listed, listed)
        number = starts[of] + place.astype(np.uint32)
        offsets = np.concatenate([[0], np.cumsum(np.bincount(step[of], minlength=stop - first))])
        return Births(
            events.left[of].astype(np.float32), clock[of], number, offsets.astype(np.int64), rest,
            self._given(events, of, clock, number),
        )  # fmt: skip

    def answer(self, first: int, stop: int) -> Answer:
        """Return what becomes of the parent's events in some steps, without listing the births."""
        chosen, told = self._chosen(first, stop)
        born = np.clip(self.origin.limit - chosen.ahead, 0, chosen.many)
        return told._replace(births=int(born.sum()), limited=int((chosen.many - born).sum()), seconds=(stop - first) / self.rate)

    def _chosen(self, first: int, stop: int) -> tuple[_Chosen, Answer]:
        """Return which of the parent's events are answered, and what became of the others."""
        what, who = self.parent.events(first, stop, self.kind)
        events = self._in_flight(what, who) if self.kind == e.FLIGHT else _events(what, who)
        whole = len(events.step)
        fast = np.ones(whole, np.bool_)
        if self.origin.min_speed > 0.0:
            fast = np.linalg.norm(events.velocity, axis=1) >= self.origin.min_speed
        clock, inside = self._clock(events)
        starts = starts_of_events(self._source, events.number, events.nth)
        lucky = draw(self._keys["chance"], starts) < self.origin.chance
        told = Answer(whole, int(np.sum(~fast)), int(np.sum(fast & inside & ~lucky)), int(np.sum(fast & ~inside)), 0, 0)
        order = np.flatnonzero(fast & inside & lucky)
        order = order[np.lexsort((-events.left[order], events.step[order]))]
        events, clock, starts = events.only(order), clock[order], starts[order]
        unseen = np.zeros(stop - first, np.int64)
        if len(order) > _MOST_LOOKED * self._most_born:
            # What stands behind so many in its step can't be born; it is refused, and counted as one each.
            order_step = events.step - first
            ahead_of = np.arange(len(order)) - np.searchsorted(order_step, order_step)
            near = ahead_of < _MOST_LOOKED * self._most_born
            unseen = np.bincount(order_step[~near], minlength=stop - first)
            events, clock, starts = events.only(near), clock[near], starts[near]
        low, high = self.origin.count.bounds_at(clock)
        least = np.maximum(np.rint(np.minimum(low, high)), 0.0)
        span = np.maximum(np.rint(np.maximum(low, high)), 0.0) - least + 1.0
        count = (least + np.floor(draw(self._keys["count"], starts).astype(np.float64) * span)).astype(np.int64)
        step = events.step - first
        ahead = np.cumsum(count) - count
        ahead -= np.maximum.accumulate(np.where(np.append(-1, step[:-1]) != step, ahead, 0)) if len(step) else 0
        return _Chosen(events, clock, starts, count, ahead, unseen), told

    def _clock(self, events: Events) -> tuple[Floats, NDArray[np.bool_]]:
        """Return the layer's clock at some events, and which of them lie in its window."""
        plan = self._schedule
        local = self._local(events.step + 1 - events.left * self.rate)
        if plan.length <= 0.0:
            return np.zeros(len(local)), np.zeros(len(local), np.bool_)
        inside = (local >= -1e-7) & (local < plan.length - 1e-9)
        if not plan.loop and plan.begin <= 0.0:
            # What a one-shot's parents do in its warm-up counts as at its beginning.
            inside |= local < 0.0
        return np.clip(local / plan.length, 0.0, 1.0), inside

    def _local(self, at: Floats) -> Floats:
        """Return the time since the window began, s, of moments in steps."""
        plan = self._schedule
        if not plan.loop:
            return at / self.rate - plan.begin  # type: ignore[no-any-return]
        # A moment that rounding puts just before a loop begins is its beginning.
        if plan.whole:
            return (at - np.floor(at / plan.whole + 1e-9) * plan.whole) / self.rate - plan.begin  # type: ignore[no-any-return]
        loops = np.floor(at / self.rate / plan.duration + 1e-9)
        return at / self.rate - loops * plan.duration - plan.begin  # type: ignore[no-any-return]

    def _in_flight(self, what: NDArray[np.float32], who: Ints) -> Events:
        """Return the events all along some stretches of flight: where what has flown so far passes whole numbers."""
        number = who[:, e.NUMBER].astype(np.uint32)
        rows = what.astype(np.float64)
        length = max(self._schedule.length, 1e-9)
        # A flight's rate is that of its birth.
        birth = who[:, e.STEP] + 1 - (rows[:, e.LEFT] + rows[:, e.FLOWN_TO]) * self.rate
        clock = np.clip(self._local(birth) / length, 0.0, 1.0)
        found: list[tuple[Ints, Floats, Ints]] = []
        for value, name, begin, end, first in (
            (self.origin.rate, "rate", e.FLOWN, e.FLOWN_TO, 0),
            (self.origin.per_metre, "per_metre", e.WALKED, e.WALKED_TO, BY_METRE),
        ):
            if value == Fixed(0.0) or not len(rows):
                continue
            each = valued(value, clock, draw(self._keys[name], number))
            phase = draw(property_key(self._keys["phase"], name), number).astype(np.float64)
            low, high = np.floor(each * rows[:, begin] + phase), np.floor(each * rows[:, end] + phase)
            # Far more than can be born in a step are not even looked at; how many depends on the step alone.
            flights = np.bincount(who[:, e.STEP] - who[0, e.STEP])[who[:, e.STEP] - who[0, e.STEP]]
            most = np.maximum(_MOST_LOOKED * self._most_born // flights, 1)
            count = np.minimum(high - low, most).astype(np.int64)
            of = np.repeat(np.arange(len(rows)), count)
            index = low[of] + 1.0 + np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)
            way = rows[of, end] - rows[of, begin]
            at = (index - phase[of]) / np.maximum(each[of], 1e-30) - rows[of, begin]
            share = np.clip(at / np.maximum(way, 1e-30), 0.0, 1.0)
            found.append((of, share, index.astype(np.int64) + first))
        found.append((np.zeros(0, np.int64), np.zeros(0), np.zeros(0, np.int64)))
        of, share, index = (np.concatenate(side) for side in zip(*found, strict=True))
        events = _events(what[of], who[of])
        begun, ended = rows[of, e.BEGAN : e.BEGAN + 3], rows[of, e.PLACE : e.PLACE + 3]
        flown = rows[of, e.FLOWN_TO] - rows[of, e.FLOWN]
        left = rows[of, e.LEFT] + flown * (1.0 - share)
        return events._replace(left=left, nth=index, place=begun + (ended - begun) * share[:, None])

    def _given(self, events: Events, of: Ints, clock: Floats, number: Numbers) -> NDArray[np.float32]:
        """Return what each newborn is given of its event, the one at ``of``."""
        found = np.zeros((len(events.step), g.COLUMNS), np.float32)
        found[:, g.PLACE : g.PLACE + 3] = events.place
        found[:, g.AXIS : g.AXIS + 3] = axis_of(self.origin.aim, events.velocity, events.normal)
        carries = [(name, value) for name, value in (("carry", self.origin.carry), ("launch.carry", self._launch_carry)) if value != Fixed(0.0)]
        if carries:
            found[:, g.VELOCITY : g.VELOCITY + 3] = events.velocity
        found[:, g.COLOR :] = 1.0
        if self.origin.take_color or self.origin.take_size:
            looks = self.parent.looks(events)
            if self.origin.take_color:
                found[:, g.COLOR : g.COLOR + 3] = looks[:, :3]
            if self.origin.take_size:
                found[:, g.SIZE] = looks[:, 3]
        found = found[of]
        if carries:
            carried = sum(valued(value, clock[of], draw(self._keys[name], number)) for name, value in carries)
            found[:, g.VELOCITY : g.VELOCITY + 3] *= np.asarray(carried, np.float32)[:, None]
        return found


def source_of(origin: Origin) -> np.uint32:
    """Return the key of a follow-up's births, as a source of numbers."""
    return source_key(f"follow/{origin.when}")


def wants_of(effect: Effect, layer: Layer) -> int:
    """Return what the follow-ups of a layer ask of it, as bits of :mod:`.recording`."""
    return sum(WANTED[when] for when in dependence.wanted(effect, layer))


def starts_of_events(source: np.uint32, parent: Numbers, index: Ints) -> Numbers:
    """Return the number of the first birth of each event, from the parent's number and the event's place among its."""
    return mixed(mixed(starts_of(source, 0)[0] + parent) + index.astype(np.uint32))


def valued(value: Value, clock: Floats, u: NDArray[np.float32]) -> Floats:
    """Return a Value's numbers at clocks, for draws u."""
    low, high = value.bounds_at(clock)
    return low + (high - low) * u.astype(np.float64)  # type: ignore[no-any-return]


def axis_of(aim: FollowAim, velocity: Floats, normal: Floats) -> Floats:
    """Return where a layer's axis points at events, (n, 3); 0 where it is the layer's own."""
    there = np.linalg.norm(normal, axis=1, keepdims=True) > 0.5
    if aim == FollowAim.OWN:
        return np.zeros_like(velocity)
    if aim == FollowAim.SURFACE:
        wanted = np.where(there, normal, 0.0)
    elif aim == FollowAim.MIRROR:
        into = np.minimum(np.sum(velocity * normal, axis=1, keepdims=True), 0.0)
        wanted = velocity - 2.0 * into * normal
    else:
        wanted = velocity
    far = np.linalg.norm(wanted, axis=1, keepdims=True)
    return np.where(far > 1e-9, wanted / np.maximum(far, 1e-9), 0.0)  # type: ignore[no-any-return]


def _events(what: NDArray[np.float32], who: Ints) -> Events:
    rows = what.astype(np.float64)
    return Events(
        who[:, e.STEP], rows[:, e.LEFT], who[:, e.NUMBER].astype(np.uint32), who[:, e.INDEX],
        rows[:, e.PLACE : e.PLACE + 3], rows[:, e.NORMAL : e.NORMAL + 3], rows[:, e.VELOCITY : e.VELOCITY + 3],
        rows[:, e.AGE], rows[:, e.CLOCK], rows[:, e.TAKEN : e.TAKEN + 4],
    )  # fmt: skip


@helper
def _read(tables, slot, age, clock, speed, serial):
    """Return one particle's value of a slot, along whatever it runs."""
    form = tables.form[slot]
    x = age
    if form >= s.SPEED_CURVE:
        x = speed
    elif form >= s.CLOCK_CURVE:
        x = clock
    return one(tables, slot, x, serial)


@kernel(NOTHING, TABLES, TRACK, BOOL, REAL, D1, D1, D1, D1, U1, F2, entry=True)
def look_at_events(tables, track, follow, speed_range, now, births, ages, speeds, serial, out):
    """Write colour and height, (n, 4), that particles have at events.

    Parameters
    ----------
    now, births : float64 arrays, shape (n,)
        The layer's clock at the events, and at the particles' births.
    ages, speeds : float64 arrays, shape (n,)
    """
    for i in range(ages.shape[0]):
        grown: float = 1.0
        if track.moves:
            clock = now[i] if follow else births[i]
            grown = max(channel(track, piece_at(track, clock), 6, clock), 1e-4)
        fast = speeds[i] / (speed_range * grown)
        for k in range(3):
            tint = one(tables, s.TINT_R + k, births[i], serial[i])
            out[i, k] = tint * _read(tables, s.COLOR_R + k, ages[i], now[i], fast, serial[i])
        size = one(tables, s.SIZE, births[i], serial[i]) * _read(tables, s.GROW, ages[i], now[i], fast, serial[i])
        out[i, 3] = size * np.float32(grown)

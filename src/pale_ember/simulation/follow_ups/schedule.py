"""The births of a follow-up: one or more for each event of its parent, with what they take over from that
event.
"""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.contact import Origin
from ...effect.editing.chains import follow_ups
from ...effect.effect import Effect, Layer
from ...effect.kinds import When, code_of
from ...effect.values.values import Fixed, Value
from ..births.schedule import Schedule
from ..births.sources import source_key, starts_of
from ..layout import dependence, payload_columns, recording
from ..layout.program import Births
from ..values.dice import layer_key, mixed, property_key, random_share
from .answered import (
    CHANCE,
    DIGITS,
    OUTSIDE,
    SLOW,
    count_births,
    find_since_begin,
    give,
    list_births,
    put_in_order,
    weigh,
)
from .event_looks import Seen, looks_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Numbers = NDArray[np.uint32]
# What each kind of follow-up needs from its parent.
WANTED = {
    When.BIRTH: recording.BIRTH,
    When.HIT: recording.HIT,
    When.DEATH: recording.DEATH,
    When.ALIVE: recording.FLIGHT,
}
# Events by the metre have numbers of their own beside those by the second.
BY_METRE = 1 << 30
# And so has the end of a flight.
AT_END = 1 << 31
# Events of one step that are looked at for each that could be born, and in all.
_LOOKED_EACH, _MOST_LOOKED = 8, 200_000


class FollowUpTally(NamedTuple):
    """What became of a parent's events in some steps: how many there were, too slow, left to chance, outside
    the window; of the births how many, and how many the limit refused; and how many seconds the steps took.
    """

    events: int
    slow: int
    chance: int
    outside: int
    births: int
    limited: int
    seconds: float = 0.0

    @property
    def each_second(self) -> float:
        """Return how many births the layer has room for in a second, as far as its limit lets them
        through.
        """
        return self.births / self.seconds if self.seconds > 0.0 else 0.0


class _Chosen(NamedTuple):
    """Events that are answered: rows of all, the ``order`` of the answered by step and moment, the layer's
    clock at each of all and the number of its first birth; of the answered how many births each has, how many
    of those are listed; and of each step how many are listed, and how many are refused beside them since time
    0.
    """

    what: NDArray[np.float32]
    order: Ints
    clock: Floats
    starts: Numbers
    many: Ints
    listed: Ints
    each_step: Ints
    rest: Ints


class Parent(Seen, Protocol):
    """What a follow-up asks of the layer that it follows."""

    def events(self, first: int, stop: int, kind: int) -> tuple[NDArray[np.float32], Ints]:
        """Return the events of a kind in some steps, as :mod:`..layout.recording` numbers their columns."""


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
        self.joins = dependence.joins_parents(layer)
        born = int(min(layer.origin.limit, layer.emit.cap) / max(layer.origin.chance, 0.01)) + 8
        self._looked = min(_LOOKED_EACH * born, _MOST_LOOKED)
        dice = layer_key(effect.seed, layer.id)
        self._keys = {
            name: property_key(dice, f"origin.{name}")
            for name in ("count", "chance", "carry", "rate", "per_metre", "phase")
        }
        self._keys["launch.carry"] = property_key(dice, "launch.carry")
        self._source, self._clock = starts_of(source_of(self.origin), 0)[0], self._schedule.clock_bundle
        self.kind = WANTED[self.origin.when]

    def births(self, first: int, stop: int, cap: int) -> Births:
        """Return the births of steps ``first`` to ``stop``, in order; in each step no more than a cap are
        listed.
        """
        chosen, _, who = self._chosen(first, stop, cap)
        n, total = len(chosen.order), int(chosen.each_step.sum())
        payload = np.empty((n, payload_columns.COLUMNS), np.float32)
        carries = [
            (name, value)
            for name, value in (("carry", self.origin.carry), ("launch.carry", self._launch_carry))
            if value != Fixed(0.0)
        ]
        aim = code_of(self.origin.aim)
        give(chosen.what, chosen.order, n, aim, bool(carries), payload)
        if self.origin.take_color or self.origin.take_size:
            looks = looks_of(self.parent, chosen.what[chosen.order], who[chosen.order])
            if self.origin.take_color:
                payload[:, payload_columns.COLOR : payload_columns.COLOR + 3] = looks[:, :3]
            if self.origin.take_size:
                payload[:, payload_columns.SIZE] = looks[:, 3]
        births = Births(
            left=np.empty(total, np.float32),
            clock=np.empty(total),
            number=np.empty(total, np.uint32),
            first=np.concatenate([[0], np.cumsum(chosen.each_step)]),
            rest=chosen.rest,
            payload=payload,
            of=np.empty(total, np.int32),
        )
        list_births(chosen.what, chosen.order, n, chosen.clock, chosen.starts, chosen.listed, births)
        payload[:, payload_columns.PARENT :] = 0.0
        if self.joins:
            payload[:, payload_columns.PARENT] = (
                who[chosen.order, recording.NUMBER].astype(np.uint32).view(np.float32)
            )
            payload[:, payload_columns.WALKED] = (
                chosen.what[chosen.order, recording.WALKED] if self.kind == recording.FLIGHT else 0.0
            )
        if self._schedule.in_row:
            births = births._replace(row=_rows(chosen, births.of))
        if not carries:
            return births
        carried = sum(
            valued(value, births.clock, random_share(self._keys[name], births.number))
            for name, value in carries
        )
        return births._replace(carried=np.asarray(carried, np.float32))

    def answer(self, first: int, stop: int) -> FollowUpTally:
        """Return what becomes of the parent's events in some steps, without listing the births."""
        chosen, told, _ = self._chosen(first, stop, self.origin.limit)
        born, wanted = int(chosen.listed.sum()), int(chosen.many.sum())
        return told._replace(births=born, limited=wanted - born, seconds=(stop - first) / self.rate)

    def _chosen(self, first: int, stop: int, cap: int) -> tuple[_Chosen, FollowUpTally, Ints]:
        """Return which of the parent's events are answered, what became of the others, and who they were."""
        what, who = self.parent.events(first, stop, self.kind)
        if self.kind == recording.FLIGHT:
            flights = what, who
            what, who = self._in_flight(what, who)
            if self.joins:
                ends, whose = self.parent.events(first, stop, recording.DEATH)
                ends, whose = _with_walks(ends, whose, *flights)
                what, who = np.concatenate([what, ends]), np.concatenate([who, whose])
        whole, origin = len(what), self.origin
        clock, starts, keys, verdict = (
            np.empty(whole),
            np.empty(whole, np.uint32),
            np.empty(whole, np.uint64),
            np.empty(whole, np.int32),
        )
        weigh(
            what,
            who,
            self._clock,
            self._source,
            self._keys["chance"],
            origin.chance,
            origin.min_speed,
            first,
            clock,
            starts,
            keys,
            verdict,
        )
        order = np.empty(whole, np.int64)
        n = put_in_order(keys, verdict, order, np.empty(whole, np.int64), np.empty(DIGITS + 1, np.int64))
        order = order[:n]
        low, high = origin.count.bounds_at(clock[order])
        many, listed = np.empty(n, np.int64), np.empty(n, np.int64)
        each_step, rest = np.zeros(stop - first, np.int64), np.zeros(stop - first, np.int64)
        count_births(
            who,
            what,
            order,
            n,
            starts,
            np.ascontiguousarray(low, np.float64),
            np.ascontiguousarray(high, np.float64),
            self._keys["count"],
            origin.limit,
            cap,
            self._looked,
            first,
            many,
            listed,
            each_step,
            rest,
        )
        became = np.bincount(verdict, minlength=4)
        told = FollowUpTally(whole, int(became[SLOW]), int(became[CHANCE]), int(became[OUTSIDE]), 0, 0)
        return _Chosen(what, order, clock, starts, many, listed, each_step, rest), told, who

    def _in_flight(self, what: NDArray[np.float32], who: Ints) -> tuple[NDArray[np.float32], Ints]:
        """Return the events all along some stretches of flight: where what has flown so far passes whole
        numbers.
        """
        number = who[:, recording.NUMBER].astype(np.uint32)
        rows = what.astype(np.float64)
        length = max(self._schedule.length, 1e-9)
        # A flight's rate is that of its birth.
        birth = (
            who[:, recording.STEP] + 1 - (rows[:, recording.LEFT] + rows[:, recording.FLOWN_TO]) * self.rate
        )
        clock = np.empty(len(birth))
        find_since_begin(self._clock, birth, clock)
        clock = np.clip(clock / length, 0.0, 1.0)
        found: list[tuple[Ints, Floats, Ints]] = []
        for value, name, begin, end, first in (
            (self.origin.rate, "rate", recording.FLOWN, recording.FLOWN_TO, 0),
            (self.origin.per_metre, "per_metre", recording.WALKED, recording.WALKED_TO, BY_METRE),
        ):
            if value == Fixed(0.0) or not len(rows):
                continue
            each = valued(value, clock, random_share(self._keys[name], number))
            phase = random_share(property_key(self._keys["phase"], name), number).astype(np.float64)
            if self.joins:
                # A ribbon begins where its parent does.
                phase[:] = 0.0
            low, high = np.floor(each * rows[:, begin] + phase), np.floor(each * rows[:, end] + phase)
            if self.joins and not found:
                low -= (rows[:, begin] == 0.0) & (rows[:, end] > 0.0)
            # Far more than can be born in a step are not even looked at; how many depends on the step alone.
            flights = np.bincount(who[:, recording.STEP] - who[0, recording.STEP])[
                who[:, recording.STEP] - who[0, recording.STEP]
            ]
            most = np.maximum(self._looked // flights, 1)
            # Particles whose place is no longer finite have no events.
            with np.errstate(invalid="ignore"):
                passed = np.nan_to_num(high - low, nan=0.0, posinf=0.0)
            count = np.clip(passed, 0, most).astype(np.int64)
            of = np.repeat(np.arange(len(rows)), count)
            index = low[of] + 1.0 + np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count)
            way = rows[of, end] - rows[of, begin]
            at = (index - phase[of]) / np.maximum(each[of], 1e-30) - rows[of, begin]
            share = np.clip(at / np.maximum(way, 1e-30), 0.0, 1.0)
            # Beyond whole numbers that are told apart any number is as good.
            found.append((of, share, np.fmod(index, 2.0**52).astype(np.int64) + first))
        found.append((np.zeros(0, np.int64), np.zeros(0), np.zeros(0, np.int64)))
        of, share, index = (np.concatenate(side) for side in zip(*found, strict=True))
        what, who = what[of], who[of]
        begun, ended = (
            rows[of, recording.BEGAN : recording.BEGAN + 3],
            rows[of, recording.PLACE : recording.PLACE + 3],
        )
        flown = rows[of, recording.FLOWN_TO] - rows[of, recording.FLOWN]
        what[:, recording.LEFT] = rows[of, recording.LEFT] + flown * (1.0 - share)
        what[:, recording.PLACE : recording.PLACE + 3] = begun + (ended - begun) * share[:, None]
        walked = rows[of, recording.WALKED]
        what[:, recording.WALKED] = walked + (rows[of, recording.WALKED_TO] - walked) * share
        who[:, recording.INDEX] = index
        return what, who


def _rows(chosen: _Chosen, of: NDArray[np.int32]) -> NDArray[np.float32]:
    """Return the place of each birth in the row of its event's, 0…1."""
    first = np.cumsum(chosen.listed) - chosen.listed
    place, many = np.arange(len(of)) - first[of], chosen.many[of]
    return np.where(many > 1, place / np.maximum(many - 1, 1), 0.5).astype(np.float32)


def _with_walks(
    what: NDArray[np.float32], who: Ints, flights: NDArray[np.float32], whose: Ints
) -> tuple[NDArray[np.float32], Ints]:
    """Return deaths as points at the ends of flights: as far along as those went, and numbered apart from
    what is on the way.
    """
    what, who = what.copy(), who.copy()
    who[:, recording.INDEX] = AT_END
    if len(what) and len(flights):
        key, keys = (rows[:, recording.STEP] << 32 | rows[:, recording.NUMBER] for rows in (who, whose))
        order = np.argsort(keys, kind="stable")
        # The last stretch of those of the same particle in the same step.
        at = np.maximum(np.searchsorted(keys[order], key, side="right") - 1, 0)
        what[:, recording.WALKED] = flights[order[at], recording.WALKED_TO]
    return what, who


def source_of(origin: Origin) -> np.uint32:
    """Return the key of a follow-up's births, as a source of numbers."""
    return source_key(f"follow/{origin.when}")


def wants_of(effect: Effect, layer: Layer) -> int:
    """Return what the follow-ups of a layer ask of it, as bits of :mod:`..layout.recording`."""
    wants = 0
    for child in follow_ups(effect, layer.id):
        wants |= asked_by(child) if child.enabled else 0
    return wants


def asked_by(child: Layer) -> int:
    """Return what a follow-up asks of the layer that it follows, as bits of :mod:`..layout.recording`."""
    when = child.origin.when
    # A ribbon ends where its parent's flight does.
    return WANTED[when] | (recording.DEATH if when == When.ALIVE and dependence.joins_parents(child) else 0)


def starts_of_events(source: np.uint32, parent: Numbers, index: Ints) -> Numbers:
    """Return the number of the first birth of each event, from the parent's number and the event's place
    among its.
    """
    return mixed(mixed(starts_of(source, 0)[0] + parent) + index.astype(np.uint32))


def valued(value: Value, clock: Floats, u: NDArray[np.float32]) -> Floats:
    """Return a Value's numbers at clocks, for draws u."""
    low, high = value.bounds_at(clock)
    return low + (high - low) * u.astype(np.float64)

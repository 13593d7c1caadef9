"""One particle from birth to death: its own flight, and how it looks at any age."""

from __future__ import annotations

import dataclasses
import math

import numpy as np
from numba import njit
from numpy.typing import ArrayLike, NDArray

from ..effect.effect import Effect, Layer
from . import look, motion
from . import slots as s
from .births import Schedule
from .layer_run import LayerRun
from .sampling import at_clock, options
from .stepping import COUNTERS, NEXT, give_births, live, settle
from .tables import Tables

Floats = NDArray[np.float32]
# A flight of more steps than this is followed no further; what comes after looks as at its end.
MOST_STEPS = 20_000


@dataclasses.dataclass(frozen=True)
class Biography:
    """One particle's flight.

    Attributes
    ----------
    serial : int
    born : float
        The moment of its birth, s.
    lifetime : float
        s.
    states : (rows, n) float32
        Its state at the end of each step that it lives, as ``slots`` numbers the rows.
    """

    serial: int
    born: float
    lifetime: float
    states: Floats

    @property
    def ages(self) -> Floats:
        """Return its age 0…1 at the end of each step, (n,)."""
        return self.states[s.AGE]


class Single:
    """A layer of which one particle at a time is simulated; nothing else of the effect is.

    Parameters
    ----------
    effect : Effect
    layer : Layer
        One of the effect's.

    Raises
    ------
    EffectError
        As from :class:`~.simulation.Simulation`.
    """

    def __init__(self, effect: Effect, layer: Layer) -> None:
        self.effect = effect
        alone = layer.model_copy(update={"emit": layer.emit.model_copy(update={"cap": 1})})
        self._run = LayerRun(effect, alone)
        self._schedule = Schedule(effect, layer)
        self._motion, self._look = motion.scratch(), look.scratch()

    def birth(self, index: int) -> tuple[int, float] | None:
        """Return serial and moment, s, of the birth that is so many behind the first since time 0; None without births.

        They are counted as if no birth was refused. An index past the first loop's births starts again at its first.
        """
        begin, until = self._run.first_step / self.effect.step_rate, 1.0 / 64
        moments = np.empty(0)
        # No more are listed than it takes to come to the one that is asked for.
        while until < self.effect.duration and len(moments) <= index:
            moments = self._schedule.moments(0.0, until)
            until *= 4.0
        if len(moments) <= index:
            moments = self._schedule.moments(0.0, self.effect.duration)
        if len(moments) == 0:
            return None
        at = index % len(moments)
        return self._schedule.count(begin, 0.0) + at, float(moments[at])

    def dress(self, layer: Layer) -> None:
        """Take the same layer with another look."""
        self._run.dress(self.effect, layer)

    def life(self, serial: int, born: float) -> Biography:
        """Return the flight of the particle of a serial that is born at a moment, s."""
        run, rate = self._run, self.effect.step_rate
        first = math.floor(born * rate + 1e-9)
        counters = np.zeros(COUNTERS, np.int64)
        counters[NEXT] = serial
        states = np.empty((s.ROWS, 512), np.float32)
        births = np.array([born])
        known, alive = 0, 0
        while known < MOST_STEPS:
            known, alive = _follow(
                run._course, run.state, run.serial, counters, first, births, known, alive, states, self._motion
            )
            if not alive:
                break
            states = np.concatenate([states, np.empty_like(states)], axis=1)
        kept = states[:, : max(known, 1)].copy()
        lifetime = 1.0 / max(float(kept[s.PACE, 0]), 1e-9)
        return Biography(serial, born, lifetime, kept)

    def instances(self, life: Biography, ages: ArrayLike, share: float | None = None) -> Floats:
        """Return how a particle looks at some ages.

        Parameters
        ----------
        life : Biography
            From :meth:`life`.
        ages : array_like, shape (n,)
            0…1.
        share : float, optional
            Instead of the particle's own draws, the place 0…1 between low and high of all that is drawn.

        Returns
        -------
        ndarray, shape (n, columns)
            As ``slots.COLUMNS`` says; places are those of the flight.
        """
        wanted = np.asarray(ages, dtype=np.float64)
        state = self._between(life, wanted)
        course = self._run._course
        if share is not None:
            course = course._replace(tables=pinned(course.tables, share))
        serial = np.full(len(wanted), life.serial, np.uint32)
        out = np.empty((len(wanted), s.STRIDE), np.float32)
        form, ends = np.zeros(s.COUNT, np.int32), np.zeros((s.COUNT, 2), np.float32)
        # Ages of one particle are different moments: what follows the clock is looked up for each.
        for i, age in enumerate(wanted):
            time = life.born + float(age) * life.lifetime
            at_clock(course.tables, self._schedule.clock(time), form, ends)
            form[s.SIZE : s.TINT_B + 1] = course.tables.form[s.SIZE : s.TINT_B + 1]
            look.appear(course, state, serial, i, i + 1, out, form, ends, time, self._look)
        return out

    def _between(self, life: Biography, ages: NDArray[np.float64]) -> Floats:
        """Return states at some ages, between those of the steps."""
        known = life.ages.astype(np.float64)
        found = np.empty((s.ROWS, len(ages)), np.float32)
        for row in range(s.ROWS):
            found[row] = np.interp(ages, known, life.states[row])
        if len(known) > 1:
            # Before the first step's end it has turned as fast as after it.
            pace = (life.states[s.TURN, 1] - life.states[s.TURN, 0]) / max(known[1] - known[0], 1e-9)
            early = ages < known[0]
            found[s.TURN, early] = life.states[s.TURN, 0] + (ages[early] - known[0]) * pace
        found[s.AGE] = ages
        found[s.PACE] = 1.0 / life.lifetime
        return found


@njit(**options)
def _follow(course, state, serial, counters, first_step, births, known, alive, states, scr):
    """Carry one particle on until it is dead or the memory for its states is full; return steps known, and whether it lives."""
    while known < states.shape[1]:
        step = first_step + known
        settle(course, step)
        if known == 0:
            alive, _ = give_births(course, state, serial, 0, counters, step, births, 0, True, scr)
        else:
            alive = live(course, state, serial, 0, alive, 0, step, scr)
        if alive == 0:
            if known == 0:
                # It did not live to the end of its first step.
                for row in range(s.ROWS):
                    states[row, 0] = state[row, 0]
                return 1, 0
            return known, 0
        for row in range(s.ROWS):
            states[row, known] = state[row, 0]
        known += 1
    return known, alive


def pinned(tables: Tables, share: float) -> Tables:
    """Return tables in which all that is drawn lies at one place 0…1 between its low and its high."""
    form, ends = tables.form.copy(), tables.ends.copy()
    data, place = tables.data.copy(), np.float32(share)
    for slot in range(s.COUNT):
        if form[slot] == s.SPREAD:
            form[slot] = s.LEVEL
            ends[slot, 0] += (ends[slot, 1] - ends[slot, 0]) * place
        elif form[slot] in (s.LIFE_BAND, s.CLOCK_BAND, s.SPEED_BAND):
            form[slot] -= 1
            first, cells = tables.offset[slot], tables.cells[slot]
            band = tables.data[first : first + 4 * cells].reshape(-1, 4)
            data[first : first + 2 * cells] = (band[:, :2] + (band[:, 2:] - band[:, :2]) * place).reshape(-1)
    return tables._replace(form=form, ends=ends, data=data)

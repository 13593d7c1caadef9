"""One particle from birth to death: its own flight, and how it looks at any age."""

from __future__ import annotations

import dataclasses

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ...effect.effect import Effect, Layer
from ..appearance.appear import look_scratch, write_instances
from ..births.schedule import Birth, Schedule
from ..kernels.compiling import kernel
from ..layout import rows, slots
from ..layout.instances import INSTANCE, columns_of
from ..layout.program import COUNTERS, CUT_HIGH, CUT_LOW, CUT_X, Births, Showing, Tables
from ..layout.scratch import motion_scratch
from ..layout.signatures import BIRTHS, F2, INT, PROGRAM, U1
from ..values.sampling import at_clock
from .ancestors import Ancestors
from .layer_run import LayerRun
from .stepping import call_give_births, call_live, call_settle, give_births, live, settle

Floats = NDArray[np.float32]
# A flight of more steps than this is followed no further; what comes after looks as at its end.
MOST_STEPS = 20_000
_COLUMNS = columns_of(INSTANCE)


@dataclasses.dataclass(frozen=True)
class Biography:
    """One particle's flight.

    Attributes
    ----------
    birth : Birth
    born : float
        The moment of its birth, s.
    lifetime : float
        s.
    states : (rows, n) float32
        Its state at the end of each step that it lives, as :mod:`..layout.rows` numbers the rows.
    ages : (n,) float32
        Its age 0…1 at the end of each step.
    """

    birth: Birth
    born: float
    lifetime: float
    states: Floats
    ages: Floats

    @property
    def serial(self) -> int:
        return self.birth.serial

    @property
    def places(self) -> Floats:
        """Return where it is at the end of each step, (n, 3) m."""
        return self.states[[rows.PX, rows.PY, rows.PZ]].T


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
        As from :class:`~..simulation.Simulation`.
    """

    def __init__(self, effect: Effect, layer: Layer) -> None:
        self.effect = effect
        alone = layer.model_copy(update={"emit": layer.emit.model_copy(update={"cap": 1})})
        self._chain = Ancestors(effect, layer) if layer.origin.parent else None
        self._run = LayerRun(effect, alone)
        self._schedule = Schedule(effect, layer)
        self._motion, self._look = motion_scratch(), look_scratch()

    def birth(self, index: int) -> Birth | None:
        """Return the birth that is so many behind the first since time 0; None without births.

        They are counted as if no birth was refused. An index past the first loop's births starts again at its
        first.
        """
        return self._schedule.nth(index) if self._chain is None else self._chain.nth(index)

    def beside(self, index: int, most: int) -> list[Birth]:
        """Return the birth of :meth:`birth`, and of a follow-up others behind it that are found at once."""
        if self._chain is not None:
            return self._chain.beside(index, most)
        birth = self.birth(index)
        return [birth] if birth is not None else []

    def sample(self, count: int) -> list[Birth]:
        """Return so many births, or as many as there are, evenly spread over those of the first loop."""
        if self._chain is not None:
            return self._chain.sample(count)
        last = round(self.effect.duration * self.effect.step_rate)
        total = self._schedule.born_until(last)
        some = [i * total // count for i in range(count)] if total >= count else range(max(total, 1))
        return self._schedule.sample(some)

    def set_appearance(self, layer: Layer) -> None:
        """Take the same layer with another look."""
        self._run.set_appearance(self.effect, layer)

    def life(self, birth: Birth) -> Biography:
        """Return the flight of the particle of a birth."""
        run, rate = self._run, self.effect.step_rate
        if self._chain is not None and not birth.payload:
            birth = self._chain.found(birth)
        follows = self._chain is not None
        payload = np.array([birth.payload], np.float32) if follows else np.zeros((0, 0), np.float32)
        births = Births(
            left=np.array([birth.left], np.float32),
            clock=np.array([birth.clock]),
            number=np.array([birth.serial], np.uint32),
            first=np.array([0, 1]),
            rest=np.array([0]),
            payload=payload,
            of=np.zeros(int(follows), np.int32),
            carried=np.zeros(0, np.float32),
            row=np.array([birth.row] if self._schedule.in_row else [], np.float32),
        )
        states = np.empty((self._run.state.shape[0], 512), np.float32)
        known, alive = 0, 0
        while known < MOST_STEPS:
            known, alive = divmod(
                follow(
                    run.told(birth.step + known, states.shape[1] - known, 1),
                    run.state,
                    run.serial,
                    birth.step,
                    births,
                    known,
                    alive,
                    states,
                    self._motion,
                    settle.address,
                    live.address,
                    give_births.address,
                ),
                2,
            )
            if not alive:
                break
            states = np.concatenate([states, np.empty_like(states)], axis=1)
        kept = states[:, : max(known, 1)].copy()
        lifetime = 1.0 / max(float(kept[rows.AGING, 0]), 1e-9)
        steps = birth.step + 1 + np.arange(kept.shape[1])
        whole = (steps - birth.step - 1).astype(np.float32)
        ages = (whole * np.float32(1.0 / rate) + kept[rows.SINCE]) * kept[rows.AGING]
        return Biography(birth, (birth.step + 1) / rate - birth.left, lifetime, kept, ages)

    def instances(self, life: Biography, ages: ArrayLike, share: float | None = None) -> NDArray[np.void]:
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
        (n,) array of INSTANCE
            Places are those of the flight.
        """
        wanted = np.asarray(ages, dtype=np.float64)
        state = self._between(life, wanted)
        program = self._run.program
        if share is not None:
            program = program._replace(tables=pinned(program.tables, share))
        serial = np.full(len(wanted), life.serial, np.uint32)
        out = np.zeros((len(wanted), INSTANCE.itemsize // 4), np.float32)
        form, ends = np.zeros(slots.COUNT, np.int32), np.zeros((slots.COUNT, 2), np.float32)
        # Ages of one particle are different moments: what follows the clock is looked up for each.
        for i, age in enumerate(wanted):
            step = (life.born + float(age) * life.lifetime) * self.effect.step_rate
            clock = self._schedule.clock(step)
            at_clock(program.tables, clock, form, ends)
            form[slots.KEPT] = program.tables.form[slots.KEPT]
            showing = Showing(
                state=state,
                serial=serial,
                out=out,
                columns=_COLUMNS,
                form=form,
                ends=ends,
                step=0,
                clock=clock,
            )
            write_instances(program, showing, i, i + 1, self._look)
        return out.view(INSTANCE)[:, 0]

    def _between(self, life: Biography, ages: NDArray[np.float64]) -> Floats:
        """Return states at some ages, between those of the steps; each as if it was born that long before
        step 0.
        """
        known = life.ages.astype(np.float64)
        found = np.empty((len(life.states), len(ages)), np.float32)
        for row in range(len(found)):
            found[row] = np.interp(ages, known, life.states[row])
        if len(known) > 1:
            # Before the first step's end it has turned as fast as after it.
            turning = (life.states[rows.ANGLE, 1] - life.states[rows.ANGLE, 0]) / max(
                known[1] - known[0], 1e-9
            )
            early = ages < known[0]
            found[rows.ANGLE, early] = life.states[rows.ANGLE, 0] + (ages[early] - known[0]) * turning
        found[rows.AGING] = 1.0 / life.lifetime
        found[rows.SINCE] = ages * life.lifetime
        found[rows.BORN].view(np.int32)[:] = 0
        found[rows.CLOCK] = life.birth.clock
        return found


@kernel(
    INT, PROGRAM, F2, U1, INT, BIRTHS, INT, INT, F2, F2, INT, INT, INT, entry=True, everyday=True, cost=0.3
)
def follow(program, state, serial, first_step, births, known, alive, states, scr, settling, living, bearing):
    """Carry one particle on until it is dead or the memory for its states is full.

    Returns
    -------
    int
        Twice the number of steps known, and one more if it lives.
    """
    counters = np.zeros(COUNTERS, np.int64)
    while known < states.shape[1]:
        step = first_step + known
        call_settle(settling, program, step)
        if known == 0:
            alive = call_give_births(bearing, program, state, serial, 0, counters, step, births, 0, scr)
        else:
            alive = call_live(living, program, state, serial, 0, alive, 0, step, scr)
        if alive == 0:
            if known == 0:
                # It did not live to the end of its first step.
                for row in range(state.shape[0]):
                    states[row, 0] = state[row, 0]
                return 2
            return 2 * known
        for row in range(state.shape[0]):
            states[row, known] = state[row, 0]
        known += 1
    return 2 * known + alive


def pinned(tables: Tables, share: float) -> Tables:
    """Return tables in which all that is drawn lies at one place 0…1 between its low and its high."""
    form, ends = tables.form.copy(), tables.ends.copy()
    data, cut, place = tables.data.copy(), tables.cut.copy(), np.float32(share)
    for slot in range(slots.COUNT):
        if form[slot] == slots.SPREAD:
            form[slot] = slots.CONSTANT
            ends[slot, 0] += (ends[slot, 1] - ends[slot, 0]) * place
        elif form[slot] == slots.ONE_OF:
            cells, first, _ = tables.place[slot]
            form[slot] = slots.CONSTANT
            ends[slot] = tables.data[first + 2 * min(int(place * cells), cells - 1)]
        elif form[slot] in (slots.LIFE_BAND, slots.CLOCK_BAND, slots.SPEED_BAND):
            form[slot] -= 1
            cells, first, cuts = tables.place[slot]
            band = tables.data[first : first + 4 * cells].reshape(-1, 4)
            data[first : first + 2 * cells] = (band[:, :2] + (band[:, 2:] - band[:, :2]) * place).reshape(-1)
            for k in tables.cut_of[cuts : cuts + cells] if cuts >= 0 else ():
                while k >= 0 and tables.cut[k, CUT_X] <= 1.0:
                    low, high = tables.cut[k, CUT_LOW:CUT_HIGH], tables.cut[k, CUT_HIGH:]
                    cut[k, CUT_LOW:CUT_HIGH] = low + (high - low) * place
                    k += 1
    return tables._replace(form=form, ends=ends, data=data, cut=cut)

"""One layer in time: its memory, its tables, its snapshots."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ..births.schedule import Schedule
from ..contact.world import with_poses
from ..follow_ups.schedule import FollowUp
from ..layout import dependence
from ..layout.program import BORN, COUNTERS, HITS, REFUSED, Births, LayerProgram
from ..meshes.drawn import body_of_look
from ..values.tables import bake
from .compile_layer import (
    calls_of,
    drawing_codes_of,
    is_recorded,
    longest_life,
    program_of,
    with_bow,
)
from .event_log import STRETCH, EventLog
from .instances import Instances
from .population import Population
from .snapshots import STEPS, Budget, Past, Snapshot
from .stepping import give_births, live, run, settle
from .thread_pool import ScratchMemory, ThreadPool

# A seek over more steps than this leaves out what is dead by then.
FAR_STEPS = 3600
# Missing snapshots are taken in stretches of so many steps.
FILL_STEPS = 64
# Births are listed ahead for so many steps, or fewer if they are many.
LISTED_STEPS, LISTED_BIRTHS = 96, 250_000
# Up to here, s, snapshots stay close together.
HORIZON = 60.0


class LayerRun:
    """A layer's particles over time. Steps are numbered from 0 at time 0; warm-up has numbers below 0.

    Attributes
    ----------
    key : tuple
        What its motion depends on; see :mod:`..layout.dependence`.
    fixed : dict
        Fields of ``INSTANCE`` that its instances don't carry, with the value that all its particles share.
    most_alive : int
        A number that its living particles don't exceed.
    problem : EffectError or None
        What keeps it from being simulated as it is meant, such as a mesh that can't be read.
    body, body_problem
        The mesh that its particles are drawn as, and what keeps it from being the one that is meant.
    follow : FollowUp or None
        Where its births come from, if it follows another layer.
    """

    def __init__(
        self,
        effect: Effect,
        layer: Layer,
        threads: ThreadPool | None = None,
        budget: Budget | None = None,
        parent: LayerRun | None = None,
    ) -> None:
        self.key = dependence.motion(effect, layer)
        self._effect, self.parent = effect, parent
        self.schedule = Schedule(effect, layer)
        self.pace = layer.flight.pace
        self.rate = effect.step_rate
        self.first_step = -math.ceil(effect.warm_up * effect.step_rate - 1e-9)
        self._threads = threads or ThreadPool(1)
        cap, budget = layer.emit.cap, budget or Budget()
        self._scratch, self._teller = ScratchMemory(), EventLog(budget)
        self.set_appearance(effect, layer)
        self.program, self._props, self.problem = program_of(effect, layer, self.schedule, self.tables)
        self.layer = layer
        try:
            # An odd row length keeps the rows out of each other's cache sets.
            self.state = np.empty((self.program.extra_rows.height, cap + 144 - cap % 16), np.float32)
            self.serial = np.empty(cap, np.uint32)
        except MemoryError:
            raise EffectError(
                "emit.cap", f"there is not enough memory for {cap} particles; lower the cap."
            ) from None
        horizon = math.floor(min(effect.duration, HORIZON) * self.rate)
        self.past = Past(budget, horizon)
        self._population = Population(horizon / self.rate)
        self._births: Births | None = None
        self._listed = (0, 0)
        each_step = max(1.0, min(self.schedule.most_within(1.0 / self.rate), cap))
        self._stretch = int(max(1, min(LISTED_STEPS, LISTED_BIRTHS / each_step)))
        longest = longest_life(self.tables)
        self._reach = math.ceil(longest * self.rate) + 2
        follows = bool(layer.origin.parent)
        self.follow = FollowUp(effect, layer, parent) if follows and parent is not None else None
        most = cap if follows else self.schedule.most_within(longest + 2.0 / self.rate)
        # Hits are counted from the beginning, and what starts follow-ups is needed from there.
        # How long a ribbon was is summed up from the beginning too.
        self._never_full = (
            most <= cap and not follows and not layer.contact.enabled and not dependence.needs_laid(layer)
        )
        self.most_alive = int(min(most, cap))
        # Where events were last looked up that were not known any more.
        self._mark: tuple[int, Snapshot] | None = None
        # It begins when it is first sent somewhere: until then others may ask for its events.
        self.begun = False
        self.step = self._whole_from = self.first_step
        self.alive = 0
        self.counters = np.zeros(COUNTERS, np.int64)

    def ask(self, wants: int) -> None:
        """Let events be written down for others, as bits of :mod:`..layout.recording`."""
        if self._teller.ask(wants):
            wants = self._teller.wants
            self.program = self.program._replace(
                calls=calls_of(self.layer, wants), is_recorded=is_recorded(wants)
            )

    def set_appearance(self, effect: Effect, layer: Layer) -> None:
        """Take a layer that moves the same but may look different."""
        self.look_key = dependence.appearance(effect, layer)
        self.tables = bake(layer, effect.seed, effect.stage.gravity)
        self._instances = Instances(layer, self.tables, layer.emit.cap)
        self.fixed = self._instances.fixed
        self.body, self.body_problem = body_of_look(layer.look)
        if hasattr(self, "program"):
            self.program = self.program._replace(tables=self.tables, drawn=drawing_codes_of(effect, layer))

    def levels(self) -> NDArray[np.float64]:
        """Return what is known of the past: rows of time, s, number alive, and refused, hits and born since
        time 0, by time.

        The same array as long as nothing more is known.
        """
        return self._population.known

    def _start(self, goal: int | None = None) -> None:
        """Begin with no particle alive: at the first step, or so far before a goal that none alive at it is
        missed.

        Where the cap is never reached, a particle depends on nothing but its number and its moment; so all
        that is dead by then needs no simulating, and counts are known from the schedule alone. Until
        ``_whole_from`` the particles are then not all there.
        """
        self.begun = True
        self.step = self._whole_from = self.first_step
        self.alive = 0
        self._instances.forget()
        self.counters = np.zeros(COUNTERS, np.int64)
        late = self.first_step if goal is None else goal - self._reach
        if self._never_full and late > self.first_step:
            self.step, self._whole_from = late, late + self._reach
            self.counters[BORN] = self.schedule.born_until(late)
        else:
            self._bear_at_start()

    def _bear_at_start(self) -> None:
        """Let those be born that stand at the very first moment; they are listed with the step before it."""
        listed = self._births_of(self.step - 1, self.step)
        there = listed.left == 0.0
        count = int(np.count_nonzero(there))
        program = self.told(self.step - 1, 1, count)
        if count:
            columns = ("left", "clock", "number", "of", "carried", "row")
            given = {name: getattr(listed, name) for name in columns if len(getattr(listed, name))}
            kept = {name: column[there] for name, column in given.items()}
            births = listed._replace(first=np.array([0, count]), **kept)
            settle(program, self.step - 1)
            self._bear(program, self.step - 1, births, 0)
        self._keep_told(self.step - 1, self.step, program)

    def _bear(self, program: LayerProgram, step: int, births: Births, at: int) -> None:
        """Put the births of a step, the ``at``-th of those listed, behind the living particles."""
        memory = self.state, self.serial, self.alive, self.counters
        self.alive = give_births(program, *memory, step, births, at, self._scratch.motion())

    def _births_of(self, first: int, stop: int) -> Births:
        """Return the births of some steps, from its own schedule or from its parent's events."""
        if not self.layer.origin.parent:
            return self.schedule.births(first, stop, self.serial.shape[0])
        if self.follow is None:
            return self.schedule.no_births(first, stop)
        return self.follow.births(first, stop, self.serial.shape[0])

    def told(self, first: int, steps: int, born: int) -> LayerProgram:
        """Return the program for some steps, with what they need of props, and room for what they tell."""
        program = self.program._replace(
            world=with_poses(self.program.world, self._effect, self._props, first, steps)
        )
        program = with_bow(program, self._effect, self.layer, first, steps)
        self.program = program
        return self._teller.program(program, min(self.alive + born, self.serial.shape[0]), steps)

    def _keep_told(self, first: int, stop: int, program: LayerProgram) -> None:
        self.counters[HITS] += program.log.used[1]
        self._teller.keep(first, stop, program.log)

    def events(self, first: int, stop: int, kind: int) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
        """Return the events of a kind in some steps, as :mod:`..layout.recording` numbers their columns.

        What isn't known any more is simulated again, and all is put back as it was.
        """
        gap = self._teller.missing(max(first, self.first_step - 1), stop)
        if gap is not None:
            back, step, whole_from = self._snapshot(), self.step, self._whole_from
            while gap is not None:
                known, mark = self.past.before(gap), self._mark
                if (
                    mark is not None
                    and self.first_step <= mark[0] <= gap
                    and (known is None or known <= mark[0])
                ):
                    self._put_back(mark[1], mark[0])
                    self._whole_from = self.first_step
                elif known is None or gap < self.first_step:
                    self._start()
                else:
                    self._restore(known)
                # Not by a seek: that would leave out what lies before the nearest snapshot.
                self._go_on(stop)
                gap = self._teller.missing(gap + 1, stop)
            # Who asks goes on from here: in a warm-up, where there are no snapshots, all would be simulated
            # again and again.
            self._mark = (self.step, self._snapshot())
            self._put_back(back, step)
            self._whole_from = whole_from
        return self._teller.between(first, stop, kind)

    def end(self) -> None:
        """Give back what it keeps of its past."""
        self.past.clear()
        self._teller.end()

    def seek(self, step: int, stopped: Callable[[], bool] = lambda: False, hurry: bool = False) -> bool:
        """Go to a step, from the nearest snapshot before it or on from here.

        Parameters
        ----------
        stopped : callable
            Asked now and then; once it returns true the seek is broken off.
        hurry : bool
            Whether to leave out what is dead by then, and with it the snapshots on the way.

        Returns
        -------
        bool
            Whether it arrived.
        """
        if not self.begun:
            self._start()
        step = max(step, self.first_step)
        nearest = self.past.before(step)
        here = (
            self.step
            if self.step <= step and (self.step >= self._whole_from or step >= self._whole_from)
            else None
        )
        begun = max((k for k in (nearest, here) if k is not None), default=self.first_step)
        far = step - begun
        # Who is followed leaves out nothing: what is dead by then has started others.
        skips = self._never_full and not self._teller.wants
        if skips and far > self._reach and (hurry or far > FAR_STEPS):
            self._start(step)
        elif nearest is not None and (here is None or nearest > here):
            self._restore(nearest)
        elif here is None:
            self._start()
        return self._go_on(step, stopped)

    def _go_on(self, step: int, stopped: Callable[[], bool] = lambda: False) -> bool:
        """Carry all on to a step, and take the snapshots that are due; return whether it arrived."""
        while self.step < step:
            if stopped():
                return False
            # Runs end where a snapshot is due.
            self._run(min(step, self.past.next_due(self.step)) - self.step)
            whole = self.step >= max(self._whole_from, 0)
            if whole and self.step % STEPS == 0:
                self._population.note(
                    self.step / self.rate, self.alive, *(int(self.counters[i]) for i in (REFUSED, HITS, BORN))
                )
            if whole and self.past.due(self.step):
                self.past.keep(self.step, self._snapshot())
        return True

    def fill(self, last: int, stopped: Callable[[], bool]) -> bool:
        """Take the snapshots that are missing up to a step, and come back; return whether all are there."""
        gap = self.past.gap(last)
        if gap is None:
            return True
        back, step, whole_from = self._snapshot(), self.step, self._whole_from
        known = self.past.before(gap)
        if known is None:
            self._start()
        else:
            self._restore(known)
        # No further than where snapshots begin again: a seek would jump to them.
        interval = self.past.interval
        following = self.past.after(gap, last + interval)
        self.seek(min(gap + FILL_STEPS, following - interval, last), stopped)
        self._put_back(back, step)
        self._whole_from = whole_from
        # Too many particles for the memory budget: what can't be kept isn't asked for again.
        return gap not in self.past and gap % self.past.interval == 0 and not stopped()

    def _listed_births(self, first: int, stop: int) -> tuple[Births, int]:
        """Return the births of a stretch that holds some steps, and the place of the first of these in it."""
        begin, end = self._listed
        if self._births is None or not begin <= first <= stop <= end:
            # What a parent does is known no further than it is asked.
            begin, end = first, stop if self.layer.origin.parent else max(stop, first + self._stretch)
            self._births = self._births_of(begin, end)
            self._listed = (begin, end)
        return self._births, first - begin

    def _run(self, steps: int) -> None:
        """Carry the particles over some steps."""
        scratch = self._scratch.motion()
        stop = self.step + steps
        most = STRETCH if self._teller.wants or self.follow is not None else self._stretch
        while self.step < stop:
            part = min(steps, most, stop - self.step)
            births, at = self._listed_births(self.step, self.step + part)
            program = self.told(self.step, part, int(births.first[at + part] - births.first[at]))
            if self._threads.splits(self.alive):
                for i in range(part):
                    self._live_together(program, self.step + i)
                    self._bear(program, self.step + i, births, at + i)
            else:
                memory = self.state, self.serial, self.alive, self.counters
                kernels = settle.address, live.address, give_births.address
                self.alive = run(program, *memory, self.step, part, births, at, scratch, *kernels)
            self._keep_told(self.step, self.step + part, program)
            self.step += part

    def _live_together(self, program: LayerProgram, step: int) -> None:
        """Carry all living particles over a step, each thread a stretch of them, and close the gaps
        between.
        """
        settle(program, step)
        # Each thread writes down what happens by itself.
        own = [
            self._teller.program(program, self.alive // self._threads.threads + 1, 1, 1 + i)
            for i in range(self._threads.threads)
        ]

        def work(thread: int, first: int, last: int) -> int:
            scratch = self._scratch.motion(thread)
            return int(live(own[thread], self.state, self.serial, first, last, first, step, scratch))

        to = 0
        for first, _, stop in self._threads.share(self.alive, work):
            if to != first:
                self.state[:, to : to + stop - first] = self.state[:, first:stop].copy()
                self.serial[to : to + stop - first] = self.serial[first:stop].copy()
            to += stop - first
        self.alive = to
        self._teller.join(program.log, [each.log for each in own])

    def _snapshot(self) -> Snapshot:
        n = self.alive
        return Snapshot(self.state[:, :n].copy(), self.serial[:n].copy(), self.counters.copy())

    def _restore(self, step: int) -> None:
        self._put_back(self.past[step], step)
        self._whole_from = self.first_step

    def _put_back(self, kept: Snapshot, step: int) -> None:
        n = kept.serial.shape[0]
        self.state[:, :n] = kept.state
        self.serial[:n] = kept.serial
        self.counters[:] = kept.counters
        self.alive = n
        self.step = step
        self._instances.forget()

    def show(self) -> NDArray[np.void]:
        """Return the instances of this moment, (alive,); good until the next call."""
        return self._instances.of_all(
            self.program,
            self.state,
            self.serial[: self.alive],
            self.step,
            self.schedule.clock(self.step),
            self._threads,
            self._scratch,
        )

    def instances_of(self, state: NDArray[np.float32], serial: NDArray[np.uint32]) -> NDArray[np.void]:
        """Return how particles of other states would look in this layer now, (n,)."""
        clock = self.schedule.clock(self.step)
        return self._instances.of_others(self.program, state, serial, self.step, clock, self._scratch)

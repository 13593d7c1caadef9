"""One layer in time: its memory, its tables, its snapshots."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from . import look
from . import slots as s
from .births import Schedule
from .crew import Bench, Crew
from .dice import layer_key, property_key
from .meshes import mesh_faces
from .motion import Surroundings, move_down
from .path import POSE, STRETCH, TURN, track_of
from .sampling import at_clock
from .shapes import shape_of
from .snapshots import Snapshot, Snapshots
from .stepping import BORN, COUNTERS, NEXT, REFUSED, Course, give_births, live, run, settle
from .tables import Tables, bake

# A seek over more steps than this leaves out what is dead by then.
FAR_STEPS = 3600
# Missing snapshots are taken in stretches of so many steps.
FILL_STEPS = 64
# Steps are handed to the kernel in runs that end where snapshots are taken.


def motion_key(effect: Effect, layer: Layer) -> tuple[object, ...]:
    """Return all that a layer's motion depends on; equal keys mean the same particles."""
    stage = effect.stage
    shared = (
        effect.duration,
        effect.loop,
        effect.warm_up,
        effect.seed,
        effect.step_rate,
        stage.gravity,
        stage.wind,
        stage.gust,
        stage.gust_period,
    )
    launch = layer.launch
    launched = (launch.lifetime, launch.speed, launch.push, launch.angle, launch.carry)
    own = (
        layer.id,
        layer.enabled,
        layer.place,
        layer.path,
        layer.window,
        layer.emit,
        layer.birthplace,
        launched,
        layer.flight,
    )
    return (*shared, *own)


def _longest_life(tables: Tables) -> float:
    """Return the longest lifetime that a table can give, s."""
    cells, offset = tables.cells[s.LIFETIME], tables.offset[s.LIFETIME]
    most = float(np.max(tables.ends[s.LIFETIME]))
    if cells:
        band = tables.form[s.LIFETIME] in (s.LIFE_BAND, s.CLOCK_BAND)
        data = tables.data[offset : offset + cells * (4 if band else 2)].reshape(-1, 2)
        most = float(np.max(np.maximum(data[:, 0], data[:, 0] + data[:, 1])))
    return most


def _surroundings(effect: Effect, layer: Layer, dice: int) -> Surroundings:
    return Surroundings(
        np.zeros((3, 3), np.float32),
        np.zeros(3, np.float32),
        np.zeros(3, np.float32),
        np.ones(1, np.float32),
        np.array(effect.stage.wind, np.float32),
        float(layer.flight.eddy * layer.place.scale),
        float(layer.flight.churn),
        int(layer.flight.octaves),
        property_key(dice, "flight.turbulence/eddies"),
        float(layer.flight.speed_range),
        float(effect.stage.gust),
        float(effect.stage.gust_period),
    )


class LayerRun:
    """A layer's particles over time. Steps are numbered from 0 at time 0; warm-up has numbers below 0.

    Attributes
    ----------
    problem : EffectError or None
        What keeps it from being simulated as it is meant, such as a mesh that can't be read.
    """

    def __init__(self, effect: Effect, layer: Layer, crew: Crew | None = None) -> None:
        self.key = motion_key(effect, layer)
        self.schedule = Schedule(effect, layer)
        self.rate = effect.step_rate
        self.first_step = -math.ceil(effect.warm_up * effect.step_rate - 1e-9)
        self.problem: EffectError | None = None
        self._crew = crew or Crew(1)
        cap = layer.emit.cap
        try:
            # An odd row length keeps the rows out of each other's cache sets.
            self.state = np.empty((s.ROWS, cap + 144 - cap % 16), np.float32)
            self.serial = np.empty(cap, np.uint32)
            self.instances = np.empty((cap, s.STRIDE), np.float32)
            spans = np.empty(cap + 1, np.float32)
        except MemoryError:
            raise EffectError("emit.cap", f"there is not enough memory for {cap} particles; lower the cap.") from None
        self._bench = Bench()
        self._look_forms = (np.zeros(s.COUNT, np.int32), np.zeros((s.COUNT, 2), np.float32))
        self._set_course(effect, layer, spans)
        self.snapshots = Snapshots()
        self._levels, self._levels_of = np.zeros((0, 3)), (0, 0)
        self._listed: tuple[int, int, NDArray[np.float64]] = (0, 0, np.empty(0))
        self._stretch = 96 if self.schedule.most_within(96 / self.rate) < 200_000 else 1
        longest = _longest_life(self.tables)
        self._reach = math.ceil(longest * self.rate) + 2
        self._never_full = self.schedule.most_within(longest + 2.0 / self.rate) <= cap
        self._start()

    def _set_course(self, effect: Effect, layer: Layer, spans: NDArray[np.float32]) -> None:
        dice = layer_key(effect.seed, layer.id)
        corners = np.zeros((0, 3, 3))
        if layer.birthplace.kind == "mesh":
            try:
                corners = mesh_faces(layer.birthplace.mesh)
            except EffectError as wrong:
                self.problem = wrong
        self.dress(effect, layer)
        track, around, poses = track_of(layer), _surroundings(effect, layer, dice), np.empty((3, POSE))
        for pose in poses:
            pose[:TURN], pose[TURN:STRETCH], pose[STRETCH] = track.centre, track.turn.reshape(-1), 1.0
        around.centre[:], around.turn[:], around.axis[:] = track.centre, track.turn, track.turn[:, 1]
        self._course = Course(
            float(self.rate),
            effect.duration if effect.loop else 0.0,
            self.schedule.begin,
            self.schedule.length,
            layer.flight.follow,
            self.tables,
            shape_of(layer.birthplace, layer.place.scale, dice, corners),
            track,
            around,
            np.zeros(s.COUNT, np.int32),
            np.zeros((s.COUNT, 2), np.float32),
            spans,
            poses,
        )

    def levels(self) -> NDArray[np.float64]:
        """Return what is known of the past: rows of time, s, number alive, and refused since time 0, by time.

        The same array as long as nothing more is known.
        """
        if self._levels_of != (len(self.snapshots), self.snapshots.interval):
            self._levels_of = (len(self.snapshots), self.snapshots.interval)
            rows = [
                (step / self.rate, len(kept.serial), float(kept.counters[REFUSED]))
                for step, kept in sorted(self.snapshots.items())
            ]
            self._levels = np.array(rows, dtype=np.float64).reshape(-1, 3)
        return self._levels

    def _start(self, goal: int | None = None) -> None:
        """Begin with no particle alive: at the first step, or so far before a goal that none alive at it is missed.

        Where the cap is never reached, a particle depends on nothing but its number and its moment; so all
        that is dead by then needs no simulating, and numbers are known from the schedule alone. Until
        ``_whole_from`` the particles are then not all there.
        """
        self.step = self._whole_from = self.first_step
        self.alive = 0
        self._first_serial = 0
        self.counters = np.zeros(COUNTERS, np.int64)
        late = self.first_step if goal is None else goal - self._reach
        if self._never_full and late > self.first_step:
            self.step, self._whole_from = late, late + self._reach
            start, now = self.first_step / self.rate, late / self.rate
            self.counters[NEXT] = self.schedule.count(start, now)
            self._first_serial = self.schedule.count(start, 0.0)
            self.counters[BORN] = self.counters[NEXT] - (self._first_serial if late > 0 else 0)

    def dress(self, effect: Effect, layer: Layer) -> None:
        """Take a layer that moves the same but may look different."""
        self.tables: Tables = bake(layer, effect.seed, effect.stage.gravity)
        self._shown_step: int | None = None
        if hasattr(self, "_course"):
            self._course = self._course._replace(tables=self.tables)

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
        step = max(step, self.first_step)
        nearest = self.snapshots.before(step)
        here = self.step if self.step <= step and (self.step >= self._whole_from or step >= self._whole_from) else None
        begun = max((k for k in (nearest, here) if k is not None), default=self.first_step)
        far = step - begun
        if self._never_full and far > self._reach and (hurry or far > FAR_STEPS):
            self._start(step)
        elif nearest is not None and (here is None or nearest > here):
            self._restore(nearest)
        elif here is None:
            self._start()
        while self.step < step:
            if stopped():
                return False
            # Counting starts at time 0, and runs end where a snapshot is due.
            interval = self.snapshots.interval
            due = (self.step // interval + 1) * interval
            stop = min(step, due)
            if self.step < 0 < stop:
                stop = 0
            self._run(stop - self.step)
            if self.step == 0:
                self.counters[[BORN, REFUSED]] = 0
                self._first_serial = int(self.counters[NEXT])
            whole = self.step >= max(self._whole_from, 0)
            if whole and self.snapshots.due(self.step):
                self.snapshots.keep(self.step, self._snapshot())
        return True

    def fill(self, last: int, stopped: Callable[[], bool]) -> bool:
        """Take the snapshots that are missing up to a step, and come back; return whether all are there."""
        gap = self.snapshots.gap(last)
        if gap is None:
            return True
        back = (self._snapshot(), self.step, self._first_serial, self._whole_from)
        known = self.snapshots.before(gap)
        if known is None:
            self._start()
        else:
            self._restore(known)
        # No further than where snapshots begin again: a seek would jump to them.
        interval = self.snapshots.interval
        following = self.snapshots.after(gap, last + interval)
        self.seek(min(gap + FILL_STEPS, following - interval, last), stopped)
        kept, step, first_serial, whole_from = back
        self._put_back(kept, step)
        self._first_serial, self._whole_from = first_serial, whole_from
        # Too many particles for the memory budget: what can't be kept isn't asked for again.
        return gap not in self.snapshots and gap % self.snapshots.interval == 0 and not stopped()

    def _births(self, first: int, stop: int) -> NDArray[np.float64]:
        """Return the births in steps ``first`` to ``stop``, from a stretch that is listed at once."""
        known_first, known_stop, known = self._listed
        if not known_first <= first <= stop <= known_stop:
            known_first, known_stop = first, max(stop, first + self._stretch)
            known = self.schedule.moments(known_first / self.rate, known_stop / self.rate)
            self._listed = (known_first, known_stop, known)
        a, b = np.searchsorted(known, [first / self.rate, stop / self.rate])
        return known[a:b]

    def _run(self, steps: int) -> None:
        births = self._births(self.step, self.step + steps)
        course, scratch = self._course, self._bench.motion()
        if self._crew.splits(self.alive):
            coming = 0
            for step in range(self.step, self.step + steps):
                self._live_together(step)
                last = step == self.step + steps - 1
                self.alive, coming = give_births(
                    course, self.state, self.serial, self.alive, self.counters, step, births, coming, last, scratch
                )
        else:
            self.alive = run(
                course, self.state, self.serial, self.alive, self.counters, self.step, steps, births, scratch
            )
        self.step += steps

    def _live_together(self, step: int) -> None:
        """Carry all living particles over a step, each thread a stretch of them, and close the gaps between."""
        settle(self._course, step)

        def work(part: int, first: int, last: int) -> int:
            scratch = self._bench.motion(part)
            return int(live(self._course, self.state, self.serial, first, last, first, step, scratch))

        to = 0
        for first, _, stop in self._crew.share(self.alive, work):
            to = move_down(self.state, self.serial, first, stop, to)
        self.alive = to

    def _snapshot(self) -> Snapshot:
        n = self.alive
        return Snapshot(self.state[:, :n].copy(), self.serial[:n].copy(), self.counters.copy())

    def _restore(self, step: int) -> None:
        self._put_back(self.snapshots[step], step)
        self._whole_from = self.first_step

    def _put_back(self, kept: Snapshot, step: int) -> None:
        n = kept.serial.shape[0]
        self.state[:, :n] = kept.state
        self.serial[:n] = kept.serial
        self.counters[:] = kept.counters
        self.alive = n
        self.step = step
        self._shown_step = None

    def show(self) -> NDArray[np.float32]:
        """Return the instances of this moment, shape (alive, columns); good until the next call."""
        n = self.alive
        if self._shown_step != self.step:
            time = self.step / self.rate
            form, ends = self._look_forms
            at_clock(self.tables, self.schedule.clock(time), form, ends)
            # What keeps to the birth is read at each particle's own clock.
            form[s.SIZE : s.TINT_B + 1] = self.tables.form[s.SIZE : s.TINT_B + 1]
            self._appear(n, time, form, ends)
            self._shown_step = self.step
        return self.instances[:n]

    def _appear(self, n: int, time: float, form: NDArray[np.int32], ends: NDArray[np.float32]) -> None:
        def work(part: int, first: int, last: int) -> None:
            look.appear(
                self._course, self.state, self.serial, first, last, self.instances, form, ends, time,
                self._bench.look(part),
            )  # fmt: skip

        if self._crew.splits(n):
            self._crew.share(n, work)
        else:
            work(0, 0, n)

    def counts(self) -> dict[str, int]:
        """Return born, died, hits and refused since time 0, of particles born since then, and alive now."""
        since = self.alive - int(np.searchsorted(self.serial[: self.alive], self._first_serial))
        born = int(self.counters[BORN])
        return {
            "born": born,
            "died": born - since,
            "hits": 0,
            "refused": int(self.counters[REFUSED]),
            "alive": self.alive,
        }

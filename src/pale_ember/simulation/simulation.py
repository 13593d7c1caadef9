"""The public class: an effect at any moment."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..effect.editing.chains import chains
from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import DrawnAs
from ..effect.rules.paths import FieldPath
from .births.schedule import Birth
from .follow_ups.schedule import FollowUpTally, wants_of
from .layout import dependence, rows
from .layout.instances import INSTANCE, field_of, instance_type
from .layout.recording import HIT
from .meshes.drawn import DrawnMesh
from .ribbons.joining import Joined, joined
from .time.layer_run import LayerRun
from .time.population import COLUMNS
from .time.readings import counts_of, recent_hits, speeds_of
from .time.snapshots import Budget
from .time.thread_pool import ThreadPool
from .time.weight import refusal_of

Floats = NDArray[np.float32]
# Seeks of fewer steps than this are not worth a second thread.
_WORTH_THREADS = 12


@dataclass(frozen=True)
class Particles:
    """Read-only views of a layer's living particles, in the order of their births.

    Attributes
    ----------
    position, velocity : (n, 3) m and m/s, in the world
    age : (n,) 0…1 from birth to death
    lifetime : (n,) s
    size : (n,) m, the height as drawn now
    color : (n, 3) linear light, before intensity
    opacity, intensity : (n,)
    angle : (n,) radians
    serial : (n,) uint32
    """

    position: Floats
    velocity: Floats
    age: Floats
    lifetime: Floats
    size: Floats
    color: Floats
    opacity: Floats
    intensity: Floats
    angle: Floats
    serial: NDArray[np.uint32]

    def __len__(self) -> int:
        return len(self.serial)


@dataclass(frozen=True)
class Lives:
    """Where a layer's particles stand in their lives.

    Attributes
    ----------
    rows : (rows, n) float32
        Those of :mod:`.layout.rows` from ``SINCE`` on.
    serial : (n,) uint32
    step : int
        The moment is its start.
    rate : int
        Steps/s.
    speed : (n,) m/s, how fast each goes along its way, its pace included; None if nobody asked
    """

    rows: Floats
    serial: NDArray[np.uint32]
    step: int
    rate: int
    speed: Floats | None = None

    @functools.cached_property
    def age(self) -> Floats:
        """Return ages 0…1, (n,)."""
        whole = (self.step - self.rows[rows.BORN - rows.SINCE].view(np.int32)).astype(np.float32)
        return (whole * np.float32(1.0 / self.rate) + self.rows[0]) * self.rows[rows.AGING - rows.SINCE]

    def lifetime(self, index: int) -> float:
        """Return one particle's lifetime, s."""
        return 1.0 / float(self.rows[rows.AGING - rows.SINCE, index])

    def birth(self, index: int) -> Birth:
        """Return one particle's birth."""
        born, clock = (
            self.rows[rows.BORN - rows.SINCE].view(np.int32)[index],
            self.rows[rows.CLOCK - rows.SINCE, index],
        )
        return Birth(int(self.serial[index]), int(born) - 1, float(self.rows[0, index]), float(clock))


class Simulation:
    """An effect in time: the same effect, seed and time give the same particles to the bit.

    Layers are named by id, or by name if only one has it; :class:`EffectError` is raised for any other word.

    Parameters
    ----------
    effect : Effect
        Taken as it is; the simulation stands at time 0, after warm-up.
    threads : int, optional
        How many share the work; the machine's processors by default. Results don't depend on it.

    Raises
    ------
    EffectError
        If there is not enough memory for its caps.
    """

    def __init__(self, effect: Effect, threads: int | None = None) -> None:
        self.effect = effect
        self._step = 0
        self._threads = ThreadPool(threads)
        self._budget = Budget()
        self._runs: dict[str, LayerRun] = {}
        self._chains: list[list[LayerRun]] = []
        self.watches_hits = False
        # Of layers that are disabled: they stand still, and go on from there.
        self._resting: dict[str, LayerRun] = {}
        self._take(effect)
        self._go()

    @property
    def time(self) -> float:
        """Return the moment that it stands at, s."""
        return self._step / self.effect.step_rate

    @property
    def reached(self) -> float:
        """Return the moment that all layers have come to, s; on the way, less than the one that is sought."""
        steps = [run.step for run in list(self._runs.values())]
        return max(min(steps, default=self._step), 0) / self.effect.step_rate

    def seek(self, time: float, stopped: Callable[[], bool] | None = None, hurry: bool = False) -> bool:
        """Go to the last step at or before a time, forwards or backwards.

        Parameters
        ----------
        time : float
            Seconds; below 0 counts as 0.
        stopped : callable, optional
            Asked now and then; once it returns true the seek is broken off.
        hurry : bool
            Whether layers that were edited may leave out what is dead by then; the way there is not kept.

        Returns
        -------
        bool
            Whether it arrived. Otherwise the next seek goes on from where layers stand.
        """
        if not math.isfinite(time):
            raise EffectError("time", "the time must be a finite number of seconds.")
        self._step = max(0, math.floor(time * self.effect.step_rate + 1e-6))
        return self._go(stopped, hurry)

    def step(self, steps: int = 1) -> None:
        """Go on by a number of steps."""
        self._step = max(0, self._step + steps)
        self._go()

    def fill(self, stopped: Callable[[], bool] = lambda: False) -> bool:
        """Take snapshots over the effect's duration where they are missing, a stretch at a time.

        Returns
        -------
        bool
            Whether all are there, so that seeks in it are short.
        """
        last = math.floor(min(self.effect.duration, 60.0) * self.effect.step_rate)
        done = [run.fill(last, stopped) for run in self._runs.values() if not stopped()]
        return len(done) == len(self._runs) and all(done)

    def replace(self, effect: Effect) -> None:
        """Take an edited effect at the same moment; layers that move as before keep their past."""
        time = self.time
        self.effect = effect
        self._take(effect)
        self._step = max(0, math.floor(time * effect.step_rate + 1e-6))
        self._go(hurry=True)

    def adopt(self, effect: Effect) -> None:
        """Take an edited effect without going anywhere; the next :meth:`seek` does."""
        self.effect = effect
        self._take(effect)

    def particles(self, layer: str) -> Particles:
        """Return a layer's particles, by its name or id; views that the next step overwrites.

        Raises
        ------
        EffectError
            If no layer, or more than one, is called so.
        """
        run = self._run(layer)
        if run is None:
            shown, fixed = np.zeros(0, instance_type(())), {}
            state, ages, serial = (
                np.zeros((rows.ROWS, 0), np.float32),
                np.zeros(0, np.float32),
                np.zeros(0, np.uint32),
            )
        else:
            n = run.alive
            state, shown, serial, fixed = run.state[:, :n], run.show(), run.serial[:n], run.fixed
            ages = rows.ages_of(state, run.step, run.rate)
        with np.errstate(divide="ignore"):
            lifetime = 1.0 / state[rows.AGING]
        views = {
            "position": state[rows.PX : rows.PZ + 1].T,
            "velocity": state[rows.VX : rows.VZ + 1].T,
            "age": ages,
            "lifetime": lifetime,
            "size": shown["size"][:, 1],
            "color": field_of(shown, "color", fixed),
            "opacity": field_of(shown, "opacity", fixed),
            "intensity": field_of(shown, "intensity", fixed),
            "angle": state[rows.ANGLE],
            "serial": serial,
        }
        for name, view in views.items():
            view = view[...]
            view.flags.writeable = False
            views[name] = view
        return Particles(**views)

    def instances(self, layer: str) -> NDArray[np.void]:
        """Return a layer's instances, (n,) of ``INSTANCE``'s fields as far as they differ; the next step
        overwrites them.
        """
        run = self._run(layer)
        return np.zeros(0, INSTANCE) if run is None else run.show()

    def joined(self, layer: str) -> Joined | None:
        """Return the ribbons of a layer that is drawn as such; None for others."""
        run, found = self._run(layer), self.effect.layer(layer)
        if run is None or found.look.draw != DrawnAs.RIBBON:
            return None
        return joined(run, self.effect, found)

    def body(self, layer: str) -> DrawnMesh:
        """Return the mesh that a layer's particles are drawn as; nothing for layers that are drawn
        otherwise.
        """
        run = self._run(layer)
        return () if run is None else run.body

    def fixed(self, layer: str) -> dict[str, tuple[float, ...]]:
        """Return what a layer's instances don't carry because all its particles share it."""
        run = self._run(layer)
        return {} if run is None else run.fixed

    def counts(self, layer: str) -> dict[str, int]:
        """Return a layer's born, died, hits and refused since time 0, and alive now."""
        run = self._run(layer)
        if run is None:
            return {"born": 0, "died": 0, "hits": 0, "refused": 0, "full": 0, "alive": 0}
        return counts_of(run)

    def lives(self, layer: str, speeds: bool = False) -> Lives:
        """Return where a layer's particles stand in their lives; it shares no memory with the simulation."""
        run = self._run(layer)
        if run is None:
            return Lives(
                np.zeros((rows.ROWS, 0), np.float32), np.zeros(0, np.uint32), 0, self.effect.step_rate, None
            )
        n, fast = run.alive, None
        if speeds:
            fast = speeds_of(run)
        return Lives(run.state[rows.SINCE :, :n].copy(), run.serial[:n].copy(), run.step, run.rate, fast)

    def problems(self) -> list[EffectError]:
        """Return what keeps layers from being simulated as they are meant, each with its place."""
        found = []
        for i, layer in enumerate(self.effect.layers):
            run = self._runs.get(layer.id)
            for wrong in () if run is None else (run.problem, run.body_problem):
                if wrong is not None:
                    of_stage = wrong.place.startswith("stage")
                    place = wrong.place if of_stage else FieldPath.of_layer(i, wrong.place)
                    found.append(EffectError(place, wrong.reason))
        return found

    def levels(self, layer: str) -> NDArray[np.float64]:
        """Return what is known of a layer's past: rows of time, s, number alive, and refused, hits and
        born since time 0.
        """
        run = self._run(layer)
        return np.zeros((0, COLUMNS)) if run is None else run.levels()

    def _run(self, layer: str) -> LayerRun | None:
        """Return the run of a layer by its id or name; None for one that is disabled."""
        run = self._runs.get(layer)
        return run if run is not None else self._runs.get(self.effect.layer(layer).id)

    def _take(self, effect: Effect) -> None:
        """Take an effect: keep the runs that move as before, and make the others anew."""
        runs: dict[str, LayerRun] = {}
        resting: dict[str, LayerRun] = {}
        kept = list(self._budget.pasts)
        known = {**self._resting, **self._runs}
        for layer in effect.layers:
            old = known.get(layer.id)
            if not layer.enabled and old is not None and old.key == dependence.motion(effect, layer):
                resting[layer.id] = old
        chained = chains(effect)
        # Parents first.
        for layer in (layer for chain in chained for layer in chain):
            i, old = effect.index(layer.id), known.get(layer.id)
            parent = runs.get(layer.origin.parent)
            if old is not None and old.key == dependence.motion(effect, layer) and old.parent is parent:
                if old.look_key != dependence.appearance(effect, layer):
                    old.set_appearance(effect, layer)
                runs[layer.id] = old
            else:
                try:
                    runs[layer.id] = LayerRun(effect, layer, self._threads, self._budget, parent)
                except EffectError as wrong:
                    self._budget.pasts = kept
                    raise EffectError(FieldPath.of_layer(i, wrong.place), wrong.reason) from None
        large = refusal_of([runs[layer.id].most_alive if layer.id in runs else 0 for layer in effect.layers])
        if large is not None:
            self._budget.pasts = kept
            raise large
        for layer_id, old in known.items():
            if runs.get(layer_id) is not old and resting.get(layer_id) is not old:
                old.end()
        self._runs, self._resting = runs, resting
        self._chains = [[runs[layer.id] for layer in chain] for chain in chained]
        for layer in effect.layers:
            run = runs.get(layer.id)
            if run is not None:
                run.ask(wants_of(effect, layer))
        self.watch_hits(self.watches_hits)

    def watch_hits(self, on: bool) -> None:
        """Keep where hits happen for all layers with contact, so that :meth:`hits` knows them; or for
        those only that others follow.
        """
        self.watches_hits = on
        for layer in self.effect.layers:
            run = self._runs.get(layer.id)
            if on and run is not None and layer.contact.enabled:
                run.ask(HIT)

    def hits(self, layer: str, seconds: float = 0.5) -> NDArray[np.float32]:
        """Return place, normal and age, s, of each of a layer's hits in the last seconds, (n, 7)."""
        run = self._run(layer)
        if run is None or not self.watches_hits or not self.effect.layer(layer).contact.enabled:
            return np.zeros((0, 7), np.float32)
        return recent_hits(run, seconds)

    def answer(self, layer: str, seconds: float = 0.2) -> FollowUpTally | None:
        """Return what became of the events that a follow-up was told of in the last seconds; None for
        other layers.
        """
        run = self._run(layer)
        if run is None or run.follow is None:
            return None
        return run.follow.answer(max(run.step - round(seconds * run.rate), run.first_step), run.step)

    def _go(self, stopped: Callable[[], bool] | None = None, hurry: bool = False) -> bool:
        """Carry all layers to the step that is wanted; return whether they arrived."""
        chained = [
            (chain, max(abs(self._step - run.step) for run in chain))
            for chain in self._chains
            if any(run.step != self._step or not run.begun for run in chain)
        ]

        def carry(chain: list[LayerRun]) -> bool:
            # Parents first: what they do is what their follow-ups are born of.
            return all(
                run.seek(self._step, stopped or (lambda: False), hurry)
                for run in chain
                if run.step != self._step or not run.begun
            )

        if sum(far > _WORTH_THREADS for _, far in chained) > 1:
            with ThreadPoolExecutor(min(len(chained), self._threads.threads)) as pool:
                return all(list(pool.map(carry, [chain for chain, _ in chained])))
        arrived = [carry(chain) for chain, _ in chained]
        return all(arrived)

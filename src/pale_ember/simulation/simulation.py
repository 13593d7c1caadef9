"""The public face: an effect at any moment."""

from __future__ import annotations

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..effect.effect import Effect
from ..effect.errors import EffectError
from . import slots as s
from .crew import Crew
from .layer_run import LayerRun, motion_key

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


class Simulation:
    """An effect in time: the same effect, seed and time give the same particles to the bit.

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
        self._crew = Crew(threads)
        self._runs: dict[str, LayerRun] = {}
        self._take(effect)
        self._go()

    @property
    def time(self) -> float:
        """Return the moment that it stands at, s."""
        return self._step / self.effect.step_rate

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
            none = np.zeros((0, s.STRIDE), np.float32)
            state, shown, serial = np.zeros((s.ROWS, 0), np.float32), none, np.zeros(0, np.uint32)
        else:
            n = run.alive
            state, shown, serial = run.state[:, :n], run.show(), run.serial[:n]
        with np.errstate(divide="ignore"):
            lifetime = 1.0 / state[s.PACE]
        views = {
            "position": state[s.PX : s.PZ + 1].T,
            "velocity": state[s.VX : s.VZ + 1].T,
            "age": state[s.AGE],
            "lifetime": lifetime,
            "size": shown[:, 4],
            "color": shown[:, 6:9],
            "opacity": shown[:, 9],
            "intensity": shown[:, 10],
            "angle": state[s.TURN],
            "serial": serial,
        }
        for name, view in views.items():
            view = view[...]
            view.flags.writeable = False
            views[name] = view
        return Particles(**views)

    def instances(self, layer_id: str) -> Floats:
        """Return a layer's instances, shape (n, columns) with ``slots.COLUMNS``; the next step overwrites them."""
        run = self._runs.get(layer_id)
        return np.zeros((0, s.STRIDE), np.float32) if run is None else run.show()

    def counts(self, layer: str) -> dict[str, int]:
        """Return a layer's born, died, hits and refused since time 0, and alive now."""
        run = self._run(layer)
        if run is None:
            return {"born": 0, "died": 0, "hits": 0, "refused": 0, "alive": 0}
        return run.counts()

    def problems(self) -> list[EffectError]:
        """Return what keeps layers from being simulated as they are meant, each with its place."""
        found = []
        for i, layer in enumerate(self.effect.layers):
            run = self._runs.get(layer.id)
            if run is not None and run.problem is not None:
                found.append(EffectError(f"layers[{i}].{run.problem.place}", run.problem.reason))
        return found

    def levels(self, layer_id: str) -> NDArray[np.float64]:
        """Return what is known of a layer's past: rows of time, s, number alive, refused since time 0."""
        run = self._runs.get(layer_id)
        return np.zeros((0, 3)) if run is None else run.levels()

    def _run(self, layer: str) -> LayerRun | None:
        return self._runs.get(self.effect.layer(layer).id)

    def _take(self, effect: Effect) -> None:
        runs: dict[str, LayerRun] = {}
        for i, layer in enumerate(effect.layers):
            if not layer.enabled:
                continue
            old = self._runs.get(layer.id)
            if old is not None and old.key == motion_key(effect, layer):
                old.dress(effect, layer)
                runs[layer.id] = old
            else:
                try:
                    runs[layer.id] = LayerRun(effect, layer, self._crew)
                except EffectError as wrong:
                    raise EffectError(f"layers[{i}].{wrong.place}", wrong.reason) from None
        self._runs = runs

    def _go(self, stopped: Callable[[], bool] | None = None, hurry: bool = False) -> bool:
        runs = [run for run in self._runs.values() if run.step != self._step]
        far = [run for run in runs if abs(self._step - run.step) > _WORTH_THREADS]

        def carry(run: LayerRun) -> bool:
            return run.seek(self._step, stopped or (lambda: False), hurry)

        if len(far) > 1:
            with ThreadPoolExecutor(min(len(far), self._crew.threads)) as pool:
                return all(list(pool.map(carry, runs)))
        arrived = [carry(run) for run in runs]
        return all(arrived)

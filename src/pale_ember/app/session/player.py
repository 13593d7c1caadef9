"""The simulation in a thread of its own: it takes the newest wish and gives back moments."""

from __future__ import annotations

import functools
import threading
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from ...drawing import moment_of
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...simulation import Simulation
from ...simulation.warm_up import prepare

PATIENCE = 0.25
# With no wish for so long, seconds, snapshots are taken ahead.
IDLE = 0.12


@dataclass(frozen=True)
class Request:
    """An effect at a time, without the layers that are hidden; ``number`` grows with each wish.

    ``watched`` is the id of the layer whose particles' speeds are wanted; with ``hits`` it is told where
    particles hit.
    """

    effect: Effect
    time: float
    number: int
    hidden: frozenset[str] = frozenset()
    watched: str = ""
    hits: bool = False


def _seen(hidden: frozenset[str], layer: Layer) -> bool:
    return layer.id not in hidden


class Player(QObject):
    """Simulates off the interface's thread; a newer wish breaks off an older one."""

    arrived = pyqtSignal(object, int, float)  # Moment, number of the wish, milliseconds it took
    preparing = pyqtSignal(int, int, str)  # kernels done, in all, what comes next; nothing when all are ready
    learned = pyqtSignal(object)  # for each layer, what is known of its past while nothing is asked for
    failed = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._lock = threading.Condition()
        self._request: Request | None = None
        self._number = 0
        self._ended = False
        self._sim: Simulation | None = None
        self._thread = threading.Thread(target=self._work, name="player", daemon=True)

    @property
    def reached(self) -> float:
        """Return the moment that the simulation has come to, s, while it is on its way."""
        sim = self._sim
        return 0.0 if sim is None else sim.reached

    def begin(self) -> None:
        """Start the thread, if it isn't at work: once the window has been seen, so that it is seen soon."""
        if not self._thread.is_alive() and not self._ended:
            self._thread.start()

    def ask(
        self,
        effect: Effect,
        moment: float,
        hidden: frozenset[str] = frozenset(),
        watched: str = "",
        hits: bool = False,
    ) -> int:
        """Wish for an effect at a time, without the layers of some ids; return the wish's number."""
        with self._lock:
            self._number += 1
            self._request = Request(effect, moment, self._number, hidden, watched, hits)
            self._lock.notify()
            return self._number

    def end(self) -> None:
        """Stop the thread."""
        with self._lock:
            self._ended = True
            self._lock.notify()
        if self._thread.is_alive():
            self._thread.join(timeout=5.0)

    def _overtaken(self) -> bool:
        return self._ended or self._request is not None

    def _patience(self, late: float) -> Callable[[], bool]:
        """Return what says that a seek is to be broken off: overtaken, and past a time."""
        return lambda: self._overtaken() and time.perf_counter() > late

    def _work(self) -> None:
        sim: Simulation | None = None
        filled = True
        try:
            request = self._request
            prepare(self.preparing.emit, None if request is None else request.effect)
        except Exception as wrong:  # whatever it is, it must be said in the window
            self.failed.emit(f"The simulation can't be prepared here ({type(wrong).__name__}: {wrong}).")
            return
        while True:
            with self._lock:
                if not filled and self._request is None and not self._ended:
                    self._lock.wait(IDLE)
                while filled and self._request is None and not self._ended:
                    self._lock.wait()
                if self._ended:
                    return
                request, self._request = self._request, None
            if request is None:
                # Nothing is wished for: make ready for scrubbing.
                filled = sim is None or sim.fill(self._overtaken)
                if sim is not None:
                    self.learned.emit({layer.id: sim.levels(layer.id) for layer in sim.effect.layers})
                continue
            filled = False
            start = time.perf_counter()
            try:
                if sim is None:
                    sim = self._sim = Simulation(Effect())
                if sim.effect is not request.effect:
                    # What an effect is the first to use is compiled now.
                    prepare(self.preparing.emit, request.effect)
                    sim.adopt(request.effect)
                if sim.watches_hits != request.hits:
                    sim.watch_hits(request.hits)
                # While a value is dragged wishes come faster than seeks end: every one is let finish,
                # unless it takes long.
                arrived = sim.seek(request.time, self._patience(start + PATIENCE), hurry=True)
                if arrived:
                    hidden = request.hidden
                    moment = moment_of(sim, functools.partial(_seen, hidden), request.watched)
                    self.arrived.emit(moment, request.number, (time.perf_counter() - start) * 1e3)
            except EffectError as wrong:
                self.failed.emit(str(wrong))
            except MemoryError:
                sim = self._sim = None
                self.failed.emit(
                    "There is not enough memory to simulate this effect; lower the caps of its layers."
                )
            except Exception as wrong:  # a mistake of ours must not leave a window without a simulation
                traceback.print_exc()
                sim = self._sim = None
                self.failed.emit(
                    f"The simulation stumbled ({type(wrong).__name__}: {wrong}) and was started anew."
                )

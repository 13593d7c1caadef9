"""The simulation in a thread of its own: it takes the newest wish and gives back moments."""

from __future__ import annotations

import functools
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from ...drawing import moment_of
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...newest import Newest
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


def _patience(overtaken: Callable[[], bool], late: float) -> Callable[[], bool]:
    """Return what says that a seek is to be broken off: overtaken, and past a time."""
    return lambda: overtaken() and time.perf_counter() > late


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
        self._number = 0
        self._sim: Simulation | None = None
        self._newest = Newest("player", self._answer, self._make_ready, self._prepare, waits=True)

    @property
    def reached(self) -> float:
        """Return the moment that the simulation has come to, s, while it is on its way."""
        sim = self._sim
        return 0.0 if sim is None else sim.reached

    def begin(self) -> None:
        """Start the thread, if it isn't at work: once the window has been seen, so that it is seen soon."""
        self._newest.begin()

    def ask(
        self,
        effect: Effect,
        moment: float,
        hidden: frozenset[str] = frozenset(),
        watched: str = "",
        hits: bool = False,
    ) -> int:
        """Wish for an effect at a time, without the layers of some ids; return the wish's number."""
        self._number += 1
        self._newest.ask(Request(effect, moment, self._number, hidden, watched, hits))
        return self._number

    def end(self) -> None:
        """Stop the thread."""
        self._newest.end()

    def _prepare(self) -> bool:
        """Compile what is needed first; return whether there can be a simulation."""
        request = self._newest.waiting
        try:
            prepare(self.preparing.emit, None if request is None else request.effect)
        except Exception as wrong:  # whatever it is, it must be said in the window
            self.failed.emit(f"The simulation can't be prepared here ({type(wrong).__name__}: {wrong}).")
            return False
        return True

    def _make_ready(self, overtaken: Callable[[], bool]) -> float | None:
        """Make ready for scrubbing while nothing is wished for."""
        sim = self._sim
        if sim is None:
            return None
        filled = sim.fill(overtaken)
        self.learned.emit({layer.id: sim.levels(layer.id) for layer in sim.effect.layers})
        return None if filled else IDLE

    def _answer(self, request: Request, overtaken: Callable[[], bool]) -> float | None:
        """Bring the simulation to what is wished for, and give what is seen there."""
        start = time.perf_counter()
        try:
            sim = self._sim = self._sim or Simulation(Effect())
            if sim.effect is not request.effect:
                # Compile kernels that this effect is the first to use.
                prepare(self.preparing.emit, request.effect)
                sim.adopt(request.effect)
            if sim.watches_hits != request.hits:
                sim.watch_hits(request.hits)
            # While a value is dragged wishes come faster than seeks end: every one is let finish,
            # unless it takes long.
            arrived = sim.seek(request.time, _patience(overtaken, start + PATIENCE), hurry=True)
            if arrived:
                hidden = request.hidden
                moment = moment_of(sim, functools.partial(_seen, hidden), request.watched)
                self.arrived.emit(moment, request.number, (time.perf_counter() - start) * 1e3)
        except EffectError as wrong:
            self.failed.emit(str(wrong))
        except MemoryError:
            self._sim = None
            self.failed.emit(
                "There is not enough memory to simulate this effect; lower the caps of its layers."
            )
        except Exception as wrong:  # a mistake of ours must not leave a window without a simulation
            traceback.print_exc()
            self._sim = None
            self.failed.emit(
                f"The simulation stumbled ({type(wrong).__name__}: {wrong}) and was started anew."
            )
        return IDLE

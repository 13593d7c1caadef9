"""What particles really do along their lives, gathered from the moments that were seen."""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...drawing.camera import axes_of, eye_of
from ...drawing.moment import DrawnLayer
from ...simulation.layout import dependence
from ..session.session import Session

BINS = 24
# Moments that are gathered before older ones count for less.
MEMORY = 240.0
# Seconds between tellings.
EVERY = 0.3
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Measure:
    """Mean and spread (one standard deviation) by age; ``number`` grows whenever more is known."""

    age: Floats
    mean: Floats
    spread: Floats
    top: float
    same_unit: bool
    said: str
    number: int


class _Bins:
    """Sums of a number and of its square, by age."""

    def __init__(self) -> None:
        self.count, self.sum, self.square = np.zeros(BINS), np.zeros(BINS), np.zeros(BINS)

    def take(self, at: NDArray[np.int64], values: Floats) -> None:
        self.count += np.bincount(at, minlength=BINS)
        self.sum += np.bincount(at, values, BINS)
        self.square += np.bincount(at, values * values, BINS)
        if self.count.max() > 1e5 or self.count.sum() > MEMORY * 2000:
            for row in (self.count, self.sum, self.square):
                row *= 0.5

    def measure(self, same_unit: bool, words: str, number: int) -> Measure:
        seen = self.count > 0
        age = (np.flatnonzero(seen) + 0.5) / BINS
        mean = self.sum[seen] / self.count[seen]
        spread = np.sqrt(np.maximum(self.square[seen] / self.count[seen] - mean**2, 0.0))
        top = float(np.max(mean + spread, initial=1e-6))
        return Measure(age, mean, spread, top, same_unit, words.format(top=top), number)


class Measured:
    """Speed and size on screen of the selected layer's particles."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._layer: Any = None
        self._of = ""
        self._camera: Any = None
        self._time = -1.0
        self._number = 0
        self._told = 0.0
        # Whether more has been gathered than was told.
        self.pending = False
        self._known_of: tuple[Any, Any] = (None, None)
        self._speed, self._size = _Bins(), _Bins()
        self._known: dict[str, Measure] = {}

    def take(self, height: int) -> bool:
        """Take in the session's moment, seen on a picture so many pixels high; return whether more is
        known now.
        """
        session, layer = self.session, self.session.layer
        drawn = next((one for one in session.moment.layers if layer is not None and one.id == layer.id), None)
        if layer is None or drawn is None or drawn.life is None or drawn.life.speed is None:
            return False
        moves = dependence.motion(session.effect, layer)
        if moves != self._layer:
            self._layer, self._speed, self._time = moves, _Bins(), -1.0
            self._of = layer.id
        seen = (session.camera, dependence.appearance(session.effect, layer), height, moves)
        if seen != self._camera:
            self._camera, self._size, self._time = seen, _Bins(), -1.0
        if session.moment.time == self._time or len(drawn.instances) == 0:
            return False
        self._time = session.moment.time
        at = np.minimum((drawn.life.age * BINS).astype(np.int64), BINS - 1)
        self._speed.take(at, drawn.life.speed.astype(np.float64))
        self._size.take(at, self._pixels(drawn, height))
        self.pending = True
        if (
            self._known
            and time.monotonic() - self._told < EVERY
            and self._known_of == (moves, session.camera)
        ):
            # Measurements are shown a few times a second only: each one redraws a lane.
            return False
        self.tell()
        return True

    def tell(self) -> None:
        """Make known what has been gathered."""
        self.pending, self._told = False, time.monotonic()
        self._known_of = (self._layer, self.session.camera)
        self._number += 1
        self._known = {
            "flight.pace": self._speed.measure(False, "measured speed, up to {top:.1f} m/s", self._number),
            "flight.top_speed": self._speed.measure(True, "measured speed", self._number),
            "look.grow": self._size.measure(False, "on screen, up to {top:.0f} px", self._number),
        }

    def _pixels(self, drawn: DrawnLayer, height: int) -> Floats:
        """Return how high each particle stands on the screen."""
        camera = self.session.camera
        depth = (eye_of(camera) - drawn.instances["place"]) @ axes_of(camera)[2]
        scale = height / (2 * np.tan(np.radians(camera.view) / 2))
        return drawn.instances["size"][:, 1] * scale / np.maximum(depth, 0.05)  # type: ignore[no-any-return]

    def of(self, path: str) -> Measure | None:
        """Return what is measured for the lane of a path, if something is."""
        if self.session.strip_axis != "life" or not self._known or self._layer is None:
            return None
        if self.session.layer is None or self._of != self.session.layer.id:
            return None
        return next((found for known, found in self._known.items() if path.endswith("." + known)), None)

"""The brush: what is drawn by mouse or pen becomes strokes of the step in view."""

from __future__ import annotations

import itertools
import math

from PyQt6.QtCore import QObject, pyqtSignal

from ...effect.rules.reading import MOST_POINTS
from ...effect.steps.drawn import MOST_STROKES, Stroke, Strokes
from .bench import Bench

# How far apart points of a stroke are at least, as a share of the brush.
APART = 0.12
_strokes = itertools.count(1)
Point = tuple[float, float, float]


class Brush(QObject):
    """Its size, softness and strength, whether it erases, and the stroke that is being drawn."""

    changed = pyqtSignal()

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self.bench = bench
        self.size, self.softness, self.strength, self.erase = 0.08, 0.6, 1.0, False
        self.points: list[Point] = []
        self._before: tuple[Stroke, ...] = ()
        self._merge = ""

    @property
    def ready(self) -> bool:
        """Return whether the step in view can be drawn on."""
        return isinstance(self.bench.step, Strokes)

    @property
    def drawing(self) -> bool:
        return bool(self.points)

    def set(self, **values: float | bool) -> None:
        """Change what the brush is like."""
        for name, value in values.items():
            setattr(self, name, value)
        self.size = min(max(self.size, 0.002), 2.0)
        self.changed.emit()

    def begin(self, x: float, y: float, pressure: float = 1.0) -> None:
        """Set the brush down."""
        step = self.bench.step
        if not isinstance(step, Strokes):
            return
        if len(step.strokes) >= MOST_STROKES:
            self.bench.session.said.emit(
                f"{MOST_STROKES} strokes are in this step; add another step for more."
            )
            return
        self._before, self._merge = step.strokes, f"stroke {next(_strokes)}"
        self.bench.session.begin_drag(self._given_up)
        self.points = [self._point(x, y, pressure)]
        self._give()

    def go_on(self, x: float, y: float, pressure: float = 1.0) -> None:
        """Draw on to a place."""
        if not self.points:
            return
        fresh, last = self._point(x, y, pressure), self.points[-1]
        if math.hypot(fresh[0] - last[0], fresh[1] - last[1]) < APART * self.size:
            return
        self.points.append(fresh)
        self._give()
        if len(self.points) >= MOST_POINTS:
            self.end()
            self.begin(x, y, pressure)

    def end(self) -> None:
        """Lift the brush: what was drawn is one step of undo."""
        if self.points:
            self.points = []
            self.bench.session.end_drag()
            self.changed.emit()

    def _given_up(self) -> None:
        self.points = []
        self.changed.emit()

    def _point(self, x: float, y: float, pressure: float) -> Point:
        hold = lambda one: round(min(max(one, -1.5), 1.5), 4)  # noqa: E731
        return hold(x), hold(y), round(min(max(pressure, 0.0), 1.0), 3)  # type: ignore[no-untyped-call]

    def _give(self) -> None:
        stroke = Stroke(
            size=round(self.size, 4),
            softness=self.softness,
            strength=self.strength,
            erase=self.erase,
            points=tuple(self.points),
        )
        name = "Erase" if self.erase else "Draw a stroke"
        self.bench.session.edit(self.bench.step_path("strokes"), (*self._before, stroke), name, self._merge)
        self.changed.emit()

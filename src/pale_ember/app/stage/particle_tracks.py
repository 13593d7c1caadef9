"""Where particles go: the ways of some of the selected layer's over their whole lives, as thin lines."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ...drawing.camera import project
from ...effect.errors import EffectError
from ...simulation.births.schedule import Birth
from ...simulation.layout import dependence
from ...simulation.time.biography import Single
from ..session.session import Session
from ..widgets import theme

COUNT = 48
# Points of a line, and the shades that a life has from its birth's to its death's.
POINTS, SHADES = 40, 5
# How long the window may be kept from other work at a time, s.
SLICE = 0.006
Floats = NDArray[np.float64]


class ParticleTracks(QObject):
    """Lets a sample of births live their lives, a few at a time, whenever what they depend on is another."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.on = False
        self.lines: list[Floats] = []
        self.number = 0
        self._of: Any = None
        self._single: Single | None = None
        self._births: list[Birth] = []
        self._fresh: list[Floats] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._work)
        for signal in (session.effect_changed, session.selection_changed, session.moment_changed):
            signal.connect(self._look)

    def toggle(self) -> None:
        """Show the tracks, or no longer."""
        self.on = not self.on
        self._of = None
        if not self.on:
            self.lines = []
            self._timer.stop()
        self._look()
        self._tell()

    @property
    def at_work(self) -> bool:
        return self._timer.isActive()

    def _tell(self) -> None:
        self.number += 1
        self.changed.emit()

    def _look(self) -> None:
        """Begin anew if the layer's particles go elsewhere now."""
        session, layer = self.session, self.session.layer
        # The first start compiles what this needs, in the simulation's thread.
        if not self.on or session.moment_number == 0 or session.waits_for_mesh:
            return
        of = (
            None
            if layer is None
            else (
                layer.id,
                dependence.motion(session.effect, layer),
                dependence.births(session.effect, layer),
            )
        )
        if of == self._of:
            return
        same_layer = self._of is not None and of is not None and of[0] == self._of[0]
        self._of, self._fresh = of, []
        if not same_layer:
            self.lines = []
        if layer is None:
            self._tell()
            return
        try:
            self._single = Single(session.effect, layer)
            self._births = self._single.sample(COUNT)
        except EffectError:
            self._births = []
        self._timer.start()

    def _work(self) -> None:
        """Follow particles for a slice of time, and tell when all tracks are known."""
        end = time.perf_counter() + SLICE
        while self._births and time.perf_counter() < end:
            assert self._single is not None
            places = self._single.life(self._births.pop()).places
            step = max(-(-len(places) // POINTS), 1)
            kept = np.concatenate([places[::step], places[-1:]]) if len(places) > 1 else places
            self._fresh.append(kept.astype(np.float64))
        if not self._births:
            self._timer.stop()
            self.lines = self._fresh
            self._tell()

    def paint(self, painter: QPainter, size: tuple[int, int]) -> None:
        """Draw the lines: ember at birth, salt at death."""
        if not self.lines:
            return
        places, before = project(self.session.camera, *size, np.concatenate(self.lines))
        birth, death = theme.color(theme.EMBER), theme.color(theme.SALT)
        pens = []
        for i in range(SHADES):
            share = i / (SHADES - 1)
            red, green, blue = (
                round(getattr(birth, part)() * (1 - share) + getattr(death, part)() * share)
                for part in ("red", "green", "blue")
            )
            pens.append(QPen(QColor(red, green, blue, 150), 1.0))
        start = 0
        for line in self.lines:
            stop = start + len(line)
            points = [QPointF(x, y) for x, y in places[start:stop].tolist()]
            seen = before[start:stop]
            for shade in range(SHADES):
                first, last = (len(line) - 1) * shade // SHADES, (len(line) - 1) * (shade + 1) // SHADES
                if last > first and seen[first : last + 1].all():
                    painter.setPen(pens[shade])
                    painter.drawPolyline(QPolygonF(points[first : last + 1]))
            start = stop

"""Handles on the picture: where a flow's sources and obstacles are, and how large."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from ...effect.steps.flow import Flow
from ..widgets import theme
from .bench import Bench
from .placing import in_view, on_picture

NEAR = 8.0
_drags = itertools.count(1)
Edits = list[tuple[str, object]]


@dataclass(frozen=True)
class Handle:
    """A place that can be dragged; ``edits`` says what another place for it means."""

    label: str
    x: float
    y: float
    edits: Callable[[float, float], Edits]
    middle: bool


def _held(one: float, low: float, high: float) -> float:
    return round(min(max(one, low), high), 3)


def handles_of(bench: Bench) -> list[Handle]:
    """Return the handles of the step in view."""
    step = bench.step
    if not isinstance(step, Flow):
        return []
    path = bench.step_path

    def move_main(x: float, y: float) -> Edits:
        return [(path("side"), _held(x, -1, 1)), (path("height"), _held(y, -1, 1))]

    def size_main(x: float, y: float) -> Edits:
        return [(path("source"), _held(math.hypot(x - step.side, y - step.height), 0.02, 1))]

    found = [
        Handle("Source", step.side, step.height, move_main, True),
        Handle("Source size", step.side + step.source, step.height, size_main, False),
    ]
    for i, one in enumerate(step.sources):
        at = f"sources[{i}]"
        found += [
            Handle(f"Source {i + 2}", *one.at, _mover(path(f"{at}.at")), True),
            Handle(
                f"Source {i + 2} size",
                one.at[0] + one.radius,
                one.at[1],
                _sizer(path(f"{at}.radius"), one.at),
                False,
            ),
        ]
    for i, block in enumerate(step.obstacles):
        at = f"obstacles[{i}]"
        c, s = math.cos(math.radians(block.turn)), math.sin(math.radians(block.turn))
        (x, y), (wide, high) = block.at, block.extents
        corner = x + wide * c - high * s, y + wide * s + high * c
        found += [
            Handle(f"Obstacle {i + 1}", x, y, _mover(path(f"{at}.at")), True),
            Handle(
                f"Obstacle {i + 1} size", *corner, _stretcher(path(f"{at}.extents"), block.at, c, s), False
            ),
        ]
    return found


def _mover(path: str) -> Callable[[float, float], Edits]:
    return lambda x, y: [(path, [_held(x, -1.5, 1.5), _held(y, -1.5, 1.5)])]


def _sizer(path: str, middle: tuple[float, float]) -> Callable[[float, float], Edits]:
    return lambda x, y: [(path, _held(math.hypot(x - middle[0], y - middle[1]), 0.02, 1))]


def _stretcher(path: str, middle: tuple[float, float], c: float, s: float) -> Callable[[float, float], Edits]:
    def stretch(x: float, y: float) -> Edits:
        dx, dy = x - middle[0], y - middle[1]
        return [(path, [_held(abs(dx * c + dy * s), 0.02, 2), _held(abs(dy * c - dx * s), 0.02, 2)])]

    return stretch


class PictureHandles:
    """Takes hold of handles, drags them, and paints them."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.held: Handle | None = None
        self._merge = ""

    def at(self, box: QRectF, where: QPointF) -> Handle | None:
        """Return the handle at a pixel of the view."""
        best, found = NEAR, None
        for handle in handles_of(self.bench):
            place = in_view(box, handle.x, handle.y) - where
            far = math.hypot(place.x(), place.y())
            # Of two in one place, the size goes before the middle.
            if far < best or (far == best and not handle.middle):
                best, found = far, handle
        return found

    def take(self, box: QRectF, where: QPointF) -> bool:
        """Take hold of the handle at a pixel; return whether there is one."""
        self.held = self.at(box, where)
        if self.held is not None:
            self._merge = f"picture handle {next(_drags)}"
            self.bench.session.begin_drag(self._given_up)
        return self.held is not None

    def drag(self, box: QRectF, where: QPointF) -> None:
        if self.held is not None:
            edits = self.held.edits(*on_picture(box, where))
            self.bench.session.edit_many(
                edits,
                f"Move {self.held.label.lower()}"
                if self.held.middle
                else f"Change {self.held.label.lower()}",
                self._merge,
            )

    def release(self) -> None:
        if self.held is not None:
            self.held = None
            self.bench.session.end_drag()

    def _given_up(self) -> None:
        self.held = None

    def paint(self, painter: QPainter, box: QRectF) -> None:
        """Draw sources as rings, obstacles as what they are, and their handles."""
        step = self.bench.step
        if not isinstance(step, Flow):
            return
        scale = box.width() / 2
        rings = [(step.side, step.height, step.source), *((*one.at, one.radius) for one in step.sources)]
        for ink, width in ((theme.color(theme.ASH_0, 170), 3.0), (theme.color(theme.EMBER, 210), 1.2)):
            painter.setPen(QPen(ink, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for x, y, radius in rings:
                painter.drawEllipse(in_view(box, x, y), radius * scale, radius * scale)
        for ink, width in ((theme.color(theme.ASH_0, 170), 3.0), (theme.color(theme.SALT, 230), 1.2)):
            painter.setPen(QPen(ink, width))
            for block in step.obstacles:
                painter.save()
                painter.translate(in_view(box, *block.at))
                painter.rotate(-block.turn)
                shape = QRectF(
                    -block.extents[0] * scale,
                    -block.extents[1] * scale,
                    2 * block.extents[0] * scale,
                    2 * block.extents[1] * scale,
                )
                (painter.drawEllipse if block.round else painter.drawRect)(shape)
                painter.restore()
        for handle in handles_of(self.bench):
            place = in_view(box, handle.x, handle.y)
            painter.setPen(QPen(theme.color(theme.ASH_0), 1.5))
            painter.setBrush(
                theme.color(
                    theme.BRIGHT if self.held is not None and self.held.label == handle.label else theme.EMBER
                )
            )
            if handle.middle:
                painter.drawEllipse(place, 4.5, 4.5)
            else:
                painter.drawRect(QRectF(place.x() - 3.5, place.y() - 3.5, 7, 7))

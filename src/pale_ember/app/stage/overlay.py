"""Lines and words over the stage."""

from __future__ import annotations

import functools
import time
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QWidget

from ...drawing.camera import project
from ...drawing.wires import Lines, birthplace_wire, path_line
from ..widgets import theme
from ..widgets.cached import CachedPixmap

if TYPE_CHECKING:
    from .stage import Stage

PATIENCE = 1.2


@functools.cache
def _ring() -> QPixmap:
    """Return the mark about a particle of the cursor's age: drawn once, as many are put down for each frame."""
    ring = QPixmap(24, 24)
    ring.fill(Qt.GlobalColor.transparent)
    painter = QPainter(ring)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.color(theme.SALT, 210), 2.4))
    painter.drawEllipse(QPointF(12, 12), 8.0, 8.0)
    painter.end()
    ring.setDevicePixelRatio(2.0)
    return ring


class Overlay(QWidget):
    """Lines and words over the stage; it takes no clicks."""

    def __init__(self, stage: Stage) -> None:
        super().__init__(stage)
        self.stage = stage
        self.since = time.monotonic()
        self._kept = CachedPixmap()
        # Whether a word on the preparation is due is known only after a while.
        QTimer.singleShot(round(PATIENCE * 1100), self.update)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)

    def paintEvent(self, event: Any) -> None:
        session = self.stage.session
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        layer = session.layer
        if layer is not None and self.stage.show_wire:
            painter.drawPixmap(0, 0, self._wires())
        self._paint_marks(painter)
        done, total, what = session.preparing
        if what and time.monotonic() - self.since > PATIENCE:
            self._say(
                painter,
                "First start",
                f"Compiling {what} for this machine, {done + 1} of {total}. About a minute, once.",
            )
            bar = QRectF(self.width() / 2 - 120, self.height() / 2 + 28, 240, 4)
            painter.fillRect(bar, theme.color(theme.ASH_3))
            bar.setWidth(bar.width() * (done + 0.5) / total)
            painter.fillRect(bar, theme.color(theme.EMBER))
        elif not session.effect.layers:
            self._say(
                painter, "A blank effect", "Add a layer with the + of the timeline, or press Ctrl+L. It emits at once."
            )
        elif session.moment_number > 0 and session.moment.alive == 0 and not session.playing:
            self._say(painter, "", f"No particle is alive at {session.phase:.2f} s.")
        painter.end()

    def _wires(self) -> QPixmap:
        """Return the lines and handles as a picture, drawn anew only when something of theirs is another."""
        session, grip = self.stage.session, self.stage.handle_drag
        layer = session.layer
        assert layer is not None
        # The layer's own clock counts only where it moves.
        clock = session.clock_of_layer() if layer.path else 0.0
        key = (layer.place, layer.path, layer.birthplace, session.camera, clock,
               grip.held, grip.under, grip.key_chosen, session.path_key)  # fmt: skip
        return self._kept.picture(self.size(), self.devicePixelRatioF(), key, self._paint_wires)

    def _paint_wires(self, painter: QPainter) -> None:
        layer = self.stage.session.layer
        assert layer is not None
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.color(theme.EMBER, 150), 1.2))
        self._lines(painter, birthplace_wire(layer, self.stage.session.clock_of_layer()))
        if layer.path:
            painter.setPen(QPen(theme.color(theme.SALT, 190), 1.4))
            self._lines(painter, [path_line(layer)])
        self.stage.handle_drag.paint(painter)

    def _paint_marks(self, painter: QPainter) -> None:
        """Mark particles of the cursor's age, and the one that is followed."""
        near, own = self.stage.marked()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if len(near):
            ring = _ring()
            for x, y in near:
                painter.drawPixmap(QPointF(float(x) - 6.0, float(y) - 6.0), ring)
        for x, y in own:
            at = QPointF(float(x), float(y))
            painter.setPen(QPen(theme.color(theme.ASH_0, 160), 3.4))
            painter.drawEllipse(at, 9.0, 9.0)
            painter.setPen(QPen(theme.color(theme.EMBER), 1.8))
            painter.drawEllipse(at, 9.0, 9.0)

    def _lines(self, painter: QPainter, lines: Lines) -> None:
        if not lines:
            return
        # All lines' points at once: the matrices cost more than the points.
        places, before = project(self.stage.session.camera, self.width(), self.height(), np.concatenate(lines))
        start = 0
        for line in lines:
            stop = start + len(line)
            if before[start:stop].all():
                painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in places[start:stop].tolist()]))
            start = stop

    def _say(self, painter: QPainter, title: str, text: str) -> None:
        box = QRectF(0, self.height() / 2 - 40, self.width(), 30)
        painter.setPen(theme.color(theme.BRIGHT))
        painter.setFont(theme.font(17))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, title)
        painter.setPen(theme.color(theme.DIM))
        painter.setFont(theme.font(12))
        painter.drawText(box.translated(0, 30), Qt.AlignmentFlag.AlignCenter, text)

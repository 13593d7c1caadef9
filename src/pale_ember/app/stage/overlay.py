"""Lines and words over the stage."""

from __future__ import annotations

import functools
import time
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QWidget

from ...drawing.camera import project
from ...drawing.wires import Lines, birthplace_wire, path_line
from ...effect.effect import Layer
from ...effect.kinds import EmitterShape
from ...simulation.meshes.faces import known_faces
from ...simulation.motion.bows import bow_points
from ...simulation.motion.prop_poses import prop_pose
from ..widgets import theme
from ..widgets.cached import CachedPixmap
from .handle_drag import HandleDrag
from .hit_marks import paint_hits, paint_kin
from .particle_tracks import ParticleTracks
from .picking import marked
from .view import StageView

PATIENCE = 1.2


@functools.cache
def _ring() -> QPixmap:
    """Return the mark about a particle of the cursor's age: drawn once, as many are put down for each
    frame.
    """
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

    def __init__(
        self, parent: QWidget, stage: StageView, handles: HandleDrag, tracks: ParticleTracks
    ) -> None:
        super().__init__(parent)
        self.stage, self.handles, self.tracks = stage, handles, tracks
        self.since = time.monotonic()
        self._kept, self._kept_tracks = CachedPixmap(), CachedPixmap()
        self._late = QTimer(self)
        self._late.setInterval(100)
        self._late.timeout.connect(self.update)
        self.framed = False
        # Whether a word on the preparation is due is known only after a while.
        QTimer.singleShot(round(PATIENCE * 1100), self.update)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)

    def paintEvent(self, event: Any) -> None:
        session = self.stage.session
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        layer = session.layer
        if layer is not None and self.tracks.lines:
            key = (self.tracks.number, session.camera)
            size = (self.width(), self.height())
            painter.drawPixmap(
                0,
                0,
                self._kept_tracks.picture(
                    self.size(), self.devicePixelRatioF(), key, lambda p: self._paint_tracks(p, size)
                ),
            )
        if (layer is not None or session.prop >= 0) and self.stage.show_wire:
            painter.drawPixmap(0, 0, self._wires())
        self._paint_marks(painter)
        if session.watches_hits:
            paint_hits(painter, session.camera, (self.width(), self.height()), session.moment)
        self._paint_words(painter)
        if self.stage.show_overdraw:
            self._paint_overdraw(painter)
        self._paint_making(painter)
        if self.framed and self.stage.hasFocus():
            painter.setPen(QPen(theme.color(theme.EMBER), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

    def _paint_tracks(self, painter: QPainter, size: tuple[int, int]) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.tracks.paint(painter, size)

    def _paint_words(self, painter: QPainter) -> None:
        """Tell what is waited for, or why nothing is seen."""
        session = self.stage.session
        done, total, what = session.preparing
        if what and time.monotonic() - self.since > PATIENCE:
            self._say(
                painter,
                "First start",
                f"Compiling {what} for this machine, {done + 1} of {total}. About half a minute, once.",
            )
            self._bar(painter, (done + 0.5) / total)
        elif session.moment_number > 0 and session.effect.layers and (way := self._late_by()) is not None:
            self._say(painter, "", f"Simulating up to {session.time:.1f} s. Esc stops on the way.")
            self._bar(painter, way)
        elif session.moment_number > 0 and session.effect.layers and session.moment.alive == 0:
            shown = [layer for layer in session.effect.layers if session.is_shown(layer.id)]
            if not any(layer.enabled for layer in shown):
                who = "All layers are" if len(shown) > 1 else f"{shown[0].name} is" if shown else "Nothing is"
                what = "them" if len(shown) > 1 else "it"
                words = f"{who} disabled; H, or the eye in the timeline, enables {what} again."
                self._say(painter, "", words)
            elif not session.playing:
                self._say(painter, "", f"No particle is alive at {session.phase:.2f} s.")

    def _paint_making(self, painter: QPainter) -> None:
        """Say which texture is being made, and how far it is."""
        state = self.stage.session.textures.state
        if not state.working:
            return
        words = f"Making “{state.working}”, {100 * state.share:.0f} %. Esc gives it up."
        painter.setFont(theme.font(12))
        box = QRectF(10, self.height() - 34, painter.fontMetrics().horizontalAdvance(words) + 20, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.ASH_0, 225))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.color(theme.TEXT))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_overdraw(self, painter: QPainter) -> None:
        """Say what the heat means."""
        whole, one = self.stage.overdraw
        layer = self.stage.session.layer
        lines = [f"Layers over a pixel: {whole.mean:.2f} in the mean, {whole.peak} at most"]
        if layer is not None:
            lines.append(f"{layer.name} alone: {one.mean:.2f}, {one.peak} at most")
        calls, memory = self.stage.cost
        lines.append(f"{calls} draw call{'' if calls == 1 else 's'}, {memory / 2**20:.1f} MB of textures")
        painter.setFont(theme.font(12))
        wide = max(painter.fontMetrics().horizontalAdvance(line) for line in lines) + 20
        box = QRectF(10, 10, wide, 18 * len(lines) + 10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.ASH_0, 225))
        painter.drawRoundedRect(box, 3, 3)
        for i, line in enumerate(lines):
            painter.setPen(theme.color(theme.DIM if i else theme.BRIGHT))
            painter.drawText(box.adjusted(10, 5 + 18 * i, -6, 0), Qt.AlignmentFlag.AlignTop, line)

    def _late_by(self) -> float | None:
        """Return how far a simulation that takes long has come, 0…1; None if none does."""
        session = self.stage.session
        if not session.is_late:
            self._late.stop()
            return None
        if not self._late.isActive():
            self._late.start()
        return session.way() if session.takes_long and not session.preparing[2] else None

    def _bar(self, painter: QPainter, share: float) -> None:
        bar = QRectF(self.width() / 2 - 120, self.height() / 2 + 28, 240, 4)
        painter.fillRect(bar, theme.color(theme.ASH_3))
        bar.setWidth(bar.width() * min(max(share, 0.0), 1.0))
        painter.fillRect(bar, theme.color(theme.EMBER))

    def _wires(self) -> QPixmap:
        """Return the lines and handles as a picture, drawn anew only when something of theirs is another."""
        session, grip = self.stage.session, self.handles
        layer = session.layer or Layer()
        # The layer's own clock counts only where it moves.
        clock = session.clock_of_layer() if layer.path else 0.0
        known = layer.birthplace.kind != EmitterShape.MESH or known_faces(layer.birthplace.mesh) is not None
        others = tuple(
            (one.place, one.birthplace) for one in map(session.effect.layer, session.chosen_others)
        )
        event = session.event_pose(layer, clock)
        at = event.centre.tobytes() + event.rotation.tobytes() if event is not None else b""
        stands = layer.birthplace.kind == EmitterShape.BOW and session.layer is not None
        bow = bow_points(session.effect, layer, session.moment.time, event).tobytes() if stands else b""
        key = (
            session.prop,
            session.effect.stage.props,
            layer.place,
            layer.path,
            layer.birthplace,
            layer.origin,
            at,
            known,
            bow,
            others,
            session.camera,
            clock,
            grip.held,
            grip.under,
            grip.key_chosen,
            session.path_key,
            session.handle_axes,
        )
        return self._kept.picture(self.size(), self.devicePixelRatioF(), key, self._paint_wires)

    def _paint_wires(self, painter: QPainter) -> None:
        """Draw the birthplaces and paths of the selected layers, and their handles."""
        session = self.stage.session
        layer = session.layer
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.stage.session.prop >= 0 or layer is None:
            self._paint_prop_path(painter)
            self.handles.paint(painter)
            return
        painter.setPen(QPen(theme.color(theme.DIM, 150), 1.0))
        for other in self.stage.session.chosen_others:
            shape = self.stage.session.effect.layer(other)
            if shape.origin.parent:
                continue
            self._lines(painter, birthplace_wire(shape, self.stage.session.clock_of_layer()))
        painter.setPen(QPen(theme.color(theme.EMBER, 150), 1.2))
        clock = self.stage.session.clock_of_layer()
        event = self.stage.session.event_pose(layer, clock)
        if event is not None or not layer.origin.parent:
            bow = (
                bow_points(session.effect, layer, session.moment.time, event)
                if layer.birthplace.kind == EmitterShape.BOW
                else None
            )
            self._lines(painter, birthplace_wire(layer, clock, event, bow))
        if layer.path:
            painter.setPen(QPen(theme.color(theme.SALT, 190), 1.4))
            self._lines(painter, [path_line(layer)])
        self.handles.paint(painter)

    def _paint_prop_path(self, painter: QPainter) -> None:
        props = self.stage.session.effect.stage.props
        at = self.stage.session.prop
        if 0 <= at < len(props) and props[at].path:
            painter.setPen(QPen(theme.color(theme.SALT, 190), 1.4))
            line = [prop_pose(props[at], i / 96)[:3, 3] for i in range(97)]
            self._lines(painter, [np.array(line)])

    def _paint_marks(self, painter: QPainter) -> None:
        """Mark particles of the cursor's age, and the one that is followed."""
        near, own = marked(self.stage.session, (self.width(), self.height()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if len(near):
            ring = _ring()
            for x, y in near:
                painter.drawPixmap(QPointF(float(x) - 6.0, float(y) - 6.0), ring)
        if len(own):
            paint_kin(painter, self.stage.session, (self.width(), self.height()))
        for x, y in own:
            at = QPointF(float(x), float(y))
            painter.setPen(QPen(theme.color(theme.ASH_0, 160), 3.4))
            painter.drawEllipse(at, 9.0, 9.0)
            painter.setPen(QPen(theme.color(theme.EMBER), 1.8))
            painter.drawEllipse(at, 9.0, 9.0)

    def _lines(self, painter: QPainter, lines: Lines) -> None:
        """Draw lines of the world, those that are whole in front of the camera."""
        if not lines:
            return
        # All lines' points at once: the matrices cost more than the points.
        places, before = project(
            self.stage.session.camera, self.width(), self.height(), np.concatenate(lines)
        )
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

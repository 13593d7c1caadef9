"""The corner of the view: the layers that wear the texture, live."""

from __future__ import annotations

import time
from typing import Any

from PyQt6.QtCore import QRectF, Qt, QTimer
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ...drawing.camera import framed
from ...drawing.moment import Moment, bounds
from ...effect.chapters.stage import Camera
from ..stage.stage import Stage
from ..widgets import theme
from .bench import Bench

SIZE = (252, 176)
# Pictures are drawn no more often than this, ms: the bench's own picture goes first.
EVERY, WHILE_MADE = 50, 400


class Corner(QWidget):
    """The wearers as they are on the stage; a click goes back there."""

    def __init__(self, bench: Bench, stage: Stage, parent: QWidget) -> None:
        super().__init__(parent)
        self.bench, self.stage, self.session = bench, stage, bench.session
        self.setFixedSize(*SIZE)
        # It covers what lies under it, which then needs no repaint.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The layers that wear the texture")
        self.setToolTip("The layers that wear this texture, live; a click goes back to the stage")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._image: QImage | None = None
        self._camera: tuple[str, Camera, float] = ("", self.session.camera, 0.0)
        self._last = 0.0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._due)
        for signal in (self.session.moment_changed, bench.opened):
            signal.connect(self.wish)
        # A texture that was just made is seen at once.
        self.session.textures_changed.connect(self._at_once)

    def wish(self) -> None:
        """Draw anew soon."""
        if self.isVisible() and not self._timer.isActive():
            # While a texture is being made that goes first; what moves here can wait a little.
            every = WHILE_MADE if self.session.textures.busy else EVERY
            left = every - (time.monotonic() - self._last) * 1000
            self._timer.start(max(round(left), 0))

    def _at_once(self) -> None:
        if self.isVisible() and not self.session.textures.state.working:
            self._draw()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.wish()

    def _due(self) -> None:
        """Draw, unless a texture began to be made since this was wished for."""
        if self.session.textures.busy and time.monotonic() - self._last < WHILE_MADE / 1000:
            self.wish()
        else:
            self._draw()

    def _draw(self) -> None:
        """Draw the particles that wear the texture."""
        self._last = time.monotonic()
        worn = {layer.id for layer in self.bench.wearers}
        layers = tuple(layer for layer in self.session.moment.layers if layer.id in worn)
        self._image = None
        if layers:
            moment = Moment(self.session.moment.time, layers)
            ratio = self.devicePixelRatioF()
            size = (round((SIZE[0] - 2) * ratio), round((SIZE[1] - 2) * ratio))
            self._image = self.stage.picture_of(
                moment, size, self._seen_from(moment), self.session.environment(bare=True), use="bench corner"
            )
        self.update()

    def _seen_from(self, moment: Moment) -> Camera:
        """Return a camera that has the layers in view; it goes on growing with them, and never jitters."""
        key = ",".join(layer.id for layer in moment.layers)
        box = bounds(moment)
        if box is None:
            return self._camera[1]
        wanted = framed(self.session.camera, *box)
        known, camera, since = self._camera
        far = wanted.distance * 0.72
        if known != key or far > camera.distance * 1.02 or time.monotonic() - since > 8.0:
            camera = wanted.model_copy(update={"distance": far})
            self._camera = (key, camera, time.monotonic())
        return camera

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if self.bench.wearers or self.session.layer is None:
            self.bench.close()
        else:
            self.bench.wear()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        inner = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.setFont(theme.font(11))
        if self._image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(inner, self._image)
        else:
            painter.setPen(theme.color(theme.DIM))
            worn = self.bench.wearers
            layer = self.session.layer
            words = (
                "Nothing of it is alive at this moment."
                if worn or layer is None
                else f"No layer wears this texture.\nClick here, and {layer.name} does."
            )
            painter.drawText(
                inner.adjusted(16, 0, -16, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words
            )
        names = ", ".join(layer.name for layer in self.bench.wearers)
        if names:
            said = painter.fontMetrics().elidedText(names, Qt.TextElideMode.ElideRight, SIZE[0] - 20)
            back = QRectF(1, SIZE[1] - 19, painter.fontMetrics().horizontalAdvance(said) + 14, 18)
            painter.fillRect(back, theme.color(theme.ASH_0, 190))
            painter.setPen(theme.color(theme.TEXT))
            painter.drawText(back.adjusted(7, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, said)
        painter.setPen(QPen(theme.color(theme.ASH_3)))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

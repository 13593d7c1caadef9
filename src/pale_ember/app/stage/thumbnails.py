"""Small live pictures of the layers, each alone, drawn one at a time."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QPixmap

from ...drawing.camera import framed
from ...drawing.moment import Moment, bounds
from ...effect.effect import Layer
from ..session.session import Session
from .stage import Stage

SIZE = (42, 26)
EVERY_MS = 140


class Thumbnails(QObject):
    """The newest picture of each layer; none is drawn while nothing asks for it."""

    drawn = pyqtSignal(str)

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(stage)
        self.session, self.stage = session, stage
        self.pictures: dict[str, QPixmap] = {}
        self._seen: dict[str, int] = {}
        self._boxes: dict[str, tuple[Layer, np.ndarray, np.ndarray]] = {}
        self._wanted: list[str] = []
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._draw_next)
        self._timer.start(EVERY_MS)
        session.textures_changed.connect(self._dress)

    def _dress(self) -> None:
        """Mark all pictures as out of date: the textures that layers wear have changed."""
        self._seen.clear()
        # A widget that shows a picture asks for it again; a hidden one doesn't.
        for layer_id in list(self.pictures):
            self.drawn.emit(layer_id)

    def picture(self, layer_id: str) -> QPixmap | None:
        """Return a layer's picture, if there is one yet, and have a newer one drawn soon."""
        if layer_id not in self._wanted and self._seen.get(layer_id) != self.session.moment_number:
            self._wanted.append(layer_id)
        return self.pictures.get(layer_id)

    def _draw_next(self) -> None:
        """Draw the picture of the layer that waits longest."""
        # The session's moment has the shown layers only; hidden ones keep their last picture.
        drawn = {layer.id: layer for layer in self.session.moment.layers}
        # While a key is dragged the stage and the strip go first.
        while self._wanted and not self.session.hasty:
            layer_id = self._wanted.pop(0)
            at = self.session.effect.index(layer_id)
            if at < 0 or layer_id not in drawn or not self.stage.updatesEnabled():
                continue
            moment = Moment(self.session.moment.time, (drawn[layer_id],))
            box = self._box(self.session.effect.layers[at], moment)
            if box is None and layer_id in self.pictures:
                continue
            camera = framed(self.session.camera, *(box or ((-1, -1, -1), (1, 1, 1))))
            camera = camera.model_copy(update={"distance": camera.distance * 0.62})
            ratio = self.stage.devicePixelRatioF()
            size = (round(SIZE[0] * ratio), round(SIZE[1] * ratio))
            picture = QPixmap.fromImage(self.stage.small_picture_of(moment, size, camera))
            picture.setDevicePixelRatio(ratio)
            self.pictures[layer_id] = picture
            self._seen[layer_id] = self.session.moment_number
            self.drawn.emit(layer_id)
            return

    def _box(self, layer: Layer, moment: Moment) -> tuple[np.ndarray, np.ndarray] | None:
        """Return the box that the layer filled since it was last edited, so that its picture doesn't jump."""
        found = bounds(moment)
        known = self._boxes.get(layer.id)
        if known is not None and known[0] is layer:
            if found is None:
                return known[1], known[2]
            found = np.minimum(found[0], known[1]), np.maximum(found[1], known[2])
        if found is not None:
            self._boxes[layer.id] = (layer, *found)
        return found

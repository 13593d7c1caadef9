"""Where a texture's picture lies in the view: how large, where, and which place on it a pixel is."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF

from ..session.session import Session
from .bench import Bench
from .on_the_bench import Look

ROOM = 0.8
LEAST, MOST = 0.02, 64.0


def game_pixels(session: Session, bench: Bench, height: int) -> float:
    """Return how wide the widest particle that wears the texture is on a stage of a height, pixels; 0 if
    none is there.
    """
    worn = {layer.id for layer in bench.wearers}
    widest = max(
        (
            float(layer.instances["size"].max())
            for layer in session.moment.layers
            if layer.id in worn and len(layer.instances)
        ),
        default=0.0,
    )
    camera = session.camera
    return widest * height / (2.0 * math.tan(math.radians(camera.view) / 2) * max(camera.distance, 1e-6))


@dataclass
class Placing:
    """How far the view is zoomed and moved besides what its look says."""

    zoom: float = 1.0
    # How far to the left of the view's middle it stands, where something takes the room at the right.
    aside: float = 0.0
    moved: QPointF = field(default_factory=QPointF)

    def box(self, bench: Bench, wide: int, high: int, ratio: float) -> QRectF:
        """Return the frame's rectangle in a view of a size, in the view's own pixels."""
        ready = bench.ready
        frame = ready.size if ready is not None else (1, 1)
        aspect = frame[0] / max(frame[1], 1)
        tall = min(high, wide / aspect) * ROOM
        if bench.look == Look.PIXELS:
            tall = frame[1] / ratio
        elif bench.look == Look.GAME:
            tall = (game_pixels(bench.session, bench, high) or frame[1]) / max(aspect, 1.0)
        tall *= self.zoom
        size = QPointF(tall * aspect, tall)
        middle = QPointF(wide / 2 - self.aside, high / 2) + self.moved
        left, top = middle.x() - size.x() / 2, middle.y() - size.y() / 2
        if bench.look == Look.PIXELS and self.zoom == 1.0:
            # Pixels on pixels.
            left, top = round(left * ratio) / ratio, round(top * ratio) / ratio
        return QRectF(left, top, size.x(), size.y())

    def zoom_at(self, factor: float, at: QPointF, wide: int, high: int) -> None:
        """Zoom about a place of the view."""
        new = min(max(self.zoom * factor, LEAST), MOST)
        away = at - QPointF(wide / 2 - self.aside, high / 2) - self.moved
        self.moved += away * (1.0 - new / self.zoom)
        self.zoom = new

    def reset(self) -> None:
        self.zoom, self.moved = 1.0, QPointF(0.0, 0.0)


def on_picture(box: QRectF, at: QPointF) -> tuple[float, float]:
    """Return where a pixel of the view is on the picture, −1…1, y upwards."""
    return (at.x() - box.left()) / box.width() * 2 - 1, 1 - (at.y() - box.top()) / box.height() * 2


def in_view(box: QRectF, x: float, y: float) -> QPointF:
    """Return the pixel of the view where a place on the picture is."""
    return QPointF(box.left() + (x + 1) / 2 * box.width(), box.top() + (1 - y) / 2 * box.height())

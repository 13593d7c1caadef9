"""Taking hold of the stage's handles: finding, dragging and painting them."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from ...drawing.camera import project
from ...effect.chapters.place import Place
from ...effect.kinds import EmitterShape
from ...effect.rules.edit import get
from ...effect.values.rotations import angles_of, matrix_of
from ...simulation.motion.bows import end_frames
from ..session.session import Session
from ..widgets import theme
from ..widgets.arithmetic import shown
from .handles import LEAST_SIZE, Handle, dragged_to, handles_of, handles_of_prop, ring_of, tidy
from .view import StageView

NEAR = 9.0
_drags = itertools.count(1)


class HandleDrag:
    """The handles of the selected layer, and the one that is held or under the mouse."""

    def __init__(self, session: Session, stage: StageView) -> None:
        self.session, self.stage = session, stage
        self.held: Handle | None = None
        self.under: Handle | None = None
        self.key_chosen = False
        self._grab = np.zeros(3)
        self._merge = ""
        # Where the selected layers stood when the drag began.
        self._began: dict[str, Place] | None = None

    def handles(self) -> list[Handle]:
        """Return the handles that are shown now."""
        layer, session = self.session.layer, self.session
        if not self.stage.show_wire:
            return []
        props = session.effect.stage.props
        if 0 <= session.prop < len(props):
            return handles_of_prop(
                props[session.prop], session.prop, session.camera, session.handle_axes, session.path_key
            )
        if layer is None:
            return []
        clock = session.clock_of_layer()
        event = session.event_pose(layer, clock)
        ends = (
            end_frames(session.effect, layer, session.moment.time, event)
            if layer.birthplace.kind == EmitterShape.BOW
            else None
        )
        return handles_of(layer, clock, session.camera, session.path_key, session.handle_axes, event, ends)

    @property
    def _size(self) -> tuple[int, int]:
        return max(self.stage.width(), 1), max(self.stage.height(), 1)

    def _pixels(self, handles: list[Handle]) -> list[QPointF | None]:
        if not handles:
            return []
        places, before = project(self.session.camera, *self._size, np.array([h.place for h in handles]))
        return [QPointF(float(x), float(y)) if seen else None for (x, y), seen in zip(places, before)]

    def at(self, where: QPointF) -> Handle | None:
        """Return the handle at a pixel; the topmost of the nearest."""
        best, found = NEAR, None
        handles = self.handles()
        for handle, pixel in zip(handles, self._pixels(handles)):
            if pixel is not None:
                far = math.hypot(pixel.x() - where.x(), pixel.y() - where.y())
                if far <= best:
                    best, found = far, handle
        return found

    def hover(self, where: QPointF) -> None:
        under = self.at(where)
        if (under and under.label) != (self.under and self.under.label):
            self.stage.setCursor(Qt.CursorShape.SizeAllCursor if under else Qt.CursorShape.ArrowCursor)
            self.under = under
            self.stage.touch_up()
        self.under = under

    def take(self, where: QPointF) -> bool:
        """Take hold of the handle at a pixel; return whether there is one."""
        self.key_chosen = False
        handle = self.at(where)
        if handle is None:
            return False
        if handle.number >= 0:
            self.session.choose_path_key(handle.number)
            self.key_chosen = True
        place = dragged_to(handle, self.session.camera, self._size, where.x(), where.y())
        self.held, self._merge = handle, f"handle {next(_drags)}"
        self._grab = handle.place - place if place is not None else np.zeros(3)
        self._began = {
            layer_id: self.session.effect.layer(layer_id).place for layer_id in self.session.chosen
        }
        self.session.begin_drag(self._given_up)
        return True

    def _given_up(self) -> None:
        self.held = None
        self.stage.touch_up()

    def drag(self, where: QPointF, exact: bool) -> None:
        """Drag what is held to a pixel; ``exact`` leaves its numbers unrounded."""
        handle = self.held
        if handle is None:
            return
        place = dragged_to(handle, self.session.camera, self._size, where.x(), where.y())
        if place is None:
            return
        value = handle.value_at(place + self._grab)
        camera = self.session.camera
        metres = 2 * camera.distance * math.tan(math.radians(camera.view) / 2) / self._size[1]
        if handle.look == "turn":
            value = tuple(round(x, 3) for x in value)
        elif handle.path.endswith(("arc", "angle")):
            value = value if exact else float(round(value))
        else:
            value = tuple(round(x, 6) for x in value) if isinstance(value, tuple) else round(value, 6)
            least = LEAST_SIZE if handle.prop >= 0 and handle.look == "size" else -math.inf
            value = value if exact else tidy(value, metres, least)
        self.session.edit_many(self._edits(handle, value), f"Drag {handle.label.lower()}", self._merge)
        self.stage.touch_up()

    def _edits(self, handle: Handle, value: Any) -> list[tuple[str, Any]]:
        """Return what a drag means for each selected layer: places go and turn as far, sizes become the
        same.
        """
        session = self.session
        edits = [(self._path(handle), value)]
        if handle.prop >= 0:
            return edits
        if handle.number >= 0 or self._began is None:
            return edits
        first = self._began.get(session.selected)
        for layer_id, place in self._began.items():
            if layer_id == session.selected or first is None:
                continue
            theirs: Any = value
            if handle.path == "place.position":
                theirs = tuple(
                    round(a + b - c, 6) for a, b, c in zip(place.position, value, first.position, strict=True)
                )
            elif handle.path == "place.rotation":
                turn = matrix_of(value) @ matrix_of(first.rotation).T
                theirs = tuple(round(angle, 3) for angle in angles_of(turn @ matrix_of(place.rotation)))
            edits.append((session.layer_path(handle.path, layer_id), theirs))
        return edits

    def _path(self, handle: Handle) -> str:
        """Return the whole path of the field that a handle sets."""
        return (
            f"stage.props[{handle.prop}].{handle.path}"
            if handle.prop >= 0
            else self.session.layer_path(handle.path)
        )

    def release(self) -> None:
        if self.held is not None:
            self.held = None
            self.session.end_drag()
            self.stage.touch_up()

    def delete_key(self) -> None:
        """Delete the chosen key of the path."""
        layer, at = self.session.layer, self.session.path_key
        props = self.session.effect.stage.props
        if 0 <= self.session.prop < len(props):
            keys = props[self.session.prop].path
            if at < len(keys):
                self.session.edit(
                    f"stage.props[{self.session.prop}].path", (*keys[:at], *keys[at + 1 :]), "Delete a key"
                )
                self.key_chosen = False
            return
        if layer is not None and at < len(layer.path):
            rest = (*layer.path[:at], *layer.path[at + 1 :])
            self.session.edit(self.session.layer_path("path"), rest, "Delete a key")
            self.key_chosen = False

    # Painting

    def paint(self, painter: QPainter) -> None:
        """Draw all handles, and the name of the one under the pointer."""
        handles = self.handles()
        pixels = self._pixels(handles)
        named = self.held or self.under
        centres = {h.label: at for h, at in zip(handles, pixels) if h.look in ("move", "key")}
        for handle, at in zip(handles, pixels):
            if at is None:
                continue
            lit = named is not None and handle.label == named.label
            if handle.look == "turn":
                self._paint_turn(painter, handle, at, lit)
            elif handle.look == "arm":
                self._paint_arm(painter, at, centres.get(handle.label[:-2]), lit)
            else:
                self._paint_point(painter, handle, at, lit)
            if lit:
                self._name(painter, handle, at)

    def _paint_arm(self, painter: QPainter, at: QPointF, centre: QPointF | None, lit: bool) -> None:
        painter.setPen(QPen(theme.color(theme.BRIGHT if lit else theme.DIM, 230), 1.2))
        if centre is not None:
            painter.drawLine(centre, at)
        painter.setBrush(theme.color(theme.BRIGHT if lit else theme.DIM))
        painter.drawEllipse(at, 3.0, 3.0)

    def _paint_turn(self, painter: QPainter, handle: Handle, at: QPointF, lit: bool) -> None:
        """Draw the knob of a turn handle, and the circle that it goes along while it is meant."""
        layer, props = self.session.layer, self.session.effect.stage.props
        if lit and (layer is not None or handle.prop >= 0):
            middle = np.array(
                props[handle.prop].position
                if handle.prop >= 0
                else layer.place.position
                if layer
                else (0.0, 0.0, 0.0)
            )
            event = self.session.event_pose(layer, 0.0) if layer is not None and handle.prop < 0 else None
            ring = ring_of(handle, middle if event is None else event.centre)
            places, before = project(self.session.camera, *self._size, ring)
            if before.all():
                painter.setPen(QPen(theme.color(theme.BRIGHT, 150), 1.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in places.tolist()]))
        painter.setPen(QPen(theme.color(theme.BRIGHT if lit else theme.DIM, 230), 1.3))
        painter.setBrush(theme.color(theme.ASH_0, 200))
        painter.drawEllipse(at, 4.0, 4.0)
        painter.drawLine(at + QPointF(-1.8, 0), at + QPointF(1.8, 0))

    def _paint_point(self, painter: QPainter, handle: Handle, at: QPointF, lit: bool) -> None:
        """Draw a handle that is a point: a place, a pull, a key, a size."""
        chosen = handle.look == "key" and handle.number == self.session.path_key
        shade = theme.SALT if handle.look == "key" else theme.EMBER
        painter.setPen(QPen(theme.color(theme.BRIGHT if lit else shade), 1.4))
        painter.setBrush(theme.color(shade if lit or chosen else theme.ASH_0, 230))
        if handle.look == "key":
            points = [QPointF(at.x() + dx, at.y() + dy) for dx, dy in ((0, -5), (5, 0), (0, 5), (-5, 0))]
            painter.drawPolygon(QPolygonF(points))
        elif handle.look in ("move", "pull"):
            wide = 4.5 if handle.look == "move" else 3.5
            painter.drawEllipse(at, wide, wide)
        else:
            painter.drawRect(QRectF(at.x() - 3.5, at.y() - 3.5, 7, 7))

    def _name(self, painter: QPainter, handle: Handle, at: QPointF) -> None:
        """Say what a handle sets, and to what."""
        value = get(self.session.effect, self._path(handle))
        numbers = value if isinstance(value, tuple) else (value,)
        unit = (
            "°"
            if handle.path.endswith(("arc", "angle", "rotation"))
            else "×"
            if handle.path.endswith("scale")
            else " m"
        )
        words = f"{handle.label}  {', '.join(shown(x, 2) for x in numbers)}{unit}".replace("-", "−")
        painter.setFont(theme.font(12))
        box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-6, -3, 6, 3)
        box.moveBottomLeft(at + QPointF(9, -7))
        box.moveRight(min(box.right(), self.stage.width() - 4.0))
        box.moveTop(max(box.top(), 4.0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.ASH_0, 220))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(theme.color(theme.BRIGHT))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

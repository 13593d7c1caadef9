"""The stage: the 3D view, drawn by the one drawing path, with what helps to judge it on top."""

from __future__ import annotations

import functools
import time
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ..drawing.camera import axes_of, framed, project
from ..drawing.headless import Studio
from ..drawing.moment import Moment, bounds, gathered
from ..drawing.wires import Lines, birthplace_wire, path_line
from ..effect.effect import Camera
from . import theme
from .grip import Grip
from .session import Picked, Session

ORBIT_DEGREES = 0.35
ZOOM_NOTCH = 0.88
PATIENCE = 1.2
# A picture that takes longer than this, ms, is drawn at half its size while something is dragged in the strip.
WORTH_HALVING = 6.0
# How near to a particle's middle a click must be, and how still, pixels.
PICK, STILL = 16.0, 4
# Particles within this share of life of the cursor are marked, so many at most.
NEAR_AGE, MOST_MARKS = 0.02, 160
Floats = NDArray[np.float64]


class Stage(QWidget):
    """Orbit with the left button, pan with the middle or right one, zoom with the wheel.

    It is drawn in a windowless context and shown as a picture: the same path as every picture that is written, and
    where OpenGL is done by the processor, far quicker than letting it put the whole window together.
    """

    drawn = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 200)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Stage")
        self._studio: Studio | None = None
        self._image: QImage | None = None
        self._image_of: tuple[Any, ...] = ()
        self._released = False
        self._pressed: tuple[QPointF, Any, bool] | None = None
        self.grip = Grip(session, self)
        self.setMouseTracking(True)
        self.show_grid = True
        self.show_wire = True
        self.frame_ms = self.full_ms = 0.0
        self._frames: list[float] = []
        self.overlay = Overlay(self)
        session.moment_changed.connect(self._moved)
        session.shown_changed.connect(self._refresh)
        session.selection_changed.connect(self._refresh)
        # A new effect's particles come with the next moment; only the lines are drawn at once.
        session.effect_changed.connect(self._touch_up)
        session.cursor_changed.connect(self._touch_up)
        session.haste_changed.connect(self._haste)
        session.clock_changed.connect(self._stand)

    def _moved(self) -> None:
        # What lies on top is painted with it.
        self.update()

    def _refresh(self) -> None:
        self.update()

    def _stand(self) -> None:
        if not self.session.playing:
            self.update()

    def _haste(self) -> None:
        if not self.session.hasty:
            self.update()

    def _touch_up(self) -> None:
        # A drag in the strip moves no line of the overlay.
        if not self.session.hasty:
            self.overlay.update()

    # Drawing

    @property
    def studio(self) -> Studio:
        """Return what the stage is drawn with; made when it is first wanted."""
        if self._studio is None:
            self._studio = Studio(blue_first=True)
        return self._studio

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        if self._released:
            painter.fillRect(self.rect(), theme.color(theme.ASH_0))
            painter.end()
            return
        self._draw()
        assert self._image is not None
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(self.rect()), self._image)
        painter.end()
        self.session.player.begin()
        self.drawn.emit()

    def _draw(self) -> None:
        """Draw the moment, unless it is what was drawn last: in full, or while a drag makes haste, at half the size."""
        session = self.session
        ratio = self.devicePixelRatioF()
        # Where the processor does all the drawing, what moves is drawn by the quicker way, and in full once it stands.
        moves = session.hasty or session.playing or self._pressed is not None
        # Before the first moment its kernels are not there yet.
        quick = moves and session.moment_number > 0 and (session.hasty or self.studio.is_software)
        if session.hasty and self.full_ms > WORTH_HALVING:
            ratio *= 0.5
        size = (max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio)))
        key = (session.moment.layers, frozenset(session.hidden), frozenset(session.alone), session.camera,
               session.effect.stage.backdrop, self.show_grid, size, quick)  # fmt: skip
        same = len(key) == len(self._image_of) and all(
            a is b if a is key[0] else a == b for a, b in zip(key, self._image_of, strict=True)
        )
        if same:
            return
        start = time.perf_counter()
        look = (session.camera, session.effect.stage.backdrop, self.show_grid)
        if quick:
            use = "quick" if session.hasty else "moving"
            self._image = _as_image(self.studio.quick_pixels(self.seen(), size, *look, use))
        else:
            self._image = self.picture_of(self.seen(), size, *look, "")
        self._image_of = key
        self.frame_ms = (time.perf_counter() - start) * 1e3
        if not quick:
            self.full_ms = self.frame_ms
        self._frames = [*self._frames[-29:], time.perf_counter()]

    def shows(self, moment: Moment) -> bool:
        """Return whether a moment is what was drawn last."""
        return bool(self._image_of) and self._image_of[0] is moment.layers

    def picture_of(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str = "night", grid: bool = False,
        use: str = "small",
    ) -> QImage:  # fmt: skip
        """Return a moment as a picture, by the stage's own studio."""
        return _as_image(self.studio.pixels(moment, size, camera, backdrop, grid, use))

    def sketch_of(self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str) -> QImage:
        """Return a moment as a small picture that takes next to no time."""
        return _as_image(self.studio.quick_pixels(moment, size, camera, backdrop, False, "sketch"))

    def picture(self) -> QImage:
        """Return what the stage shows, in full."""
        ratio = self.devicePixelRatioF()
        size = (max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio)))
        backdrop = self.session.effect.stage.backdrop
        return self.picture_of(self.seen(), size, self.session.camera, backdrop, self.show_grid, "")

    def film_of(
        self, rows: list[Any], scale: float, size: tuple[int, int], look: tuple[str, str], hasty: bool = False
    ) -> list[QImage]:
        """Return filmstrips, one for each array of instances, from the stage's own side; see :func:`draw_filmstrip`."""
        if self._released:
            return []
        camera = self.session.camera
        return [_as_image(self.studio.film_pixels(frames, camera, scale, size, look, hasty)) for frames in rows]

    # Particles under the mouse

    def particle_at(self, at: QPointF) -> Picked | None:
        """Return the particle whose middle is nearest to a place, within a few pixels; one of the selected layer first."""
        best: tuple[float, Picked] | None = None
        moment = self.seen()
        for layer in moment.layers:
            if layer.life is None or len(layer.instances) == 0:
                continue
            rows = gathered(layer, self.session.camera.target).instances
            places, before = project(self.session.camera, self.width(), self.height(), rows[:, :3])
            far = np.where(before, np.hypot(places[:, 0] - at.x(), places[:, 1] - at.y()), np.inf)
            i = int(np.argmin(far))
            mine = 1.0 if layer.id == self.session.selected else 3.0
            if far[i] <= PICK and (best is None or far[i] * mine < best[0]):
                age, lifetime = float(layer.life.age[i]), float(layer.life.lifetime[i])
                born = moment.time - age * lifetime
                best = (far[i] * mine, Picked(layer.id, int(layer.life.serial[i]), born, lifetime))
        return None if best is None else best[1]

    def marked(self) -> tuple[Floats, Floats]:
        """Return where particles of the selected layer are that are about as old as the cursor says, and the followed one.

        Returns
        -------
        (ndarray (n, 2), ndarray (0 or 1, 2))
            Pixels.
        """
        none = np.zeros((0, 2))
        session = self.session
        drawn = next((one for one in session.moment.layers if one.id == session.selected), None)
        if drawn is None or drawn.life is None or not session.is_shown(drawn.id):
            return none, none
        rows = gathered(drawn, session.camera.target).instances
        near = np.flatnonzero(np.abs(drawn.life.age - session.cursor) < NEAR_AGE)[:MOST_MARKS]
        if session.strip_axis != "life" or not session.cursor_shown or session.picked is not None or session.hasty:
            near = near[:0]
        picked = session.picked
        own = np.flatnonzero(drawn.life.serial == picked.serial) if picked is not None else near[:0]
        found = []
        for chosen in (near, own):
            places, before = project(session.camera, self.width(), self.height(), rows[chosen, :3])
            found.append(places[before])
        return found[0], found[1]

    def seen(self) -> Moment:
        """Return the session's moment with the layers that are shown."""
        moment = self.session.moment
        layers = tuple(layer for layer in moment.layers if self.session.is_shown(layer.id))
        return Moment(moment.time, layers, moment.counts)

    @property
    def frames_per_second(self) -> float:
        """Return how many frames were drawn lately, per second."""
        recent = [t for t in self._frames if time.perf_counter() - t < 1.0]
        return (len(recent) - 1) / (recent[-1] - recent[0]) if len(recent) > 2 else 0.0

    def release(self) -> None:
        """Give back what is on the GPU; called before the window goes."""
        self._released = True
        if self._studio is not None:
            self._studio.release()
        self._studio = None

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.overlay.setGeometry(self.rect())

    # The camera

    def frame(self) -> None:
        """Bring what is shown of the selected layer, or all, into view."""
        moment = self.seen()
        box = bounds(moment, {self.session.selected}) or bounds(moment)
        if box is None:
            low, high = np.array([-1.0, 0.0, -1.0]), np.array([1.0, 2.0, 1.0])
        else:
            low, high = (np.asarray(corner, dtype=np.float64) for corner in box)
        self.session.look_from(framed(self.session.camera, low, high))

    def turn(self, yaw: float, pitch: float) -> None:
        camera = self.session.camera
        new_yaw = (camera.yaw + yaw + 180.0) % 360.0 - 180.0
        new_pitch = min(max(camera.pitch + pitch, -89.0), 89.0)
        self.session.look_from(camera.model_copy(update={"yaw": new_yaw, "pitch": new_pitch}))

    def pan(self, right: float, up: float) -> None:
        """Move the view by pixels."""
        camera = self.session.camera
        across, above, _ = axes_of(camera)
        metres = 2 * camera.distance * np.tan(np.radians(camera.view) / 2) / max(self.height(), 1)
        target = np.array(camera.target) - across * right * metres + above * up * metres
        self.session.look_from(camera.model_copy(update={"target": tuple(float(t) for t in target)}))

    def zoom(self, factor: float) -> None:
        camera = self.session.camera
        distance = min(max(camera.distance * factor, 0.05), 5000.0)
        self.session.look_from(camera.model_copy(update={"distance": distance}))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton and self.grip.take(event.position()):
            return
        shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        orbits = event.button() == Qt.MouseButton.LeftButton and not shifted
        self._pressed = (event.position(), self.session.camera, orbits)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.grip.held is not None:
            self.grip.drag(event.position(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            return
        if self._pressed is None:
            self.grip.hover(event.position())
            return
        start, camera, orbits = self._pressed
        moved = event.position() - start
        self.session.camera = camera
        if orbits:
            self.turn(-moved.x() * ORBIT_DEGREES, moved.y() * ORBIT_DEGREES)
        else:
            self.pan(moved.x(), moved.y())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        pressed, self._pressed = self._pressed, None
        self.update()
        still = pressed is not None and (event.position() - pressed[0]).manhattanLength() < STILL
        if still and event.button() == Qt.MouseButton.LeftButton:
            # A click that turned nothing picks a particle, or lets go of the one that was followed.
            self.session.pick(self.particle_at(event.position()))
        self.grip.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self.grip.take(event.position()):
            self.frame()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self.grip.held is not None:
            self.grip.give_up()
        elif event.key() == Qt.Key.Key_Escape and self.session.picked is not None:
            self.session.pick(None)
        elif event.key() == Qt.Key.Key_Delete and self.grip.key_chosen:
            self.grip.delete_key()
        else:
            super().keyPressEvent(event)

    def leaveEvent(self, event: Any) -> None:
        self.grip.hover(QPointF(-99.0, -99.0))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom(ZOOM_NOTCH ** (event.angleDelta().y() / 120.0))


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


def _as_image(pixels: NDArray[np.uint8]) -> QImage:
    """Return pixels from the lower left, blue first, as an image that owns them."""
    height, width = pixels.shape[:2]
    image = QImage(pixels.tobytes(), width, height, width * 4, QImage.Format.Format_RGB32)
    return image.mirrored(False, True)


class Overlay(QWidget):
    """Lines and words over the stage; it takes no clicks."""

    def __init__(self, stage: Stage) -> None:
        super().__init__(stage)
        self.stage = stage
        self.since = time.monotonic()
        self._kept: QPixmap | None = None
        self._kept_of: tuple[Any, ...] = ()
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
        session, grip, ratio = self.stage.session, self.stage.grip, self.devicePixelRatioF()
        layer = session.layer
        assert layer is not None
        # The layer's own clock counts only where it moves.
        clock = session.clock_of_layer() if layer.path else 0.0
        key = (layer.place, layer.path, layer.birthplace, session.camera, self.size(), ratio, clock,
               grip.held, grip.under, grip.key_chosen, session.path_key)  # fmt: skip
        if self._kept is None or key != self._kept_of:
            self._kept, self._kept_of = QPixmap(self.size() * ratio), key
            self._kept.setDevicePixelRatio(ratio)
            self._kept.fill(Qt.GlobalColor.transparent)
            painter = QPainter(self._kept)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_wires(painter)
            painter.end()
        return self._kept

    def _paint_wires(self, painter: QPainter) -> None:
        layer = self.stage.session.layer
        assert layer is not None
        painter.setPen(QPen(theme.color(theme.EMBER, 150), 1.2))
        self._lines(painter, birthplace_wire(layer, self.stage.session.clock_of_layer()))
        if layer.path:
            painter.setPen(QPen(theme.color(theme.SALT, 190), 1.4))
            self._lines(painter, [path_line(layer)])
        self.stage.grip.paint(painter)

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

"""The stage: the 3D view, drawn by the one drawing path, with what helps to judge it on top."""

from __future__ import annotations

import time
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QBuffer, QIODevice, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPixmap, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ...drawing.camera import axes_of, framed, project
from ...drawing.filmstrip import MARGIN
from ...drawing.headless import Studio
from ...drawing.moment import Moment, bounds, gathered
from ...drawing.pace import DRAGGED, MOVING, Pace
from ...effect.chapters import Look
from ...effect.effect import Camera
from ...effect.errors import EffectError
from ...effect.kinds import Backdrop
from ..session.session import Picked, Session
from ..widgets import theme
from .handle_drag import HandleDrag
from .overlay import Overlay

ORBIT_DEGREES = 0.35
ZOOM_NOTCH = 0.88
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
        self.wrong = ""
        self._pressed: tuple[QPointF, Any, bool] | None = None
        self.handle_drag = HandleDrag(session, self)
        self.setMouseTracking(True)
        self.show_grid = True
        self.show_wire = True
        self._paces: dict[str, Pace] = {}
        self._frames: list[float] = []
        self.overlay = Overlay(self)
        # What lies on top is painted with it.
        for signal in (session.moment_changed, session.shown_changed, session.selection_changed):
            signal.connect(self.update)
        # A new effect's particles come with the next moment; only the lines are drawn at once.
        session.effect_changed.connect(self._touch_up)
        session.cursor_changed.connect(self._touch_up)
        session.haste_changed.connect(self._haste)
        session.clock_changed.connect(self._stand)

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
        """Return what the stage is drawn with; see :meth:`_can_draw`."""
        assert self._studio is not None
        return self._studio

    def _can_draw(self) -> bool:
        """Return whether there is anything to draw with; where there isn't, ``wrong`` says why."""
        if self._studio is None and not self.wrong and not self._released:
            try:
                self._studio = Studio(blue_first=True)
            except EffectError as problem:
                self.wrong = problem.reason[:1].upper() + problem.reason[1:]
        return self._studio is not None

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        if not self._can_draw():
            painter.fillRect(self.rect(), theme.color(theme.ASH_0))
            painter.setPen(theme.color(theme.WARN))
            box = QRectF(self.rect()).adjusted(40, 0, -40, 0)
            words = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(box, words, self.wrong)
            painter.end()
            self.session.player.begin()
            return
        self._draw()
        assert self._image is not None
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(self.rect()), self._image)
        painter.end()
        self.session.player.begin()
        self.drawn.emit()

    def _draw(self) -> None:
        """Draw the moment, unless it is what was drawn last: in full if it stands still, else as large as time allows."""
        session, pace = self.session, self._pace()
        size = self._size(1.0 if pace is None else pace.share)
        backdrop = session.effect.stage.backdrop
        key = (session.moment.layers, frozenset(session.hidden), frozenset(session.alone), session.camera, backdrop,
               self.show_grid, size)  # fmt: skip
        same = len(key) == len(self._image_of) and all(
            a is b if a is key[0] else a == b for a, b in zip(key, self._image_of, strict=True)
        )
        if same:
            return
        start = time.perf_counter()
        # Pictures that move have targets of their own, so that none is made anew when they stop.
        use = "" if pace is None else f"moving {pace.share}"
        self._image = as_image(self.studio.pixels(self.seen(), size, session.camera, backdrop, self.show_grid, use))
        self._image_of = key
        if pace is not None and session.moment_number > 0:
            pace.took((time.perf_counter() - start) * 1e3)
        self._frames = [*self._frames[-29:], time.perf_counter()]

    @property
    def share(self) -> float:
        """Return the share of its size at which the stage draws what moves."""
        pace = self._pace()
        return 1.0 if pace is None else pace.share

    def _pace(self) -> Pace | None:
        """Return what picks the size of a picture that moves; None if it stands still."""
        session = self.session
        if not (session.hasty or session.playing or self._pressed is not None):
            return None
        kind = "dragged" if session.hasty else "moving"
        if kind not in self._paces:
            self._paces[kind] = Pace(self.studio.is_software, DRAGGED if session.hasty else MOVING)
        return self._paces[kind]

    def _size(self, share: float = 1.0) -> tuple[int, int]:
        """Return how many pixels of the screen the stage has each way, or a share of them."""
        ratio = self.devicePixelRatioF() * share
        return max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio))

    def shows(self, moment: Moment) -> bool:
        """Return whether a moment is what was drawn last."""
        return bool(self._image_of) and self._image_of[0] is moment.layers

    def picture_of(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: Backdrop = Backdrop.NIGHT,
        grid: bool = False, use: str = "small",
    ) -> QImage:  # fmt: skip
        """Return a moment as a picture of its own, by the stage's own studio; a dark one where nothing can be drawn."""
        if not self._can_draw():
            return _blank(size)
        return as_image(self.studio.pixels(moment, size, camera, backdrop, grid, use)).copy()

    def small_picture_of(self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: Backdrop) -> QImage:
        """Return a moment as a thumbnail."""
        return self.picture_of(moment, size, camera, backdrop, use="thumbnail")

    def picture(self) -> QImage:
        """Return what the stage shows, in full."""
        backdrop = self.session.effect.stage.backdrop
        return self.picture_of(self.seen(), self._size(), self.session.camera, backdrop, self.show_grid, "")

    def film_of(
        self, rows: list[Any], scale: float, size: tuple[int, int], look: Look, hasty: bool = False
    ) -> list[QImage]:
        """Return filmstrips, one for each array of instances, from the stage's own side; see :func:`draw_filmstrip`.

        Hasty ones are drawn where neighbours' glow may reach, which is quicker.
        """
        if not self._can_draw():
            return []
        camera, backdrop = self.session.camera, self.session.effect.stage.backdrop
        hasty = hasty and self.studio.is_software
        margin, use = (0, "hasty film") if hasty else (MARGIN, "film")
        return [
            as_image(self.studio.film_pixels(frames, camera, scale, size, look, backdrop, margin, f"{use} {i}"))
            for i, frames in enumerate(rows)
        ]

    # Particles under the mouse

    def particle_at(self, at: QPointF) -> Picked | None:
        """Return the particle whose middle is nearest to a place, within a few pixels; one of the selected layer first."""
        best: tuple[float, Picked] | None = None
        moment = self.seen()
        for layer in moment.layers:
            if layer.life is None or len(layer.instances) == 0:
                continue
            rows = gathered(layer, self.session.camera.target).instances
            places, before = project(self.session.camera, self.width(), self.height(), rows["place"])
            far = np.where(before, np.hypot(places[:, 0] - at.x(), places[:, 1] - at.y()), np.inf)
            i = int(np.argmin(far))
            mine = 1.0 if layer.id == self.session.selected else 3.0
            if far[i] <= PICK and (best is None or far[i] * mine < best[0]):
                birth = layer.life.birth(i)
                born = (birth.step + 1) / self.session.effect.step_rate - birth.left
                best = (far[i] * mine, Picked(layer.id, birth, born, layer.life.lifetime(i)))
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
        own = np.flatnonzero(drawn.life.serial == picked.birth.serial) if picked is not None else near[:0]
        found = []
        for chosen in (near, own):
            places, before = project(session.camera, self.width(), self.height(), rows["place"][chosen])
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
        if event.button() == Qt.MouseButton.LeftButton and self.handle_drag.take(event.position()):
            return
        shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        orbits = event.button() == Qt.MouseButton.LeftButton and not shifted
        self._pressed = (event.position(), self.session.camera, orbits)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.handle_drag.held is not None:
            self.handle_drag.drag(event.position(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            return
        if self._pressed is None:
            self.handle_drag.hover(event.position())
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
        self.handle_drag.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self.handle_drag.take(event.position()):
            self.frame()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self.handle_drag.held is not None:
            self.handle_drag.give_up()
        elif event.key() == Qt.Key.Key_Escape and self.session.picked is not None:
            self.session.pick(None)
        elif event.key() == Qt.Key.Key_Delete and self.handle_drag.key_chosen:
            self.handle_drag.delete_key()
        else:
            super().keyPressEvent(event)

    def leaveEvent(self, event: Any) -> None:
        self.handle_drag.hover(QPointF(-99.0, -99.0))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom(ZOOM_NOTCH ** (event.angleDelta().y() / 120.0))


def _blank(size: tuple[int, int]) -> QImage:
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(theme.color(theme.ASH_0))
    return image


def png_of(image: QImage | QPixmap) -> bytes:
    """Return a picture as the bytes of a PNG."""
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(data, "PNG")
    return data.data().data()


def as_image(pixels: NDArray[np.uint8]) -> QImage:
    """Return pixels from the upper left, blue first, as an image in the same memory."""
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)  # type: ignore[call-overload]
    # The memory lives as long as the image.
    image.pixels = pixels
    return image

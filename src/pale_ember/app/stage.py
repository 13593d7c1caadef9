"""The stage: the 3D view, drawn by the one drawing path, with what helps to judge it on top."""

from __future__ import annotations

import time
from typing import Any

import moderngl
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QGuiApplication,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPen,
    QPolygonF,
    QSurfaceFormat,
    QWheelEvent,
)
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QWidget

from ..drawing.camera import axes_of, framed, project
from ..drawing.moment import Moment, bounds
from ..drawing.renderer import Renderer
from ..drawing.wires import Lines, birthplace_wire, path_line
from ..effect.effect import Camera
from . import theme
from .grip import Grip
from .session import Session

ORBIT_DEGREES = 0.35
ZOOM_NOTCH = 0.88
PATIENCE = 1.2


def surface_format() -> QSurfaceFormat:
    """Return the format that the stage needs: OpenGL 3.3 core, opaque."""
    found = QSurfaceFormat()
    found.setVersion(3, 3)
    found.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    found.setAlphaBufferSize(0)
    found.setSwapInterval(0)
    return found


class Stage(QOpenGLWidget):
    """Orbit with the left button, pan with the middle or right one, zoom with the wheel."""

    drawn = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFormat(surface_format())
        self.setMinimumSize(320, 200)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Stage")
        self._renderer: Renderer | None = None
        self._small: Renderer | None = None
        self._ctx: Any = None
        self._pressed: tuple[QPointF, Any, bool] | None = None
        self.grip = Grip(session, self)
        self.setMouseTracking(True)
        self.show_grid = True
        self.show_wire = True
        self.frame_ms = 0.0
        self._frames: list[float] = []
        self.overlay = Overlay(self)
        session.moment_changed.connect(self._moved)
        session.shown_changed.connect(self._refresh)
        session.selection_changed.connect(self._refresh)
        session.effect_changed.connect(self._refresh)

    def _moved(self) -> None:
        self.update()
        if self.session.layer is not None and self.session.layer.path:
            self.overlay.update()

    def _refresh(self) -> None:
        self.update()
        self.overlay.update()

    # Drawing

    def initializeGL(self) -> None:
        wayland = QGuiApplication.platformName().startswith("wayland")
        backend: Any = {"backend": "egl"} if wayland else {}
        self._ctx = moderngl.create_context(require=330, **backend)
        self._renderer = Renderer(self._ctx)
        context = self.context()
        assert context is not None
        context.aboutToBeDestroyed.connect(self.release)

    def paintGL(self) -> None:
        if self._renderer is None:
            return
        start = time.perf_counter()
        ratio = self.devicePixelRatioF()
        size = (max(1, round(self.width() * ratio)), max(1, round(self.height() * ratio)))
        target = self._ctx.detect_framebuffer(self.defaultFramebufferObject())
        self._renderer.draw(
            target, size, self.seen(), self.session.camera, self.session.effect.stage.backdrop, self.show_grid
        )
        self._ctx.finish()
        self.frame_ms = (time.perf_counter() - start) * 1e3
        self._frames = [*self._frames[-29:], time.perf_counter()]
        self.session.player.begin()
        self.drawn.emit()

    def picture_of(self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str = "night") -> QImage:
        """Return a moment as a small picture, by the stage's own renderer."""
        width, height = size
        if self._renderer is None:
            return QImage(width, height, QImage.Format.Format_RGB888)
        self.makeCurrent()
        target = self._ctx.simple_framebuffer(size, components=4)
        if self._small is None:
            # One of its own, so that the stage's targets keep their size.
            self._small = Renderer(self._ctx)
        self._small.draw(target, size, moment, camera, backdrop, grid=False)
        data = target.read(components=3, alignment=1)
        target.release()
        self.doneCurrent()
        return QImage(data, width, height, width * 3, QImage.Format.Format_RGB888).mirrored(False, True)

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
        if self._renderer is None:
            return
        self.makeCurrent()
        self._renderer.release()
        if self._small is not None:
            self._small.release()
        self._renderer = self._small = None
        self.doneCurrent()

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
        self._pressed = None
        self.grip.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self.grip.take(event.position()):
            self.frame()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self.grip.held is not None:
            self.grip.give_up()
        elif event.key() == Qt.Key.Key_Delete and self.grip.key_chosen:
            self.grip.delete_key()
        else:
            super().keyPressEvent(event)

    def leaveEvent(self, event: Any) -> None:
        self.grip.hover(QPointF(-99.0, -99.0))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom(ZOOM_NOTCH ** (event.angleDelta().y() / 120.0))


class Overlay(QWidget):
    """Lines and words over the stage; it takes no clicks."""

    def __init__(self, stage: Stage) -> None:
        super().__init__(stage)
        self.stage = stage
        self.since = time.monotonic()
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
            clock = session.clock_of_layer()
            painter.setPen(QPen(theme.color(theme.EMBER, 150), 1.2))
            self._lines(painter, birthplace_wire(layer, clock))
            if layer.path:
                painter.setPen(QPen(theme.color(theme.SALT, 190), 1.4))
                self._lines(painter, [path_line(layer)])
            self.stage.grip.paint(painter)
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

    def _lines(self, painter: QPainter, lines: Lines) -> None:
        camera = self.stage.session.camera
        for line in lines:
            points, before = project(camera, self.width(), self.height(), line)
            if before.all():
                painter.drawPolyline(QPolygonF([QPointF(float(x), float(y)) for x, y in points]))

    def _say(self, painter: QPainter, title: str, text: str) -> None:
        box = QRectF(0, self.height() / 2 - 40, self.width(), 30)
        painter.setPen(theme.color(theme.BRIGHT))
        painter.setFont(theme.font(17))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, title)
        painter.setPen(theme.color(theme.DIM))
        painter.setFont(theme.font(12))
        painter.drawText(box.translated(0, 30), Qt.AlignmentFlag.AlignCenter, text)

"""The stage: the 3D view, drawn by the one drawing path, with what helps to judge it on top."""

from __future__ import annotations

import time
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ...drawing.environment import Environment
from ...drawing.moment import Moment
from ...drawing.offscreen import OffscreenRenderer
from ...drawing.pace import DRAGGED, MOVING, Pace
from ...drawing.passes.overdraw import Overdraw
from ...effect.chapters.stage import Camera
from ...effect.errors import EffectError
from ...effect.kinds import Backdrop
from ..session.session import Session
from ..widgets import theme
from .camera_moves import CameraMoves
from .handle_drag import HandleDrag
from .images import as_image, blank_image
from .overlay import Overlay
from .particle_tracks import ParticleTracks
from .path_stroke import PathStroke
from .picking import particle_at

ORBIT_DEGREES = 0.35
ZOOM_NOTCH = 0.88
# How still a click must be, pixels.
STILL = 4
# The effect of one press of an arrow key, degrees and pixels.
TURN_KEY, PAN_KEY = 5.0, 24.0
ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class Stage(QWidget):
    """Orbit with the left button, pan with the middle or right one, zoom with the wheel.

    It is drawn in a windowless context and shown as a picture: the same path as every picture that is
    written, and where OpenGL is done by the processor, far quicker than letting it put the whole window
    together.
    """

    drawn = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 200)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Stage")
        self._studio: OffscreenRenderer | None = None
        self._image: QImage | None = None
        self._image_of: tuple[Any, ...] = ()
        # The still background at full size, its key, and the key of the last picture.
        self._still: QImage | None = None
        self._still_of: tuple[Any, ...] = ()
        self._looked: tuple[Any, ...] = ()
        self._lies = False
        self._released = False
        self.wrong = ""
        self._pressed: tuple[QPointF, Any, bool] | None = None
        self.moves = CameraMoves(session)
        self.handle_drag = HandleDrag(session, self)
        self.stroke = PathStroke(session, self)
        self.tracks = ParticleTracks(session)
        self.tracks.changed.connect(self.touch_up)
        self.setMouseTracking(True)
        self.show_grid = True
        self.show_wire = True
        self.show_overdraw = False
        # Draw calls, and bytes of textures.
        self.cost = (0, 0)
        self.overdraw: tuple[Overdraw, Overdraw] = Overdraw(0.0, 0), Overdraw(0.0, 0)
        self._paces: dict[str, Pace] = {}
        self._frames: list[float] = []
        self.overlay = Overlay(self, self, self.handle_drag, self.tracks)
        # The overlay is painted together with it.
        for signal in (
            session.moment_changed,
            session.shown_changed,
            session.selection_changed,
            session.textures_changed,
        ):
            signal.connect(self.update)
        # A new effect's particles come with the next moment; only the lines are drawn at once.
        session.effect_changed.connect(self.touch_up)
        session.cursor_changed.connect(self.touch_up)
        session.textures_changed.connect(self.touch_up)
        session.haste_changed.connect(self._haste)
        session.clock_changed.connect(self._stand)

    def _stand(self) -> None:
        if not self.session.playing:
            self.update()

    def _haste(self) -> None:
        if not self.session.hasty:
            self.update()

    def touch_up(self) -> None:
        """Draw the lines and words on top anew."""
        # A drag in the strip moves no line of the overlay.
        if not self.session.hasty:
            self.overlay.update()

    def toggle_grid(self) -> None:
        """Show the floor's grid of metres, or no longer."""
        self.show_grid = not self.show_grid
        self.update()

    def toggle_overdraw(self) -> None:
        """Show how many layers of particles lie over each pixel, or the picture again."""
        self.show_overdraw = not self.show_overdraw
        self.update()
        self.overlay.update()

    def toggle_wire(self) -> None:
        """Show the lines of the selected layer's birthplace, or no longer."""
        self.show_wire = not self.show_wire
        self.overlay.update()

    # Drawing

    @property
    def studio(self) -> OffscreenRenderer:
        """Return what the stage is drawn with; see :meth:`can_draw`."""
        assert self._studio is not None
        return self._studio

    def can_draw(self) -> bool:
        """Return whether there is anything to draw with; where there isn't, ``wrong`` says why."""
        if self._studio is None and not self.wrong and not self._released:
            try:
                self._studio = OffscreenRenderer(blue_first=True)
            except EffectError as problem:
                self.wrong = problem.sentence
        return self._studio is not None

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        if not self.can_draw():
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
        if self._lies and self._still is not None:
            painter.drawImage(QRectF(self.rect()), self._still)
        painter.drawImage(QRectF(self.rect()), self._image)
        painter.end()
        self.session.player.begin()
        self.drawn.emit()

    def _draw(self) -> None:
        """Draw the moment, unless it is what was drawn last: in full if it stands still, else as large as
        time allows.
        """
        session, pace = self.session, self._pace()
        size = self._size(1.0 if pace is None else pace.share)
        environment = session.environment(self.show_grid)
        key = (
            session.moment.layers,
            frozenset(session.alone),
            session.camera,
            environment,
            self.show_overdraw,
            size,
        )
        same = len(key) == len(self._image_of) and all(
            a is b if a is key[0] else a == b for a, b in zip(key, self._image_of, strict=True)
        )
        if same:
            return
        start = time.perf_counter()
        lies = False
        # Pictures that move have targets of their own, so that none is made anew when they stop.
        use = "" if pace is None else f"moving {pace.share}"
        if self.show_overdraw:
            pixels, *figures = self.studio.overdraw(
                self.seen(), size, session.camera, environment, session.selected
            )
            self.overdraw = figures[0], figures[1]
            self.cost = self.studio.draw_calls("overdraw"), self.studio.texture_memory
            self.overlay.update()
        else:
            draft = pace is not None and self.studio.is_software
            lies = draft and pace is not None and pace.share < 1.0 and self._keep_still(environment)
            pixels = self.studio.pixels(
                self.seen(), size, session.camera, environment, use=use, draft=draft, over=lies
            )
        self._lies = lies
        self._image = as_image(pixels, lies)
        self._image_of = key
        if pace is not None and session.moment_number > 0:
            pace.took((time.perf_counter() - start) * 1e3)
        self._frames = [*self._frames[-29:], time.perf_counter()]

    def _keep_still(self, environment: Environment) -> bool:
        """Return whether what stands behind the particles is there in full, so that they can lie over it
        smaller.

        It is drawn once two pictures in a row have the same; while the camera or a prop moves it isn't.
        """
        looks = (self.session.camera, environment, self._size())
        if looks == self._still_of:
            return True
        same, self._looked = looks == self._looked, looks
        if not same:
            return False
        self._still = as_image(
            self.studio.pixels(Moment(0.0, ()), looks[2], looks[0], environment, use="still").copy()
        )
        self._still_of = looks if self.studio.complete("still") else ()
        return True

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
        self,
        moment: Moment,
        size: tuple[int, int],
        camera: Camera,
        environment: Environment | Backdrop = Backdrop.NIGHT,
        use: str = "small",
    ) -> QImage:
        """Return a moment as a picture of its own, by the stage's own studio; a dark one where nothing
        can be drawn.
        """
        if not self.can_draw():
            return blank_image(size)
        return as_image(self.studio.pixels(moment, size, camera, environment, False, use)).copy()

    def small_picture_of(self, moment: Moment, size: tuple[int, int], camera: Camera) -> QImage:
        """Return a moment as a thumbnail."""
        return self.picture_of(moment, size, camera, self.session.environment(bare=True), use="thumbnail")

    def picture(self) -> QImage:
        """Return what the stage shows, in full."""
        environment = self.session.environment(self.show_grid)
        return self.picture_of(self.seen(), self._size(), self.session.camera, environment, "")

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
        self.moves.frame(self.seen())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton and (
            self.stroke.take(event.position(), event.timestamp() / 1e3)
            or self.handle_drag.take(event.position())
        ):
            return
        shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        orbits = event.button() == Qt.MouseButton.LeftButton and not shifted
        self._pressed = (event.position(), self.session.camera, orbits)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.stroke.draws:
            # A cursor that comes by without the button is nobody's hand.
            if event.buttons() & Qt.MouseButton.LeftButton:
                self.stroke.drag(event.position(), event.timestamp() / 1e3)
            return
        if self.stroke.waits:
            return
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
            self.moves.turn(-moved.x() * ORBIT_DEGREES, moved.y() * ORBIT_DEGREES)
        else:
            self.moves.pan(moved.x(), moved.y(), self.height())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        pressed, self._pressed = self._pressed, None
        self.stroke.release()
        self.update()
        still = pressed is not None and (event.position() - pressed[0]).manhattanLength() < STILL
        if still and event.button() == Qt.MouseButton.LeftButton:
            # A click that turned nothing picks a particle, or lets go of the one that was followed.
            size = (self.width(), self.height())
            self.session.pick(particle_at(self.session, self.seen(), size, event.position()))
        self.handle_drag.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self.handle_drag.take(event.position()):
            self.frame()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Orbit with the arrows, pan with Shift and them, zoom with Page Up and Page Down."""
        assert event is not None
        key, shift = Qt.Key(event.key()), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        allowed = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
        if key in ARROWS and not event.modifiers() & ~allowed:
            x, y = ARROWS[key]
            if shift:
                self.moves.pan(-x * PAN_KEY, -y * PAN_KEY, self.height())
            else:
                self.moves.turn(x * TURN_KEY, -y * TURN_KEY)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self.moves.zoom(ZOOM_NOTCH if key == Qt.Key.Key_PageUp else 1 / ZOOM_NOTCH)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.handle_drag.key_chosen:
            self.handle_drag.delete_key()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        # No frame after a click, which shows the place itself; none either when the window is activated
        # again.
        if event.reason() != Qt.FocusReason.ActiveWindowFocusReason:
            self.overlay.framed = event.reason() != Qt.FocusReason.MouseFocusReason
        self.overlay.update()

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        self.overlay.update()

    def leaveEvent(self, event: Any) -> None:
        self.handle_drag.hover(QPointF(-99.0, -99.0))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.moves.zoom(ZOOM_NOTCH ** (event.angleDelta().y() / 120.0))

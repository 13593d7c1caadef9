"""The bench's stage: the texture's picture over the backdrop, with brush, handles, and the wearing layers
in a corner.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF, QTabletEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from ...drawing.moment import Moment
from ...effect.kinds import Channel
from ...textures.showing import show_over
from ..stage.stage import ZOOM_NOTCH, Stage
from ..widgets import theme
from .bench import Bench
from .brush import Brush
from .corner import SIZE, Corner
from .picture_handles import PictureHandles
from .placing import ROOM, Placing, in_view, on_picture
from .step_pictures import as_rgb

GAP = 12
NUDGE = 24.0
EMPTY = (
    "Nothing is made yet. Add a step with Ctrl+L, or begin with a texture from the shelf with Ctrl+Shift+A."
)


class PictureView(QWidget):
    """Draws on it with a Strokes step in view; else drags handles. The wheel zooms, the right button pans."""

    def __init__(self, bench: Bench, brush: Brush, stage: Stage) -> None:
        super().__init__()
        self.bench, self.brush, self.stage, self.session = bench, brush, stage, bench.session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(320, 170)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        self.setAccessibleName("Picture")
        self.placing = Placing()
        self.handles = PictureHandles(bench)
        self.corner = Corner(bench, stage, self)
        self._ground: tuple[Any, NDArray[np.uint8]] | None = None
        self._shown: tuple[Any, QImage] | None = None
        self._pan: tuple[QPointF, QPointF] | None = None
        self._mouse: QPointF | None = None
        self._pen_down = False
        # Several signals of one edit make one picture.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.update)
        for signal in (
            bench.changed,
            bench.looked,
            brush.changed,
            self.session.effect_changed,
            self.session.shown_changed,
        ):
            signal.connect(self._wish)
        bench.opened.connect(self.reset)

    def _wish(self) -> None:
        if self.isVisible() and not self._soon.isActive():
            self._soon.start(0)

    @property
    def box(self) -> QRectF:
        """Return where the frame is."""
        return self.placing.box(self.bench, self.width(), self.height(), self.devicePixelRatioF())

    def reset(self) -> None:
        """See all of the picture."""
        self.placing.reset()
        self.update()

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.corner.move(self.width() - SIZE[0] - GAP, self.height() - SIZE[1] - GAP)
        here = self.width() > 2 * SIZE[0] and self.height() > SIZE[1] + 2 * GAP
        self.corner.setVisible(here)
        # Where there is little room a square picture that fits stands beside the corner, not under it.
        side, free = min(self.width(), self.height()) * ROOM, self.corner.x() - GAP
        under = here and (self.width() + side) / 2 > free
        self.placing.aside = min((self.width() - free) / 2, (self.width() - side) / 2 - GAP) if under else 0.0

    # The picture

    def _backdrop(self) -> NDArray[np.uint8]:
        """Return the background as (height, width, 3) bytes: red, green, blue."""
        ratio = self.devicePixelRatioF()
        size = (max(round(self.width() * ratio), 1), max(round(self.height() * ratio), 1))
        environment = self.session.environment(bare=True)
        key = (size, environment, self.session.camera)
        if self._ground is None or self._ground[0] != key:
            image = self.stage.picture_of(
                Moment(0.0, ()), size, self.session.camera, environment, use="bench"
            )
            image = image.convertToFormat(QImage.Format.Format_RGB888)
            bits = image.constBits()
            assert bits is not None
            rows = np.frombuffer(bits.asstring(image.sizeInBytes()), np.uint8).reshape(
                size[1], image.bytesPerLine()
            )
            self._ground = (key, rows[:, : size[0] * 3].reshape(size[1], size[0], 3).copy())
        return self._ground[1]

    def _picture(self) -> QImage:
        """Return the backdrop with the frame over it."""
        ground, bench, ready, box = self._backdrop(), self.bench, self.bench.ready, self.box
        ratio = self.devicePixelRatioF()
        key = (
            id(ground),
            id(ready),
            bench.frame,
            bench.channel,
            bench.tiled,
            self.session.textures.can_show,
            (box.x(), box.y(), box.width(), box.height()),
        )
        if self._shown is None or self._shown[0] != key:
            picture = ground.copy()
            if ready is not None and self.session.textures.can_show:
                place = (box.x() * ratio, box.y() * ratio, box.width() * ratio, box.height() * ratio)
                show_over(ready, bench.frame, picture, place, bench.channel, bench.tiled, ready.smooth)
            image = as_rgb(picture)
            image.setDevicePixelRatio(ratio)
            self._shown = (key, image)
        return self._shown[1]

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.drawImage(QPointF(0, 0), self._picture())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self.box
        for ink, style in (
            (theme.color(theme.ASH_0, 150), Qt.PenStyle.SolidLine),
            (theme.color(theme.BRIGHT, 120), Qt.PenStyle.DotLine),
        ):
            painter.setPen(QPen(ink, 1, style))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
        self.handles.paint(painter, box)
        self._paint_brush(painter, box)
        self._paint_words(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.color(theme.EMBER), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

    def _paint_brush(self, painter: QPainter, box: QRectF) -> None:
        """Draw the stroke that the texture doesn't have yet, and how large the brush is."""
        if not self.brush.ready:
            return
        radius = self.brush.size * box.width() / 2
        if self._mouse is not None:
            for ink, width in (
                (theme.color(theme.ASH_0, 180), 3.0),
                (theme.color(theme.SALT if self.brush.erase else theme.EMBER), 1.2),
            ):
                painter.setPen(QPen(ink, width))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(self._mouse, radius, radius)
        points = [in_view(box, x, y) for x, y, _ in self.brush.points[-12:]]
        if len(points) > 1:
            pen = QPen(theme.color(theme.EMBER, 60), 2 * radius)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF(points))

    def said(self) -> str:
        """Return what is worth telling of the picture."""
        bench, ready, state = self.bench, self.bench.ready, self.session.textures.state
        texture = bench.texture
        if texture is None:
            return ""
        words = []
        if ready is not None:
            wide, high = ready.size
            size = bench.build.size if bench.build is not None else wide
            words.append(
                f"{size if bench.build is not None else wide} × "
                f"{size if bench.build is not None else high} px"
            )
            if ready.frames > 1:
                words.append(
                    f"frame {bench.kept[min(bench.frame, len(bench.kept) - 1)]} of "
                    f"{texture.made if bench.build is not None else ready.frames}"
                )
            words.append(f"{bench.memory / 2**20:.2g} MB")
        if state.working == bench.name:
            words.append(
                f"{'coarse, ' if bench.name in state.coarse else ''}being made, "
                f"{100 * state.share:.0f} % (Esc stops)"
            )
        elif bench.name in state.coarse:
            words.append("coarse: its making was stopped; the next edit takes it up again")
        return "   ".join(words)

    def _paint_words(self, painter: QPainter) -> None:
        """Draw what is known of the pixel under the pointer, or what is waited for."""
        painter.setFont(theme.font(12))
        words = self.said()
        if words:
            back = QRectF(8, 8, painter.fontMetrics().horizontalAdvance(words) + 14, 20)
            painter.fillRect(back, theme.color(theme.ASH_0, 190))
            painter.setPen(theme.color(theme.TEXT))
            painter.drawText(back.adjusted(7, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
        problem = next(
            (
                wrong.reason
                for wrong in self.session.textures.state.problems
                if wrong.place.startswith(f"{self.bench.path()}.")
            ),
            "",
        )
        text = (
            problem[:1].upper() + problem[1:]
            if problem
            else EMPTY
            if self.bench.build is not None and not self.bench.steps
            else ""
        )
        if text:
            room = QRectF(self.rect()).adjusted(40, 40, -40, -40)
            box = QRectF(
                painter.boundingRect(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)
            ).adjusted(-10, -6, 10, 6)
            painter.fillRect(box, theme.color(theme.ASH_0, 210))
            painter.setPen(theme.color(theme.WARN if problem else theme.TEXT))
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)

    # Mouse and pen

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            self._pan = (at, QPointF(self.placing.moved))
        elif self.brush.ready:
            self._wake_channel()
            self.brush.begin(*on_picture(self.box, at))
        elif not self.handles.take(self.box, at):
            self._pan = (at, QPointF(self.placing.moved))

    def _wake_channel(self) -> None:
        """Show all of the picture if a channel is shown that can't have what is drawn."""
        if self.bench.channel not in (Channel.ALL, Channel.ALPHA):
            self.bench.look_at(channel=Channel.ALL)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self._mouse = at
        if self._pan is not None:
            start, moved = self._pan
            self.placing.moved = moved + at - start
        elif self.brush.drawing:
            self.brush.go_on(*on_picture(self.box, at))
        elif self.handles.held is not None:
            self.handles.drag(self.box, at)
        else:
            over = self.handles.at(self.box, at)
            blank = self.brush.ready
            self.setCursor(
                Qt.CursorShape.SizeAllCursor
                if over
                else Qt.CursorShape.CrossCursor
                if blank
                else Qt.CursorShape.ArrowCursor
            )
            if over is not None:
                self.setToolTip(over.label)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._pan = None
        self.brush.end()
        self.handles.release()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.brush.ready:
            self.mousePressEvent(event)
        else:
            self.placing.reset()
            self.update()

    def tabletEvent(self, event: QTabletEvent | None) -> None:
        """Draw with a pen: how hard it presses widens and fills the stroke."""
        assert event is not None
        kind, at = event.type(), event.position()
        if not self.brush.ready:
            event.ignore()
            return
        self._mouse = at
        place = on_picture(self.box, at)
        if kind == event.Type.TabletPress:
            self._pen_down = True
            self.brush.begin(*place, event.pressure())
        elif kind == event.Type.TabletMove and self._pen_down:
            self.brush.go_on(*place, event.pressure())
        elif kind == event.Type.TabletRelease:
            self._pen_down = False
            self.brush.end()
        event.accept()
        self.update()

    def leaveEvent(self, event: Any) -> None:
        self._mouse = None
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        notches = event.angleDelta().y() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and self.brush.ready:
            self.brush.set(size=self.brush.size * 1.15**notches)
        else:
            self.placing.zoom_at(ZOOM_NOTCH**-notches, event.position(), self.width(), self.height())
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Zoom with Page Up and Down, pan with the arrows, go from frame to frame with Ctrl and them."""
        assert event is not None
        arrows = {
            Qt.Key.Key_Left: (1, 0),
            Qt.Key.Key_Right: (-1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        key = Qt.Key(event.key())
        if key in arrows:
            x, y = arrows[key]
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier and x:
                self.bench.show_frame(self.bench.frame - x)
            else:
                self.placing.moved += QPointF(x * NUDGE, y * NUDGE)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            middle = QPointF(self.width() / 2, self.height() / 2)
            self.placing.zoom_at(
                1 / ZOOM_NOTCH if key == Qt.Key.Key_PageUp else ZOOM_NOTCH,
                middle,
                self.width(),
                self.height(),
            )
        else:
            super().keyPressEvent(event)
            return
        self.update()

"""The frames of the sheet over the strip's lanes: look at one, drop some, put them in another order."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QContextMenuEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QMenu, QWidget

from ...textures.showing import thumbnail
from ..strip.host import Host
from ..widgets import theme
from ..widgets.along_axis import HEAD, RIGHT, AlongAxis
from .bench import Bench
from .step_pictures import as_rgb

HIGH, SIDE = 56, 96


class FrameFilm(QWidget, AlongAxis):
    """Each frame that stays on the sheet, in its order; several may be held."""

    def __init__(self, strip: Host, bench: Bench) -> None:
        super().__init__()
        self.strip, self.bench, self.session = strip, bench, bench.session
        self.setFixedHeight(HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Frames of the sheet")
        self.setToolTip(
            "Click to look at a frame; drag it elsewhere; Del drops those that are held. Shift holds a "
            "run, Ctrl several."
        )
        self.held: set[int] = set()
        self._images: list[QImage] = []
        self._fresh: list[QImage] = []
        self._of: Any = None
        self._press: tuple[QPointF, int] | None = None
        self._drop = -1
        # Frames are drawn a few at a time, so that the window never waits.
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._draw_some)
        bench.changed.connect(self.refresh)
        bench.looked.connect(self.refresh)

    @property
    def plot(self) -> QRectF:
        return QRectF(HEAD, 2, max(self.width() - HEAD - RIGHT - self.strip.bar_room, 10), HIGH - 4)

    @property
    def count(self) -> int:
        return len(self.bench.kept)

    def refresh(self) -> None:
        """Draw the frames anew if they are others."""
        ready = self.bench.ready
        if not self.isVisible():
            return
        key = (ready, self.bench.channel)
        if self._of is None or self._of[0] is not ready or self._of[1] != self.bench.channel:
            self._of = key
            self._fresh = []
            if ready is not None:
                self._timer.start(0)
        self.held = {i for i in self.held if i < self.count}
        self.update()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _draw_some(self) -> None:
        """Draw a few frames more."""
        ready = self.bench.ready
        if ready is None or self._of is None or ready is not self._of[0]:
            self._timer.stop()
            return
        if not self.session.textures.can_show:
            return
        for _ in range(4):
            at = len(self._fresh)
            if at >= min(ready.frames, 256):
                self._timer.stop()
                self._images = self._fresh
                break
            self._fresh.append(as_rgb(thumbnail(ready, at, SIDE, channel=self.bench.channel)))
        self.update()

    # Where frames are

    def cell(self, index: int) -> QRectF:
        """Return where a frame is drawn."""
        plot, count = self.plot, max(self.count, 1)
        wide = plot.width() / count
        return QRectF(plot.left() + index * wide, plot.top(), wide, plot.height())

    def frame_at(self, x: float) -> int:
        """Return the frame at a place; -1 left of the first."""
        plot = self.plot
        if x < plot.left() or self.count == 0:
            return -1
        return min(int((x - plot.left()) / plot.width() * self.count), self.count - 1)

    # Edits

    def drop_held(self) -> None:
        """Leave the held frames out of the sheet; one stays."""
        held = self.held or {self.bench.frame}
        left = tuple(frame for i, frame in enumerate(self.bench.kept) if i not in held)
        if not left:
            self.session.said.emit("One frame must stay on the sheet.")
        elif self.bench.build is None:
            self.session.said.emit(
                "Only a build's frames can be dropped; turn the file into a build by adding a step."
            )
        else:
            self.bench.set_order(left, f"Drop {len(held)} frame{'' if len(held) == 1 else 's'}")
            self.held = set()

    def let_go(self) -> None:
        """Hold no frames, and drag none."""
        self.held, self._press, self._drop = set(), None, -1
        self.update()

    def keep_held(self) -> None:
        """Leave all frames but the held ones out."""
        held = self.held or {self.bench.frame}
        self.bench.set_order(
            tuple(frame for i, frame in enumerate(self.bench.kept) if i in held), "Keep frames"
        )
        self.held = set()

    def every(self, step: int) -> None:
        """Keep every so many of the frames."""
        self.bench.set_order(self.bench.kept[::step], f"Every {('second', 'third')[step - 2]} frame")
        self.held = set()

    def move_frames(self, index: int, to: int) -> None:
        """Let held frames, or one, stand before another."""
        moved = sorted(self.held) if index in self.held else [index]
        kept = self.bench.kept
        before = [kept[i] for i in range(to) if i not in moved]
        behind = [kept[i] for i in range(to, len(kept)) if i not in moved]
        self.bench.set_order((*before, *(kept[i] for i in moved), *behind), "Move frames")
        self.held = set(range(len(before), len(before) + len(moved)))

    # Mouse and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index, keys = self.frame_at(event.position().x()), event.modifiers()
        if index < 0 or event.button() != Qt.MouseButton.LeftButton:
            return
        if keys & Qt.KeyboardModifier.ShiftModifier and self.held:
            first = min(self.held)
            self.held = set(
                range(min(first, index), max(max(self.held) if index < first else first, index) + 1)
            )
        elif keys & Qt.KeyboardModifier.ControlModifier:
            self.held = self.held ^ {index}
        elif index not in self.held:
            self.held = {index}
        self._press = (event.position(), index)
        self.bench.show_frame(index)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._press is not None and abs(event.position().x() - self._press[0].x()) > 6:
            plot = self.plot
            self._drop = min(
                max(round((event.position().x() - plot.left()) / plot.width() * self.count), 0), self.count
            )
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        press, self._press = self._press, None
        drop, self._drop = self._drop, -1
        if press is not None and drop >= 0 and self.bench.build is not None:
            self.move_frames(press[1], drop)
        elif press is not None and drop < 0 and not event.modifiers():
            self.held = {press[1]}
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and not event.modifiers():
            self.drop_held()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            to = (self.bench.frame + (1 if key == Qt.Key.Key_Right else -1)) % max(self.count, 1)
            self.held = {to}
            self.bench.show_frame(to)
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        index = self.frame_at(event.pos().x())
        if index >= 0 and index not in self.held:
            self.held = {index}
            self.bench.show_frame(index)
        self.menu().popup(event.globalPos())

    def menu(self) -> QMenu:
        """Return what can be done to frames."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        kept = self.bench.kept
        texture = self.bench.texture
        made = texture.made if texture is not None else 1
        for words, do in (
            ("&Drop these frames", self.drop_held),
            ("&Keep only these", self.keep_held),
            ("Every &second frame", lambda: self.every(2)),
            ("Every &third frame", lambda: self.every(3)),
            ("&Reverse", lambda: self.bench.set_order(kept[::-1], "Reverse the frames")),
            (
                "There and &back",
                lambda: self.bench.set_order((*kept, *kept[-2:0:-1])[:256], "Frames there and back"),
            ),
            ("&All frames again", lambda: self.bench.set_order(tuple(range(made)), "All frames again")),
        ):
            action = menu.addAction(words)
            assert action is not None
            action.setEnabled(self.bench.build is not None)
            action.triggered.connect(lambda _=False, do=do: do())
        return menu

    # Painting

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        bench = self.bench
        kept, now = bench.kept, bench.frame
        painter.setFont(theme.font(11))
        painter.setPen(theme.color(theme.TEXT))
        texture = bench.texture
        made = (texture.made if bench.build is not None else len(kept)) if texture is not None else 1
        painter.drawText(
            QRectF(18, 6, HEAD - 20, 14),
            Qt.AlignmentFlag.AlignLeft,
            f"Frame {kept[now] if now < len(kept) else 0}",
        )
        painter.setPen(theme.color(theme.DIM))
        said = (
            f"{len(kept)} of {made} stay" if len(kept) != made else f"{made} frame{'' if made == 1 else 's'}"
        )
        painter.drawText(QRectF(18, 21, HEAD - 20, 14), Qt.AlignmentFlag.AlignLeft, said)
        for i in range(len(kept)):
            cell = self.cell(i)
            if i < len(self._images):
                side = min(cell.width(), cell.height())
                painter.save()
                painter.setClipRect(cell)
                # Where cells are narrow the middle of each is shown.
                side = max(side, min(cell.height(), cell.width() * 2.5))
                painter.drawImage(
                    QRectF(cell.center().x() - side / 2, cell.center().y() - side / 2, side, side),
                    self._images[i],
                )
                painter.restore()
            if cell.width() > 6:
                painter.setPen(QPen(theme.color(theme.ASH_1), 1))
                painter.drawLine(cell.topRight(), cell.bottomRight())
            if i in self.held:
                painter.fillRect(cell, theme.color(theme.EMBER, 46))
        if kept:
            painter.setPen(QPen(theme.color(theme.EMBER if self.hasFocus() else theme.BRIGHT), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.cell(now).adjusted(0.75, 0.75, -0.75, -0.75))
        if self._drop >= 0:
            x = self.plot.left() + self._drop * self.plot.width() / max(self.count, 1)
            painter.setPen(QPen(theme.color(theme.EMBER), 2))
            painter.drawLine(QPointF(x, 0), QPointF(x, HIGH))
        painter.end()

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        self.update()

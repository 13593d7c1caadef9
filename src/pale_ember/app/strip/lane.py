"""What the lanes of the life strip share: head, plot, cursor, the keys of the keyboard, the mouse."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from ...effect.errors import EffectError
from ...effect.rules.edit import get
from ...effect.rules.fields import Rule
from ...effect.rules.paths import FieldPath
from ...effect.values.colors import Stop
from ...effect.values.curves import Key
from ..session.session import Session
from ..widgets import theme
from ..widgets.along_axis import HEAD, RIGHT, SCALE, AlongAxis
from ..widgets.cached import CachedPixmap
from .host import Host
from .key_selection import CATCH, Held, KeySelection
from .lane_frame import FOLDED, paint_frame
from .mixed import Mixed
from .tracks import tracks_of

GRAB = 7
# Keys nearer than this to one another, pixels, are in the same place.
SAME = 0.5
LEAST = 40


class Lane(QWidget, AlongAxis):
    """One property's lane. Its lines are edited through the strip's key selection."""

    menu_wanted = pyqtSignal(QPoint)  # at a place of the screen

    def __init__(self, strip: Host, path: str, rule: Rule) -> None:
        super().__init__()
        self.strip, self.path, self.rule = strip, path, rule
        self.session: Session = strip.session
        self.selection: KeySelection = strip.selection
        self.folded = False
        self.painted: Any = None
        self._plot, self._plot_of = QRectF(), (0, 0, False)
        self._value: Any = None
        self._value_of: Any = None
        self._mixed = Mixed(strip.session)
        self._still = CachedPixmap()
        self._press: tuple[QPointF, str] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{rule.label} lane")
        self.setToolTip(rule.help)
        self.fold(False)

    # What it shows

    @property
    def value(self) -> Any:
        # Looked up once for each effect: painting asks for it often.
        effect = self.session.effect
        if self._value_of is not effect:
            try:
                self._value, self._value_of = get(effect, self.path), effect
            except EffectError:
                # Its layer is gone, and so will the lane be in a moment.
                pass
        return self._value

    @property
    def in_layer(self) -> bool:
        """Return whether it is a layer's, so that an edit goes to all selected layers."""
        return FieldPath(self.path).layer is not None

    @property
    def is_mixed(self) -> bool:
        """Return whether another selected layer has something else here; an edit gives all the same."""
        return self._mixed.at(self.path, self.value)

    @property
    def plot(self) -> QRectF:
        # Asked for once for each point that is drawn.
        key = (self.width(), self.height(), self.folded)
        if key != self._plot_of:
            room = 4 if self.folded else 6
            self._plot_of = key
            self._plot = QRectF(HEAD, room, max(key[0] - HEAD - RIGHT, 10), max(key[1] - 2 * room, 8))
        return self._plot

    @property
    def reach(self) -> float:
        """Return what the lane's whole height stands for."""
        return 1.0

    def fold(self, folded: bool) -> None:
        self.folded = folded
        if folded:
            self.setFixedHeight(FOLDED)
        else:
            self.setMinimumHeight(LEAST)
            self.setMaximumHeight(16_777_215)
        self.update()

    # To be filled in by each kind of lane

    def place_of(self, held: Held) -> QPointF:
        """Return where a key is drawn."""
        raise NotImplementedError

    def add_at(self, x: float, near: QPointF | None = None) -> bool:
        """Add a key on the line near a place, or on the one of the main key; return whether there was one."""
        raise NotImplementedError

    def reading(self) -> str:
        """Return the value under the cursor, in words."""
        raise NotImplementedError

    def press_more(self, at: QPointF) -> bool:
        """Take a press on something besides keys, such as a tangent; return whether it was taken."""
        return False

    def drag_more(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        """Go on with what :meth:`press_more` took."""

    def open_key(self, held: Held) -> None:
        """Open what a double click on a key opens."""

    # Keys under the mouse

    def all_keys(self) -> list[Held]:
        """Return all keys of the lane."""
        return [
            (track.path, track.side, i)
            for track in tracks_of(self.path, self.value)
            for i in range(len(track.points))
        ]

    def index_at(self, points: Sequence[Key | Stop], x: float, close: float = SAME) -> int:
        """Return the index of the first point within ``close`` pixels of a share of the axis; -1 for none."""
        return next((i for i, one in enumerate(points) if abs(one.x - x) * self.plot.width() <= close), -1)

    def key_at(self, at: QPointF) -> Held | None:
        best: tuple[float, Held] | None = None
        for held in self.all_keys():
            place = self.place_of(held)
            far = max(abs(place.x() - at.x()), abs(place.y() - at.y()))
            # Of two in one place, the one held already.
            far -= 0.5 if held in self.selection.held else 0.0
            if far <= GRAB and (best is None or far < best[0]):
                best = (far, held)
        return None if best is None else best[1]

    # The mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if at.x() < HEAD - 4:
            self._press = (at, "head")
            return
        if self.folded:
            self.strip.toggle_fold(self)
            return
        also = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        found = self.key_at(at)
        self.selection.begin()
        if found is None and self.press_more(at):
            self._press = (at, "more")
        elif found is not None:
            if also or found not in self.selection.held:
                self.selection.take(found, also)
            else:
                self.selection.main = found
            self._press = (at, "keys")
        elif (
            not also
            and self.plot.adjusted(-4, -4, 4, 4).contains(at)
            and self.add_at(self.share_of(at.x()), at)
        ):
            self.selection.begin_again()
            self._press = (at, "keys")
        else:
            self.strip.begin_box(self, at, also)
            self._press = (at, "box")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at, mods = event.position(), event.modifiers()
        if self._press is None:
            self._hover(at)
            return
        start, what = self._press
        moved = at - start
        if what == "box":
            self.strip.drag_box(self, at)
        elif what in ("more", "keys") and not self.selection.dragging:
            # Esc gave it up.
            return
        elif what == "more":
            self.drag_more(at, mods)
        elif what == "head":
            if abs(moved.y()) > 8:
                self.strip.drag_lane(self, at)
        elif mods & Qt.KeyboardModifier.ControlModifier:
            self.selection.heighten(2.0 ** (-moved.y() / 60.0))
        else:
            right, up = moved.x() / self.plot.width(), -moved.y() / self.plot.height()
            if mods & Qt.KeyboardModifier.ShiftModifier:
                right, up = (right, 0.0) if abs(moved.x()) > abs(moved.y()) else (0.0, up)
            catch = (
                0.0 if mods & Qt.KeyboardModifier.AltModifier or right == 0.0 else CATCH / self.plot.width()
            )
            # A key that is only lifted keeps its age.
            if abs(moved.x()) <= 3 and self.selection.guide is None:
                right, catch = 0.0, 0.0
            self.selection.drag(right, up, catch)
            self.session.point_at(self.share_of(at.x()))

    def _hover(self, at: QPointF) -> None:
        over_key = not self.folded and self.key_at(at) is not None
        shape = Qt.CursorShape.SizeAllCursor if over_key else Qt.CursorShape.ArrowCursor
        self.setCursor(Qt.CursorShape.OpenHandCursor if at.x() < HEAD - 4 else shape)
        if at.x() >= HEAD - 4:
            self.session.point_at(self.share_of(at.x()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        press, self._press = self._press, None
        if press is None:
            return
        start, what = press
        still = (event.position() - start).manhattanLength() < 4
        if what == "box":
            self.strip.end_box()
        elif what == "head" and still and start.x() < 18:
            self.strip.toggle_fold(self)
        self.selection.end()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() < HEAD - 4:
            self.strip.toggle_alone(self)
            return
        found = self.key_at(event.position())
        if found is not None:
            self.selection.take(found)
            self.open_key(found)

    def leaveEvent(self, event: QEvent | None) -> None:
        self.session.point_at(None)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        at = QPointF(event.pos())
        found = (
            self.key_at(at) if event.reason() == QContextMenuEvent.Reason.Mouse and not self.folded else None
        )
        if found is not None and found not in self.selection.held:
            self.selection.take(found)
        self.menu_wanted.emit(event.globalPos())

    # The keyboard

    def event(self, event: QEvent | None) -> bool:
        """Show the lane's help, and keep the keys that are the lane's own."""
        # The lane's own keys come before the window's shortcuts.
        if (
            event is not None
            and event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
        ):
            own = (Qt.Key.Key_Home, Qt.Key.Key_End)
            if event.key() in own or (event.key() == Qt.Key.Key_A and _control(event)):
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        pace = 0.1 if shift else 0.01
        moves = {
            Qt.Key.Key_Left: (-pace, 0.0),
            Qt.Key.Key_Right: (pace, 0.0),
            Qt.Key.Key_Up: (0.0, pace),
            Qt.Key.Key_Down: (0.0, -pace),
        }
        keys = self.all_keys()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.selection.held:
            self.selection.delete()
        elif key in moves and self.selection.held:
            self.selection.nudge(*moves[Qt.Key(key)])
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown) and keys:
            by = 1 if key == Qt.Key.Key_PageDown else -1
            at = (
                keys.index(self.selection.main) + by if self.selection.main in keys else (0 if by > 0 else -1)
            )
            self.selection.take(keys[at % len(keys)], shift)
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End) and keys:
            self.selection.take(keys[0 if key == Qt.Key.Key_Home else -1], shift)
        elif key == Qt.Key.Key_A and _control(event):
            self.selection.take_all(keys, also=shift)
        elif key == Qt.Key.Key_Insert:
            self.selection.begin()
            self.add_at(self.session.cursor)
            self.selection.end()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        self.strip.in_focus(self)
        self.update()

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        self.session.document.end_merge()
        self.update()

    # Painting

    def paintEvent(self, event: Any) -> None:
        """Draw what stays from one look to the next once, and over it what follows the cursor."""
        key = (self.value, self.folded, self.hasFocus(), *self.still_key())
        still = self._still.picture(self.size(), self.devicePixelRatioF(), key, self._paint_still)
        painter = QPainter(self)
        painter.drawPixmap(0, 0, still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_moving(painter)
        self.paint_cursor(painter)
        painter.end()

    def _paint_still(self, painter: QPainter) -> None:
        paint_frame(painter, self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_lines(painter)

    def still_key(self) -> tuple[Any, ...]:
        """Return what else the lane's picture depends on."""
        mine = frozenset(held for held in self.selection.held if held[0].startswith(self.path))
        return (mine, len(self.session.chosen))

    def paint_lines(self, painter: QPainter) -> None:
        """Draw the lane's lines and keys."""
        raise NotImplementedError

    def paint_moving(self, painter: QPainter) -> None:
        """Draw what changes while nothing is edited."""
        if self.folded:
            return
        painter.setFont(theme.font(11))
        painter.setPen(theme.color(theme.EMBER if self.session.cursor_shown else theme.DIM))
        reading = f"mixed · {self.reading()}" if self.is_mixed else self.reading()
        said = painter.fontMetrics().elidedText(reading, Qt.TextElideMode.ElideRight, HEAD - SCALE - 20)
        painter.drawText(QRectF(18, 20, HEAD - SCALE - 18, 15), Qt.AlignmentFlag.AlignVCenter, said)

    def paint_cursor(self, painter: QPainter) -> None:
        """Draw the age cursor, and the line that a dragged key was caught by, over the lane's whole
        height.
        """
        places = [(self.session.cursor, theme.color(theme.EMBER, 200 if self.session.cursor_shown else 70))]
        if self.selection.guide is not None:
            places.append((self.selection.guide, theme.color(theme.SALT, 190)))
        for share, ink in places:
            painter.setPen(QPen(ink, 1.0))
            x = self.x_of(share)
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))


def _control(event: QKeyEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)

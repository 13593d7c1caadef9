"""The lanes of the timeline: what mouse and keys do to layers, windows and bursts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QApplication, QSizePolicy, QToolTip, QWidget

from ...effect.kinds import When
from ..session.session import Session
from ..stage.thumbnails import Thumbnails
from ..widgets import theme
from ..widgets.controls import Line
from .geometry import SWITCHES, Geometry, Pressed
from .lane_words import spot_words
from .row_paint import RowPaint
from .rows import LANE, Row
from .thread_menus import port_menu, thread_menu
from .threads import LinkDrag
from .time_drag import TimeDrag
from .time_view import HEAD, TimeView


class LayerRows(QWidget):
    """The lanes: heads with picture, name and switches, bodies with window, rate, level and bursts."""

    menu_wanted = pyqtSignal(QPoint)  # at a place of the screen, for the selected layers

    def __init__(self, session: Session, view: TimeView, thumbnails: Thumbnails) -> None:
        super().__init__()
        self.session, self.view = session, view
        self.places = Geometry(session, view)
        self.paint_of = RowPaint(self.places, thumbnails, self.devicePixelRatioF)
        self.drag: TimeDrag | None = None
        self.link: LinkDrag | None = None
        self._scrubbing = False
        self._moving: tuple[str, int] | None = None
        self._pressed: Pressed | None = None
        self.editor: Line | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        self.setAccessibleName("Layers")
        thumbnails.drawn.connect(self._picture_drawn)
        for signal in (session.selection_changed, session.levels_changed, view.changed):
            signal.connect(self.update)
        session.moment_changed.connect(self._moment)
        session.clock_changed.connect(self._clock)
        session.effect_changed.connect(self._again)
        session.shown_changed.connect(self._again)

    def _again(self) -> None:
        if self.session.hasty:
            # Nothing that is dragged in the life strip shows here, but births along the clock, which can
            # wait.
            return
        self.updateGeometry()
        self.update()

    def _moment(self) -> None:
        if not self.session.hasty:
            self.update()

    def _clock(self) -> None:
        if self.session.playing:
            # The moment that was asked for brings the next picture.
            self.view.keep_in_view(min(self.session.phase, self.view.duration))
        else:
            self.update()

    def _picture_drawn(self, layer_id: str) -> None:
        at = self.session.effect.index(layer_id)
        if at >= 0 and not self.session.playing:
            row = self.places.row_of(at)
            self.update(0, row.top, HEAD, row.height)

    def sizeHint(self) -> QSize:
        return QSize(HEAD + 100, self.places.height)

    minimumSizeHint = sizeHint

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.places.width = self.width()

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(event.rect(), theme.color(theme.ASH_1))
        painter.setClipRect(event.rect())
        seen: list[Row] = []
        for row in self.places.rows:
            if row.top <= event.rect().bottom() and row.top + row.height >= event.rect().top():
                self.paint_of.row(painter, row)
                seen.append(row)
        if not self.session.effect.layers:
            painter.setPen(theme.color(theme.DIM))
            painter.drawText(
                QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, "No layers yet. Ctrl+L adds one."
            )
        if self._moving is not None:
            rows = self.places.rows
            y = next(
                (row.top for row in rows if row.first >= self._moving[1]), rows[-1].top + rows[-1].height
            )
            painter.setPen(QPen(theme.color(theme.EMBER), 2))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        if self.drag is not None and self.drag.snapped is not None:
            x = self.places.x_of(self.drag.snapped)
            painter.setPen(QPen(theme.color(theme.SALT), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        x = self.places.x_of(min(self.session.phase, self.view.duration))
        if x >= HEAD - 1:
            painter.setPen(QPen(theme.color(theme.EMBER), 1.2))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        # Words stand over the playhead, not under it.
        for row in seen:
            self.paint_of.counts(painter, row)
        if self.link is not None and self.link.moved:
            # Its words must be readable while it is dragged; the counts need not be.
            self.link.paint(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.color(theme.EMBER, 120)))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

    # Mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot, session = self.places.spot_at(event.position()), self.session
        if spot.row is None:
            return
        row, layer = spot.row, session.effect.layers[spot.row.first]
        if spot.part in SWITCHES:
            self._pressed = (
                Pressed(layer.id, event.position(), spot.part)
                if event.button() == Qt.MouseButton.LeftButton
                else None
            )
        elif row.is_group:
            self._press_group(row, event)
        elif spot.part in ("port", "thread") and event.button() == Qt.MouseButton.LeftButton:
            child = layer.id if spot.part == "thread" else ""
            assert spot.when is not None
            self.link = LinkDrag(
                self.places, layer.origin.parent if child else layer.id, spot.when, event.position(), child
            )
            session.begin_drag(self._given_up)
        else:
            self._choose(layer.id, event)
            if event.button() != Qt.MouseButton.LeftButton:
                return
            self._pressed = Pressed(layer.id, event.position(), spot.part)
            if spot.part == "body":
                self._scrubbing = True
                self._seek(event.position().x())
            elif spot.part == "head":
                # Esc gives it up however far it has come.
                session.begin_drag(self._given_up)
            else:
                self.drag = TimeDrag(
                    self.places, layer, spot.part, spot.burst, spot.turn, event.position().x()
                )
                session.begin_drag(self._given_up)

    def _given_up(self) -> None:
        """Forget what is dragged: Esc took it back."""
        self.drag, self.link, self._moving, self._pressed = None, None, None, None
        self.update()

    def _seek(self, x: float) -> None:
        effect = self.session.effect
        self.session.seek(min(self.places.time_of(x), effect.duration - 0.5 / effect.step_rate))

    def _switch(self, pressed: Pressed, at: QPointF) -> None:
        """Do what a switch says, if it is let go where it was pressed."""
        session, spot = self.session, self.places.spot_at(at)
        if (
            spot.row is None
            or spot.part != pressed.part
            or session.effect.layers[spot.row.first].id != pressed.layer_id
        ):
            return
        ids = spot.row.ids or (pressed.layer_id,)
        if spot.part == "alone":
            session.toggle_alone(*ids)
        elif spot.part == "eye":
            session.layers.toggle_enabled(*ids)
        else:
            session.links.mend_link(pressed.layer_id)

    def _press_group(self, row: Row, event: QMouseEvent) -> None:
        """A group's triangle folds it; its name selects all that is in it."""
        if event.position().x() < 24:
            self.session.layers.toggle_folded(row.group)
            return
        self.session.select(row.ids[0])
        self.session.select(row.ids[-1], "upto")

    def _choose(self, layer_id: str, event: QMouseEvent) -> None:
        keys = event.modifiers()
        if keys & Qt.KeyboardModifier.ShiftModifier:
            self.session.select(layer_id, "upto")
        elif keys & Qt.KeyboardModifier.ControlModifier:
            self.session.select(layer_id, "also")
        elif layer_id not in self.session.chosen:
            self.session.select(layer_id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self.link is not None:
            self.link.move(at)
            self.update()
        elif self.drag is not None:
            self.drag.move(at.x(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            self.update()
        elif self._scrubbing:
            self._seek(at.x())
        elif self._pressed is not None and self._pressed.part == "head":
            if abs(at.y() - self._pressed.at.y()) > LANE / 2 or self._moving is not None:
                self._moving = (self._pressed.layer_id, self.places.gap_at(at.y()))
                self.update()
        else:
            self._hover(at)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.link is not None:
            self._drop_link(event)
            return
        drag, pressed = self.drag, self._pressed
        self.drag, self._scrubbing, self._pressed = None, False, None
        self.session.end_drag()
        if pressed is not None and pressed.part in SWITCHES:
            self._switch(pressed, event.position())
        elif self._moving is not None:
            layer_id, to = self._moving
            self._moving = None
            self.session.layers.move(layer_id, to)
        elif pressed is not None and not event.modifiers() and not (drag is not None and drag.moved):
            if (event.position() - pressed.at).manhattanLength() < QApplication.startDragDistance():
                # A click without a drag on one of several selects it alone, wherever in its lane.
                self.session.select(pressed.layer_id)
            if drag is not None and drag.part == "bar":
                self._seek(event.position().x())
        self.update()

    def _hover(self, at: QPointF) -> None:
        """Give the pointer the shape of what it is over, and light ports and threads."""
        spot = self.places.spot_at(at)
        points = spot.part in ("port", "thread", "mend")
        sideways = spot.part in ("begin", "end", "pip")
        self.setCursor(
            Qt.CursorShape.PointingHandCursor
            if points
            else Qt.CursorShape.SizeHorCursor
            if sideways
            else Qt.CursorShape.ArrowCursor
        )
        lit: tuple[str, When | None] = ("", None)
        if spot.row is not None and spot.part in ("port", "thread"):
            lit = (self.session.effect.layers[spot.row.first].id, spot.when if spot.part == "port" else None)
        if lit != self.paint_of.threads.lit:
            self.paint_of.threads.lit = lit
            self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        super().leaveEvent(event)
        self.paint_of.threads.lit = ("", None)
        self.update()

    def _drop_link(self, event: QMouseEvent) -> None:
        """Let go of a thread; a mere click on a port, or on a thread, opens its menu."""
        link, self.link = self.link, None
        self.session.end_drag()
        self.update()
        if link is None:
            return
        if link.moved:
            link.drop(bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
            return
        menu = (
            thread_menu(self.session, link.child, self)
            if link.child
            else port_menu(self.session, link.source, link.when, self)
        )
        menu.popup(event.globalPosition().toPoint())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot = self.places.spot_at(event.position())
        if spot.row is None:
            return
        if spot.part in SWITCHES:
            self.mousePressEvent(event)
        elif spot.part == "head":
            if spot.row.is_group:
                self._rename_group(spot.row)
            else:
                self.rename(spot.row.first)

    def rename(self, index: int) -> None:
        """Let a layer's name be typed in its head."""
        if 0 <= index < len(self.session.effect.layers):
            layer = self.session.effect.layers[index]

            def give(name: str) -> None:
                # By its id: it may stand elsewhere by now, or be gone.
                if self.session.effect.index(layer.id) >= 0:
                    self.session.edit(self.session.layer_path("name", layer.id), name, f"Rename to {name}")

            self._type(layer.name, self.places.name_box(index), give)

    def _rename_group(self, row: Row) -> None:
        def give(name: str) -> None:
            here = [layer_id for layer_id in row.ids if self.session.effect.index(layer_id) >= 0]
            edits = [(self.session.layer_path("group", layer_id), name) for layer_id in here]
            self.session.edit_many(edits, f"Rename to {name}")

        self._type(row.group, QRectF(24, row.top + 1, HEAD - 74, row.height - 2), give)

    def _type(self, text: str, box: QRectF, give: Callable[[str], None]) -> None:
        """Open an editor over a name; Esc leaves the name as it is."""
        if self.editor is not None:
            self.editor.clearFocus()
        editor = Line(text)
        editor.setParent(self)
        editor.setAccessibleName("Name")
        editor.setGeometry(box.toRect().adjusted(-6, 0, 40, 0))
        editor.selectAll()

        def done() -> None:
            if self.editor is not editor:
                return
            self.editor = None
            name = editor.text().strip()
            editor.hide()
            editor.deleteLater()
            if name and name != text:
                give(name)
            self.setFocus()

        editor.editingFinished.connect(done)
        self.editor = editor
        editor.show()
        editor.setFocus()

    # Keys and words

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        session = self.session
        by = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        if by and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            session.stretch_selection(by)
        elif by:
            session.select_next(by)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and not event.modifiers():
            session.layers.remove()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        spot = self.places.spot_at(QPointF(event.pos()))
        if spot.part == "thread" and spot.row is not None:
            thread_menu(self.session, self.session.effect.layers[spot.row.first].id, self).popup(
                event.globalPos()
            )
            return
        if event.reason() != QContextMenuEvent.Reason.Mouse or spot.row is not None:
            self.menu_wanted.emit(event.globalPos())

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            spot = self.places.spot_at(QPointF(event.pos()))
            said = spot_words(spot, self.session, self.view.duration)
            if said and spot.row is not None:
                QToolTip.showText(event.globalPos(), said, self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

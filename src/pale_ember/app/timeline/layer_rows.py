"""The lanes of the timeline: what mouse and keys do to layers, windows and bursts."""

from __future__ import annotations

from typing import Any, NamedTuple

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QContextMenuEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QLineEdit, QMenu, QSizePolicy, QToolTip, QWidget

from ...effect.effect import Effect, Layer
from ..session.schedules import Schedules
from ..session.session import Session
from ..stage.thumbnails import SIZE, Thumbnails
from ..widgets import theme
from .row_paint import PIP, RowPaint
from .rows import LANE, Row, burst_moments, rows_of
from .time_drag import Drag
from .time_view import HEAD, TimeView

EDGE = 6


class Spot(NamedTuple):
    """What is at a place: a row and a part of it; of a burst its number and turn."""

    row: Row | None
    part: str = ""
    burst: int = -1
    turn: int = 0


class LayerRows(QWidget):
    """The lanes: heads with picture, name and switches, bodies with window, rate, level and bursts."""

    def __init__(self, session: Session, view: TimeView, thumbnails: Thumbnails) -> None:
        super().__init__()
        self.session, self.view, self.thumbnails = session, view, thumbnails
        self.schedules = Schedules()
        self.paint_of = RowPaint(self)
        self.drag: Drag | None = None
        self._scrubbing = False
        self._moving: tuple[str, int] | None = None
        self._pressed_head: tuple[str, float] | None = None
        self.editor: QLineEdit | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        self.setAccessibleName("Layers")
        self._rows: tuple[Any, list[Row]] = (None, [])
        for signal in (session.selection_changed, session.levels_changed, view.changed):
            signal.connect(self.update)
        session.moment_changed.connect(self._moment)
        session.clock_changed.connect(self._clock)
        session.effect_changed.connect(self._again)
        session.shown_changed.connect(self._again)

    def _again(self) -> None:
        if self.session.hasty:
            # Nothing that is dragged in the life strip shows here, but births along the clock, which can wait.
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

    def sizeHint(self) -> QSize:
        rows = self.rows
        return QSize(HEAD + 120, (rows[-1].top + rows[-1].height if rows else LANE) + 4)

    minimumSizeHint = sizeHint

    # Places

    @property
    def rows(self) -> list[Row]:
        key = (self.session.effect.layers, frozenset(self.session.folded))
        if self._rows[0] is None or self._rows[0][0] is not key[0] or self._rows[0][1] != key[1]:
            self._rows = (key, rows_of(self.session.effect, self.session.folded))
        return self._rows[1]

    def row_of(self, index: int) -> Row:
        """Return the row of a layer; where its group is folded, the group's."""
        last = None
        for row in self.rows:
            if row.first == index and not row.is_group:
                return row
            if row.is_group and row.first <= index:
                last = row
        assert last is not None
        return last

    def x_of(self, time: float) -> float:
        return self.view.x_of(time, self.width())

    def time_of(self, x: float) -> float:
        return self.view.time_of(x, self.width())

    def switch_box(self, index: int, which: str) -> QRectF:
        """Return the place of a layer's switch: ``alone`` or ``eye``."""
        return self.switch_of(self.row_of(index), which)

    def switch_of(self, row: Row, which: str) -> QRectF:
        left = HEAD - (44 if which == "alone" else 24)
        return QRectF(left, row.top + (row.height - 16) / 2, 16, 16)

    def picture_box(self, row: Row) -> QRectF:
        return QRectF(15 if row.inside else 7, row.top + (row.height - SIZE[1]) / 2, *SIZE)

    def name_box(self, index: int) -> QRectF:
        row = self.row_of(index)
        left = self.picture_box(row).right() + 7
        return QRectF(left, row.top + 4, HEAD - left - 50, row.height - 8)

    def window_ends(self, layer: Layer) -> tuple[float, float]:
        begin, length = layer.window.span(self.view.duration)
        return begin, begin + length

    def bar_box(self, index: int) -> QRectF:
        """Return the place of a layer's window bar."""
        return self.bar_of(self.row_of(index), self.session.effect.layers[index])

    def bar_of(self, row: Row, layer: Layer) -> QRectF:
        left, right = (self.x_of(end) for end in self.window_ends(layer))
        return QRectF(left, row.top + 4, max(right - left, 3), row.height - 8)

    def pip_at(self, index: int, burst: int, turn: int = 0) -> QPointF:
        """Return the place of a burst's pip."""
        layer = self.session.effect.layers[index]
        one = layer.emit.bursts[burst]
        time = layer.window.begin + one.at + turn * one.every
        return QPointF(self.x_of(time), self.bar_box(index).center().y())

    def spot_at(self, at: QPointF) -> Spot:
        """Return what is at a place."""
        row = next((row for row in self.rows if row.top <= at.y() < row.top + row.height), None)
        if row is None:
            return Spot(None)
        for which in ("alone", "eye"):
            if self.switch_of(row, which).adjusted(-3, -6, 3, 6).contains(at):
                return Spot(row, which)
        if at.x() < HEAD - PIP:
            return Spot(row, "head")
        if row.is_group:
            return Spot(row, "body")
        layer = self.session.effect.layers[row.first]
        near = [
            (abs(at.x() - self.x_of(moment)), burst, turn)
            for burst, turn, moment, _ in burst_moments(layer, self.view.duration)
        ]
        if near and min(near)[0] <= PIP + 1 and abs(at.y() - row.top - row.height / 2) <= 8:
            return Spot(row, "pip", *min(near)[1:])
        bar = self.bar_of(row, layer)
        if abs(at.x() - bar.left()) <= EDGE:
            return Spot(row, "begin")
        if abs(at.x() - bar.right()) <= EDGE:
            return Spot(row, "end")
        return Spot(row, "bar" if bar.contains(at) else "body")

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(event.rect(), theme.color(theme.ASH_1))
        painter.setClipRect(event.rect())
        for row in self.rows:
            if row.top <= event.rect().bottom() and row.top + row.height >= event.rect().top():
                self.paint_of.row(painter, row)
        if not self.session.effect.layers:
            painter.setPen(theme.color(theme.DIM))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, "No layers yet. Ctrl+L adds one.")
        if self._moving is not None:
            rows = self.rows
            y = next((row.top for row in rows if row.first >= self._moving[1]), rows[-1].top + rows[-1].height)
            painter.setPen(QPen(theme.color(theme.EMBER), 2))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        if self.drag is not None and self.drag.snapped is not None:
            x = self.x_of(self.drag.snapped)
            painter.setPen(QPen(theme.color(theme.SALT), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        x = self.x_of(min(self.session.phase, self.view.duration))
        if x >= HEAD - 1:
            painter.setPen(QPen(theme.color(theme.EMBER), 1.2))
            painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        if self.hasFocus():
            painter.setPen(QPen(theme.color(theme.EMBER, 120)))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

    # Mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot, session = self.spot_at(event.position()), self.session
        if spot.row is None:
            return
        row, layer = spot.row, session.effect.layers[spot.row.first]
        ids = row.ids or (layer.id,)
        if spot.part == "alone":
            session.toggle_alone(*ids)
        elif spot.part == "eye":
            session.toggle_hidden(*ids)
        elif row.is_group:
            self._press_group(row, event)
        else:
            self._choose(layer.id, event)
            if event.button() != Qt.MouseButton.LeftButton:
                return
            if spot.part == "head":
                self._pressed_head = (layer.id, event.position().y())
            elif spot.part == "body":
                self._scrubbing = True
            else:
                self.drag = Drag(self, layer, spot.part, spot.burst, spot.turn, event.position().x())

    def _press_group(self, row: Row, event: QMouseEvent) -> None:
        """A group's triangle folds it; its name selects all that is in it."""
        if event.position().x() < 24:
            self.session.toggle_folded(row.group)
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
        if self.drag is not None:
            self.drag.move(at.x(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
            self.update()
        elif self._scrubbing:
            effect = self.session.effect
            self.session.seek(min(self.time_of(at.x()), effect.duration - 0.5 / effect.step_rate))
        elif self._pressed_head is not None:
            layer_id, start = self._pressed_head
            if abs(at.y() - start) > LANE / 2 or self._moving is not None:
                self._moving = (layer_id, self._gap_at(at.y()))
                self.update()
        else:
            sideways = self.spot_at(at).part in ("begin", "end", "pip")
            self.setCursor(Qt.CursorShape.SizeHorCursor if sideways else Qt.CursorShape.ArrowCursor)

    def _gap_at(self, y: float) -> int:
        """Return before which layer something dropped at a height would go."""
        for row in self.rows:
            if not row.is_group and y < row.top + row.height / 2:
                return row.first
        return len(self.session.effect.layers)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        dragged = self.drag is not None and self.drag.moved
        head, self._pressed_head = self._pressed_head, None
        self.drag, self._scrubbing = None, False
        self.session.document.end_merge()
        if self._moving is not None:
            layer_id, to = self._moving
            self._moving = None
            self.session.move(layer_id, to - (to > self.session.effect.index(layer_id)))
        elif not dragged and head is not None and not event.modifiers():
            # A click without a drag on one of several selects it alone.
            self.session.select(head[0])
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        spot = self.spot_at(event.position())
        if spot.row is None:
            return
        if spot.part == "head":
            if spot.row.is_group:
                self._rename_group(spot.row)
            else:
                self.rename(spot.row.first)
        elif spot.part == "body":
            self.session.seek(self.time_of(event.position().x()))

    def rename(self, index: int) -> None:
        """Let a layer's name be typed in its head."""
        if 0 <= index < len(self.session.effect.layers):
            layer = self.session.effect.layers[index]
            path = self.session.layer_path("name", layer.id)
            self._type(
                layer.name, self.name_box(index), lambda name: self.session.edit(path, name, f"Rename to {name}")
            )

    def _rename_group(self, row: Row) -> None:
        def give(name: str) -> None:
            edits = [(self.session.layer_path("group", layer_id), name) for layer_id in row.ids]
            self.session.edit_many(edits, f"Rename to {name}")

        self._type(row.group, QRectF(24, row.top + 1, HEAD - 74, row.height - 2), give)

    def _type(self, text: str, box: QRectF, give: Any) -> None:
        """Open an editor over a name."""
        editor = QLineEdit(text, self)
        editor.setAccessibleName("Name")
        editor.setGeometry(box.toRect().adjusted(-6, 0, 40, 0))
        editor.selectAll()

        def done() -> None:
            if self.editor is None:
                return
            self.editor = None
            name = editor.text().strip()
            if name and name != text:
                give(name)
            editor.deleteLater()
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
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        commands = getattr(self.window(), "commands", None)
        if self.spot_at(QPointF(event.pos())).row is None or commands is None:
            return
        menu = QMenu(self)
        for name in ("rename", "duplicate", "delete", "group", "ungroup", "up", "down", "hide", "alone"):
            menu.addAction(commands[name])
        menu.exec(event.globalPos())

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            spot = self.spot_at(QPointF(event.pos()))
            said = {
                "alone": "Show this layer alone (S)",
                "eye": "Hide or show this layer (H)",
                "head": "Drag to reorder, double-click to rename; Shift or Ctrl selects several",
                "begin": "Drag to change when it begins",
                "end": "Drag to change when it ends",
                "bar": "Drag to move its window, with those of all selected layers; Alt for no snapping",
                "pip": self._burst_words(spot, self.session.effect),
            }.get(spot.part, "")
            if said and spot.row is not None:
                QToolTip.showText(event.globalPos(), said, self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

    def _burst_words(self, spot: Spot, effect: Effect) -> str:
        if spot.row is None or spot.burst < 0:
            return ""
        moments = burst_moments(effect.layers[spot.row.first], self.view.duration)
        fires = next((fires for b, turn, _, fires in moments if (b, turn) == (spot.burst, spot.turn)), True)
        if not fires:
            return "This burst comes when the window is over, so it never fires: drag it back, or the window's end on"
        return "Drag to move the burst" if spot.turn == 0 else "Drag to change the pause between its turns"

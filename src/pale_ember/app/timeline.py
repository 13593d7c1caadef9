"""The timeline: layers as lanes, with windows, rates, bursts and the number alive over the effect's duration."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QContextMenuEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QLineEdit, QMenu, QScrollArea, QSizePolicy, QToolTip, QVBoxLayout, QWidget

from ..effect.effect import Layer
from . import theme
from .curve_paint import paint_gradient
from .icons import paint
from .schedules import Schedules
from .session import Session

HEAD = 176
LANE = 32
RULER = 24
EDGE = 6


class Timeline(QWidget):
    """The ruler over a scrolling column of lanes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName("Timeline")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.ruler = Ruler(session)
        self.lanes = Lanes(session)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.lanes)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        column.addWidget(self.ruler)
        column.addWidget(scroll, 1)
        self.setMinimumSize(HEAD + 120, RULER + 2 * LANE)


class _Timed(QWidget):
    """What shares the time axis."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMouseTracking(True)
        session.clock_changed.connect(self.update)
        session.effect_changed.connect(self.update)

    @property
    def body(self) -> QRectF:
        return QRectF(HEAD, 0, max(self.width() - HEAD - 12, 10), self.height())

    def x_of(self, time: float) -> float:
        return self.body.left() + time / self.session.effect.duration * self.body.width()

    def time_of(self, x: float) -> float:
        share = (x - self.body.left()) / self.body.width()
        return min(max(share, 0.0), 1.0) * self.session.effect.duration

    def paint_playhead(self, painter: QPainter) -> None:
        x = self.x_of(min(self.session.phase, self.session.effect.duration))
        painter.setPen(QPen(theme.color(theme.EMBER), 1.2))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    def seek_to(self, x: float) -> None:
        effect = self.session.effect
        # A hair before the end: the end itself is the next loop's start.
        self.session.seek(min(self.time_of(x), effect.duration - 0.5 / effect.step_rate))


class Ruler(_Timed):
    """Seconds, and the playhead to scrub; the buttons for layers stand at its left."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.setFixedHeight(RULER)
        self.setToolTip("Click or drag to scrub")
        self._scrubbing = False

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        duration = self.session.effect.duration
        room = self.body.width() / duration
        step = next((s for s in (0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60, 300, 900) if s * room >= 44), 900.0)
        painter.setFont(theme.font(11))
        for i in range(int(duration / step + 1e-9) + 1):
            x = self.x_of(i * step)
            painter.setPen(QPen(theme.color(theme.ASH_4)))
            painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER))
            painter.setPen(theme.color(theme.DIM))
            if x + 30 < self.width():
                painter.drawText(QPointF(x + 3, RULER - 8), f"{i * step:g} s")
        x = self.x_of(min(self.session.phase, duration))
        painter.setBrush(theme.color(theme.EMBER))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, RULER - 9), QPointF(x + 5, RULER - 9), QPointF(x, RULER)]))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() >= HEAD - 4:
            self._scrubbing = True
            self.session.play(False)
            self.seek_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._scrubbing:
            self.seek_to(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._scrubbing = False


class Lanes(_Timed):
    """The lanes: heads with name and switches, bodies with window, rate, bursts and level."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.schedules = Schedules()
        self._drag: tuple[str, str, float, Any] | None = None
        self._moving: tuple[str, int] | None = None
        self.editor: QLineEdit | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        self.setAccessibleName("Layers")
        session.selection_changed.connect(self.update)
        session.shown_changed.connect(self.update)
        session.moment_changed.connect(self.update)
        session.effect_changed.connect(self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(HEAD + 120, LANE * max(len(self.session.effect.layers), 1) + 4)

    minimumSizeHint = sizeHint

    # Places

    def lane_box(self, index: int) -> QRectF:
        return QRectF(0, index * LANE, self.width(), LANE)

    def switch_box(self, index: int, which: str) -> QRectF:
        """Return the place of a head's switch: ``alone`` or ``eye``."""
        left = HEAD - (44 if which == "alone" else 24)
        return QRectF(left, index * LANE + (LANE - 16) / 2, 16, 16)

    def name_box(self, index: int) -> QRectF:
        return QRectF(34, index * LANE + 4, HEAD - 34 - 50, LANE - 8)

    def bar_box(self, index: int) -> QRectF:
        """Return the place of a layer's window bar."""
        begin, length = self.window_of(self.session.effect.layers[index])
        left, right = self.x_of(begin), self.x_of(begin + length)
        return QRectF(left, index * LANE + 4, max(right - left, 3), LANE - 8)

    def window_of(self, layer: Layer) -> tuple[float, float]:
        duration = self.session.effect.duration
        begin = min(layer.window.begin, duration)
        rest = duration - begin
        return begin, rest if layer.window.length is None else min(layer.window.length, rest)

    def index_at(self, y: float) -> int:
        index = int(y // LANE)
        return index if 0 <= index < len(self.session.effect.layers) else -1

    # Painting

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        for i, layer in enumerate(self.session.effect.layers):
            self._paint_lane(painter, i, layer)
        if not self.session.effect.layers:
            painter.setPen(theme.color(theme.DIM))
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, "No layers yet. Ctrl+L adds one.")
        if self._moving is not None:
            y = self._moving[1] * LANE
            painter.setPen(QPen(theme.color(theme.EMBER), 2))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        self.paint_playhead(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.color(theme.EMBER, 120)))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        painter.end()

    def _paint_lane(self, painter: QPainter, index: int, layer: Layer) -> None:
        session = self.session
        box = self.lane_box(index)
        selected = layer.id == session.selected
        if selected:
            painter.fillRect(box, theme.color(theme.ASH_2))
            painter.fillRect(QRectF(0, box.top(), 2, LANE), theme.color(theme.EMBER))
        shown = session.is_shown(layer.id) and layer.enabled
        painter.setPen(QPen(theme.color(theme.ASH_0)))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        chip = QRectF(9, box.top() + 8, 18, LANE - 16)
        painter.setOpacity(1.0 if shown else 0.35)
        paint_gradient(painter, chip, layer.look.color)
        painter.setFont(theme.font(12))
        painter.setPen(theme.color(theme.BRIGHT if selected else theme.TEXT))
        name = painter.fontMetrics().elidedText(
            layer.name, Qt.TextElideMode.ElideRight, int(self.name_box(index).width())
        )
        painter.drawText(self.name_box(index), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setOpacity(1.0)
        alone = layer.id in session.alone
        paint(painter, "alone", self.switch_box(index, "alone"), theme.color(theme.EMBER if alone else theme.DIM))
        eye = "hidden" if layer.id in session.hidden or not layer.enabled else "eye"
        paint(painter, eye, self.switch_box(index, "eye"), theme.color(theme.DIM if eye == "hidden" else theme.TEXT))
        painter.setOpacity(1.0 if shown else 0.4)
        self._paint_body(painter, index, layer, selected)
        painter.setOpacity(1.0)

    def _paint_body(self, painter: QPainter, index: int, layer: Layer, selected: bool) -> None:
        bar = self.bar_box(index)
        painter.setPen(QPen(theme.color(theme.EMBER if selected else theme.ASH_4, 170 if selected else 255)))
        painter.setBrush(theme.color(theme.ASH_3, 150))
        painter.drawRoundedRect(bar, 3, 3)
        rates = self.schedules.rates(self.session.effect, layer, max(int(bar.width()) // 3, 2))
        if rates is not None:
            shares = np.linspace(bar.left(), bar.right(), len(rates))
            heights = bar.bottom() - 1 - rates * (bar.height() - 5)
            line = [QPointF(x, y) for x, y in zip(shares.tolist(), heights.tolist(), strict=True)]
            ground = [QPointF(bar.right(), bar.bottom()), QPointF(bar.left(), bar.bottom())]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color(theme.EMBER, 70 if selected else 45))
            painter.drawPolygon(QPolygonF(line + ground))
        for burst in layer.emit.bursts:
            for turn in range(min(burst.repeat, 200)):
                x = self.x_of(layer.window.begin + burst.at + turn * burst.every)
                if x > bar.right() + 0.5:
                    break
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.color(theme.EMBER, 255 if turn == 0 else 140))
                y = bar.center().y()
                pip = [QPointF(x, y - 5), QPointF(x + 4, y), QPointF(x, y + 5), QPointF(x - 4, y)]
                painter.drawPolygon(QPolygonF(pip))
        counts = self.session.moment.counts.get(layer.id)
        if counts:
            painter.setFont(theme.font(11))
            refused = counts["refused"]
            painter.setPen(theme.color(theme.WARN if refused else theme.DIM))
            text = f"{counts['alive']:,} alive" + (f", {refused:,} refused" if refused else "")
            painter.drawText(
                bar.adjusted(6, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text
            )

    # Mouse

    def _part_at(self, at: QPointF) -> tuple[int, str]:
        """Return the lane and what of it is at a place."""
        index = self.index_at(at.y())
        if index < 0:
            return -1, ""
        for which in ("alone", "eye"):
            if self.switch_box(index, which).adjusted(-3, -6, 3, 6).contains(at):
                return index, which
        if at.x() < HEAD:
            return index, "head"
        bar = self.bar_box(index)
        if abs(at.x() - bar.left()) <= EDGE:
            return index, "begin"
        if abs(at.x() - bar.right()) <= EDGE:
            return index, "end"
        return (index, "bar") if bar.contains(at) else (index, "body")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index, part = self._part_at(event.position())
        if index < 0:
            return
        layer = self.session.effect.layers[index]
        if part == "alone":
            self.session.toggle_alone(layer.id)
        elif part == "eye":
            self.session.toggle_hidden(layer.id)
        else:
            self.session.select(layer.id)
            if event.button() == Qt.MouseButton.LeftButton:
                self._drag = (part, layer.id, event.position().x(), layer.window)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._drag is None:
            part = self._part_at(at)[1]
            edge = part in ("begin", "end")
            self.setCursor(Qt.CursorShape.SizeHorCursor if edge else Qt.CursorShape.ArrowCursor)
            return
        part, layer_id, start, window = self._drag
        if part == "head":
            to = min(max(int((at.y() + LANE / 2) // LANE), 0), len(self.session.effect.layers))
            self._moving = (
                (layer_id, to) if abs(at.y() - (self.session.effect.index(layer_id) + 0.5) * LANE) > LANE / 2 else None
            )
            self.update()
        elif part in ("begin", "end", "bar"):
            if abs(at.x() - start) >= 3 or self.session.document.history[-1].merge:
                self._drag_window(part, layer_id, self.time_of(at.x()) - self.time_of(start), window, event)
        elif part == "body":
            self.seek_to(at.x())

    def _drag_window(self, part: str, layer_id: str, by: float, window: Any, event: QMouseEvent) -> None:
        duration = self.session.effect.duration
        snap = 0.001 if event.modifiers() & Qt.KeyboardModifier.AltModifier else 0.05
        length = window.length if window.length is not None else duration - window.begin

        def snapped(time: float) -> float:
            return round(round(time / snap) * snap, 4)

        end = window.begin + length
        if part == "bar":
            begin = min(max(snapped(window.begin + by), 0.0), max(duration - snap, 0.0))
            fields = {"begin": begin, "length": window.length}
        elif part == "begin":
            begin = min(max(snapped(window.begin + by), 0.0), end - snap)
            fields = {"begin": begin, "length": round(end - begin, 4) if window.length is not None else None}
        else:
            length = max(snapped(end + by) - window.begin, snap)
            full = window.begin + length >= duration - 1e-9
            fields = {"begin": window.begin, "length": None if full else round(length, 4)}
        path = self.session.layer_path("window", layer_id)
        self.session.edit(
            path, fields, "Move window" if part == "bar" else "Change window", f"window {layer_id} {part}"
        )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None
        self.session.document.end_merge()
        if self._moving is not None:
            layer_id, to = self._moving
            self._moving = None
            self.session.move(layer_id, to - (to > self.session.effect.index(layer_id)))
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index, part = self._part_at(event.position())
        if part == "head":
            self.rename(index)
        elif part == "body":
            self.seek_to(event.position().x())

    def rename(self, index: int) -> None:
        """Let a layer's name be typed in its head."""
        if not 0 <= index < len(self.session.effect.layers):
            return
        layer = self.session.effect.layers[index]
        editor = QLineEdit(layer.name, self)
        editor.setAccessibleName("Layer name")
        editor.setGeometry(self.name_box(index).toRect().adjusted(-6, 0, 40, 0))
        editor.selectAll()

        def done() -> None:
            if self.editor is None:
                return
            self.editor = None
            name = editor.text().strip()
            if name:
                self.session.edit(self.session.layer_path("name", layer.id), name, f"Rename to {name}")
            editor.deleteLater()
            self.setFocus()

        editor.editingFinished.connect(done)
        self.editor = editor
        editor.show()
        editor.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.session.select_next(-1 if event.key() == Qt.Key.Key_Up else 1)
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        window = self.window()
        commands = getattr(window, "commands", None)
        if self.index_at(event.pos().y()) < 0 or commands is None:
            return
        menu = QMenu(self)
        for name in ("rename", "duplicate", "delete", "up", "down", "hide", "alone"):
            menu.addAction(commands[name])
        menu.exec(event.globalPos())

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            index, part = self._part_at(QPointF(event.pos()))
            said = {
                "alone": "Show this layer alone (S)",
                "eye": "Hide or show this layer (H)",
                "head": "Drag to reorder, double-click to rename",
                "begin": "Drag to change when it begins",
                "end": "Drag to change when it ends",
                "bar": "Drag to move its window; Alt for fine steps",
            }.get(part, "")
            if said and index >= 0:
                QToolTip.showText(event.globalPos(), said, self)
            else:
                QToolTip.hideText()
            return True
        return super().event(event)

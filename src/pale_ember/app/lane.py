"""A lane of the life strip: one Value or colour against age, with keys to drag."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QMenu, QWidget

from ..effect.colors import ColorValue, Gradient, GradientBand, Stop
from ..effect.curves import EASES, Key, evaluate, with_key_at
from ..effect.edit import get
from ..effect.fields import Rule
from ..effect.forms import color_at, to_color_form, to_form
from ..effect.values import Band, Curve, Value
from . import theme
from .arithmetic import shown
from .curve_paint import color_sides, line_of, paint_gradient, paint_lines, paint_stops, sides_of, value_range
from .fields import pick_color
from .session import Session

HEAD = 100
RIGHT = 10
GRAB = 7
_strokes = itertools.count(1)


class Lane(QWidget):
    """What lanes share: the axis, the head, the selected key.

    ``picked`` says that another key was selected in this lane.
    """

    picked = pyqtSignal(object)
    removed = pyqtSignal(str)

    def __init__(self, session: Session, path: str, rule: Rule) -> None:
        super().__init__()
        self.session, self.path, self.rule = session, path, rule
        self.side, self.key = 0, -1
        self._stroke = ""
        self._held_range: tuple[float, float] | None = None
        self.setMinimumHeight(44)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{rule.label} lane")
        self.setToolTip(
            f"{rule.help}\nClick on the line to add a key, drag keys, Delete removes one, right-click for eases."
        )

    @property
    def value(self) -> Any:
        return get(self.session.effect, self.path)

    @property
    def plot(self) -> QRectF:
        return QRectF(HEAD, 6, max(self.width() - HEAD - RIGHT, 10), max(self.height() - 12, 10))

    def x_of(self, x: float) -> float:
        return self.plot.left() + x * self.plot.width()

    def share_of(self, x: float) -> float:
        return min(max((x - self.plot.left()) / self.plot.width(), 0.0), 1.0)

    def give(self, value: Any, name: str) -> None:
        """Send an edit; what belongs to one stroke of the mouse is one step."""
        self.session.edit(
            self.path, value, f"{name} of {self.rule.label.lower()}", self._stroke and f"{self.path} {self._stroke}"
        )

    def begin_stroke(self) -> None:
        self._stroke = f"stroke {next(_strokes)}"

    def end_stroke(self) -> None:
        self._stroke = ""
        self._held_range = None
        self.session.document.end_merge()
        self.update()

    def select_key(self, side: int, key: int) -> None:
        self.side, self.key = side, key
        self.picked.emit(self)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.end_stroke()

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        self.picked.emit(self)

    def paint_head(self, painter: QPainter, low: str, high: str) -> None:
        painter.setFont(theme.font(12))
        painter.setPen(theme.color(theme.BRIGHT if self.hasFocus() else theme.TEXT))
        painter.drawText(QRectF(10, 4, HEAD - 14, 16), Qt.AlignmentFlag.AlignLeft, self.rule.label)
        painter.setFont(theme.font(10))
        painter.setPen(theme.color(theme.DIM))
        if self.height() >= 56:
            along = getattr(self.value, "along", "")
            painter.drawText(
                QRectF(10, 20, HEAD - 14, 14),
                Qt.AlignmentFlag.AlignLeft,
                "along clock" if along == "clock" else self.rule.unit,
            )
        painter.drawText(QRectF(0, self.plot.top() - 2, HEAD - 6, 13), Qt.AlignmentFlag.AlignRight, high)
        painter.drawText(QRectF(0, self.plot.bottom() - 11, HEAD - 6, 13), Qt.AlignmentFlag.AlignRight, low)

    def paint_frame(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        painter.fillRect(self.plot, theme.color(theme.ASH_0))
        painter.setPen(QPen(theme.color(theme.ASH_2)))
        for i in range(1, 10):
            x = self.x_of(i / 10)
            painter.drawLine(QPointF(x, self.plot.top()), QPointF(x, self.plot.bottom()))
        if self.hasFocus():
            painter.fillRect(QRectF(0, 4, 2, self.height() - 8), theme.color(theme.EMBER))

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
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.key >= 0:
            self.remove_key()
        elif key in moves and self.key >= 0:
            self._stroke = "keys"
            self.nudge(*moves[Qt.Key(key)])
            self._stroke = ""
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            count = len(self.points(self.side))
            if count:
                self.select_key(self.side, (self.key + (1 if key == Qt.Key.Key_PageDown else -1)) % count)
        elif key == Qt.Key.Key_Insert:
            self.begin_stroke()
            self.add_at(0.5)
            self.end_stroke()
        else:
            super().keyPressEvent(event)

    # To be filled in by each kind of lane

    def points(self, side: int) -> list[Any]:
        raise NotImplementedError

    def add_at(self, x: float) -> None:
        raise NotImplementedError

    def remove_key(self) -> None:
        raise NotImplementedError

    def nudge(self, right: float, up: float) -> None:
        raise NotImplementedError


class CurveLane(Lane):
    """A Value's curve, or the two of a band."""

    @property
    def range(self) -> tuple[float, float]:
        """Return bottom and top of the lane; held while a key is dragged."""
        if self._held_range is None:
            bottom, top = value_range(self.value)
            room = (top - bottom) * 0.06
            return bottom - (room if bottom < 0 else 0.0), top + room
        return self._held_range

    def y_of(self, y: float) -> float:
        bottom, top = self.range
        return self.plot.bottom() - (y - bottom) / (top - bottom) * self.plot.height()

    def level_of(self, y: float) -> float:
        bottom, top = self.range
        return bottom + (self.plot.bottom() - y) / self.plot.height() * (top - bottom)

    def points(self, side: int) -> list[Key]:
        sides = sides_of(self.value)
        return list(sides[side]) if side < len(sides) else []

    def _with_side(self, keys: tuple[Key, ...], side: int) -> Value:
        value = self.value
        if isinstance(value, Band):
            ends = (keys, value.high) if side == 0 else (value.low, keys)
            return Band(*ends, value.along)
        return Curve(keys, value.along)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        self.begin_stroke()
        self._held_range = self.range
        found = self._key_at(at)
        if found is not None:
            self.select_key(*found)
            return
        if not self.plot.adjusted(-3, -4, 3, 4).contains(at):
            self.select_key(0, -1)
            return
        side = self._near_side(at)
        if side is None:
            self.select_key(self.side, -1)
        else:
            self.side = side
            self.add_at(self.share_of(at.x()))

    def _key_at(self, at: QPointF) -> tuple[int, int] | None:
        best: tuple[float, int, int] | None = None
        for side in range(len(sides_of(self.value))):
            for i, key in enumerate(self.points(side)):
                far = max(abs(self.x_of(key.x) - at.x()), abs(self.y_of(key.y) - at.y()))
                if far <= GRAB and (best is None or far < best[0]):
                    best = (far, side, i)
        return None if best is None else best[1:]

    def _near_side(self, at: QPointF) -> int | None:
        """Return the side whose line passes near a place; levels and spreads count as one line or two."""
        low, high = self.value.bounds_at([self.share_of(at.x())])
        far = [abs(self.y_of(float(level[0])) - at.y()) for level in (low, high)]
        side = 0 if far[0] <= far[1] else 1
        return side if far[side] <= 10 else None

    def add_at(self, x: float) -> None:
        """Add a key where the curve is; a level first becomes a curve, a spread a band."""
        value = self.value
        if not sides_of(value):
            value = to_form(
                value, "band" if not np.array_equal(*value.bounds_at([0.0])) else "curve", self.rule.along[0]
            )
            self.give(value, "Key")
        side = min(self.side, len(sides_of(value)) - 1)
        keys, index = with_key_at(sides_of(value)[side], round(x, 4))
        self.give(self._with_side(keys, side), "Key")
        self.select_key(side, index)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if not self._stroke or self.key < 0:
            over = self._key_at(at)
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            return
        x, y = self.share_of(at.x()), self.level_of(at.y())
        key = self.points(self.side)[self.key]
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            # Along one axis only: the one that the mouse has gone further on.
            far_x, far_y = abs(self.x_of(key.x) - at.x()), abs(self.y_of(key.y) - at.y())
            x, y = (x, key.y) if far_x > far_y else (key.x, y)
        self.move_key(x, y)

    def move_key(self, x: float, y: float) -> None:
        """Move the selected key, between its neighbours and the field's limits."""
        keys = self.points(self.side)
        left = keys[self.key - 1].x if self.key > 0 else 0.0
        right = keys[self.key + 1].x if self.key + 1 < len(keys) else 1.0
        low, high = self.rule.hard
        keys[self.key] = keys[self.key]._replace(
            x=round(min(max(x, left), right), 4), y=float(f"{min(max(y, low), high):.5g}")
        )
        self.give(self._with_side(tuple(keys), self.side), "Move key")
        self.picked.emit(self)

    def nudge(self, right: float, up: float) -> None:
        key = self.points(self.side)[self.key]
        bottom, top = self.range
        self.move_key(key.x + right, key.y + up * (top - bottom))

    def remove_key(self) -> None:
        keys = self.points(self.side)
        if len(keys) > 1 and 0 <= self.key < len(keys):
            del keys[self.key]
            self.give(self._with_side(tuple(keys), self.side), "Delete key")
            self.select_key(self.side, -1)

    def set_ease(self, ease: str) -> None:
        """Give the selected key an ease; a free one starts with the slopes that it has."""
        keys = self.points(self.side)
        if not 0 <= self.key < len(keys):
            return
        key = keys[self.key]
        slopes = (0.0, 0.0)
        if ease == "free":
            near = np.clip([key.x - 1e-4, key.x, key.x + 1e-4], 0, 1)
            a, b, c = evaluate(tuple(keys), near)
            slopes = (round(float(b - a) / 1e-4, 4), round(float(c - b) / 1e-4, 4))
        keys[self.key] = Key(key.x, key.y, ease, *slopes)
        self.give(self._with_side(tuple(keys), self.side), f"Ease {ease}")
        self.picked.emit(self)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        found = self._key_at(QPointF(event.pos()))
        if found is not None:
            self.select_key(*found)
        menu = QMenu(self)
        for ease in EASES:
            action = menu.addAction(f"Ease {ease}")
            assert action is not None
            action.setEnabled(self.key >= 0)
            action.triggered.connect(lambda _, ease=ease: self.set_ease(ease))
        menu.addSeparator()
        gone = menu.addAction("Delete key")
        assert gone is not None
        gone.setEnabled(self.key >= 0 and len(self.points(self.side)) > 1)
        gone.triggered.connect(self.remove_key)
        menu.exec(event.globalPos())

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_frame(painter)
        value = self.value
        bottom, top = self.range
        self.paint_head(painter, shown(bottom, 2), shown(top, 2))
        if bottom < 0 < top:
            painter.setPen(QPen(theme.color(theme.ASH_3)))
            painter.drawLine(QPointF(self.plot.left(), self.y_of(0)), QPointF(self.plot.right(), self.y_of(0)))
        painter.save()
        painter.setClipRect(self.plot.adjusted(-1, -2, 1, 2))
        sides = sides_of(value)
        if sides:
            paint_lines(painter, [line_of(keys, self.plot, bottom, top) for keys in sides], 1.7)
        else:
            painter.setPen(QPen(theme.color(theme.DIM), 1.2, Qt.PenStyle.DashLine))
            for level in {float(side[0]) for side in value.bounds_at([0.0])}:
                painter.drawLine(
                    QPointF(self.plot.left(), self.y_of(level)), QPointF(self.plot.right(), self.y_of(level))
                )
        painter.restore()
        for side, keys in enumerate(sides):
            for i, key in enumerate(keys):
                chosen = self.hasFocus() and (side, i) == (self.side, self.key)
                painter.setPen(QPen(theme.color(theme.ASH_0), 1.5))
                painter.setBrush(QColor(theme.BRIGHT if chosen else (theme.EMBER, theme.SALT)[side]))
                radius = 5.0 if chosen else 3.8
                painter.drawEllipse(QPointF(self.x_of(key.x), self.y_of(key.y)), radius, radius)
        painter.end()


class ColorLane(Lane):
    """A colour's gradient, or the two of a band, with stops to drag."""

    def points(self, side: int) -> list[Stop]:
        sides = color_sides(self.value)
        return list(sides[side]) if side < len(sides) else []

    def bar(self, side: int) -> QRectF:
        count = max(len(color_sides(self.value)), 1)
        high = self.plot.height() / count
        return QRectF(self.plot.left(), self.plot.top() + side * high, self.plot.width(), high - 9)

    def _with_side(self, stops: tuple[Stop, ...], side: int) -> ColorValue:
        value = self.value
        if isinstance(value, GradientBand):
            ends = (stops, value.high) if side == 0 else (value.low, stops)
            return GradientBand(*ends, value.along)
        return Gradient(stops, value.along)

    def _stop_at(self, at: QPointF) -> tuple[int, int] | None:
        for side in range(len(color_sides(self.value))):
            bar = self.bar(side)
            for i, stop in enumerate(self.points(side)):
                if abs(self.x_of(stop.x) - at.x()) <= GRAB and bar.bottom() - 4 <= at.y() <= bar.bottom() + 11:
                    return side, i
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        self.begin_stroke()
        found = self._stop_at(at)
        if found is not None:
            self.select_key(*found)
            return
        if self.plot.contains(at):
            count = max(len(color_sides(self.value)), 1)
            self.side = min(int((at.y() - self.plot.top()) / self.plot.height() * count), count - 1)
            self.add_at(self.share_of(at.x()))

    def add_at(self, x: float) -> None:
        """Add a stop that leaves the gradient as it looks; a plain colour first becomes a gradient."""
        value = self.value
        if not color_sides(value):
            value = to_color_form(value, "curve", self.rule.along[0])
            self.give(value, "Stop")
        side = min(self.side, len(color_sides(value)) - 1)
        stops = list(color_sides(value)[side])
        new = Stop(round(x, 4), color_at(tuple(stops), x))
        index = sum(stop.x <= new.x for stop in stops)
        stops.insert(index, new)
        self.give(self._with_side(tuple(stops), side), "Stop")
        self.select_key(side, index)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._stroke and self.key >= 0:
            self.move_key(self.share_of(event.position().x()))

    def move_key(self, x: float, color: str | None = None) -> None:
        """Move the selected stop between its neighbours, or give it another colour."""
        stops = self.points(self.side)
        if not 0 <= self.key < len(stops):
            return
        left = stops[self.key - 1].x if self.key > 0 else 0.0
        right = stops[self.key + 1].x if self.key + 1 < len(stops) else 1.0
        old = stops[self.key]
        stops[self.key] = Stop(round(min(max(x, left), right), 4), color or old.color)
        self.give(self._with_side(tuple(stops), self.side), "Move stop" if color is None else "Colour")
        self.picked.emit(self)

    def nudge(self, right: float, up: float) -> None:
        self.move_key(self.points(self.side)[self.key].x + right)

    def remove_key(self) -> None:
        stops = self.points(self.side)
        if len(stops) > 1 and 0 <= self.key < len(stops):
            del stops[self.key]
            self.give(self._with_side(tuple(stops), self.side), "Delete stop")
            self.select_key(self.side, -1)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        found = self._stop_at(event.position())
        if found is not None:
            self.select_key(*found)
            self.pick()

    def pick(self) -> None:
        """Open the colour picker for the selected stop."""
        stops = self.points(self.side)
        if not 0 <= self.key < len(stops):
            return
        side, index = self.side, self.key

        def give(color: str, merge: str) -> None:
            self.side, self.key, self._stroke = side, index, merge
            self.move_key(self.points(side)[index].x, color)
            self._stroke = ""

        pick_color(self, stops[index].color, give)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        found = self._stop_at(QPointF(event.pos()))
        if found is None:
            return
        self.select_key(*found)
        menu = QMenu(self)
        menu.addAction("Colour …", self.pick)
        gone = menu.addAction("Delete stop", self.remove_key)
        assert gone is not None
        gone.setEnabled(len(self.points(self.side)) > 1)
        menu.exec(event.globalPos())

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        if self.hasFocus():
            painter.fillRect(QRectF(0, 4, 2, self.height() - 8), theme.color(theme.EMBER))
        self.paint_head(painter, "", "")
        sides = color_sides(self.value)
        if not sides:
            paint_gradient(painter, self.bar(0), self.value)
        for side, stops in enumerate(sides):
            bar = self.bar(side)
            paint_stops(painter, bar, stops)
            for i, stop in enumerate(stops):
                chosen = self.hasFocus() and (side, i) == (self.side, self.key)
                x = self.x_of(stop.x)
                painter.setPen(QPen(theme.color(theme.BRIGHT if chosen else theme.DIM), 2.0 if chosen else 1.2))
                painter.setBrush(QColor(stop.color))
                low = bar.bottom()
                triangle = [QPointF(x, low - 1), QPointF(x + 5.5, low + 8), QPointF(x - 5.5, low + 8)]
                painter.drawPolygon(QPolygonF(triangle))
        painter.end()

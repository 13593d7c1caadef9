"""A lane of one Value: its curve, or the two of a band, with keys to drag."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QMenu

from ..effect.curves import EASES, Key, evaluate, with_key_at
from ..effect.forms import to_form
from ..effect.values import Band, Curve, Value
from . import theme
from .arithmetic import shown
from .curve_paint import line_of, paint_lines, sides_of, value_range
from .lane import GRAB, Lane


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

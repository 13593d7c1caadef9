"""A lane of one Value or of a vector's three: their curves and bands, with keys to drag."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from ...effect.rules.edit import get
from ...effect.values.curves import with_key_at
from ...effect.values.forms import sides_of, to_form
from ...effect.values.values import Band, Curve, Fixed, Value, Vec3Value
from ..widgets import theme
from ..widgets.along_axis import HEAD, SCALE
from ..widgets.arithmetic import shown
from ..widgets.curve_paint import line_of, paint_lines, value_range
from .key_selection import Held
from .lane import SAME, Lane
from .tracks import parts_of, tracks_of, with_points

NEAR = 8
# How far a tangent's handle stands from its key, pixels.
HANDLE = 34
# A vector's three are told apart by hue and by line.
INKS = (theme.EMBER, theme.SALT, theme.TEXT)
STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine)


class CurveLane(Lane):
    """A Value's curve, or the two of a band; a vector's three."""

    def __init__(self, *args: Any) -> None:
        super().__init__(*args)
        self._held_range: tuple[float, float] | None = None
        # The range without the room above and below, which is what the scale says.
        self._ends = (0.0, 1.0)
        self._tangent: tuple[Held, bool] | None = None
        extra = {
            "look.grow": "Dotted: the mean size on screen of the particles seen lately.",
            "flight.pace": "Dotted, in blue: the mean speed of the particles seen lately, "
            "as they go along their way.",
            "flight.top_speed": "Dotted, in blue: the mean speed of the particles seen lately, "
            "and its spread.",
        }
        said = next((words for path, words in extra.items() if self.path.endswith(path)), "")
        self.setToolTip(f"{self.rule.help}\n{said}" if said else self.rule.help)

    @property
    def is_vector(self) -> bool:
        return isinstance(self.value, Vec3Value)

    # The range

    @property
    def range(self) -> tuple[float, float]:
        """Return bottom and top of the lane: they fit what it holds, and stay while a key is dragged."""
        if self.selection.dragging and self._held_range is not None:
            return self._held_range
        parts = [value_range(part) for _, part in parts_of(self.path, self.value)]
        bottom, top = min(part[0] for part in parts), max(part[1] for part in parts)
        measured = self.strip.measured.of(self.path)
        if measured is not None and measured.same_unit:
            top = max(top, measured.top)
        self._ends = (bottom, top)
        room = (top - bottom) * 0.06
        self._held_range = (bottom - (room if bottom < 0 else 0.0), top + room)
        return self._held_range

    @property
    def reach(self) -> float:
        bottom, top = self.range
        return top - bottom

    def y_of(self, y: float) -> float:
        bottom, top = self.range
        return self.plot.bottom() - (y - bottom) / (top - bottom) * self.plot.height()

    def level_of(self, y: float) -> float:
        bottom, top = self.range
        return bottom + (self.plot.bottom() - y) / self.plot.height() * (top - bottom)

    # Keys

    def place_of(self, held: Held) -> QPointF:
        value = next(part for path, part in parts_of(self.path, self.value) if path == held[0])
        key = sides_of(value)[held[1]][held[2]]
        return QPointF(self.x_of(key.x), self.y_of(key.y))

    def _near(self, at: QPointF) -> tuple[str, int] | None:
        """Return the part and side whose line passes near a place; levels count as lines too."""
        best: tuple[float, str, int] | None = None
        for path, part in parts_of(self.path, self.value):
            if self._unlimited(part):
                # No line is drawn: a limit is begun wherever the lane is clicked.
                return path, 0
            for side, level in enumerate(part.bounds_at([self.share_of(at.x())])):
                far = abs(self.y_of(float(level[0])) - at.y())
                # Where lines lie on one another, the one that is held or has keys goes first.
                held = self.selection.main is not None and self.selection.main[:2] == (path, side)
                far += 0.0 if held else 0.3 if part.along else 0.6
                if far <= NEAR + 0.6 and (best is None or far < best[0] - 0.01):
                    best = (far, path, side)
        return None if best is None else best[1:]

    def _unlimited(self, part: Value) -> bool:
        return self.path.endswith("flight.top_speed") and part == Fixed(0.0)

    def add_at(self, x: float, near: QPointF | None = None) -> bool:
        """Add a key where the curve is; a level first becomes a curve, a spread a band."""
        if near is not None:
            found = self._near(near)
        elif self.selection.main is not None and self.selection.lane_of(self.selection.main[0]) is self:
            found = self.selection.main[:2]
        else:
            found = (parts_of(self.path, self.value)[0][0], 0)
        if found is None:
            return False
        path, side = found
        value = get(self.session.effect, path)
        if self._unlimited(value):
            level = float(f"{self.level_of(near.y()) if near is not None else self.rule.soft[1]:.3g}")
            value = Fixed(max(level, 0.01))
        was_level = not isinstance(value, Curve | Band)
        if was_level:
            flat = np.array_equal(*value.bounds_at([0.0]))
            value = to_form(value, "curve" if flat else "band", self.strip.axis_name)
        side = side if isinstance(value, Band) else 0
        keys = tuple(sides_of(value)[side])
        # Where a key is already, that one is wanted; of a level that becomes a curve, near its ends too.
        index = self.index_at(keys, x, NEAR if was_level else SAME)
        if index < 0:
            keys, index = with_key_at(keys, round(x, 4))
        name = f"Key of {self.rule.label.lower()}"
        self.session.edit_chosen([(path, with_points(value, side, keys))], name, self.selection.stroke)
        self.selection.take((path, side, index))
        return True

    # Tangents

    def _handles(self) -> list[tuple[Held, bool, QPointF]]:
        """Return the ends of the held free keys' tangents: key, whether it is the one to the right, place."""
        found = []
        tracks = {track.id: track for track in tracks_of(self.path, self.value)}
        for held in self.selection.held:
            track = tracks.get(held[:2])
            if track is None or held[2] >= len(track.points) or track.points[held[2]].ease != "free":
                continue
            key, place = track.points[held[2]], self.place_of(held)
            for leaves, slope in ((False, key.in_slope), (True, key.out_slope)):
                step = np.array([self.plot.width(), -slope / self.reach * self.plot.height()])
                step *= HANDLE / max(float(np.hypot(*step)), 1e-9) * (1 if leaves else -1)
                if held[2] + (1 if leaves else -1) in range(len(track.points)):
                    found.append((held, leaves, place + QPointF(float(step[0]), float(step[1]))))
        return found

    def press_more(self, at: QPointF) -> bool:
        for held, leaves, place in self._handles():
            if max(abs(place.x() - at.x()), abs(place.y() - at.y())) <= 6:
                self._tangent = (held, leaves)
                return True
        return False

    def drag_more(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        """Turn a tangent; both sides together, with Alt this one alone."""
        if self._tangent is None:
            return
        held, leaves = self._tangent
        place = self.place_of(held)
        right = max((at.x() - place.x()) * (1 if leaves else -1), 2.0) / self.plot.width()
        up = (place.y() - at.y()) * (1 if leaves else -1) / self.plot.height() * self.reach
        slope = up / right
        both = not keys & Qt.KeyboardModifier.AltModifier
        self.selection.set_slopes(
            held, slope if both or not leaves else None, slope if both or leaves else None
        )

    # What it says

    def reading(self) -> str:
        words = []
        for _, part in parts_of(self.path, self.value):
            low, high = (float(side[0]) for side in part.bounds_at([self.session.cursor]))
            words.append(shown(low, 2, 2) if low == high else f"{shown(low, 2, 2)}–{shown(high, 2, 2)}")
        unit = self.rule.unit
        return " · ".join(words) + (unit if unit == "×" else f" {unit}" if unit else "")

    # Painting

    def still_key(self) -> tuple[Any, ...]:
        measured = self.strip.measured.of(self.path)
        return (*super().still_key(), self.range, measured.number if measured is not None else 0)

    def paint_lines(self, painter: QPainter) -> None:
        """Draw the curves of all sides with their keys."""
        value, (bottom, top) = self.value, self.range
        if bottom < 0 < top:
            painter.setPen(QPen(theme.color(theme.ASH_3)))
            painter.drawLine(
                QPointF(self.plot.left(), self.y_of(0)), QPointF(self.plot.right(), self.y_of(0))
            )
        if not self.folded:
            self._paint_range(painter, bottom, top)
        painter.save()
        painter.setClipRect(self.plot.adjusted(-1, -2, 1, 2))
        if not self.folded:
            self._paint_measured(painter)
        for axis, (_, part) in enumerate(parts_of(self.path, value)):
            sides = sides_of(part)
            if sides:
                lines = [line_of(keys, self.plot, bottom, top) for keys in sides]
                if self.is_vector:
                    paint_lines(painter, lines, 1.5, (INKS[axis], INKS[axis]), STYLES[axis])
                else:
                    paint_lines(painter, lines, 1.0 if self.folded else 1.7)
            elif not self._unlimited(part):
                painter.setPen(QPen(theme.color(theme.DIM), 1.2, Qt.PenStyle.DashLine))
                for level in {float(side[0]) for side in part.bounds_at([0.0])}:
                    y = self.y_of(level)
                    painter.drawLine(QPointF(self.plot.left(), y), QPointF(self.plot.right(), y))
        painter.restore()
        if self.folded:
            return
        self._paint_tangents(painter)
        for track in tracks_of(self.path, value):
            ink = INKS[track.axis if self.is_vector else track.side]
            for i, key in enumerate(track.points):
                chosen = (track.path, track.side, i) in self.selection.held
                painter.setPen(QPen(theme.color(theme.EMBER if chosen else theme.ASH_0), 1.5))
                painter.setBrush(QColor(theme.BRIGHT if chosen else ink))
                radius = 4.6 if chosen else 3.6
                painter.drawEllipse(QPointF(self.x_of(key.x), self.y_of(key.y)), radius, radius)

    def _paint_range(self, painter: QPainter, bottom: float, top: float) -> None:
        """Draw the lowest and the highest number of the lane beside it."""
        painter.setFont(theme.font(10))
        painter.setPen(theme.color(theme.DIM))
        inside = self.plot.adjusted(9, 0, -4, 0)
        # Beside the curve, not under it.
        for level in self._ends:
            y = min(max(self.y_of(level) - 6, self.plot.top() - 3), self.plot.bottom() - 9)
            beside = QRectF(HEAD - SCALE - 5, y, SCALE, 12)
            painter.drawText(
                beside, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, _short(level)
            )
        if self.is_vector:
            for axis, name in enumerate("XYZ"):
                box = QRectF(inside.right() - 20 * (3 - axis), inside.top(), 20, 12)
                painter.setPen(QPen(theme.color(INKS[axis]), 1.5, STYLES[axis]))
                painter.drawLine(
                    QPointF(box.left(), box.center().y()), QPointF(box.left() + 9, box.center().y())
                )
                painter.drawText(box, Qt.AlignmentFlag.AlignRight, name)

    def _paint_tangents(self, painter: QPainter) -> None:
        for held, _, place in self._handles():
            painter.setPen(QPen(theme.color(theme.BRIGHT, 150), 1.0))
            painter.drawLine(self.place_of(held), place)
            painter.setBrush(theme.color(theme.ASH_0))
            painter.drawRect(QRectF(place.x() - 2.5, place.y() - 2.5, 5, 5))

    def _paint_measured(self, painter: QPainter) -> None:
        """Draw what particles really do: their mean, and how far they spread about it."""
        measured = self.strip.measured.of(self.path)
        if measured is None or len(measured.age) < 2:
            return
        bottom, top = self.range if measured.same_unit else (0.0, measured.top * 1.06)

        plot, rise = self.plot, self.plot.height() / (top - bottom)

        def place(age: float, level: float) -> QPointF:
            return QPointF(plot.left() + age * plot.width(), plot.bottom() - (level - bottom) * rise)

        ink = theme.color(theme.SALT, 230 if measured.same_unit else 150)
        points = [place(a, m) for a, m in zip(measured.age.tolist(), measured.mean.tolist(), strict=True)]
        if measured.same_unit:
            painter.setPen(QPen(theme.color(theme.SALT, 60), 3.0))
            for a, m, spread in zip(measured.age, measured.mean, measured.spread, strict=True):
                painter.drawLine(place(a, m - spread), place(a, m + spread))
        painter.setPen(QPen(ink, 1.2, Qt.PenStyle.DotLine))
        painter.drawPolyline(QPolygonF(points))
        if self.plot.height() < 44:
            return
        painter.setFont(theme.font(10))
        box = self.plot.adjusted(0, 0, -4, -1)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom, measured.said)


def _short(level: float) -> str:
    """Return a number of the scale in the little room that there is beside a lane."""
    return shown(level, 2, 2) if abs(level) < 1000 else f"{level:.3g}".replace("e+0", "e").replace("e+", "e")

"""Curves, bands and gradients as pictures."""

from __future__ import annotations

import functools

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QLinearGradient, QPainter, QPainterPath, QPen, QPolygonF

from ...effect.values.colors import ColorSpread, ColorValue, Flat, OneOf, Stops, evaluate_stops, linear_to_hex
from ...effect.values.curve_shapes import value_span
from ...effect.values.curves import Keys, breaks, evaluate
from ...effect.values.forms import sides_of
from ...effect.values.values import Value
from . import theme


def samples(keys: Keys, count: int) -> np.ndarray:
    """Return x at which a curve is drawn: even, with both sides of each jump."""
    even = np.linspace(0.0, 1.0, count)
    jumps = [side for at in breaks(keys) for side in (np.nextafter(at, -1.0), at)]
    return np.sort(np.concatenate([even, np.array(jumps)]))


@functools.lru_cache(maxsize=512)
def value_range(value: Value) -> tuple[float, float]:
    """Return the lowest and highest of a Value over 0…1, with 0 between them and some way from one to the
    other.
    """
    low, high = value_span(value)
    bottom, top = min(low, 0.0), max(high, 0.0)
    if top - bottom < 1e-9:
        top = bottom + 1.0
    return bottom, top


@functools.lru_cache(maxsize=512)
def _sampled(keys: Keys, count: int) -> list[tuple[float, float]]:
    x = samples(keys, count)
    return list(zip(x.tolist(), evaluate(keys, x).tolist(), strict=True))


def line_of(keys: Keys, box: QRectF, bottom: float, top: float) -> QPolygonF:
    """Return a curve as a line inside a box."""
    left, width, floor = box.left(), box.width(), box.bottom()
    rise = box.height() / (top - bottom)
    count = max(int(width) // 4, 24)
    return QPolygonF(
        [QPointF(left + x * width, floor - (y - bottom) * rise) for x, y in _sampled(keys, count)]
    )


def paint_value(painter: QPainter, box: QRectF, value: Value) -> None:
    """Draw a curve or band small, over its own range."""
    bottom, top = value_range(value)
    lines = [line_of(keys, box, bottom, top) for keys in sides_of(value)]
    paint_lines(painter, lines, 1.2)


def paint_lines(
    painter: QPainter,
    lines: list[QPolygonF],
    width: float,
    inks: tuple[str, str] = (theme.EMBER, theme.SALT),
    style: Qt.PenStyle = Qt.PenStyle.SolidLine,
) -> None:
    """Draw one curve, or two with the area between them."""
    if len(lines) == 2:
        path = QPainterPath()
        path.addPolygon(lines[0])
        for i in range(lines[1].count() - 1, -1, -1):
            path.lineTo(lines[1].at(i))
        path.closeSubpath()
        painter.fillPath(path, theme.color(inks[0], 38))
    for line, ink in zip(lines, inks, strict=False):
        painter.setPen(QPen(QColor(ink), width, style))
        painter.drawPolyline(line)


def paint_stops(painter: QPainter, box: QRectF, stops: Stops) -> None:
    """Draw a gradient, mixed in linear light as the simulation does."""
    gradient = QLinearGradient(box.topLeft(), box.topRight())
    gradient.setStops(_shades(stops))
    painter.fillRect(box, gradient)


@functools.lru_cache(maxsize=256)
def _shades(stops: Stops) -> list[tuple[float, QColor]]:
    """Return a gradient as many close stops, as the screen mixes them."""
    x = np.unique(
        np.concatenate([np.linspace(0, 1, 33), [s.x for s in stops], [np.nextafter(s.x, -1) for s in stops]])
    )
    x = x[(x >= 0) & (x <= 1)]
    return [(float(a), QColor(linear_to_hex(c))) for a, c in zip(x, evaluate_stops(stops, x), strict=True)]


def paint_gradient(painter: QPainter, box: QRectF, value: ColorValue) -> None:
    """Draw any colour small."""
    sides = sides_of(value)
    if isinstance(value, Flat):
        painter.fillRect(box, QColor(value.color))
    elif isinstance(value, ColorSpread):
        half = QRectF(box.left(), box.top(), box.width() / 2, box.height())
        painter.fillRect(half, QColor(value.low))
        painter.fillRect(half.translated(half.width(), 0), QColor(value.high))
    elif isinstance(value, OneOf):
        wide = box.width() / len(value.colors)
        for i, color in enumerate(value.colors):
            painter.fillRect(QRectF(box.left() + i * wide, box.top(), wide, box.height()), QColor(color))
    for i, stops in enumerate(sides):
        high = box.height() / len(sides)
        paint_stops(painter, QRectF(box.left(), box.top() + i * high, box.width(), high), stops)

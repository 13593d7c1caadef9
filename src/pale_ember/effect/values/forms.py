"""Changing a Value or a colour from one form to another, keeping as much of its meaning as fits."""

from __future__ import annotations

from typing import Any

from .colors import (
    MOST_COLORS,
    ColorSpread,
    ColorValue,
    Flat,
    Gradient,
    GradientBand,
    OneOf,
    Stop,
    Stops,
    evaluate_stops,
    evenly,
    linear_to_hex,
)
from .curves import Key, Keys
from .values import Band, Curve, Fixed, Spread, Value, level

FORMS = ("fixed", "spread", "curve", "band")
COLOR_FORMS = ("fixed", "spread", "one of", "curve", "band")


def form_of(value: Value | ColorValue) -> str:
    """Return the name of the form that a Value or ColorValue has."""
    if isinstance(value, Fixed | Flat):
        return "fixed"
    if isinstance(value, Spread | ColorSpread):
        return "spread"
    if isinstance(value, OneOf):
        return "one of"
    return "curve" if isinstance(value, Curve | Gradient) else "band"


def sides_of(value: Any) -> list[Any]:
    """Return the keys of a Value, or the stops of a colour or a plain gradient: none, those of its only
    side, or of its two.
    """
    if isinstance(value, Curve):
        return [value.keys]
    if isinstance(value, Gradient):
        return [value.stops]
    if isinstance(value, tuple) and value and isinstance(value[0], Stop):
        return [value]
    return [value.low, value.high] if isinstance(value, Band | GradientBand) else []


def to_form(value: Value, form: str, along: str) -> Value:
    """Return the Value in another form.

    A fixed number becomes a spread of no width, a level curve, a band of no width; a curve becomes a
    band of itself; going back takes the middle.
    """
    if form == form_of(value):
        return value
    low, high = _edges(value)
    axis = value.along or along
    if form == "fixed":
        return Fixed((_mean(low) + _mean(high)) / 2)
    if form == "spread":
        ends = sorted((_mean(low), _mean(high)))
        if isinstance(value, Curve):
            ends = [min(k.y for k in low), max(k.y for k in low)]
        return Spread(ends[0], ends[1])
    if form == "curve":
        return Curve(_middle(low, high), axis)
    return Band(low, high, axis)


def to_color_form(value: ColorValue, form: str, along: str) -> ColorValue:
    """Return the colour in another form, as :func:`to_form` does for numbers.

    One of several colours has those of a gradient's stops; as a gradient they lie evenly one after the other.
    """
    if form == form_of(value):
        return value
    if form == "one of":
        return OneOf(_colors_of(value))
    low, high = _color_edges(value)
    axis = value.along or along
    if form == "fixed":
        return Flat(low[0].color)
    if form == "spread":
        return ColorSpread(low[0].color, high[-1].color)
    if form == "curve":
        return Gradient(low, axis)
    return GradientBand(low, high, axis)


def with_stops(value: ColorValue, stops: Stops, along: str) -> ColorValue:
    """Return a colour made of a palette's stops: a gradient, or one of these colours where it was one of
    several before.
    """
    if isinstance(value, OneOf):
        return OneOf(_each_once(stops))
    return Gradient(stops, value.along or along)


def _edges(value: Value) -> tuple[Keys, Keys]:
    if isinstance(value, Fixed):
        return level(value.number), level(value.number)
    if isinstance(value, Spread):
        return level(value.low), level(value.high)
    if isinstance(value, Curve):
        return value.keys, value.keys
    assert isinstance(value, Band)
    return value.low, value.high


def _mean(keys: Keys) -> float:
    return round(sum(k.y for k in keys) / len(keys), 6)


def _middle(low: Keys, high: Keys) -> Keys:
    if [k.x for k in low] == [k.x for k in high]:
        return tuple(
            Key(a.x, (a.y + b.y) / 2, a.ease, (a.in_slope + b.in_slope) / 2, (a.out_slope + b.out_slope) / 2)
            for a, b in zip(low, high, strict=True)
        )
    return high


def _each_once(stops: Stops) -> tuple[str, ...]:
    """Return the colours of stops, each once, as many as a list holds."""
    return tuple(dict.fromkeys(stop.color for stop in stops))[:MOST_COLORS]


def _colors_of(value: ColorValue) -> tuple[str, ...]:
    """Return the colours that a value is made of, at least two, each once where they differ."""
    low, high = _color_edges(value)
    found = _each_once((*low, *high))
    return found if len(found) > 1 else found * 2


def _color_edges(value: ColorValue) -> tuple[Stops, Stops]:
    """Return the low and the high gradient of a ColorValue of any form."""
    if isinstance(value, Flat):
        both = (Stop(0.0, value.color), Stop(1.0, value.color))
        return both, both
    if isinstance(value, ColorSpread):
        return (Stop(0.0, value.low), Stop(1.0, value.low)), (Stop(0.0, value.high), Stop(1.0, value.high))
    if isinstance(value, OneOf):
        stops = evenly(value.colors)
        return stops, stops
    if isinstance(value, Gradient):
        return value.stops, value.stops
    assert isinstance(value, GradientBand)
    return value.low, value.high


def color_at(stops: Stops, x: float) -> str:
    """Return the hex colour of a gradient at x."""
    return linear_to_hex(evaluate_stops(stops, [x])[0])

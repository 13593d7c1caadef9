"""Colours: sRGB hex outside, linear light inside; gradients; the five forms of a colour."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

# A list of colours to take one of has at most so many.
MOST_COLORS = 32
HEX = re.compile(r"#(?:[0-9a-fA-F]{3}|[0-9a-fA-F]{6})")


def to_linear(srgb: ArrayLike) -> NDArray[np.float64]:
    """Return linear light for sRGB values 0…1 (IEC 61966-2-1)."""
    s = np.asarray(srgb, dtype=np.float64)
    return np.where(s <= 0.04045, s / 12.92, ((np.maximum(s, 0.04045) + 0.055) / 1.055) ** 2.4)


# Linear light of each sRGB byte.
BYTE_LIGHT = to_linear(np.arange(256) / 255.0).astype(np.float32)


def to_srgb(linear: ArrayLike) -> NDArray[np.float64]:
    """Return sRGB values for linear light 0…1 (IEC 61966-2-1)."""
    v = np.asarray(linear, dtype=np.float64)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.maximum(v, 0.0031308) ** (1 / 2.4) - 0.055)


def hex_to_linear(color: str) -> NDArray[np.float64]:
    """Return linear red, green and blue of an sRGB hex colour, shape (3,)."""
    digits = color[1:]
    if len(digits) == 3:
        digits = "".join(d * 2 for d in digits)
    return to_linear(np.array([int(digits[i : i + 2], 16) for i in (0, 2, 4)]) / 255.0)


def linear_to_hex(linear: ArrayLike) -> str:
    """Return the nearest sRGB hex colour of linear red, green and blue."""
    return srgb_to_hex(np.clip(to_srgb(np.clip(linear, 0.0, 1.0)), 0.0, 1.0))


def srgb_to_hex(srgb: ArrayLike) -> str:
    """Return the nearest hex colour of sRGB red, green and blue 0…1."""
    return "#" + "".join(f"{part:02x}" for part in np.rint(np.asarray(srgb) * 255).astype(int))


class Stop(NamedTuple):
    """A stop of a gradient: x in 0…1 and an sRGB hex colour."""

    x: float
    color: str


Stops = tuple[Stop, ...]


def evenly(colors: Sequence[str]) -> Stops:
    """Return colours as stops at equal distances."""
    last = max(len(colors) - 1, 1)
    return tuple(Stop(round(i / last, 4), color) for i, color in enumerate(colors))


def evaluate_stops(stops: Stops, x: ArrayLike, before: bool = False) -> NDArray[np.float64]:
    """Return linear colours of a gradient at x, mixed in linear light; shape (n, 3).

    Two stops may share an x: a hard edge, with the later stop's colour at the edge itself; or with the
    earlier one's, if ``before`` asks for the colour that it comes to from below x.
    """
    at = np.atleast_1d(np.asarray(x, dtype=np.float64))
    xs = np.array([s.x for s in stops])
    digits = np.array([[int(s.color[i : i + 2], 16) for i in (1, 3, 5)] for s in map(_long, stops)])
    colors = to_linear(digits / 255.0)
    if len(stops) == 1:
        return np.repeat(colors, len(at), axis=0)
    i = np.clip(np.searchsorted(xs, at, side="left" if before else "right") - 1, 0, len(xs) - 2)
    width = xs[i + 1] - xs[i]
    share = np.clip(np.divide(at - xs[i], width, out=np.ones_like(at), where=width > 0), 0.0, 1.0)
    return colors[i] + share[:, None] * (colors[i + 1] - colors[i])  # type: ignore[no-any-return]


def _long(stop: Stop) -> Stop:
    digits = stop.color[1:]
    return stop if len(digits) == 6 else Stop(stop.x, "#" + "".join(d * 2 for d in digits))


class ColorValue:
    """A colour in one of five forms: Flat, ColorSpread, OneOf, Gradient, GradientBand."""

    __slots__ = ()
    along: str = ""


@dataclass(frozen=True, slots=True)
class Flat(ColorValue):
    """Always this colour."""

    color: str


@dataclass(frozen=True, slots=True)
class ColorSpread(ColorValue):
    """Mixed once per particle between two colours, in linear light."""

    low: str
    high: str


@dataclass(frozen=True, slots=True)
class OneOf(ColorValue):
    """One of several colours, drawn once per particle, each as likely; nothing is mixed."""

    colors: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Gradient(ColorValue):
    """Read off a gradient."""

    stops: Stops
    along: str = "life"


@dataclass(frozen=True, slots=True)
class GradientBand(ColorValue):
    """Between two gradients, at a place drawn once per particle."""

    low: Stops
    high: Stops
    along: str = "life"

"""Named curve shapes to start from, drawn in the unit square and put into a curve's own range."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from .curves import Key, Keys
from .forms import sides_of
from .values import Curve, Value

Shape = Callable[[int], Keys]


def _free(*points: tuple[float, float, float, float]) -> Keys:
    return tuple(Key(x, y, "free", arrive, leave) for x, y, arrive, leave in points)


def _decay(seed: int) -> Keys:
    """e^(-5x), with the exponential's own slopes at its keys, so that it is met within a thousandth."""
    places = (0.0, 0.1, 0.25, 0.45, 0.7, 1.0)
    return _free(*((x, math.exp(-5 * x), -5 * math.exp(-5 * x), -5 * math.exp(-5 * x)) for x in places))


def _flicker(seed: int) -> Keys:
    """Uneven dips at uneven moments; another seed gives others."""
    dice = np.random.default_rng(seed)
    count = 14
    x = (np.arange(1, count) + dice.uniform(-0.35, 0.35, count - 1)) / count
    y = np.where(
        np.arange(count - 1) % 2 == 0, dice.uniform(0.75, 1.0, count - 1), dice.uniform(0.1, 0.7, count - 1)
    )
    inner = [Key(round(float(a), 3), round(float(b), 3)) for a, b in zip(x, y, strict=True)]
    return (Key(0.0, 0.6), *inner, Key(1.0, 0.0))


def _keys(*points: tuple[float, float] | tuple[float, float, str]) -> Shape:
    keys = tuple(Key(float(p[0]), float(p[1]), p[2] if len(p) > 2 else "smooth") for p in points)
    return lambda seed: keys


SHAPES: dict[str, Shape] = {
    "Quick in, slow out": lambda seed: _free((0, 0, 3, 3), (1, 1, 0, 0)),
    "Slow in, quick out": lambda seed: _free((0, 0, 0, 0), (1, 1, 3, 3)),
    "Slow in, slow out": lambda seed: _free((0, 0, 0, 0), (1, 1, 0, 0)),
    "Quick in, quick out": lambda seed: _free((0, 0, 2.5, 2.5), (0.5, 0.5, 0.25, 0.25), (1, 1, 2.5, 2.5)),
    "Fade in and out": _keys((0, 0), (0.2, 1), (0.7, 1), (1, 0)),
    "Hold, then drop": _keys((0, 1, "linear"), (0.75, 1), (1, 0)),
    "Pulse": _keys((0, 0), (0.5, 1), (1, 0)),
    "Swell, then settle": _keys((0, 0), (0.18, 1), (0.4, 0.6), (1, 0.5)),
    "Exponential decay": _decay,
    "Flicker": _flicker,
    "Straight rise": _keys((0, 0, "linear"), (1, 1)),
}


def value_span(value: Value) -> tuple[float, float]:
    """Return the lowest and highest that a Value reaches over 0…1."""
    # Evenly, and at its keys, where curves are highest and lowest.
    places = np.concatenate(
        [np.linspace(0.0, 1.0, 257), *([key.x for key in side] for side in sides_of(value))]
    )
    low, high = value.bounds_at(places)
    return float(min(low.min(), high.min())), float(max(low.max(), high.max()))


def in_range(shape: Keys, low: float, high: float) -> Keys:
    """Return a shape of the unit square with its 0 at one level and its 1 at another."""
    rise = high - low
    return tuple(Key(k.x, low + k.y * rise, k.ease, k.in_slope * rise, k.out_slope * rise) for k in shape)


def to_unit(keys: Keys) -> Keys:
    """Return a curve put into the unit square: its lowest at 0, its highest at 1."""
    low, high = value_span(Curve(keys))
    if high - low < 1e-12:
        return tuple(k._replace(y=1.0) for k in keys)
    rise = 1.0 / (high - low)
    return tuple(Key(k.x, (k.y - low) * rise, k.ease, k.in_slope * rise, k.out_slope * rise) for k in keys)

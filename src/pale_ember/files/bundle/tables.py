"""Every curve and gradient of an effect as evenly sampled numbers, with what that loses."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect
from ...effect.rules.fields import HUGE
from ...effect.rules.part import Part
from ...effect.rules.paths import FieldPath
from ...effect.values.colors import ColorValue, Gradient, GradientBand, Stop, evaluate_stops
from ...effect.values.curves import breaks, evaluate
from ...effect.values.forms import sides_of
from ...effect.values.values import Band, Curve, Value, Vec3Value

# Samples are made more until the error is below this share of the range.
WANTED = 0.001
FEWEST, MOST = 17, 1025
_PROBES = 8
Floats = NDArray[np.float64]


def tables_of(effect: Effect) -> list[dict[str, Any]]:
    """Return a table for each curve and gradient of an effect's layers.

    Each has its ``path`` in the effect, ``along`` which it is read, ``samples`` from x = 0 to 1 evenly,
    ``low`` and, of bands, ``high`` as lists of numbers (of colours: linear red, green and blue), ``error``,
    the most that reading between samples straight is off, away from ``steps``, where it jumps, and ``range``,
    from its least to its most.
    """
    found = []
    for i, layer in enumerate(effect.layers):
        for path, value, hard in curved(layer, FieldPath.of_layer(i)):
            found.append({"path": path, "layer": layer.id, **_table(value, hard)})
    return found


def curved(
    part: Part, path: str, hard: tuple[float, float] = (-HUGE, HUGE)
) -> Iterator[tuple[str, Any, tuple[float, float]]]:
    """Yield the curves and gradients in a part, each with its path and the limits of its field."""
    rules = type(part).rules()
    for name in type(part).model_fields:
        yield from _curved_in(
            getattr(part, name), f"{path}.{name}", rules[name].hard if name in rules else hard
        )


def _curved_in(
    value: Any, path: str, hard: tuple[float, float]
) -> Iterator[tuple[str, Any, tuple[float, float]]]:
    """Yield the curves in a value, with their paths and limits."""
    if isinstance(value, Curve | Band | Gradient | GradientBand):
        yield path, value, hard
    elif isinstance(value, Part):
        yield from curved(value, path, hard)
    elif isinstance(value, Vec3Value):
        for axis, one in enumerate(value):
            yield from _curved_in(one, f"{path}[{axis}]", hard)
    elif isinstance(value, tuple) and value and all(isinstance(one, Stop) for one in value):
        yield path, Gradient(value, "life"), hard
    elif isinstance(value, tuple) and not isinstance(value, Value | ColorValue):
        for i, one in enumerate(value):
            if isinstance(one, Part):
                yield from curved(one, f"{path}[{i}]", hard)


def _table(value: Any, hard: tuple[float, float]) -> dict[str, Any]:
    """Return a curve as evenly spaced samples, as many as keep its shape."""
    sides = sides_of(value)
    colored = isinstance(value, Gradient | GradientBand)
    if colored:
        steps = sorted({b.x for side in sides for a, b in itertools.pairwise(side) if a.x == b.x})
    else:
        steps = sorted({x for side in sides for x in breaks(side)})
    at = [_reader(side, colored, hard) for side in sides]
    count = FEWEST
    while True:
        x = np.linspace(0.0, 1.0, count)
        samples = [read(x) for read in at]
        probes = (np.arange((count - 1) * _PROBES) + 0.5) / ((count - 1) * _PROBES)
        # Where it jumps, a table can only lead from one side to the other.
        away = np.ones(len(probes), bool)
        for step in steps:
            away &= np.abs(probes - step) > 1.0 / (count - 1)
        true = [read(probes) for read in at]
        error = max(
            (
                float(np.abs(_between(x, y, probes) - t)[away].max(initial=0.0))
                for y, t in zip(samples, true, strict=True)
            ),
            default=0.0,
        )
        low, high = (
            min(float(t.min()) for t in (*true, *samples)),
            max(float(t.max()) for t in (*true, *samples)),
        )
        if error <= WANTED * max(high - low, 1e-12) or count >= MOST:
            break
        count = 2 * count - 1
    table: dict[str, Any] = {
        "along": value.along,
        "samples": count,
        "range": [_plain(low), _plain(high)],
        "error": _plain(error),
        "steps": [_plain(s) for s in steps],
    }
    for name, side in zip(("low", "high"), samples, strict=False):
        table[name] = (
            [[_plain(part) for part in row] for row in side]
            if colored
            else [_plain(one) for one in side[:, 0]]
        )
    return table


def _reader(side: Any, colored: bool, hard: tuple[float, float]) -> Any:
    if colored:
        return lambda x: evaluate_stops(side, x)
    return lambda x: np.clip(evaluate(side, x), *hard)[:, None]


def _between(x: Floats, y: Floats, probes: Floats) -> Floats:
    return np.stack([np.interp(probes, x, y[:, i]) for i in range(y.shape[1])], axis=1)


def _plain(number: float) -> float:
    """Return a number in so many digits as single precision has."""
    return float(f"{float(number):.9g}")

"""The lines that the life strip edits: curves of a Value, of a vector's three Values, gradients of a
colour.
"""

from __future__ import annotations

import dataclasses
from typing import Any, NamedTuple

from ...effect.values.colors import ColorValue, Gradient, GradientBand, Stops
from ...effect.values.forms import sides_of
from ...effect.values.values import Band, Curve, Value, Vec3Value

# A Value's whole path, and its side: 0 the only or low one, 1 the high one.
TrackId = tuple[str, int]


class Track(NamedTuple):
    """One line: the place of its Value, its side, which of a vector's it is, and its keys or stops."""

    path: str
    side: int
    axis: int
    points: Any

    @property
    def id(self) -> TrackId:
        return self.path, self.side


def parts_of(path: str, value: Any) -> list[tuple[str, Any]]:
    """Return a Value with its path, or the three of a vector with theirs."""
    if isinstance(value, Vec3Value):
        return [(f"{path}[{i}]", part) for i, part in enumerate(value)]
    return [(path, value)]


def tracks_of(path: str, value: Any) -> list[Track]:
    """Return the lines of a Value, a ColorValue or a vector of Values; fixed ones and spreads have none."""
    return [
        Track(part_path, side, axis, points)
        for axis, (part_path, part) in enumerate(parts_of(path, value))
        for side, points in enumerate(sides_of(part))
    ]


def with_points(value: Any, side: int, points: Any) -> Value | ColorValue | Stops:
    """Return a Value or colour with other keys or stops on one side."""
    points = tuple(points)
    if isinstance(value, Band | GradientBand):
        ends = {"low": points} if side == 0 else {"high": points}
        return dataclasses.replace(value, **ends)
    if isinstance(value, tuple):
        return points  # type: ignore[no-any-return]
    assert isinstance(value, Curve | Gradient)
    return type(value)(points, value.along)


def axis_of(value: Any) -> str:
    """Return what a Value runs along; of a vector, what its first curve does; empty without a curve."""
    return next((part.along for _, part in parts_of("", value) if getattr(part, "along", "")), "")

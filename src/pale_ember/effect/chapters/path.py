"""A layer's path: the curve through its keys, and a few ready motions."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .place import PathKey

Floats = NDArray[np.float64]
MOTIONS = ("line", "circle", "figure eight", "swing")


class PathPieces(NamedTuple):
    """A path as cubics of seven channels: position, rotation in degrees, scale.

    From ``x[i]`` to ``x[i + 1]`` (or to ``end``) a channel is ``c[i, channel] · (1, s, s², s³)``, s = clock -
    x[i]. ``first`` and ``last`` hold the channels before the first and behind the last key.
    """

    x: Floats
    c: Floats
    end: float
    first: Floats
    last: Floats


def path_pieces(keys: tuple[PathKey, ...]) -> PathPieces:
    """Return the cubic pieces of a path.

    A smooth key is left and reached with the slope of the parabola through it and its neighbours, so that
    moving a key bends only the two stretches on each side; a path that ends where it began is smooth
    there too. Straight stretches keep an even pace; held ones jump at their end.
    """
    points = np.array([(*key.position, *key.rotation, key.scale) for key in keys], dtype=np.float64)
    clock = np.array([key.at for key in keys])
    slopes_out, slopes_in = _slopes(keys, clock, points)
    starts: list[float] = []
    pieces: list[Floats] = []
    for i, key in enumerate(keys[:-1]):
        width = clock[i + 1] - clock[i]
        if width <= 0.0:
            continue
        rise = (points[i + 1] - points[i]) / width
        flat = np.zeros(7)
        if key.ease == "hold":
            parts = (points[i], flat, flat, flat)
        elif key.ease == "linear":
            parts = (points[i], rise, flat, flat)
        else:
            a, b = slopes_out[i], slopes_in[i + 1]
            parts = (points[i], a, (3 * rise - 2 * a - b) / width, (a + b - 2 * rise) / width**2)
        starts.append(float(clock[i]))
        pieces.append(np.stack(parts, axis=1))
    end = float(clock[-1])
    c = np.array(pieces).reshape(-1, 7, 4)
    return PathPieces(np.array(starts), c, end, points[0], points[-1])


def _slopes(keys: tuple[PathKey, ...], clock: Floats, points: Floats) -> tuple[Floats, Floats]:
    """Return each key's slope as it is left and as it is reached."""
    n = len(keys)
    out, into = np.zeros((n, 7)), np.zeros((n, 7))
    width = np.diff(clock)
    rise = np.diff(points, axis=0) / np.where(width > 0.0, width, 1.0)[:, None]
    smooth = [keys[i].ease == "smooth" and width[i] > 0.0 for i in range(n - 1)]
    for i in range(n):
        before, after = i > 0 and smooth[i - 1], i < n - 1 and smooth[i]
        if before and after:
            out[i] = into[i] = _through(width[i - 1], width[i], rise[i - 1], rise[i])
        elif after:
            two = i < n - 2 and smooth[i + 1]
            out[i] = (
                rise[i] + (rise[i] - rise[i + 1]) * width[i] / (width[i] + width[i + 1]) if two else rise[i]
            )
        elif before:
            two = i > 1 and smooth[i - 2]
            w = width[i - 1]
            into[i] = (
                rise[i - 1] + (rise[i - 1] - rise[i - 2]) * w / (w + width[i - 2]) if two else rise[i - 1]
            )
    closed = n > 2 and all(smooth) and np.allclose(points[0, :3], points[-1, :3], atol=1e-9)
    if closed:
        out[0] = into[-1] = _through(width[-1], width[0], rise[-1], rise[0])
    return out, into


def _through(before: float, after: float, rise_before: Floats, rise_after: Floats) -> Floats:
    """Return the slope, at the middle one of three points, of the parabola through them."""
    return (rise_before * after + rise_after * before) / (before + after)


def evaluate_path(keys: tuple[PathKey, ...], clock: ArrayLike) -> Floats:
    """Return position, rotation (degrees) and scale at clocks 0…1, shape (n, 7)."""
    at = np.atleast_1d(np.asarray(clock, dtype=np.float64))
    pieces = path_pieces(keys)
    if len(pieces.x) == 0:
        return np.where((at < pieces.end)[:, None], pieces.first, pieces.last)
    index = np.clip(np.searchsorted(pieces.x, at, side="right") - 1, 0, len(pieces.x) - 1)
    s = (at - pieces.x[index])[:, None]
    c = pieces.c[index]
    found = c[..., 0] + s * (c[..., 1] + s * (c[..., 2] + s * c[..., 3]))
    found = np.where((at < pieces.x[0])[:, None], pieces.first, found)
    return np.where((at >= pieces.end)[:, None], pieces.last, found)


def ready_motion(name: str, reach: float = 1.5) -> tuple[PathKey, ...]:
    """Return the keys of a ready motion, about the layer's place.

    Parameters
    ----------
    name : {"line", "circle", "figure eight", "swing"}
    reach : float
        How far it goes to each side, m.
    """
    if name == "line":
        ends = ((0.0, (-reach, 0.0, 0.0)), (1.0, (reach, 0.0, 0.0)))
        return tuple(PathKey(at=at, position=place, ease="linear") for at, place in ends)
    if name == "swing":
        return tuple(_swung(k / 8, reach) for k in range(9))
    turns = np.linspace(0.0, 2.0 * math.pi, 13 if name == "figure eight" else 9)
    found = []
    for k, turn in enumerate(turns):
        across = math.sin(2 * turn) / 2 if name == "figure eight" else math.cos(turn)
        place = (_tidy(reach * math.sin(turn)), 0.0, _tidy(reach * across))
        found.append(PathKey(at=_tidy(k / (len(turns) - 1)), position=place))
    return tuple(found)


def _swung(at: float, reach: float) -> PathKey:
    """Return a key of a pendulum that hangs from a point twice its reach above the place."""
    rope = 2.0 * reach
    lean = math.asin(0.5) * math.cos(2.0 * math.pi * at)
    place = (_tidy(rope * math.sin(lean)), _tidy(rope * (1.0 - math.cos(lean))), 0.0)
    return PathKey(at=_tidy(at), position=place, rotation=(0.0, 0.0, _tidy(math.degrees(lean))))


def _tidy(x: float) -> float:
    return round(x, 4) + 0.0

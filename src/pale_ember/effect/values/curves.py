"""Keyed curves: what a key is, and the piecewise cubic that keys make."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

EASES = ("smooth", "linear", "hold", "free")

# Keys that are closer than this stand at one x: the curve steps there.
CLOSE = 1e-9

Floats = NDArray[np.float64]


class Key(NamedTuple):
    """A key of a curve.

    ``ease`` rules the stretch from this key to the next; ``in_slope`` and ``out_slope`` (value per unit
    of x) count for ``free`` keys only.
    """

    x: float
    y: float
    ease: str = "smooth"
    in_slope: float = 0.0
    out_slope: float = 0.0


Keys = tuple[Key, ...]


class Segments(NamedTuple):
    """A curve as cubics: between ``x[i]`` and ``x[i + 1]`` it is ``c[i] · (1, s, s², s³)``, s = x - x[i]."""

    x: Floats
    c: Floats
    first: float
    last: float


def sorted_keys(keys: Keys) -> Keys:
    """Return the keys in order of x; keys that share an x keep their order."""
    return tuple(sorted(keys, key=lambda k: k.x))


def segments(keys: Keys) -> Segments:
    """Return the cubic pieces of a curve.

    Stretches of no width (steps) are left out. Slopes at smooth keys are those of the monotone cubic
    interpolant by Fritsch and Butland (SIAM J. Sci. Stat. Comput. 5, 1984), as SciPy's
    PchipInterpolator has them, over each run of keys that no step and no held stretch interrupts. A smooth or
    free stretch that ends at a linear or held key comes to it level.
    """
    starts: list[float] = []
    coefficients: list[tuple[float, float, float, float]] = []
    slopes = slopes_of(keys)
    for i in range(len(keys) - 1):
        a, b = keys[i], keys[i + 1]
        width = b.x - a.x
        if width <= CLOSE:
            continue
        starts.append(a.x)
        secant = (b.y - a.y) / width
        if a.ease == "hold":
            coefficients.append((a.y, 0.0, 0.0, 0.0))
        elif a.ease == "linear":
            coefficients.append((a.y, secant, 0.0, 0.0))
        else:
            leave, arrive = cubic_slopes(keys, slopes, i)
            coefficients.append(
                (
                    a.y,
                    leave,
                    (3 * secant - 2 * leave - arrive) / width,
                    (leave + arrive - 2 * secant) / width**2,
                )
            )
    return Segments(
        np.array(starts, dtype=np.float64),
        np.array(coefficients, dtype=np.float64).reshape(-1, 4),
        keys[0].y,
        keys[-1].y,
    )


def cubic_slopes(keys: Keys, slopes: Floats, i: int) -> tuple[float, float]:
    """Return the slopes with which the cubic stretch behind key ``i`` leaves it and comes to the next one.

    ``slopes`` are those of :func:`slopes_of`; a linear or held key is come to level.
    """
    a, b = keys[i], keys[i + 1]
    leave = a.out_slope if a.ease == "free" else float(slopes[i])
    return leave, {"free": b.in_slope, "smooth": float(slopes[i + 1])}.get(b.ease, 0.0)


def evaluate(keys: Keys, x: ArrayLike, before: bool = False) -> Floats:
    """Return the curve's values at x.

    Before the first key the curve has the first key's value, after the last the last key's. At a step
    it has the later key's value.

    Parameters
    ----------
    keys : tuple of Key
        At least one, in order of x.
    x : array_like, shape (n,)
    before : bool
        Whether to give the value that the curve comes to from below x, which differs from that at x where it
        jumps.

    Returns
    -------
    ndarray, shape (n,)
    """
    at = np.atleast_1d(np.asarray(x, dtype=np.float64))
    pieces = segments(keys)
    below, behind = (at <= keys[0].x, at > keys[-1].x) if before else (at < keys[0].x, at >= keys[-1].x)
    if len(pieces.x) == 0:
        return np.where(below, pieces.first, pieces.last)
    index = np.clip(
        np.searchsorted(pieces.x, at, side="left" if before else "right") - 1, 0, len(pieces.x) - 1
    )
    s = at - pieces.x[index]
    c = pieces.c[index]
    found = c[:, 0] + s * (c[:, 1] + s * (c[:, 2] + s * c[:, 3]))
    found = np.where(below, pieces.first, found)
    return np.where(behind, pieces.last, found)


def breaks(keys: Keys) -> list[float]:
    """Return the x at which the curve jumps: steps, and the ends of held stretches."""
    found = []
    for a, b in itertools.pairwise(keys):
        if (a.ease == "hold" or b.x - a.x <= CLOSE) and a.y != b.y:
            found.append(b.x)
    return found


def with_key_at(keys: Keys, x: float) -> tuple[Keys, int]:
    """Return the keys with one more at x that leaves the curve's shape as it was, and its index.

    A key on a held or straight stretch takes that ease; one on a cubic stretch is ``free`` with the
    curve's own slope. Smooth keys whose slope would change become ``free`` with the slope that they had.
    """
    x = min(max(x, 0.0), 1.0)
    x = next((k.x for k in keys if abs(k.x - x) <= CLOSE), x)
    y = float(evaluate(keys, x)[0])
    at = int(np.searchsorted([k.x for k in keys], x, side="right"))
    if at == 0:
        key = Key(x, y, "linear")
    elif at == len(keys):
        key = Key(x, y, "free") if keys[-1].ease in ("smooth", "free") else Key(x, y, keys[-1].ease)
    elif keys[at - 1].ease in ("hold", "linear"):
        key = Key(x, y, keys[at - 1].ease)
    else:
        pieces = segments(keys)
        piece = int(np.searchsorted(pieces.x, x, side="right")) - 1
        s, c = x - pieces.x[piece], pieces.c[piece]
        slope = float(c[1] + s * (2 * c[2] + 3 * s * c[3]))
        key = Key(x, y, "free", slope, slope)
    grown = (*keys[:at], key, *keys[at:])
    before = np.insert(slopes_of(keys), at, 0.0)
    after = slopes_of(grown)
    mended = list(grown)
    for i, k in enumerate(grown):
        level_end = at == len(keys) and i == at - 1
        if i != at and (k.ease == "smooth" and (before[i] != after[i] or abs(i - at) == 1)):
            mended[i] = Key(k.x, k.y, "free", float(before[i]), 0.0 if level_end else float(before[i]))
        elif level_end and k.ease == "free":
            mended[i] = k._replace(out_slope=0.0)
    return tuple(mended), at


def slopes_of(keys: Keys) -> Floats:
    """Return the monotone slope at each key, run by run."""
    found = np.zeros(len(keys))
    start = 0
    for i in range(len(keys)):
        ends = i == len(keys) - 1 or keys[i].ease == "hold" or keys[i + 1].x - keys[i].x <= CLOSE
        if ends:
            x = np.array([k.x for k in keys[start : i + 1]])
            y = np.array([k.y for k in keys[start : i + 1]])
            found[start : i + 1] = _run_slopes(x, y)
            start = i + 1
    return found


def _run_slopes(x: Floats, y: Floats) -> Floats:
    """Return the slopes at the keys of a run, by Fritsch and Butland."""
    n = len(x)
    if n == 1:
        return np.zeros(1)
    h = np.diff(x)
    d = np.diff(y) / h
    if n == 2:
        return np.array([d[0], d[0]])
    m = np.zeros(n)
    same = d[:-1] * d[1:] > 0.0
    w1 = 2 * h[1:] + h[:-1]
    w2 = h[1:] + 2 * h[:-1]
    safe0 = np.where(same, d[:-1], 1.0)
    safe1 = np.where(same, d[1:], 1.0)
    m[1:-1] = np.where(same, (w1 + w2) / (w1 / safe0 + w2 / safe1), 0.0)
    m[0] = _end_slope(h[0], h[1], d[0], d[1])
    m[-1] = _end_slope(h[-1], h[-2], d[-1], d[-2])
    return m


def _end_slope(h0: float, h1: float, d0: float, d1: float) -> float:
    """Return the three-point end slope, held back so that the shape is kept."""
    m = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if m * d0 <= 0.0:
        return 0.0
    if d0 * d1 <= 0.0 and abs(m) > 3 * abs(d0):
        return 3 * d0
    return float(m)

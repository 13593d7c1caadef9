"""A curve as knots and the stretches between them: what edits of a whole curve are made on."""

from __future__ import annotations

import itertools
from typing import NamedTuple

import numpy as np

from .curves import CLOSE, Key, Keys, cubic_slopes, segments, slopes_of

STEP, HOLD, LINEAR, CUBIC = "step", "hold", "linear", "cubic"


class Stretch(NamedTuple):
    """What a curve does from one key to the next; the slopes it leaves and arrives with count for cubics."""

    kind: str
    leave: float = 0.0
    arrive: float = 0.0


class Knot(NamedTuple):
    """A place that a curve passes, and the ease that the key there is wished to have."""

    x: float
    y: float
    wish: str


def stretches_of(keys: Keys) -> list[Stretch]:
    """Return the stretches between neighbouring keys."""
    slopes = slopes_of(keys)
    found = []
    for i, (a, b) in enumerate(itertools.pairwise(keys)):
        if b.x - a.x <= CLOSE:
            found.append(Stretch(STEP))
        elif a.ease == "hold":
            found.append(Stretch(HOLD))
        elif a.ease == "linear":
            found.append(Stretch(LINEAR))
        else:
            found.append(Stretch(CUBIC, *cubic_slopes(keys, slopes, i)))
    return found


def keys_of(knots: list[Knot], stretches: list[Stretch]) -> Keys:
    """Return keys that draw the given stretches exactly.

    A key is smooth where that is wished and draws the same, else free. A cubic can't come to a straight
    stretch but level; where it must, the straight one is written as a cubic too.
    """
    ways = list(stretches)
    for i in range(1, len(ways)):
        level = ways[i].kind == HOLD and knots[i + 1].y == knots[i].y
        if (ways[i].kind == LINEAR or level) and ways[i - 1].kind == CUBIC and ways[i - 1].arrive != 0.0:
            secant = (knots[i + 1].y - knots[i].y) / (knots[i + 1].x - knots[i].x)
            ways[i] = Stretch(CUBIC, secant, secant)
    rough = []
    for i, knot in enumerate(knots):
        out = ways[i].kind if i < len(ways) else STEP
        ease = out if out in (HOLD, LINEAR) else "smooth" if out == CUBIC else knot.wish
        rough.append(Key(knot.x, knot.y, ease))
    slopes = slopes_of(tuple(rough))
    found = []
    for i, key in enumerate(rough):
        before = ways[i - 1] if i > 0 else Stretch(STEP)
        after = ways[i] if i < len(ways) else Stretch(STEP)
        needed = [way for way, side in ((before.arrive, before), (after.leave, after)) if side.kind == CUBIC]
        comes_level = knots[i].wish in (HOLD, LINEAR) and before.arrive == 0.0
        if after.kind in (HOLD, LINEAR):
            found.append(key)
        elif after.kind == STEP and (not needed or comes_level):
            found.append(key._replace(ease=knots[i].wish))
        elif knots[i].wish != "free" and all(abs(way - slopes[i]) <= 1e-9 * (1 + abs(way)) for way in needed):
            found.append(key._replace(ease="smooth"))
        else:
            arrive = before.arrive if before.kind == CUBIC else after.leave
            leave = after.leave if after.kind == CUBIC else before.arrive
            found.append(Key(key.x, key.y, "free", arrive, leave))
    return tuple(found)


def largest_difference(a: Keys, b: Keys, first: float = 0.0, last: float = 1.0) -> float:
    """Return how far two curves are apart at most from one x to another, exactly.

    Between all keys of both their difference is one cubic; its largest is at an end or where its slope is 0.
    """
    borders = np.unique(np.concatenate([[first, last], [k.x for k in a], [k.x for k in b]]))
    borders = borders[(borders >= first) & (borders <= last)]
    if len(borders) < 2:
        return 0.0
    start, stop = borders[:-1], borders[1:]
    middle, width = (start + stop) / 2, stop - start
    ca, cb = _cubics_at(a, start, middle), _cubics_at(b, start, middle)
    c = ca - cb
    places = [np.zeros(len(start)), width]
    # Where the difference has its own highest and lowest: the roots of its slope.
    p, q, r = 3 * c[:, 3], 2 * c[:, 2], c[:, 1]
    root = np.sqrt(np.maximum(q * q - 4 * p * r, 0.0))
    lean = -0.5 * (q + np.where(q >= 0, root, -root))
    with np.errstate(divide="ignore", invalid="ignore"):
        places += [lean / p, r / lean]
    most = 0.0
    for s in places:
        s = np.clip(np.nan_to_num(s, nan=0.0, posinf=0.0, neginf=0.0), 0.0, width)
        most = max(most, float(np.max(np.abs(c[:, 0] + s * (c[:, 1] + s * (c[:, 2] + s * c[:, 3]))))))
    return most


def _cubics_at(keys: Keys, start: np.ndarray, middle: np.ndarray) -> np.ndarray:
    """Return the cubics that hold between borders, each about its start; shape (n, 4)."""
    pieces = segments(keys)
    found = np.zeros((len(start), 4))
    if len(pieces.x):
        at = np.clip(np.searchsorted(pieces.x, middle, side="right") - 1, 0, len(pieces.x) - 1)
        c, s = pieces.c[at], start - pieces.x[at]
        found[:, 0] = c[:, 0] + s * (c[:, 1] + s * (c[:, 2] + s * c[:, 3]))
        found[:, 1] = c[:, 1] + s * (2 * c[:, 2] + 3 * s * c[:, 3])
        found[:, 2] = c[:, 2] + 3 * s * c[:, 3]
        found[:, 3] = c[:, 3]
    found[middle < keys[0].x] = (keys[0].y, 0.0, 0.0, 0.0)
    found[middle >= keys[-1].x] = (keys[-1].y, 0.0, 0.0, 0.0)
    return found

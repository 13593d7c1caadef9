"""How far each pixel is from the border of what is there.

Exact distances by lower envelopes of parabolas after P. Felzenszwalb and D. Huttenlocher, "Distance Transforms of
Sampled Functions", 2012, run around at the borders.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float32]
_FAR = 1e12


@njit(cache=True, nogil=True)
def _line(level, out, places, bounds):  # type: ignore[no-untyped-def]
    """Write the least of level[q] + (p - q)² for all p, along a line that is laid three times beside itself."""
    long = level.shape[0]
    count = 0
    places[0] = -long
    bounds[0], bounds[1] = -_FAR, _FAR
    for q in range(-long + 1, 2 * long):
        fq = level[q % long]
        while True:
            p = places[count]
            s = ((fq + q * q) - (level[p % long] + p * p)) / (2.0 * (q - p))
            if s > bounds[count] or count == 0:
                break
            count -= 1
        if s <= bounds[count]:
            places[count] = q
            bounds[count] = -_FAR
        else:
            count += 1
            places[count] = q
            bounds[count] = s
        bounds[count + 1] = _FAR
    at = 0
    for p in range(long):
        while bounds[at + 1] < p:
            at += 1
        q = places[at]
        out[p] = level[q % long] + (p - q) * (p - q)


@njit(cache=True, nogil=True)
def _squares(field):  # type: ignore[no-untyped-def]
    size = field.shape[0]
    places, bounds = np.empty(3 * size + 2, np.int64), np.empty(3 * size + 3, np.float64)
    line, out = np.empty(size, np.float64), np.empty(size, np.float64)
    for column in range(size):
        for row in range(size):
            line[row] = field[row, column]
        _line(line, out, places, bounds)
        for row in range(size):
            field[row, column] = out[row]
    for row in range(size):
        for column in range(size):
            line[column] = field[row, column]
        _line(line, out, places, bounds)
        for column in range(size):
            field[row, column] = out[column]


@njit(cache=True, nogil=True)
def _beside(light, at, far):  # type: ignore[no-untyped-def]
    """Write for the pixels beside the border how far it passes from their middles, between it and the next one's."""
    size = light.shape[0]
    for row in range(size):
        for column in range(size):
            here = light[row, column] - at
            near = _FAR
            for k in range(4):
                r = (row + (1 if k == 0 else -1 if k == 1 else 0)) % size
                c = (column + (1 if k == 2 else -1 if k == 3 else 0)) % size
                there = light[r, c] - at
                if (here >= 0.0) != (there >= 0.0):
                    near = min(near, abs(here) / max(abs(here - there), 1e-9))
            if near < _FAR:
                far[row, column] = near


def distance(light: Floats, at: float) -> Floats:
    """Return how far each pixel is from where a picture passes a level, pixels; far where it never does."""
    inside = light >= np.float32(at)
    out, into = np.where(inside, 0.0, _FAR), np.where(inside, _FAR, 0.0)
    _squares(out)
    _squares(into)
    # The border passes half-way between the middles of pixels.
    far = np.sqrt(np.minimum(np.maximum(out, into), _FAR)) - 0.5
    _beside(light, float(at), far)
    return far.astype(np.float32)

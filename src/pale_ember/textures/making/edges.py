"""How far each pixel is from the border of what is there, as far as that is asked for."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float32]


@njit(cache=True, nogil=True)
def _along_rows(inside, reach, out):  # type: ignore[no-untyped-def]
    """Write for each pixel how far along its row the nearest one of the other kind is, round at the
    borders.
    """
    size = inside.shape[0]
    for row in range(size):
        # Twice round, forth and back: what was met last is the nearest on that side.
        far = reach + 1
        for step in range(2 * size):
            column = step % size
            far = far + 1 if inside[row, column] == inside[row, (column - 1) % size] else 1
            out[row, column] = min(far, reach + 1)
        far = reach + 1
        for step in range(2 * size):
            column = size - 1 - step % size
            far = far + 1 if inside[row, column] == inside[row, (column + 1) % size] else 1
            if far < out[row, column]:
                out[row, column] = far


@njit(cache=True, nogil=True)
def _distance(light, at, inside, rows, reach, out):  # type: ignore[no-untyped-def]
    """Fill ``out`` with the signed distance to the nearest edge, from those along rows."""
    size = light.shape[0]
    for row in range(size):
        for column in range(size):
            mine = inside[row, column]
            best = rows[row, column] ** 2
            for dy in range(1, reach + 1):
                if dy * dy >= best:
                    break
                for side in range(2):
                    there = (row + (dy if side == 0 else -dy)) % size
                    across = 0 if inside[there, column] != mine else rows[there, column]
                    best = min(best, dy * dy + across * across)
            # The border passes half-way between the middles of pixels; beside it, where the level is passed.
            far = math.sqrt(best) - 0.5
            if best == 1:
                far = 1.0
                here = light[row, column] - at
                for k in range(4):
                    r = (row + (1 if k == 0 else -1 if k == 1 else 0)) % size
                    c = (column + (1 if k == 2 else -1 if k == 3 else 0)) % size
                    if inside[r, c] != mine:
                        far = min(far, abs(here) / max(abs(here - (light[r, c] - at)), 1e-9))
            out[row, column] = far


def distance(light: Floats, at: float, reach: int) -> Floats:
    """Return how far each pixel is from where a picture passes a level, pixels; more than ``reach`` where
    it is farther.
    """
    inside = light >= np.float32(at)
    rows, out = np.empty(light.shape, np.int64), np.empty(light.shape, np.float32)
    _along_rows(inside, reach, rows)
    _distance(light, float(at), inside, rows, reach, out)
    return out

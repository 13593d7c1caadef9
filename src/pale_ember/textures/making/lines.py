"""Lines of any width and softness, drawn into a picture: cracks, bolts, strokes of a brush."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float32]


@njit(cache=True, nogil=True)
def _draw(out, lines, softness):  # type: ignore[no-untyped-def]
    """Put lines over a picture, the brightest wins; rows of x, y, width, level at both ends, in pixels."""
    high, wide = out.shape
    for i in range(lines.shape[0]):
        ax, ay, aw, al, bx, by, bw, bl = lines[i]
        reach = max(aw, bw) + 1.0
        left, right = max(math.floor(min(ax, bx) - reach), 0), min(math.ceil(max(ax, bx) + reach), wide - 1)
        top, low = max(math.floor(min(ay, by) - reach), 0), min(math.ceil(max(ay, by) + reach), high - 1)
        dx, dy = bx - ax, by - ay
        square = dx * dx + dy * dy
        for row in range(top, low + 1):
            for column in range(left, right + 1):
                px, py = column + 0.5 - ax, row + 0.5 - ay
                share = 0.0
                if square > 1e-12:
                    share = min(max((px * dx + py * dy) / square, 0.0), 1.0)
                ex, ey = px - share * dx, py - share * dy
                width = aw + (bw - aw) * share
                # A line is never thinner than a pixel: it becomes fainter instead.
                body = max(width, 0.5)
                far = math.sqrt(ex * ex + ey * ey)
                fall = max(softness * body, 1.0)
                soft = min(max((body + 0.5 - far) / fall, 0.0), 1.0)
                level = (al + (bl - al) * share) * min(width / 0.5, 1.0) * soft * soft * (3.0 - 2.0 * soft)
                if level > out[row, column]:
                    out[row, column] = level


def draw_lines(size: int, lines: NDArray[np.float64], softness: float) -> Floats:
    """Return lines as a picture of 0…1, shape (size, size).

    Parameters
    ----------
    lines : (n, 8) array
        x, y, half of the width and the level at one end, then at the other; −1…1, y upwards.
    softness : float
        How much of the width fades, 0…1.
    """
    out = np.zeros((size, size), np.float32)
    if len(lines):
        half = size / 2.0
        scaled = np.array(lines, np.float64).reshape(-1, 8)
        for at in (0, 4):
            scaled[:, at] = (scaled[:, at] + 1.0) * half
            scaled[:, at + 1] = (1.0 - scaled[:, at + 1]) * half
            scaled[:, at + 2] *= half
        # What is far outside can't be seen, whatever its numbers.
        _draw(out, np.clip(scaled, -8.0 * size, 9.0 * size), float(softness))
    return np.clip(out, 0.0, 1.0)

"""What is drawn by hand: strokes of a soft brush, turned and mirrored."""

from __future__ import annotations

import functools
import math

import numpy as np
from numpy.typing import NDArray

from ...effect.steps.drawn import Stroke, Strokes
from .canvas import Canvas, Floats
from .lines import draw_lines


def stroke_lines(stroke: Stroke) -> NDArray[np.float64]:
    """Return a stroke's pieces as rows for :func:`draw_lines`; a dab is a piece without length."""
    points = np.array(stroke.points, np.float64).reshape(-1, 3)
    if len(points) == 1:
        points = np.repeat(points, 2, axis=0)
    ends = np.empty((len(points), 4))
    ends[:, :2] = points[:, :2]
    # Pressure widens the brush and fills it.
    ends[:, 2] = stroke.size * (0.25 + 0.75 * points[:, 2])
    ends[:, 3] = stroke.strength * np.sqrt(points[:, 2])
    return np.concatenate([ends[:-1], ends[1:]], axis=1)


def placements(step: Strokes) -> list[NDArray[np.float64]]:
    """Return the turns and mirrors of each stroke as matrices, (2, 2) each."""
    found = []
    for i in range(step.symmetry):
        turn = 2.0 * math.pi * i / step.symmetry
        c, s = math.cos(turn), math.sin(turn)
        found.append(np.array([[c, -s], [s, c]]))
        if step.mirror:
            found.append(np.array([[-c, -s], [-s, c]]))
    return found


def strokes(step: Strokes, canvas: Canvas) -> Floats:
    return _drawn(step.strokes, step.symmetry, step.mirror, canvas.size)


@functools.lru_cache(maxsize=3)
def _drawn(drawn_by_hand: tuple[Stroke, ...], symmetry: int, mirror: bool, size: int) -> Floats:
    """Return strokes as a picture: the same for all frames of a sheet, so drawn once."""
    found = np.zeros((size, size), np.float32)
    step = Strokes(symmetry=symmetry, mirror=mirror)
    places = placements(step)
    for stroke in drawn_by_hand:
        if not stroke.points:
            continue
        rows = stroke_lines(stroke)
        turned = []
        for matrix in places:
            one = rows.copy()
            one[:, 0:2] = rows[:, 0:2] @ matrix.T
            one[:, 4:6] = rows[:, 4:6] @ matrix.T
            turned.append(one)
        drawn = draw_lines(size, np.concatenate(turned), stroke.softness * 2.0)
        found = found * (1.0 - drawn) if stroke.erase else found + drawn * (1.0 - found)
    found = found.astype(np.float32)
    found.setflags(write=False)
    return found

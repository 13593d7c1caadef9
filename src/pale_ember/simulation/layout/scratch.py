"""Working memory for one thread's motion or appearance: rows, each a block of particles long."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# Particles are handled in blocks of so many.
BLOCK = 512
# Keeps the rows of scratch memory out of each other's cache sets.
PAD = 80
# Rows that every pass's scratch memory begins with: draws, cells, places in them, and for how many cells
# those hold.
U, AT, SHARE, HELD = range(4)
COMMON_ROWS = 4
# Motion: the step each one lives, s; its age in the middle of it and at its end; its speed as a share of the
# range; what velocity and place keep of drag (see ``forces``); acceleration; drift; pace; the place in the
# middle of the step; limits of speed in the middle and at the end; half of an orbit's turn; values and ways
# that are soon used up.
(
    SPAN,
    MIDDLE,
    END,
    FAST,
    E0,
    E1,
    E2,
    AX,
    AY,
    AZ,
    DX,
    DY,
    DZ,
    PACE,
    MX,
    MY,
    MZ,
    LIMIT,
    LAST_LIMIT,
    TURNED,
    VALUE,
    T0,
    T1,
    T2,
) = range(COMMON_ROWS, COMMON_ROWS + 24)
# Where a layer has contact, or is followed: place, velocity and angle before the step; seconds of the last
# stretch of the way; whether the particle's death is written down; whether it comes near the floor; its cell
# of the grid over the props; and memory for one particle at a time.
P0X, P0Y, P0Z, V0X, V0Y, V0Z, TURNED_FROM, PIECE, GONE, NEAR, CELL, WORK, STACK = range(
    COMMON_ROWS + 24, COMMON_ROWS + 37
)
# Of those born along a line or a bow: their place in the row, 0…1; the share of the step at which they are
# wanted there.
ROW, WHEN = range(COMMON_ROWS + 37, COMMON_ROWS + 39)
MOTION_ROWS = COMMON_ROWS + 39


def motion_scratch() -> NDArray[np.float32]:
    """Return working memory for one thread's motion."""
    return np.zeros((MOTION_ROWS, BLOCK + PAD), np.float32)

"""The pose of a prop at a share of a step, and places in the prop's own axes."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from ..layout.program import CENTRE, ROTATION, STRETCH


@lean_helper
def place_prop(world, prop, share, centre, turn):
    """Write where a prop stands after a share of the step: its foot's middle, and its rotation (3, 3);
    return its stretch.
    """
    begin, end, way = world.poses[0, prop], world.poses[1, prop], world.turn[prop]
    for i in range(3):
        centre[i] = begin[CENTRE + i] + (end[CENTRE + i] - begin[CENTRE + i]) * share
    if way[3] == 0.0 or share == 0.0:
        for i in range(3):
            for k in range(3):
                turn[i, k] = begin[ROTATION + 3 * i + k]
    elif share == 1.0:
        for i in range(3):
            for k in range(3):
                turn[i, k] = end[ROTATION + 3 * i + k]
    else:
        x, y, z = way[0], way[1], way[2]
        sin, cos = np.sin(way[3] * share), np.cos(way[3] * share)
        for k in range(3):
            a, b, c = begin[ROTATION + k], begin[ROTATION + 3 + k], begin[ROTATION + 6 + k]
            along = (x * a + y * b + z * c) * (1.0 - cos)
            turn[0, k] = a * cos + (y * c - z * b) * sin + x * along
            turn[1, k] = b * cos + (z * a - x * c) * sin + y * along
            turn[2, k] = c * cos + (x * b - y * a) * sin + z * along
    return begin[STRETCH] + (end[STRETCH] - begin[STRETCH]) * share


@lean_helper
def where_it_was(world, prop, centre, turn):
    """Write where a prop stood at the end of the step before, as :func:`place_prop` does."""
    was = world.poses[2, prop]
    for i in range(3):
        centre[i] = was[CENTRE + i]
        for k in range(3):
            turn[i, k] = was[ROTATION + 3 * i + k]
    return was[STRETCH]


@lean_helper
def into_prop(centre, turn, stretch, x, y, z, out):
    """Write a place in the world as one in a prop's axes, m of its unstretched body, from its foot's
    middle.
    """
    x, y, z = x - centre[0], y - centre[1], z - centre[2]
    for k in range(3):
        out[k] = (turn[0, k] * x + turn[1, k] * y + turn[2, k] * z) / stretch


@lean_helper
def out_of_prop(centre, turn, stretch, at, out):
    """Write a place in a prop's axes as one in the world."""
    for i in range(3):
        out[i] = centre[i] + (turn[i, 0] * at[0] + turn[i, 1] * at[1] + turn[i, 2] * at[2]) * stretch

"""Props that move: where they are in a step, what they sweep, and how fast their surface goes."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import helper, kernel, lean_helper
from ..layout.program import CENTRE, POSE, ROTATION, STRETCH
from ..layout.signatures import INT, NOTHING, PROGRAM
from .prop_axes import place_prop


@lean_helper
def surface_motion(world, prop, rate, share, at, velocity, acceleration, turn, centre):
    """Fill how a prop's surface moves at a place in the prop's axes, after a share of the step: m/s, and
    m/s².
    """
    begin, end, way = world.poses[0, prop], world.poses[1, prop], world.turn[prop]
    stretch = place_prop(world, prop, share, centre, turn)
    growth = (end[STRETCH] - begin[STRETCH]) / stretch * rate
    fast = way[3] * rate
    wx, wy, wz = way[0] * fast, way[1] * fast, way[2] * fast
    for i in range(3):
        # From the prop's foot, in the world.
        acceleration[i] = (turn[i, 0] * at[0] + turn[i, 1] * at[1] + turn[i, 2] * at[2]) * stretch
    x, y, z = acceleration[0], acceleration[1], acceleration[2]
    tx, ty, tz = wy * z - wz * y, wz * x - wx * z, wx * y - wy * x
    velocity[0] = (end[CENTRE] - begin[CENTRE]) * rate + tx + growth * x
    velocity[1] = (end[CENTRE + 1] - begin[CENTRE + 1]) * rate + ty + growth * y
    velocity[2] = (end[CENTRE + 2] - begin[CENTRE + 2]) * rate + tz + growth * z
    acceleration[0] = wy * tz - wz * ty + 2.0 * growth * tx
    acceleration[1] = wz * tx - wx * tz + 2.0 * growth * ty
    acceleration[2] = wx * ty - wy * tx + 2.0 * growth * tz


@kernel(NOTHING, PROGRAM, INT, entry=True)
def stand_props(program, step):
    """Put moving props where they are at the beginning and the end of a step."""
    world = program.world
    row = step - world.since[0]
    for k in range(world.movers.shape[0]):
        prop = world.movers[k]
        begin, end, was = world.poses[0, prop], world.poses[1, prop], world.poses[2, prop]
        for i in range(POSE):
            was[i] = world.table[row - 1, 1, k, i]
            begin[i], end[i] = world.table[row, 0, k, i], world.table[row, 1, k, i]
        _turning(begin, end, world.turn[prop])
        half, box = world.half[prop], world.boxes[prop]
        # A ball around the body, whichever way it turns, on its way from the one place to the other.
        far = 0.0
        grown = max(begin[STRETCH], end[STRETCH])
        for i in range(3):
            far += half[i] * half[i]
        # The body's middle is as high over its foot as half its height.
        far = (np.sqrt(far) + half[1]) * grown
        for i in range(3):
            box[i] = min(begin[CENTRE + i], end[CENTRE + i]) - far
            box[3 + i] = max(begin[CENTRE + i], end[CENTRE + i]) + far


@helper
def _turning(begin, end, out):
    """Write the axis and the angle of the rotation from one pose to another."""
    m = np.empty((3, 3))
    for i in range(3):
        for k in range(3):
            m[i, k] = 0.0
            for c in range(3):
                m[i, k] += end[ROTATION + 3 * i + c] * begin[ROTATION + 3 * k + c]
    x, y, z = m[2, 1] - m[1, 2], m[0, 2] - m[2, 0], m[1, 0] - m[0, 1]
    twice = np.sqrt(x * x + y * y + z * z)
    angle = np.arctan2(twice, m[0, 0] + m[1, 1] + m[2, 2] - 1.0)
    if twice < 1e-12:
        # Nothing, or half a turn in one step, which has no way of its own: it jumps.
        out[0], out[1], out[2], out[3] = 0.0, 1.0, 0.0, 0.0
        if angle > 1.0:
            for i in range(POSE):
                begin[i] = end[i]
        return
    out[0], out[1], out[2], out[3] = x / twice, y / twice, z / twice, angle


call_stand_props = stand_props.call

"""Props that move: where they are in a step, what they sweep, and how fast their surface goes."""

from __future__ import annotations

import numpy as np

from .answering import VS, A
from .course import CENTRE, POSE, ROTATION, STRETCH
from .kernels import helper, kernel, lean_helper
from .meeting import out_of_prop, place_prop
from .signatures import COURSE, INT, NOTHING


@lean_helper
def surface_velocity(world, prop, rate, at, m, turn, centre):
    """Fill the velocity of a prop's surface at a place in its axes: that over the whole step."""
    vs, out = m[VS], m[A]
    stretch = place_prop(world, prop, 0.0, centre, turn)
    out_of_prop(centre, turn, stretch, at, vs)
    stretch = place_prop(world, prop, 1.0, centre, turn)
    out_of_prop(centre, turn, stretch, at, out)
    for i in range(3):
        vs[i] = (out[i] - vs[i]) * rate


@kernel(NOTHING, COURSE, INT, entry=True)
def stand_props(course, step):
    """Put moving props where they are at the beginning and the end of a step."""
    world = course.world
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

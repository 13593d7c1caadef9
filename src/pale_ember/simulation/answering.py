"""What a surface does to the velocity and the way of what hits it, or slides on it."""

from __future__ import annotations

import numpy as np

from .kernels import lean_helper

# Rows of the memory for one particle's vectors while it is carried over a step: place, velocity, way, bow, change of
# velocity, outward direction, the surface's velocity, what is soon used up, and nothing.
P, V, WAY, BOW, DV, OUT, VS, A, B, NONE = range(10)
# The fastest that a hit makes something turn, radians/s.
FASTEST_TURN = 120.0


@lean_helper
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@lean_helper
def turn_with(course, state, j, size, kept_share, out, along):
    """Let a hit, or sliding, turn a particle's spin to rolling along the surface, as far as friction goes."""
    radius = max(0.5 * size, 1e-3)
    # Rolling turns about the axis across way and surface; which way round is told as seen from the front.
    x = out[1] * along[2] - out[2] * along[1]
    y = out[2] * along[0] - out[0] * along[2]
    z = out[0] * along[1] - out[1] * along[0]
    fast = min(np.sqrt(dot(along, along)) / radius, FASTEST_TURN)
    roll = fast if 0.35 * x + 0.2 * y + 0.91 * z >= 0.0 else -fast
    share = min(max(1.0 - kept_share, 0.0), 1.0)
    kept, added = np.float64(state[course.rows.kept, j]), np.float64(state[course.rows.added, j])
    state[course.rows.kept, j] = kept * (1.0 - share)
    state[course.rows.added, j] = added + (roll - added) * share


@lean_helper
def slide(m, span, pace, friction):
    """Make the rest of a way one along the surface, held by friction; ``m`` has the vectors."""
    v, way, bow, dv, out, vs, along, ahead = m[V], m[WAY], m[BOW], m[DV], m[OUT], m[VS], m[A], m[B]
    push = max(-dot(dv, out), 0.0)
    moves = dot(vs, vs) > 0.0
    # What moves a particle besides its velocity, such as drift, goes on along the surface.
    lifted, gain = dot(v, out) - dot(vs, out), dot(dv, out)
    slip, tug = 0.0, 0.0
    for i in range(3):
        along[i] = v[i] - vs[i] - lifted * out[i]
        ahead[i] = dv[i] - gain * out[i]
        way[i] -= pace * (v[i] + 0.5 * dv[i]) * span
    drift = dot(way, out)
    for i in range(3):
        way[i] -= drift * out[i]
    hold = friction * push
    slip, tug = np.sqrt(dot(along, along)), np.sqrt(dot(ahead, ahead))
    whole = 0.0
    for i in range(3):
        whole += (along[i] + ahead[i]) ** 2
    stays = np.sqrt(whole) <= hold and (moves or slip <= 1e-7)
    if stays:
        for i in range(3):
            along[i], ahead[i] = 0.0, 0.0
    else:
        # Friction holds against the way that it slides, or would begin to.
        by = max(slip if slip > 1e-7 else tug, 1e-300)
        back = 0.0
        for i in range(3):
            back += (along[i] if slip > 1e-7 else ahead[i]) / by * ahead[i]
        stop = hold - back
        if slip > 1e-7 and tug <= hold and stop > slip:
            # It comes to rest inside the step, and stays.
            share = slip / stop
            for i in range(3):
                way[i] += pace * span * 0.5 * along[i] * share
                bow[i] = 0.0
                v[i], dv[i] = vs[i], 0.0
                way[i] += pace * vs[i] * span
            return
        for i in range(3):
            ahead[i] -= hold * (along[i] if slip > 1e-7 else ahead[i]) / by
    for i in range(3):
        v[i] = vs[i] + along[i]
        dv[i] = ahead[i]
        way[i] += pace * (v[i] + 0.5 * dv[i]) * span
        bow[i] = 0.5 * pace * span * dv[i]


@lean_helper
def throw_back(m, bounce, friction, still):
    """Give a velocity after a hit; return how much of what goes along the surface is left, 0…1."""
    v, out, vs, along = m[V], m[OUT], m[VS], m[A]
    into = dot(v, out) - dot(vs, out)
    back = -bounce * into
    if back * back <= still or back < 0.0:
        back = 0.0
    for i in range(3):
        along[i] = v[i] - vs[i] - into * out[i]
    slip = np.sqrt(dot(along, along))
    share = 1.0
    if slip > 0.0:
        share = 1.0 - min(friction * (back - into), slip) / slip
    for i in range(3):
        along[i] *= share
        v[i] = vs[i] + along[i] + back * out[i]
    return share



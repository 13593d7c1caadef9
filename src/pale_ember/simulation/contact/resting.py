"""Particles that rest on a surface or are inside of a solid: they are carried along, or put back outside."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from ..layout import rows, scratch
from ..motion.prop_axes import into_prop, out_of_prop, place_prop, where_it_was
from .first_hit import meet_shift
from .parabolas import NEVER
from .response import DV, MET, NONE, OUT, PUT, WAY, A, B, P, V, dot


@lean_helper
def is_told(a, b):
    """Return whether the sum of two vectors is one of numbers that float32 has."""
    return abs(a[0] + b[0]) + abs(a[1] + b[1]) + abs(a[2] + b[2]) < 1e38


@lean_helper
def carry_along(program, state, j, i, scr, m, turn, centre):
    """Carry a particle that sticks along with what it sticks to."""
    world, rate = program.world, program.clock.rate
    prop = state[program.extra_rows.stuck].view(np.int32)[j] - 1
    p = m[P]
    for axis in range(3):
        p[axis] = scr[scratch.P0X + axis, i]
        m[V, axis] = 0.0
    if prop < world.kind.shape[0]:
        # From where the prop was: at the end of a loop it may jump, and takes along what sticks to it.
        at = m[B]
        stretch = where_it_was(world, prop, centre, turn)
        into_prop(centre, turn, stretch, p[0], p[1], p[2], at)
        stretch = place_prop(world, prop, 0.0, centre, turn)
        out_of_prop(centre, turn, stretch, at, p)
        for axis in range(3):
            scr[scratch.P0X + axis, i] = p[axis]
        stretch = place_prop(world, prop, 1.0, centre, turn)
        out_of_prop(centre, turn, stretch, at, p)
        for axis in range(3):
            m[V, axis] = (p[axis] - np.float64(scr[scratch.P0X + axis, i])) * rate
        if not (is_told(p, m[NONE]) and is_told(m[V], m[NONE])):
            for axis in range(3):
                p[axis], m[V, axis] = state[rows.PX + axis, j], 0.0
    for axis in range(3):
        state[rows.PX + axis, j] = p[axis]
        state[rows.VX + axis, j] = m[V, axis]
        scr[scratch.V0X + axis, i] = m[V, axis]
    state[rows.ANGLE, j] = scr[scratch.TURNED_FROM, i]


@lean_helper
def _go_to(m, world, which, mask, slop, share, end, work, turn, stack):
    """Shift a particle from where it is to row PUT, until the end of a share of the step; it passes no
    other prop's skin.
    """
    p, put = m[P], m[PUT]
    for turns in range(6):
        first = NEVER
        for prop in range(world.kind.shape[0]):
            # What it is put out of, or waits on, holds it too once another has changed where it goes.
            if (prop != which or turns > 0) and mask >> np.uint64(prop) & np.uint64(1):
                at = meet_shift(world, prop, slop, share, end, p, put, work, turn, stack)
                if at < first:
                    first = at
                    for k in range(3):
                        m[A, k] = work[2, k]
        if first == NEVER:
            break
        for k in range(3):
            put[k] = m[A, k]
    for k in range(3):
        p[k] = put[k]


@lean_helper
def stay_on(m, world, which, mask, slop, share, span, work, turn, stack):
    """Let a particle wait for the step's end where it is on a surface, and go along with that."""
    p, displacement = m[P], m[WAY]
    for k in range(3):
        m[B, k], m[PUT, k] = p[k], p[k]
        m[DV, k] = 0.0
    if which < world.kind.shape[0] and which >= 0:
        stretch = place_prop(world, which, 1.0, work[3], turn)
        out_of_prop(work[3], turn, stretch, m[MET], m[PUT])
    if world.movers.shape[0] > 0:
        _go_to(m, world, which, mask, slop, share, 1.0, work, turn, stack)
    for k in range(3):
        displacement[k] = p[k] - m[B, k]
        p[k] = m[B, k]


@lean_helper
def put_out(m, world, which, mask, slop, share, newborn, span, pace, work, turn, stack):
    """Push a particle out of the body that it is inside of, and remove its velocity that leads back in."""
    v, displacement, out = m[V], m[WAY], m[OUT]
    if newborn:
        for k in range(3):
            m[P, k] = m[PUT, k]
    else:
        _go_to(m, world, which, mask, slop, share, share, work, turn, stack)
    into = dot(v, out)
    if into < 0.0:
        for k in range(3):
            v[k] -= into * out[k]
            displacement[k] -= pace * into * out[k] * span

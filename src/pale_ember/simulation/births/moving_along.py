"""Moves particles with their layer: those that follow its path, and those that glitter from place to
place in its shape.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import kernel, lean_helper
from ..layout import rows, scratch
from ..layout.program import CENTRE, FROM, POSE, ROTATION, STRETCH, TO
from ..layout.scratch import BLOCK
from ..layout.signatures import D1, F2, INT, NOTHING, PROGRAM, U1
from .aiming import call_spawn


@kernel(NOTHING, F2, INT, INT, D1, D1)
def take_along(state, first, last, a, b):
    """Move particles as the layer moves from one pose to another: turned, stretched and shifted about its
    centre.
    """
    still = True
    for i in range(POSE):
        still &= a[i] == b[i]
    if still:
        return
    grow = b[STRETCH] / a[STRETCH]
    m = np.empty((3, 3))
    for i in range(3):
        for j in range(3):
            m[i, j] = 0.0
            for k in range(3):
                m[i, j] += b[ROTATION + 3 * i + k] * a[ROTATION + 3 * j + k] * grow
    for j in range(first, last):
        x, y, z = (
            state[rows.PX, j] - a[CENTRE],
            state[rows.PY, j] - a[CENTRE + 1],
            state[rows.PZ, j] - a[CENTRE + 2],
        )
        state[rows.PX, j] = b[CENTRE] + m[0, 0] * x + m[0, 1] * y + m[0, 2] * z
        state[rows.PY, j] = b[CENTRE + 1] + m[1, 0] * x + m[1, 1] * y + m[1, 2] * z
        state[rows.PZ, j] = b[CENTRE + 2] + m[2, 0] * x + m[2, 1] * y + m[2, 2] * z
        x, y, z = np.float64(state[rows.VX, j]), np.float64(state[rows.VY, j]), np.float64(state[rows.VZ, j])
        state[rows.VX, j] = m[0, 0] * x + m[0, 1] * y + m[0, 2] * z
        state[rows.VY, j] = m[1, 0] * x + m[1, 1] * y + m[1, 2] * z
        state[rows.VZ, j] = m[2, 0] * x + m[2, 1] * y + m[2, 2] * z


@lean_helper
def offsets(scr, n, now, out):
    """Fill three rows, from ``out`` on, with the ways in the world from the layer's centre to the places
    in rows M.
    """
    x, y, z = scr[scratch.MX], scr[scratch.MY], scr[scratch.MZ]
    for axis in range(3):
        row, k, away = ROTATION + 3 * axis, now[STRETCH], scr[out + axis]
        a, b, c = now[row] * k, now[row + 1] * k, now[row + 2] * k
        for i in range(n):
            away[i] = a * x[i] + b * y[i] + c * z[i]


@kernel(NOTHING, PROGRAM, F2, U1, INT, INT, INT, INT, F2, lean=True)
def glitter(program, state, serial, first, last, last_tick, tick, scr):
    """Move particles from their place in the shape at one tick to that at the next, and as the shape
    itself moves.
    """
    row, shares, when = program.extra_rows.row, scr[scratch.ROW], scr[scratch.WHEN]
    before = program.poses[FROM]
    # Those that follow are carried along behind this.
    now = program.poses[FROM] if program.follow else program.poses[TO]
    for start in range(first, last, BLOCK):
        n = min(BLOCK, last - start)
        for i in range(n if row >= 0 else 0):
            shares[i] = state[row, start + i]
        for i in range(n):
            when[i] = np.float32(0.0)
        call_spawn(
            program.calls.spawn, program.calls.place, program.shape, serial, start, n, last_tick, False, scr
        )
        offsets(scr, n, before, scratch.AX)
        for i in range(n):
            when[i] = np.float32(1.0)
        call_spawn(
            program.calls.spawn, program.calls.place, program.shape, serial, start, n, tick, False, scr
        )
        offsets(scr, n, now, scratch.DX)
        for axis in range(3):
            old, new, place = scr[scratch.AX + axis], scr[scratch.DX + axis], state[rows.PX + axis]
            for i in range(n):
                place[start + i] += new[i] - old[i]


call_take_along, call_glitter = take_along.call, glitter.call

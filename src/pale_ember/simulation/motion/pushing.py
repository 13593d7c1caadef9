"""The acceleration of a block of particles, drag apart: gravity, thrust, pull, swirl, eddies; and drift,
pace and spin.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import helper, kernel
from ..layout import rows, scratch, slots
from ..layout.signatures import AROUND, BOOL, CALLS, F2, I1, INT, NOTHING, TABLES, U1
from ..values.sampling import call_values, fill_row, is_nonzero, piece
from .forces import axis_of, call_force


@helper
def _along(scr, row, factors, n, around, axis):
    """Add a row times the layer's axis to three rows of the world, from ``row`` on."""
    x, y, z = scr[row], scr[row + 1], scr[row + 2]
    cx, cy, cz = around.rotation[0, axis], around.rotation[1, axis], around.rotation[2, axis]
    for i in range(n):
        x[i] += cx * factors[i]
        y[i] += cy * factors[i]
        z[i] += cz * factors[i]


@helper
def _to_middle(scr, state, start, n, drifts, paced):
    """Fill the M rows with where particles are in the middle of the step, but for what pushes them in it."""
    span, pace = scr[scratch.SPAN], scr[scratch.PACE]
    half = np.float32(0.5)
    for axis in range(3):
        p, v = piece(state, rows.PX + axis, start, n), piece(state, rows.VX + axis, start, n)
        m, d = scr[scratch.MX + axis], scr[scratch.DX + axis]
        if paced:
            for i in range(n):
                m[i] = p[i] + half * span[i] * pace[i] * v[i]
        else:
            for i in range(n):
                m[i] = p[i] + half * span[i] * v[i]
        if drifts:
            for i in range(n):
                m[i] += half * span[i] * d[i]


@kernel(NOTHING, F2, F2, U1, INT, INT, TABLES, I1, F2, AROUND, CALLS, everyday=True, cost=1.5)
def push(scr, state, serial, start, n, tables, form, ends, around, calls):
    """Fill the rows of acceleration, drift and pace of a block, as they are in the middle of the step."""
    zero, stretch = np.float32(0.0), around.stretch[0]
    ax, ay, az = scr[scratch.AX], scr[scratch.AY], scr[scratch.AZ]
    drifts = (
        is_nonzero(form, ends, slots.DRIFT_X)
        or is_nonzero(form, ends, slots.DRIFT_Y)
        or is_nonzero(form, ends, slots.DRIFT_Z)
    )
    paced = form[slots.PACE] != slots.CONSTANT or ends[slots.PACE, 0] != np.float32(1.0)
    if paced:
        axis = axis_of(form, slots.PACE)
        call_values(
            calls.values, scr, scratch.PACE, axis, tables, form, ends, slots.PACE, serial, start, n, stretch
        )
    axis = axis_of(form, slots.GRAVITY)
    call_values(
        calls.values, scr, scratch.VALUE, axis, tables, form, ends, slots.GRAVITY, serial, start, n, stretch
    )
    weight = scr[scratch.VALUE]
    for i in range(n):
        ax[i] = zero
        ay[i] = -weight[i]
        az[i] = zero
    # Thrust, then drift: each along the layer's own axes.
    for kind in range(2):
        first, row = (slots.THRUST_X, scratch.AX) if kind == 0 else (slots.DRIFT_X, scratch.DX)
        for axis in range(3):
            if kind == 1 and axis == 0 and drifts:
                for k in range(3):
                    fill_row(scr[scratch.DX + k], zero, n)
            slot = first + axis
            if is_nonzero(form, ends, slot):
                at = axis_of(form, slot)
                call_values(
                    calls.values, scr, scratch.VALUE, at, tables, form, ends, slot, serial, start, n, stretch
                )
                _along(scr, row, scr[scratch.VALUE], n, around, axis)
    if calls.forces.shape[0] > 0:
        _to_middle(scr, state, start, n, drifts, paced)
        for k in range(calls.forces.shape[0]):
            call_force(calls.forces[k], scr, around, tables, form, ends, serial, start, n, calls)


@kernel(NOTHING, F2, F2, U1, INT, INT, TABLES, I1, F2, CALLS, BOOL, BOOL, everyday=True, cost=0.2)
def glide(scr, state, serial, start, n, tables, form, ends, calls, drifts, spins):
    """Move a block by its drift, and turn each by its spin."""
    span = scr[scratch.SPAN]
    if drifts:
        for axis in range(3):
            p, d = piece(state, rows.PX + axis, start, n), scr[scratch.DX + axis]
            for i in range(n):
                p[i] += d[i] * span[i]
    if spins:
        axis, one = axis_of(form, slots.SPIN), np.float32(1.0)
        call_values(
            calls.values, scr, scratch.VALUE, axis, tables, form, ends, slots.SPIN, serial, start, n, one
        )
        value, angle = scr[scratch.VALUE], piece(state, rows.ANGLE, start, n)
        for i in range(n):
            angle[i] += value[i] * span[i]


call_push, call_glide = push.call, glide.call

"""Top speed: holds the speed of particles below a limit."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import helper, kernel
from ..layout import rows, scratch, slots
from ..layout.scratch import HELD
from ..layout.signatures import AROUND, CALLS, F2, I1, INT, NOTHING, TABLES, U1
from ..values.sampling import call_values, piece
from .forces import axis_of


@helper
def _limits(scr, state, serial, start, n, tables, form, ends, stretch, calls):
    """Fill the limits in the middle of the step and at its end."""
    slot, axis = slots.TOP_SPEED, axis_of(form, slots.TOP_SPEED)
    call_values(calls.values, scr, scratch.LIMIT, axis, tables, form, ends, slot, serial, start, n, stretch)
    now, last = scr[scratch.LIMIT], scr[scratch.LAST_LIMIT]
    if form[slot] == slots.LIFE_CURVE or form[slot] == slots.LIFE_BAND:
        age, end = scr[scratch.T0], scr[scratch.END]
        for i in range(n):
            age[i] = min(end[i], np.float32(1.0))
        scr[HELD].view(np.int64)[0] = 0
        call_values(
            calls.values,
            scr,
            scratch.LAST_LIMIT,
            scratch.T0,
            tables,
            form,
            ends,
            slot,
            serial,
            start,
            n,
            stretch,
        )
    else:
        for i in range(n):
            last[i] = now[i]


@kernel(NOTHING, F2, F2, U1, INT, INT, TABLES, I1, F2, AROUND, CALLS, cost=0.9)
def move_limited(scr, state, serial, start, n, tables, form, ends, around, calls):
    """Carry velocity and place over the step, never faster than the limits in its middle and at its end.

    Where the limit holds, only what pushes across the way acts, taken in the middle of the step (the midpoint
    rule on the sphere of velocities of that speed), and the way is that of the velocity there; so it is of
    second order.
    """
    _limits(scr, state, serial, start, n, tables, form, ends, around.stretch[0], calls)
    e0, e1, e2, dt = scr[scratch.E0], scr[scratch.E1], scr[scratch.E2], scr[scratch.SPAN]
    ax, ay, az, pace = scr[scratch.AX], scr[scratch.AY], scr[scratch.AZ], scr[scratch.PACE]
    middle, last = scr[scratch.LIMIT], scr[scratch.LAST_LIMIT]
    px, py, pz = (
        piece(state, rows.PX, start, n),
        piece(state, rows.PY, start, n),
        piece(state, rows.PZ, start, n),
    )
    vx, vy, vz = (
        piece(state, rows.VX, start, n),
        piece(state, rows.VY, start, n),
        piece(state, rows.VZ, start, n),
    )
    zero, one, least, most_told = np.float32(0.0), np.float32(1.0), np.float32(1e-30), np.float32(3e38)
    for i in range(n):
        top, end = max(middle[i], zero), max(last[i], zero)
        # Half a step: exp(-k·dt/2) is the root of that over the whole.
        h0 = np.sqrt(e0[i])
        h1 = e1[i] / (one + h0)
        mx, my, mz = vx[i] * h0 + ax[i] * h1, vy[i] * h0 + ay[i] * h1, vz[i] * h0 + az[i] * h1
        fast = np.sqrt(mx * mx + my * my + mz * mz)
        wx, wy, wz = (
            vx[i] * e0[i] + ax[i] * e1[i],
            vy[i] * e0[i] + ay[i] * e1[i],
            vz[i] * e0[i] + az[i] * e1[i],
        )
        free = np.sqrt(wx * wx + wy * wy + wz * wz)
        held = fast > top or free > end
        hold = min(one, top / max(fast, least))
        # What velocity gains over the step, without what only makes it faster.
        gx, gy, gz = wx - vx[i], wy - vy[i], wz - vz[i]
        along = (gx * mx + gy * my + gz * mz) / max(fast * fast, least)
        along = max(along, zero)
        # It turns as something of the middle's speed does.
        fast0 = np.sqrt(vx[i] * vx[i] + vy[i] * vy[i] + vz[i] * vz[i])
        even = top / fast0 if fast0 > least else one
        bx, by, bz = (
            vx[i] * even + gx - along * mx,
            vy[i] * even + gy - along * my,
            vz[i] * even + gz - along * mz,
        )
        wx, wy, wz = (bx if held else wx), (by if held else wy), (bz if held else wz)
        faster = np.sqrt(wx * wx + wy * wy + wz * wz)
        # Held, it is as fast as it may be.
        most = min(end, free) if held and along > zero else min(end, faster)
        gain = most / max(faster, least) if most != faster else one
        dx = mx * hold * dt[i] if held else vx[i] * e1[i] + ax[i] * e2[i]
        dy = my * hold * dt[i] if held else vy[i] * e1[i] + ay[i] * e2[i]
        dz = mz * hold * dt[i] if held else vz[i] * e1[i] + az[i] * e2[i]
        px[i] += dx * pace[i]
        py[i] += dy * pace[i]
        pz[i] += dz * pace[i]
        wx, wy, wz = wx * gain, wy * gain, wz * gain
        # What is too fast for its square to be a number stands still.
        told = abs(wx) + abs(wy) + abs(wz) < most_told
        vx[i] = wx if told else zero
        vy[i] = wy if told else zero
        vz[i] = wz if told else zero


call_limit = move_limited.call

"""The speed in the middle of the step, for curves that run along speed."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import helper, kernel
from ..layout import rows, scratch, slots
from ..layout.scratch import HELD
from ..layout.signatures import AROUND, BOOL, CALLS, F2, I1, INT, NOTHING, TABLES, U1
from ..values.sampling import call_values, is_nonzero, piece, speeds


@helper
def _speeds_in_the_middle(scr, state, start, n, reach):
    """Fill the FAST row with the speeds that forces known so far give in the middle of the step, as
    shares of reach.
    """
    e0, e1, fast = scr[scratch.E0], scr[scratch.E1], scr[scratch.FAST]
    vx, vy, vz = (
        piece(state, rows.VX, start, n),
        piece(state, rows.VY, start, n),
        piece(state, rows.VZ, start, n),
    )
    ax, ay, az = scr[scratch.AX], scr[scratch.AY], scr[scratch.AZ]
    share, one = np.float32(1.0 / reach), np.float32(1.0)
    for i in range(n):
        h0 = np.sqrt(e0[i])
        h1 = e1[i] / (one + h0)
        x, y, z = vx[i] * h0 + ax[i] * h1, vy[i] * h0 + ay[i] * h1, vz[i] * h0 + az[i] * h1
        fast[i] = min(np.sqrt(x * x + y * y + z * z) * share, one)


@kernel(NOTHING, F2, F2, U1, INT, INT, TABLES, I1, F2, AROUND, CALLS, BOOL)
def find_speeds(scr, state, serial, start, n, tables, form, ends, around, calls, first):
    """Fill the FAST row: with the speeds as they are at ``first``, and again once all that pushes is
    known.
    """
    reach = around.speed_range * around.stretch[0]
    scr[HELD].view(np.int64)[0] = 0
    if first:
        speeds(scr[scratch.FAST], state, start, n, reach)
        return
    _speeds_in_the_middle(scr, state, start, n, reach)
    limited = tables.form[slots.TOP_SPEED] != slots.CONSTANT or is_nonzero(form, ends, slots.TOP_SPEED)
    if limited and form[slots.TOP_SPEED] < slots.SPEED_CURVE:
        stretch, slot = around.stretch[0], slots.TOP_SPEED
        call_values(
            calls.values,
            scr,
            scratch.LIMIT,
            scratch.MIDDLE,
            tables,
            form,
            ends,
            slot,
            serial,
            start,
            n,
            stretch,
        )
        fast, top, share, zero = (
            scr[scratch.FAST],
            scr[scratch.LIMIT],
            np.float32(1.0 / reach),
            np.float32(0.0),
        )
        for i in range(n):
            fast[i] = min(fast[i], max(top[i], zero) * share)


call_speeds = find_speeds.call

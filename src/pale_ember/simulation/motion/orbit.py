"""Orbit: places and velocities turned about the layer's axis."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import kernel
from ..layout import rows, scratch, slots
from ..layout.signatures import AROUND, BOOL, CALLS, F2, I1, INT, NOTHING, TABLES, U1
from ..values.sampling import call_values
from .forces import axis_of


@kernel(NOTHING, F2, F2, U1, INT, INT, TABLES, I1, F2, AROUND, CALLS, BOOL)
def orbit(scr, state, serial, start, n, tables, form, ends, around, calls, first):
    """Turn a block by half of a step's angles, found in the ``first`` of two halves (O. Rodrigues' rotation
    formula, 1840, in float64).

    Turned half before all else moves and half after it, a step is of second order (G. Strang, SIAM J. Numer.
    Anal. 5, 1968).
    """
    angle, span, half = scr[scratch.TURNED], scr[scratch.SPAN], np.float32(0.5)
    if first:
        axis, one = axis_of(form, slots.ORBIT), np.float32(1.0)
        call_values(
            calls.values, scr, scratch.TURNED, axis, tables, form, ends, slots.ORBIT, serial, start, n, one
        )
        for i in range(n):
            angle[i] *= half * span[i]
    ux, uy, uz = np.float64(around.axis[0]), np.float64(around.axis[1]), np.float64(around.axis[2])
    for i in range(n):
        j = start + i
        sin, cos = np.sin(np.float64(angle[i])), np.cos(np.float64(angle[i]))
        for what in range(2):
            row = rows.PX if what == 0 else rows.VX
            ox = np.float64(around.centre[0]) if what == 0 else 0.0
            oy = np.float64(around.centre[1]) if what == 0 else 0.0
            oz = np.float64(around.centre[2]) if what == 0 else 0.0
            x, y, z = state[row, j] - ox, state[row + 1, j] - oy, state[row + 2, j] - oz
            along = (ux * x + uy * y + uz * z) * (1.0 - cos)
            state[row, j] = ox + x * cos + (uy * z - uz * y) * sin + ux * along
            state[row + 1, j] = oy + y * cos + (uz * x - ux * z) * sin + uy * along
            state[row + 2, j] = oz + z * cos + (ux * y - uy * x) * sin + uz * along


call_orbit = orbit.call

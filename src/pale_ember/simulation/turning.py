"""Orbit: places and velocities turned about the layer's axis."""

from __future__ import annotations

import numpy as np

from . import scratch as w
from . import state as r
from .kernels import kernel
from .signatures import AROUND, F2, INT, NOTHING


@kernel(NOTHING, F2, F2, AROUND, INT, INT)
def orbit(scr, state, around, start, n):
    """Turn a block by the angles of its row, half of a step's (O. Rodrigues' rotation formula, 1840, in float64).

    Turned half before all else moves and half after it, a step is of second order (G. Strang, SIAM J. Numer. Anal. 5,
    1968).
    """
    angle = scr[w.TURNED]
    ux, uy, uz = np.float64(around.axis[0]), np.float64(around.axis[1]), np.float64(around.axis[2])
    for i in range(n):
        j = start + i
        sin, cos = np.sin(np.float64(angle[i])), np.cos(np.float64(angle[i]))
        for what in range(2):
            row = r.PX if what == 0 else r.VX
            ox = np.float64(around.centre[0]) if what == 0 else 0.0
            oy = np.float64(around.centre[1]) if what == 0 else 0.0
            oz = np.float64(around.centre[2]) if what == 0 else 0.0
            x, y, z = state[row, j] - ox, state[row + 1, j] - oy, state[row + 2, j] - oz
            along = (ux * x + uy * y + uz * z) * (1.0 - cos)
            state[row, j] = ox + x * cos + (uy * z - uz * y) * sin + ux * along
            state[row + 1, j] = oy + y * cos + (uz * x - ux * z) * sin + uy * along
            state[row + 2, j] = oz + z * cos + (ux * y - uy * x) * sin + uz * along


call_orbit = orbit.call

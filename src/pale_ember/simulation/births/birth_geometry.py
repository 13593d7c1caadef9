"""Random numbers, directions and places for births, in blocks of particles. The kernels of shapes call
these.
"""

from __future__ import annotations

import math

from ..kernels.compiling import inlined, lean_helper
from ..layout import scratch
from ..values.sampling import fill_random

TAU = 2.0 * math.pi


@lean_helper
def sphere(u, v):
    """Return an evenly drawn direction."""
    y = 1.0 - 2.0 * u
    r = math.sqrt(max(0.0, 1.0 - y * y))
    return r * math.cos(TAU * v), y, r * math.sin(TAU * v)


@lean_helper
def unit(x, y, z, ex, ey, ez):
    """Return a vector at length 1; the second one where it has no length."""
    far = math.sqrt(x * x + y * y + z * z)
    if far < 1e-12:
        return ex, ey, ez
    return x / far, y / far, z / far


@inlined
def put_birth(scr, i, x, y, z, dx, dy, dz):
    (
        scr[scratch.MX, i],
        scr[scratch.MY, i],
        scr[scratch.MZ, i],
        scr[scratch.DX, i],
        scr[scratch.DY, i],
        scr[scratch.DZ, i],
    ) = x, y, z, dx, dy, dz


@lean_helper
def draw_rows(scr, shape, first, count, serial, start, n, ticked):
    """Fill so many of the rows T0, T1, T2 and VALUE with draws that follow each other in the shape's dice."""
    for k in range(count):
        row = scr[scratch.T0 + k] if k < 3 else scr[scratch.VALUE]
        fill_random(row, shape.keys[first + k] + ticked, serial, start, n)

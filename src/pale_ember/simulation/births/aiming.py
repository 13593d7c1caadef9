"""Places and directions of particles at their birth, by their layer's shape and aim."""

from __future__ import annotations

import math

import numpy as np
from numba import uint32

from ..kernels.compiling import inlined, kernel, lean_helper
from ..layout import scratch
from ..layout.signatures import BOOL, F2, INT, NOTHING, SHAPE, U1
from .birth_geometry import TAU, draw_rows, put_birth, sphere, unit
from .shape_data import AIM_U, AXIS, FAN_U, INWARD, OUTWARD, PLACE_U, POINT, RANDOM, SCATTER_U
from .shapes import call_place

_NEXT_TICK = 0x85EBCA6B


@inlined
def _fanned(x, y, z, fan, u, v):
    """Return a direction drawn evenly by solid angle from the cone of half-angle ``fan`` around another."""
    cos = 1.0 - u * (1.0 - math.cos(fan))
    sin = math.sqrt(max(0.0, 1.0 - cos * cos))
    if abs(y) < 0.9:
        ax, ay, az = unit(-z, 0.0, x, 1.0, 0.0, 0.0)
    else:
        ax, ay, az = unit(0.0, z, -y, 1.0, 0.0, 0.0)
    bx, by, bz = y * az - z * ay, z * ax - x * az, x * ay - y * ax
    p, q = sin * math.cos(TAU * v), sin * math.sin(TAU * v)
    return x * cos + ax * p + bx * q, y * cos + ay * p + by * q, z * cos + az * p + bz * q


@lean_helper
def _at_point(shape, serial, start, n, ticked, scr):
    """Put a block at the layer's centre; outward is any direction, where that is asked for."""
    any_way = shape.aim == OUTWARD or shape.aim == INWARD
    if any_way:
        draw_rows(scr, shape, PLACE_U, 2, serial, start, n, ticked)
    for i in range(n):
        dx, dy, dz = 0.0, 1.0, 0.0
        if any_way:
            dx, dy, dz = sphere(float(scr[scratch.T0, i]), float(scr[scratch.T1, i]))
        put_birth(scr, i, 0.0, 0.0, 0.0, dx, dy, dz)


@lean_helper
def _aim(shape, serial, start, n, scr):
    """Turn the outward directions of a block to where the shape aims."""
    none = uint32(0)
    dx, dy, dz = scr[scratch.DX], scr[scratch.DY], scr[scratch.DZ]
    if shape.aim == AXIS:
        for i in range(n):
            dx[i], dy[i], dz[i] = np.float32(0.0), np.float32(1.0), np.float32(0.0)
    elif shape.aim == INWARD:
        for i in range(n):
            dx[i], dy[i], dz[i] = -dx[i], -dy[i], -dz[i]
    elif shape.aim == RANDOM:
        draw_rows(scr, shape, AIM_U, 2, serial, start, n, none)
        for i in range(n):
            dx[i], dy[i], dz[i] = sphere(float(scr[scratch.T0, i]), float(scr[scratch.T1, i]))
    if shape.fan > 0.0:
        # Draws of its own: those of a random aim would make the two go together.
        draw_rows(scr, shape, FAN_U, 2, serial, start, n, none)
        for i in range(n):
            x, y, z = unit(float(dx[i]), float(dy[i]), float(dz[i]), 0.0, 1.0, 0.0)
            dx[i], dy[i], dz[i] = _fanned(
                x, y, z, shape.fan, float(scr[scratch.T0, i]), float(scr[scratch.T1, i])
            )
    if shape.scatter > 0.0:
        draw_rows(scr, shape, SCATTER_U, 2, serial, start, n, none)
        k = shape.scatter
        for i in range(n):
            rx, ry, rz = sphere(float(scr[scratch.T0, i]), float(scr[scratch.T1, i]))
            x, y, z = float(dx[i]), float(dy[i]), float(dz[i])
            dx[i], dy[i], dz[i] = unit(x + (rx - x) * k, y + (ry - y) * k, z + (rz - z) * k, rx, ry, rz)


@kernel(NOTHING, INT, SHAPE, U1, INT, INT, INT, BOOL, F2, lean=True, everyday=True, cost=0.4)
def spawn(placing, shape, serial, start, n, tick, aimed, scr):
    """Fill the rows M and D of the scratch memory with the places and unit directions of a block at birth,
    layer axes.

    ``placing`` is the address of its shape's kernel; a point needs none. ``tick`` numbers the places that a
    glittering particle has one after the other, 0 without glitter; without ``aimed`` only the place is
    wanted.
    """
    ticked = uint32(uint32(tick) * uint32(_NEXT_TICK))
    if shape.kind != POINT:
        call_place(placing, shape, serial, start, n, ticked, scr)
    else:
        _at_point(shape, serial, start, n, ticked, scr)
    if aimed:
        _aim(shape, serial, start, n, scr)


call_spawn = spawn.call

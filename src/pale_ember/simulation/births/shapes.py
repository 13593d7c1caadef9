"""Where a particle is born and which way it faces, in the layer's own axes.

Every point is a function of draws that belong to the particle alone. Shapes are filled evenly by volume
(``volume``), by area (``skin``) or by length (``rim``), by inverting each shape's own distribution; the ring,
whose tube is wider outside than inside, by rejection. Meshes are filled by area, with the flat normal of the
face as outward. All is done for blocks of particles, whose draws come first, in rows of scratch memory.
"""

from __future__ import annotations

import math

import numpy as np
from numba import uint32

from ...effect.kinds import EmitterShape
from ..kernels.compiling import Kernel, inlined, kernel, lean_helper
from ..layout import scratch
from ..layout.signatures import F2, INT, NOTHING, NUMBER, SHAPE, U1
from ..values.sampling import fill_random, random_of
from .birth_geometry import TAU, draw_rows, put_birth, unit
from .shape_data import (
    ANYWHERE,
    DOME,
    IN_ROW,
    INWARD,
    OUTWARD,
    PICK,
    PLACE_U,
    PLACE_V,
    PLACE_W,
    RIM,
    SKIN,
    VOLUME,
)

_TRIES = 64
_NEXT_TRY = 0x9E3779B9
# Places in a shape: those of a block of particles, and the outward directions there, in the layer's axes.
# They fill the rows M and D of the scratch memory, and use up those of ``draw_rows``.
PLACING = (NOTHING, SHAPE, U1, INT, INT, NUMBER, F2)


@kernel(*PLACING, lean=True, everyday=True, cost=0.2)
def in_ball(shape, serial, start, n, ticked, scr):
    """Ball and dome."""
    draw_rows(scr, shape, PLACE_U, 3, serial, start, n, ticked)
    for i in range(n):
        u, v, far = float(scr[scratch.T0, i]), float(scr[scratch.T1, i]), shape.radius
        if shape.fill == RIM:
            y = 0.0
        elif shape.kind == DOME:
            y = u
        else:
            y = 1.0 - 2.0 * u
        r = math.sqrt(max(0.0, 1.0 - y * y))
        dx, dz = r * math.cos(shape.arc * v), r * math.sin(shape.arc * v)
        if shape.fill == VOLUME:
            far *= np.cbrt(float(scr[scratch.T2, i]))
        put_birth(scr, i, dx * far, y * far, dz * far, dx, y, dz)


@kernel(*PLACING, lean=True, everyday=True, cost=0.2)
def in_cylinder(shape, serial, start, n, ticked, scr):
    """Cylinder; outward is away from its axis."""
    draw_rows(scr, shape, PLACE_U, 3, serial, start, n, ticked)
    for i in range(n):
        angle, share = shape.arc * float(scr[scratch.T1, i]), float(scr[scratch.T2, i])
        cos, sin = math.cos(angle), math.sin(angle)
        r = shape.radius * (math.sqrt(float(scr[scratch.T0, i])) if shape.fill == VOLUME else 1.0)
        y = shape.height * share
        if shape.fill == RIM:
            y = shape.height if share >= 0.5 else 0.0
        put_birth(scr, i, r * cos, y, r * sin, cos, 0.0, sin)


@kernel(*PLACING, lean=True)
def in_cone(shape, serial, start, n, ticked, scr):
    """A cone cut off at its base's radius; outward is away from the point where its sides would meet."""
    draw_rows(scr, shape, PLACE_U, 3, serial, start, n, ticked)
    lean = math.tan(shape.angle)
    base, top = shape.radius, shape.radius + shape.height * lean
    for i in range(n):
        u, angle, rise = (
            float(scr[scratch.T0, i]),
            shape.arc * float(scr[scratch.T1, i]),
            float(scr[scratch.T2, i]),
        )
        y = 0.0
        if shape.fill != RIM:
            if lean * shape.height < 1e-9 * max(top, 1e-30):
                y = shape.height * rise
            elif shape.fill == VOLUME:
                y = ((base**3 + rise * (top**3 - base**3)) ** (1.0 / 3.0) - base) / lean
            else:
                y = (math.sqrt(base**2 + rise * (top**2 - base**2)) - base) / lean
        wide = base + y * lean
        share = math.sqrt(u) if shape.fill == VOLUME else 1.0
        cos, sin = math.cos(angle), math.sin(angle)
        if wide > 1e-9:
            tilt = lean * share
        else:
            # At the cone's own point every direction inside it is as likely, by solid angle.
            c = 1.0 - u * (1.0 - math.cos(shape.angle))
            tilt = math.sqrt(max(0.0, 1.0 - c * c)) / c
        dx, dy, dz = unit(tilt * cos, 1.0, tilt * sin, 0.0, 1.0, 0.0)
        put_birth(scr, i, wide * share * cos, y, wide * share * sin, dx, dy, dz)


@kernel(*PLACING, lean=True, everyday=True, cost=0.2)
def in_ring(shape, serial, start, n, ticked, scr):
    """Ring; outward is away from the middle of its tube."""
    for i in range(n):
        number, turn = serial[start + i], 0.0
        away, up, around = 0.0, 0.0, 0.0
        for attempt in range(_TRIES):
            key = uint32(uint32(attempt * _NEXT_TRY) + ticked)
            u = random_of(shape.keys[PLACE_U] + key, number)
            v = random_of(shape.keys[PLACE_V] + key, number)
            turn = random_of(shape.keys[PLACE_W] + key, number)
            around = TAU * v
            r = shape.tube * (math.sqrt(u) if shape.fill == VOLUME else 1.0)
            if shape.fill == RIM:
                r = 0.0
            away, up = r * math.cos(around), r * math.sin(around)
            accepted = (
                random_of(shape.keys[PICK] + key, number) * (shape.radius + shape.tube) <= shape.radius + away
            )
            if shape.fill == RIM or accepted:
                break
        cos, sin = math.cos(shape.arc * turn), math.sin(shape.arc * turn)
        wide = shape.radius + away
        lean = math.cos(around) if shape.fill != RIM else 1.0
        rise = math.sin(around) if shape.fill != RIM else 0.0
        put_birth(scr, i, wide * cos, up, wide * sin, lean * cos, rise, lean * sin)


@lean_helper
def _on_box(shape, at, x, y, z):
    """Return a place on the skin of a box, at a share of its area, and the direction across the side
    there.
    """
    a, b, c = shape.width, shape.tall, shape.depth
    area = b * c + a * c + a * b
    at *= 2.0 * area
    side = 1.0
    if at >= area:
        at -= area
        side = -1.0
    if at < b * c:
        return side * a / 2, y, z, side, 0.0, 0.0
    if at < b * c + a * c:
        return x, side * b / 2, z, 0.0, side, 0.0
    return x, y, side * c / 2, 0.0, 0.0, side


@kernel(*PLACING, lean=True)
def in_box(shape, serial, start, n, ticked, scr):
    """Box; outward is away from its middle, on its skin across the side."""
    draw_rows(scr, shape, PLACE_U, 3, serial, start, n, ticked)
    if shape.fill != VOLUME:
        fill_random(scr[scratch.VALUE], shape.keys[PICK] + ticked, serial, start, n)
    a, b, c = shape.width, shape.tall, shape.depth
    faced = shape.aim == OUTWARD or shape.aim == INWARD
    for i in range(n):
        u, v, t = float(scr[scratch.T0, i]), float(scr[scratch.T1, i]), float(scr[scratch.T2, i])
        x, y, z = (u - 0.5) * a, (v - 0.5) * b, (t - 0.5) * c
        if shape.fill == SKIN:
            x, y, z, dx, dy, dz = _on_box(shape, float(scr[scratch.VALUE, i]), x, y, z)
            put_birth(scr, i, x, y, z, dx, dy, dz)
            continue
        if shape.fill == RIM:
            at = float(scr[scratch.VALUE, i]) * (a + b + c)
            first = 0.5 if v < 0.5 else -0.5
            second = 0.5 if t < 0.5 else -0.5
            if at < a:
                y, z = first * b, second * c
            elif at < a + b:
                x, y, z = first * a, (u - 0.5) * b, second * c
            else:
                x, y, z = first * a, second * b, (u - 0.5) * c
        dx, dy, dz = unit(x, y, z, 0.0, 1.0, 0.0) if faced else (0.0, 1.0, 0.0)
        put_birth(scr, i, x, y, z, dx, dy, dz)


@kernel(*PLACING, lean=True)
def on_mesh(shape, serial, start, n, ticked, scr):
    """A place on a face drawn by area, and the face's normal."""
    draw_rows(scr, shape, PLACE_U, 3, serial, start, n, ticked)
    fill_random(scr[scratch.VALUE], shape.keys[PICK] + ticked, serial, start, n)
    faces = shape.reach.shape[0]
    for i in range(n):
        if faces == 0:
            put_birth(scr, i, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0)
            continue
        # One draw is too coarse for meshes of very many faces.
        pick = (
            float(scr[scratch.VALUE, i]) + float(random_of(shape.keys[PLACE_W], serial[start + i])) * 2.0**-24
        )
        face = min(np.searchsorted(shape.reach, pick, side="right"), faces - 1)
        root, v = math.sqrt(float(scr[scratch.T0, i])), float(scr[scratch.T1, i])
        a, b, c = shape.corners[face, 0], shape.corners[face, 1], shape.corners[face, 2]
        p, q, r = 1.0 - root, root * (1.0 - v), root * v
        ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        nx, ny, nz = unit(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx, 0.0, 1.0, 0.0)
        x, y, z = (
            p * a[0] + q * b[0] + r * c[0],
            p * a[1] + q * b[1] + r * c[1],
            p * a[2] + q * b[2] + r * c[2],
        )
        put_birth(scr, i, x, y, z, nx, ny, nz)


@inlined
def _share(shape, scr, i):
    """Return how far along a line or a bow one of a block is, 0…1."""
    if shape.row == ANYWHERE:
        return float(scr[scratch.T0, i])
    return float(scr[scratch.ROW, i]) if shape.row == IN_ROW else 0.5


@kernel(*PLACING, lean=True)
def on_line(shape, serial, start, n, ticked, scr):
    """Line; outward is any way across it."""
    draw_rows(scr, shape, PLACE_U, 2, serial, start, n, ticked)
    for i in range(n):
        turn = TAU * float(scr[scratch.T1, i])
        put_birth(
            scr, i, (_share(shape, scr, i) - 0.5) * shape.width, 0.0, 0.0, 0.0, math.cos(turn), math.sin(turn)
        )


@kernel(*PLACING, lean=True)
def on_bow(shape, serial, start, n, ticked, scr):
    """Bow, evenly by length; outward is any way across it, and the way that those go which stray."""
    draw_rows(scr, shape, PLACE_U, 1, serial, start, n, uint32(0))
    fill_random(scr[scratch.T1], shape.keys[PLACE_V] + ticked, serial, start, n)
    fill_random(scr[scratch.T2], shape.keys[PLACE_W] + ticked, serial, start, n)
    now, cells = shape.at[0], shape.even.shape[1] - 1
    for i in range(n):
        share, f = (
            min(max(_share(shape, scr, i), 0.0), 1.0),
            float(scr[scratch.WHEN, i]) if shape.moves else 0.0,
        )
        x = share * cells
        cell = min(int(x), cells - 1)
        x -= cell
        early, late = shape.even[now], shape.even[now + 1]
        t = (1.0 - f) * (early[cell] + (early[cell + 1] - early[cell]) * x) + f * (
            late[cell] + (late[cell + 1] - late[cell]) * x
        )
        s = 1.0 - t
        px, py, pz = _on_curve(shape.bow, now, f, s * s * s, 3.0 * s * s * t, 3.0 * s * t * t, t * t * t)
        dx, dy, dz = _on_curve(shape.bow, now, f, -s * s, s * s - 2.0 * s * t, 2.0 * s * t - t * t, t * t)
        dx, dy, dz = unit(dx, dy, dz, 1.0, 0.0, 0.0)
        turn = TAU * float(scr[scratch.T1, i])
        ax, ay, az = unit(dz, 0.0, -dx, 1.0, 0.0, 0.0)
        bx, by, bz = dy * az - dz * ay, dz * ax - dx * az, dx * ay - dy * ax
        c, d = math.cos(turn), math.sin(turn)
        ox, oy, oz = c * ax + d * bx, c * ay + d * by, c * az + d * bz
        far = shape.stray * math.sqrt(float(scr[scratch.T2, i]) * 4.0 * share * (1.0 - share))
        put_birth(scr, i, px + ox * far, py + oy * far, pz + oz * far, ox, oy, oz)


@lean_helper
def _on_curve(bow, now, f, a, b, c, d):
    """Return the sum of a bow's four points at a share of the step, each times its weight."""
    x, y, z = 0.0, 0.0, 0.0
    for k in range(4):
        weight = a if k == 0 else b if k == 1 else c if k == 2 else d
        x += weight * ((1.0 - f) * bow[now, k, 0] + f * bow[now + 1, k, 0])
        y += weight * ((1.0 - f) * bow[now, k, 1] + f * bow[now + 1, k, 1])
        z += weight * ((1.0 - f) * bow[now, k, 2] + f * bow[now + 1, k, 2])
    return x, y, z


# How particles are placed in each kind; those of a point need no kernel.
PLACES: dict[EmitterShape, Kernel | None] = {
    EmitterShape.POINT: None,
    EmitterShape.BALL: in_ball,
    EmitterShape.DOME: in_ball,
    EmitterShape.BOX: in_box,
    EmitterShape.CONE: in_cone,
    EmitterShape.CYLINDER: in_cylinder,
    EmitterShape.RING: in_ring,
    EmitterShape.LINE: on_line,
    EmitterShape.BOW: on_bow,
    EmitterShape.MESH: on_mesh,
}
call_place = in_ball.call

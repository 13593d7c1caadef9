"""Where a particle is born and which way it faces, in the layer's own axes.

Every point is a function of draws that belong to the particle alone. Shapes are filled evenly by volume
(``volume``), by area (``skin``) or by length (``rim``), by inverting each shape's own distribution;
the ring, whose tube is wider outside than inside, by rejection. Meshes are filled by area, with the flat
normal of the face as outward.
"""

from __future__ import annotations

import math

import numpy as np
from numba import uint32
from numpy.typing import NDArray

from ..effect.kinds import Aim, Fill, Kind
from ..effect.source import Birthplace
from .course import Shape
from .dice import property_key
from .kernels import Kernel, inlined, kernel, lean_helper
from .sampling import one_draw
from .signatures import BOOL, D1, INT, NOTHING, NUMBER, SHAPE

KINDS, FILLS, AIMS = tuple(Kind), tuple(Fill), tuple(Aim)
POINT, BALL, DOME, BOX, CONE, CYLINDER, RING, LINE, MESH = (KINDS.index(kind) for kind in Kind)
VOLUME, SKIN, RIM = (FILLS.index(fill) for fill in Fill)
AXIS, OUTWARD, INWARD, RANDOM = (AIMS.index(aim) for aim in Aim)
TAU = 2.0 * math.pi
# Whose dice are whose: places in the shape are drawn with the first three, a ring's tries and faces with ``PICK``.
PLACE_U, PLACE_V, PLACE_W, AIM_U, AIM_V, SCATTER_U, SCATTER_V, PICK, FAN_U, FAN_V = range(10)
_TRIES = 64
_NEXT_TRY = 0x9E3779B9
_NEXT_TICK = 0x85EBCA6B
_NO_CORNERS = np.zeros((0, 3, 3))


def shape_of(birthplace: Birthplace, stretch: float, dice: int, corners: NDArray[np.float64] = _NO_CORNERS) -> Shape:
    """Return a birthplace for the kernels.

    Parameters
    ----------
    stretch : float
        Multiplies all lengths.
    dice : int
        The layer's key.
    corners : (n, 3, 3) array
        The mesh's faces; with none, particles of a mesh are born at the centre.
    """
    corners = np.ascontiguousarray(corners * (stretch * birthplace.mesh_scale), dtype=np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    reach = np.cumsum(np.linalg.norm(across, axis=1))
    keys = [property_key(dice, f"birthplace/{i}") for i in range(10)]
    width, tall, depth = (stretch * e for e in birthplace.extents)
    return Shape(
        KINDS.index(birthplace.kind),
        FILLS.index(birthplace.fill),
        AIMS.index(birthplace.aim),
        birthplace.radius * stretch,
        birthplace.tube * stretch,
        birthplace.height * stretch,
        width,
        tall,
        depth,
        math.radians(birthplace.angle),
        math.radians(birthplace.arc),
        math.radians(birthplace.fan),
        float(birthplace.scatter),
        birthplace.glitter,
        corners,
        reach / reach[-1] if len(reach) and reach[-1] > 0.0 else np.zeros(0),
        np.array(keys, np.uint32),
    )


@lean_helper
def _sphere(u, v):
    """Return an evenly drawn direction."""
    y = 1.0 - 2.0 * u
    r = math.sqrt(max(0.0, 1.0 - y * y))
    return r * math.cos(TAU * v), y, r * math.sin(TAU * v)


@lean_helper
def _unit(x, y, z, ex, ey, ez):
    """Return a vector at length 1; the second one where it has no length."""
    far = math.sqrt(x * x + y * y + z * z)
    if far < 1e-12:
        return ex, ey, ez
    return x / far, y / far, z / far


@inlined
def _put(out, x, y, z, dx, dy, dz):
    out[0], out[1], out[2], out[3], out[4], out[5] = x, y, z, dx, dy, dz


# Places in a shape: a particle's place and the outward direction there, six numbers in the layer's axes.
place_kernel = kernel(NOTHING, SHAPE, NUMBER, NUMBER, D1, lean=True)


@inlined
def _drawn(shape, which, serial, ticked):
    return float(one_draw(shape.keys[which] + ticked, serial))


@place_kernel
def in_ball(shape, serial, ticked, out):
    """Ball and dome."""
    u, v, w = (
        _drawn(shape, PLACE_U, serial, ticked), _drawn(shape, PLACE_V, serial, ticked), _drawn(shape, PLACE_W, serial, ticked)
    )  # fmt: skip
    if shape.fill == RIM:
        y = 0.0
    elif shape.kind == DOME:
        y = u
    else:
        y = 1.0 - 2.0 * u
    r = math.sqrt(max(0.0, 1.0 - y * y))
    dx, dz = r * math.cos(shape.arc * v), r * math.sin(shape.arc * v)
    far = shape.radius * (w ** (1.0 / 3.0) if shape.fill == VOLUME else 1.0)
    _put(out, dx * far, y * far, dz * far, dx, y, dz)


@place_kernel
def in_cylinder(shape, serial, ticked, out):
    """Cylinder; outward is away from its axis."""
    u, v, w = (
        _drawn(shape, PLACE_U, serial, ticked), _drawn(shape, PLACE_V, serial, ticked), _drawn(shape, PLACE_W, serial, ticked)
    )  # fmt: skip
    cos, sin = math.cos(shape.arc * v), math.sin(shape.arc * v)
    r = shape.radius * (math.sqrt(u) if shape.fill == VOLUME else 1.0)
    y = shape.height * w
    if shape.fill == RIM:
        y = shape.height if w >= 0.5 else 0.0
    _put(out, r * cos, y, r * sin, cos, 0.0, sin)


@place_kernel
def in_cone(shape, serial, ticked, out):
    """A cone cut off at its base's radius; outward is away from the point where its sides would meet."""
    u, v, w = (
        _drawn(shape, PLACE_U, serial, ticked), _drawn(shape, PLACE_V, serial, ticked), _drawn(shape, PLACE_W, serial, ticked)
    )  # fmt: skip
    lean = math.tan(shape.angle)
    base, top = shape.radius, shape.radius + shape.height * lean
    y = 0.0
    if shape.fill != RIM:
        if lean * shape.height < 1e-9 * max(top, 1e-30):
            y = shape.height * w
        elif shape.fill == VOLUME:
            y = ((base**3 + w * (top**3 - base**3)) ** (1.0 / 3.0) - base) / lean
        else:
            y = (math.sqrt(base**2 + w * (top**2 - base**2)) - base) / lean
    wide = base + y * lean
    share = math.sqrt(u) if shape.fill == VOLUME else 1.0
    cos, sin = math.cos(shape.arc * v), math.sin(shape.arc * v)
    x, z = wide * share * cos, wide * share * sin
    if wide > 1e-9:
        tilt = lean * share
    else:
        # At the cone's own point every direction inside it is as likely, by solid angle.
        c = 1.0 - u * (1.0 - math.cos(shape.angle))
        tilt = math.sqrt(max(0.0, 1.0 - c * c)) / c
    dx, dy, dz = _unit(tilt * cos, 1.0, tilt * sin, 0.0, 1.0, 0.0)
    _put(out, x, y, z, dx, dy, dz)


@place_kernel
def in_ring(shape, serial, ticked, out):
    """Ring; outward is away from the middle of its tube."""
    u, v, w = 0.0, 0.0, 0.0
    away, up, around = 0.0, 0.0, 0.0
    for attempt in range(_TRIES):
        key = uint32(uint32(attempt * _NEXT_TRY) + ticked)
        u = one_draw(shape.keys[PLACE_U] + key, serial)
        v = one_draw(shape.keys[PLACE_V] + key, serial)
        w = one_draw(shape.keys[PLACE_W] + key, serial)
        around = TAU * v
        r = shape.tube * (math.sqrt(u) if shape.fill == VOLUME else 1.0)
        if shape.fill == RIM:
            r = 0.0
        away, up = r * math.cos(around), r * math.sin(around)
        accepted = one_draw(shape.keys[PICK] + key, serial) * (shape.radius + shape.tube) <= shape.radius + away
        if shape.fill == RIM or accepted:
            break
    cos, sin = math.cos(shape.arc * w), math.sin(shape.arc * w)
    wide = shape.radius + away
    lean = math.cos(around) if shape.fill != RIM else 1.0
    rise = math.sin(around) if shape.fill != RIM else 0.0
    _put(out, wide * cos, up, wide * sin, lean * cos, rise, lean * sin)


@place_kernel
def in_box(shape, serial, ticked, out):
    """Box; outward is away from its middle, on its skin across the side."""
    u, v, w = (
        _drawn(shape, PLACE_U, serial, ticked), _drawn(shape, PLACE_V, serial, ticked), _drawn(shape, PLACE_W, serial, ticked)
    )  # fmt: skip
    pick = _drawn(shape, PICK, serial, ticked)
    a, b, c = shape.width, shape.tall, shape.depth
    x, y, z = (u - 0.5) * a, (v - 0.5) * b, (w - 0.5) * c
    if shape.fill == SKIN:
        area = b * c + a * c + a * b
        at = pick * 2.0 * area
        side = 1.0
        if at >= area:
            at -= area
            side = -1.0
        if at < b * c:
            _put(out, side * a / 2, y, z, side, 0.0, 0.0)
            return
        if at < b * c + a * c:
            _put(out, x, side * b / 2, z, 0.0, side, 0.0)
            return
        _put(out, x, y, side * c / 2, 0.0, 0.0, side)
        return
    if shape.fill == RIM:
        at = pick * (a + b + c)
        first = 0.5 if v < 0.5 else -0.5
        second = 0.5 if w < 0.5 else -0.5
        if at < a:
            y, z = first * b, second * c
        elif at < a + b:
            x, y, z = first * a, (u - 0.5) * b, second * c
        else:
            x, y, z = first * a, second * b, (u - 0.5) * c
    dx, dy, dz = _unit(x, y, z, 0.0, 1.0, 0.0)
    _put(out, x, y, z, dx, dy, dz)


@place_kernel
def on_mesh(shape, serial, ticked, out):
    """A place on a face drawn by area, and the face's normal."""
    u, v, pick = (
        _drawn(shape, PLACE_U, serial, ticked), _drawn(shape, PLACE_V, serial, ticked), _drawn(shape, PICK, serial, ticked)
    )  # fmt: skip
    n = shape.reach.shape[0]
    if n == 0:
        _put(out, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0)
        return
    # One draw is too coarse for meshes of very many faces.
    pick += float(one_draw(shape.keys[PLACE_W], serial)) * 2.0**-24
    face = min(np.searchsorted(shape.reach, pick, side="right"), n - 1)
    root = math.sqrt(u)
    a, b, c = shape.corners[face, 0], shape.corners[face, 1], shape.corners[face, 2]
    p, q, r = 1.0 - root, root * (1.0 - v), root * v
    ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    nx, ny, nz = _unit(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx, 0.0, 1.0, 0.0)
    _put(
        out,
        p * a[0] + q * b[0] + r * c[0],
        p * a[1] + q * b[1] + r * c[1],
        p * a[2] + q * b[2] + r * c[2],
        nx,
        ny,
        nz,
    )


@place_kernel
def on_line(shape, serial, ticked, out):
    """Line; outward is any way across it."""
    turn = TAU * _drawn(shape, PLACE_V, serial, ticked)
    along = (_drawn(shape, PLACE_U, serial, ticked) - 0.5) * shape.width
    _put(out, along, 0.0, 0.0, 0.0, math.cos(turn), math.sin(turn))


# How particles are placed in each kind; those of a point need no kernel.
PLACES: dict[Kind, Kernel | None] = {
    Kind.POINT: None,
    Kind.BALL: in_ball,
    Kind.DOME: in_ball,
    Kind.BOX: in_box,
    Kind.CONE: in_cone,
    Kind.CYLINDER: in_cylinder,
    Kind.RING: in_ring,
    Kind.LINE: on_line,
    Kind.MESH: on_mesh,
}
call_place = in_ball.call


@inlined
def _fanned(x, y, z, fan, u, v):
    """Return a direction drawn evenly by solid angle from the cone of half-angle ``fan`` around another."""
    cos = 1.0 - u * (1.0 - math.cos(fan))
    sin = math.sqrt(max(0.0, 1.0 - cos * cos))
    if abs(y) < 0.9:
        ax, ay, az = _unit(-z, 0.0, x, 1.0, 0.0, 0.0)
    else:
        ax, ay, az = _unit(0.0, z, -y, 1.0, 0.0, 0.0)
    bx, by, bz = y * az - z * ay, z * ax - x * az, x * ay - y * ax
    p, q = sin * math.cos(TAU * v), sin * math.sin(TAU * v)
    return x * cos + ax * p + bx * q, y * cos + ay * p + by * q, z * cos + az * p + bz * q


@kernel(NOTHING, INT, SHAPE, NUMBER, INT, BOOL, D1, lean=True)
def spawn(placing, shape, serial, tick, aimed, out):
    """Write a particle's place and unit direction at birth: six numbers, layer axes.

    ``placing`` is the address of its kind's kernel, 0 for a point. ``tick`` numbers the places that a glittering
    particle has one after the other, 0 without glitter; without ``aimed`` only the place is wanted.
    """
    ticked = uint32(uint32(tick) * uint32(_NEXT_TICK))
    if placing != 0:
        call_place(placing, shape, serial, ticked, out)
    else:
        dx, dy, dz = _sphere(_drawn(shape, PLACE_U, serial, ticked), _drawn(shape, PLACE_V, serial, ticked))
        _put(out, 0.0, 0.0, 0.0, dx, dy, dz)
    if not aimed:
        return
    none = uint32(0)
    dx, dy, dz = out[3], out[4], out[5]
    if shape.aim == AXIS:
        dx, dy, dz = 0.0, 1.0, 0.0
    elif shape.aim == INWARD:
        dx, dy, dz = -dx, -dy, -dz
    elif shape.aim == RANDOM:
        dx, dy, dz = _sphere(_drawn(shape, AIM_U, serial, none), _drawn(shape, AIM_V, serial, none))
    if shape.fan > 0.0:
        # Draws of its own: those of a random aim would make the two go together.
        u, v = _drawn(shape, FAN_U, serial, none), _drawn(shape, FAN_V, serial, none)
        dx, dy, dz = _fanned(dx, dy, dz, shape.fan, u, v)
    if shape.scatter > 0.0:
        rx, ry, rz = _sphere(_drawn(shape, SCATTER_U, serial, none), _drawn(shape, SCATTER_V, serial, none))
        k = shape.scatter
        dx, dy, dz = _unit(dx + (rx - dx) * k, dy + (ry - dy) * k, dz + (rz - dz) * k, rx, ry, rz)
    out[3], out[4], out[5] = dx, dy, dz


call_spawn = spawn.call

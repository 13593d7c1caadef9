"""Where a particle is born and which way it faces, in the layer's own axes.

Every point is a function of draws that belong to the particle alone. Shapes are filled evenly by volume
(``volume``), by area (``skin``) or by length (``rim``), by inverting each shape's own distribution;
the ring, whose tube is wider outside than inside, by rejection. Meshes are filled by area, with the flat
normal of the face as outward.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numba import njit, uint32
from numpy.typing import NDArray

from ..effect.source import Birthplace
from .dice import property_key
from .sampling import one_draw, options

KINDS = ("point", "ball", "dome", "box", "cone", "cylinder", "ring", "line", "mesh")
FILLS = ("volume", "skin", "rim")
AIMS = ("axis", "outward", "inward", "random")
POINT, BALL, DOME, BOX, CONE, CYLINDER, RING, LINE, MESH = range(9)
VOLUME, SKIN, RIM = range(3)
AXIS, OUTWARD, INWARD, RANDOM = range(4)
TURN = 2.0 * math.pi
_TRIES = 64
_NEXT_TRY = 0x9E3779B9
_NEXT_TICK = 0x85EBCA6B
_NO_CORNERS = np.zeros((0, 3, 3))


class Shape(NamedTuple):
    """A birthplace as the kernels take it: lengths in m, angles in radians, ``keys`` of its dice.

    ``corners`` (n, 3, 3) are the corners of a mesh's faces in m, ``reach`` (n,) the shares of its area up to
    and with each face.
    """

    kind: int
    fill: int
    aim: int
    radius: float
    tube: float
    height: float
    width: float
    tall: float
    depth: float
    angle: float
    arc: float
    fan: float
    scatter: float
    glitter: bool
    corners: NDArray[np.float64]
    reach: NDArray[np.float64]
    keys: NDArray[np.uint32]


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
    keys = [property_key(dice, f"birthplace/{i}") for i in range(8)]
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


@njit(**options)
def _sphere(u, v):
    """Return an evenly drawn direction."""
    y = 1.0 - 2.0 * u
    r = math.sqrt(max(0.0, 1.0 - y * y))
    return r * math.cos(TURN * v), y, r * math.sin(TURN * v)


@njit(**options)
def _unit(x, y, z, ex, ey, ez):
    """Return a vector at length 1; the second one where it has no length."""
    far = math.sqrt(x * x + y * y + z * z)
    if far < 1e-12:
        return ex, ey, ez
    return x / far, y / far, z / far


@njit(**options)
def _round(shape, u, v, w):
    """Ball and dome: place and outward direction."""
    if shape.fill == RIM:
        y = 0.0
    elif shape.kind == DOME:
        y = u
    else:
        y = 1.0 - 2.0 * u
    r = math.sqrt(max(0.0, 1.0 - y * y))
    dx, dz = r * math.cos(shape.arc * v), r * math.sin(shape.arc * v)
    far = shape.radius * (w ** (1.0 / 3.0) if shape.fill == VOLUME else 1.0)
    return dx * far, y * far, dz * far, dx, y, dz


@njit(**options)
def _cylinder(shape, u, v, w):
    cos, sin = math.cos(shape.arc * v), math.sin(shape.arc * v)
    r = shape.radius * (math.sqrt(u) if shape.fill == VOLUME else 1.0)
    y = shape.height * w
    if shape.fill == RIM:
        y = shape.height if w >= 0.5 else 0.0
    return r * cos, y, r * sin, cos, 0.0, sin


@njit(**options)
def _cone(shape, u, v, w):
    """A cone cut off at its base's radius; outward is away from the point where its sides would meet."""
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
    return x, y, z, dx, dy, dz


@njit(**options)
def _ring(shape, serial, ticked):
    u, v, w = 0.0, 0.0, 0.0
    out, up, around = 0.0, 0.0, 0.0
    for attempt in range(_TRIES):
        key = uint32(uint32(attempt * _NEXT_TRY) + ticked)
        u = one_draw(shape.keys[0] + key, serial)
        v = one_draw(shape.keys[1] + key, serial)
        w = one_draw(shape.keys[2] + key, serial)
        around = TURN * v
        r = shape.tube * (math.sqrt(u) if shape.fill == VOLUME else 1.0)
        if shape.fill == RIM:
            r = 0.0
        out, up = r * math.cos(around), r * math.sin(around)
        accepted = one_draw(shape.keys[7] + key, serial) * (shape.radius + shape.tube) <= shape.radius + out
        if shape.fill == RIM or accepted:
            break
    cos, sin = math.cos(shape.arc * w), math.sin(shape.arc * w)
    wide = shape.radius + out
    lean = math.cos(around) if shape.fill != RIM else 1.0
    rise = math.sin(around) if shape.fill != RIM else 0.0
    return wide * cos, up, wide * sin, lean * cos, rise, lean * sin


@njit(**options)
def _box(shape, u, v, w, pick):
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
            return side * a / 2, y, z, side, 0.0, 0.0
        if at < b * c + a * c:
            return x, side * b / 2, z, 0.0, side, 0.0
        return x, y, side * c / 2, 0.0, 0.0, side
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
    return x, y, z, dx, dy, dz


@njit(**options)
def _mesh(shape, serial, u, v, pick):
    """A place on a face drawn by area, and the face's normal."""
    n = shape.reach.shape[0]
    if n == 0:
        return 0.0, 0.0, 0.0, 0.0, 1.0, 0.0
    # One draw is too coarse for meshes of very many faces.
    pick += float(one_draw(shape.keys[2], serial)) * 2.0**-24
    face = min(np.searchsorted(shape.reach, pick, side="right"), n - 1)
    root = math.sqrt(u)
    a, b, c = shape.corners[face, 0], shape.corners[face, 1], shape.corners[face, 2]
    p, q, r = 1.0 - root, root * (1.0 - v), root * v
    ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    vx, vy, vz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    nx, ny, nz = _unit(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx, 0.0, 1.0, 0.0)
    return (
        p * a[0] + q * b[0] + r * c[0],
        p * a[1] + q * b[1] + r * c[1],
        p * a[2] + q * b[2] + r * c[2],
        nx,
        ny,
        nz,
    )


@njit(**options)
def born(shape, serial, tick):
    """Return a particle's place in its shape and the outward direction there.

    ``tick`` numbers the places that a glittering particle has one after the other; 0 without glitter.
    """
    ticked = uint32(uint32(tick) * uint32(_NEXT_TICK))
    u = float(one_draw(shape.keys[0] + ticked, serial))
    v = float(one_draw(shape.keys[1] + ticked, serial))
    w = float(one_draw(shape.keys[2] + ticked, serial))
    kind = shape.kind
    if kind == BALL or kind == DOME:
        return _round(shape, u, v, w)
    if kind == CYLINDER:
        return _cylinder(shape, u, v, w)
    if kind == CONE:
        return _cone(shape, u, v, w)
    if kind == RING:
        return _ring(shape, serial, ticked)
    if kind == BOX:
        return _box(shape, u, v, w, float(one_draw(shape.keys[7] + ticked, serial)))
    if kind == MESH:
        return _mesh(shape, serial, u, v, float(one_draw(shape.keys[7] + ticked, serial)))
    if kind == LINE:
        return (u - 0.5) * shape.width, 0.0, 0.0, 0.0, math.cos(TURN * v), math.sin(TURN * v)
    dx, dy, dz = _sphere(u, v)
    return 0.0, 0.0, 0.0, dx, dy, dz


@njit(**options)
def _fanned(x, y, z, fan, u, v):
    """Return a direction drawn evenly by solid angle from the cone of half-angle ``fan`` around another."""
    cos = 1.0 - u * (1.0 - math.cos(fan))
    sin = math.sqrt(max(0.0, 1.0 - cos * cos))
    if abs(y) < 0.9:
        ax, ay, az = _unit(-z, 0.0, x, 1.0, 0.0, 0.0)
    else:
        ax, ay, az = _unit(0.0, z, -y, 1.0, 0.0, 0.0)
    bx, by, bz = y * az - z * ay, z * ax - x * az, x * ay - y * ax
    p, q = sin * math.cos(TURN * v), sin * math.sin(TURN * v)
    return x * cos + ax * p + bx * q, y * cos + ay * p + by * q, z * cos + az * p + bz * q


@njit(**options)
def birth(shape, serial, tick):
    """Return a particle's place and unit direction at birth: six numbers, layer axes; for ``tick`` see :func:`born`."""
    x, y, z, dx, dy, dz = born(shape, serial, tick)
    if shape.aim == AXIS:
        dx, dy, dz = 0.0, 1.0, 0.0
    elif shape.aim == INWARD:
        dx, dy, dz = -dx, -dy, -dz
    elif shape.aim == RANDOM:
        dx, dy, dz = _sphere(float(one_draw(shape.keys[3], serial)), float(one_draw(shape.keys[4], serial)))
    if shape.fan > 0.0:
        u, v = float(one_draw(shape.keys[3], serial)), float(one_draw(shape.keys[4], serial))
        dx, dy, dz = _fanned(dx, dy, dz, shape.fan, u, v)
    if shape.scatter > 0.0:
        rx, ry, rz = _sphere(float(one_draw(shape.keys[5], serial)), float(one_draw(shape.keys[6], serial)))
        k = shape.scatter
        dx, dy, dz = _unit(dx + (rx - dx) * k, dy + (ry - dy) * k, dz + (rz - dz) * k, rx, ry, rz)
    return x, y, z, dx, dy, dz

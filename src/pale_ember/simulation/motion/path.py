"""Where a layer stands at any clock: its place, carried along its path."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.path import path_pieces
from ...effect.chapters.place import PathKey, Triple
from ...effect.effect import Layer
from ...effect.values.rotations import matrix_of
from ..kernels.compiling import helper, kernel, lean_helper
from ..layout.payload_columns import AXIS, PLACE
from ..layout.program import CENTRE, POSE, ROTATION, STRETCH, Track
from ..layout.signatures import D1, NOTHING, REAL, TRACK

Floats = NDArray[np.float64]


def track_of(layer: Layer) -> Track:
    """Return a layer's track."""
    place = layer.place
    return track_through(place.position, place.rotation, place.scale, layer.path)


def track_through(position: Triple, rotation: Triple, scale: float, path: tuple[PathKey, ...]) -> Track:
    """Return the track of whatever stands at a place and goes along a path in the axes of that, if it has
    one.
    """
    rest = np.array([0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0])
    x, c, end, first, last = np.zeros(0), np.zeros((0, 7, 4)), 0.0, rest, rest
    if path:
        x, c, end, first, last = path_pieces(path)
    centre, axes = np.array(position, np.float64), np.ascontiguousarray(matrix_of(rotation))
    return Track(
        centre=centre,
        rotation=axes,
        scale=float(scale),
        moves=bool(path),
        x=x,
        c=c,
        end=end,
        first=first,
        last=last,
    )


class Pose(NamedTuple):
    """Where a layer stands: ``centre`` (3,) m, ``rotation`` (3, 3) to the world, ``scale`` of its lengths."""

    centre: Floats
    rotation: Floats
    scale: float


def pose_at(layer: Layer, clock: float) -> Pose:
    """Return where a layer stands at a clock 0…1 of its window."""
    track, out = track_of(layer), np.empty(POSE)
    pose(track, clock, out)
    return Pose(out[:3].copy(), out[ROTATION:STRETCH].reshape(3, 3).copy(), float(out[STRETCH]) * track.scale)


def pose_at_event(layer: Layer, clock: float, given: tuple[float, ...]) -> Pose:
    """Return where a follow-up's birthplace stands for what is born of one event; ``given`` as in
    :class:`~..births.schedule.Birth`.
    """
    own = pose_at(layer, clock)
    x, y, z = given[AXIS : AXIS + 3]
    turn = np.eye(3)
    if (x, y, z) != (0.0, 0.0, 0.0):
        # The shortest turn that takes +Y there; half a turn about X where it is upside down.
        k = 1.0 / (1.0 + y) if y > -0.999999 else 0.0
        turn = np.array([[y + k * z * z, x, -k * x * z], [-x, y, -z], [-k * x * z, z, y + k * x * x]])
        if y <= -0.999999:
            turn = np.diag([1.0, -1.0, -1.0])
    return Pose(np.array(given[PLACE : PLACE + 3]), turn @ own.rotation, own.scale)


@helper
def _turned(a, b, c, out):
    """Write the matrix that turns about X by a, then Y by b, then Z by c, radians, row by row."""
    ca, sa, cb, sb, cc, sc = math.cos(a), math.sin(a), math.cos(b), math.sin(b), math.cos(c), math.sin(c)
    out[0], out[1], out[2] = cc * cb, cc * sb * sa - sc * ca, cc * sb * ca + sc * sa
    out[3], out[4], out[5] = sc * cb, sc * sb * sa + cc * ca, sc * sb * ca - cc * sa
    out[6], out[7], out[8] = -sb, cb * sa, cb * ca


@lean_helper
def piece_at(track, clock):
    """Return the index of the path's piece at a clock; -1 before the first, the number of pieces behind
    the last.
    """
    n = track.x.shape[0]
    if clock >= track.end:
        return n
    if n == 0 or clock < track.x[0]:
        return -1
    low, high = 0, n - 1
    while low < high:
        middle = (low + high + 1) // 2
        if track.x[middle] <= clock:
            low = middle
        else:
            high = middle - 1
    return low


@lean_helper
def channel(track, piece, number, clock):
    """Return one channel of the path: 0 to 2 position, 3 to 5 rotation in degrees, 6 scale."""
    if piece < 0:
        return track.first[number]
    if piece >= track.x.shape[0]:
        return track.last[number]
    s, c = clock - track.x[piece], track.c[piece, number]
    return c[0] + s * (c[1] + s * (c[2] + s * c[3]))


@helper
def _slope(track, piece, number, clock):
    if piece < 0 or piece >= track.x.shape[0]:
        return 0.0
    s, c = clock - track.x[piece], track.c[piece, number]
    return c[1] + s * (2.0 * c[2] + s * 3.0 * c[3])


@kernel(NOTHING, TRACK, REAL, D1, entry=True, cost=0.9)
def pose(track, clock, out):
    """Write the pose at a clock; its stretch is the path's own scale, without the place's."""
    place, centre = track.rotation, track.centre
    if not track.moves:
        for i in range(3):
            out[CENTRE + i] = centre[i]
            for j in range(3):
                out[ROTATION + 3 * i + j] = place[i, j]
        out[STRETCH] = 1.0
        return
    piece = piece_at(track, clock)
    x, y, z = (
        channel(track, piece, 0, clock),
        channel(track, piece, 1, clock),
        channel(track, piece, 2, clock),
    )
    own = np.empty(9)
    k = math.pi / 180.0
    _turned(
        k * channel(track, piece, 3, clock),
        k * channel(track, piece, 4, clock),
        k * channel(track, piece, 5, clock),
        own,
    )
    for i in range(3):
        a, b, c = place[i, 0], place[i, 1], place[i, 2]
        out[CENTRE + i] = centre[i] + track.scale * (a * x + b * y + c * z)
        for j in range(3):
            out[ROTATION + 3 * i + j] = a * own[j] + b * own[3 + j] + c * own[6 + j]
    # A smooth scale may swing past its keys; it stays above zero.
    out[STRETCH] = max(channel(track, piece, 6, clock), 1e-4)


@kernel(NOTHING, TRACK, REAL, D1, REAL, REAL, REAL, D1, entry=True)
def carried(track, clock, now, x, y, z, out):
    """Write the velocity, per unit of clock, of a point that the layer carries: the centre's, plus that of
    its turning, ω × r with ω from the rates of the three angles, plus that of its growing.

    Parameters
    ----------
    now : float64 array
        The pose at this clock, from :func:`pose`.
    x, y, z : float
        The point's way from the centre in the world, m.
    """
    if not track.moves:
        out[0], out[1], out[2] = 0.0, 0.0, 0.0
        return
    piece = piece_at(track, clock)
    k = math.pi / 180.0
    vx, vy, vz = (
        _slope(track, piece, 0, clock),
        _slope(track, piece, 1, clock),
        _slope(track, piece, 2, clock),
    )
    a, b, c = (
        _slope(track, piece, 3, clock) * k,
        _slope(track, piece, 4, clock) * k,
        _slope(track, piece, 5, clock) * k,
    )
    turned_b, turned_c = channel(track, piece, 4, clock) * k, channel(track, piece, 5, clock) * k
    cb, sb, cc, sc = math.cos(turned_b), math.sin(turned_b), math.cos(turned_c), math.sin(turned_c)
    # Rates about X as turned by Y and Z, about Y as turned by Z, and about Z.
    wx, wy, wz = a * cc * cb - b * sc, a * sc * cb + b * cc, c - a * sb
    grow = _slope(track, piece, 6, clock) / now[STRETCH]
    p = track.rotation
    ox, oy, oz = _times(p, wx, wy, wz)
    sx, sy, sz = _times(p, vx, vy, vz)
    s = track.scale
    out[0] = s * sx + oy * z - oz * y + grow * x
    out[1] = s * sy + oz * x - ox * z + grow * y
    out[2] = s * sz + ox * y - oy * x + grow * z


@helper
def _times(m, x, y, z):
    return (
        m[0, 0] * x + m[0, 1] * y + m[0, 2] * z,
        m[1, 0] * x + m[1, 1] * y + m[1, 2] * z,
        m[2, 0] * x + m[2, 1] * y + m[2, 2] * z,
    )


call_pose, call_carried = pose.call, carried.call

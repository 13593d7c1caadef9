"""How ribbons and meshes lie: a ribbon's width, a mesh's turn."""

from __future__ import annotations

import math

import numpy as np
from numba import uint32

from ...effect.kinds import Across, DrawnAs, Stand, code_of
from ..kernels.compiling import kernel, lean_helper
from ..layout import rows
from ..layout.instances import NAMES
from ..layout.program import POSE, ROTATION
from ..layout.signatures import INT, NOTHING, PROGRAM, SHOWING
from ..motion.path import call_pose
from ..values.sampling import random_of

_MESH = code_of(DrawnAs.MESH)
_AXIS = code_of(Across.AXIS)
_TRAVEL, _TUMBLE = code_of(Stand.TRAVEL), code_of(Stand.TUMBLE)
_ACROSS, _LAID, _TURN, _LOT = (NAMES.index(name) for name in ("across", "laid", "turn", "lot"))
# Which throw chooses the part, and which two the axis.
_OTHER, _THIRD = uint32(0x9E3779B9), uint32(0x85EBCA6B)
TAU = 2.0 * math.pi


@lean_helper
def _quaternion(pose, out):
    """Write the quaternion of a pose's rotation, its whole part last (S. W. Shepperd, J. Guidance and
    Control 1, 1978).
    """
    a, b, c = pose[ROTATION], pose[ROTATION + 4], pose[ROTATION + 8]
    most = max(a, b, c, a + b + c)
    if most == a + b + c:
        w = math.sqrt(1.0 + most) / 2.0
        out[3], k = w, 0.25 / w
        out[0] = (pose[ROTATION + 7] - pose[ROTATION + 5]) * k
        out[1] = (pose[ROTATION + 2] - pose[ROTATION + 6]) * k
        out[2] = (pose[ROTATION + 3] - pose[ROTATION + 1]) * k
        return
    i = 0 if most == a else 1 if most == b else 2
    j, m = (i + 1) % 3, (i + 2) % 3
    v = math.sqrt(max(1.0 + 2.0 * most - a - b - c, 0.0)) / 2.0
    out[i], k = v, 0.25 / v
    out[j] = (pose[ROTATION + 3 * j + i] + pose[ROTATION + 3 * i + j]) * k
    out[m] = (pose[ROTATION + 3 * m + i] + pose[ROTATION + 3 * i + m]) * k
    out[3] = (pose[ROTATION + 3 * m + j] - pose[ROTATION + 3 * j + m]) * k


@lean_helper
def _turned_by(q, x, y, z, w):
    """Return the product of two quaternions: first the one given in parts, then the other."""
    a, b, c, d = q[0], q[1], q[2], q[3]
    return (
        d * x + a * w + b * z - c * y,
        d * y - a * z + b * w + c * x,
        d * z + a * y - b * x + c * w,
        d * w - a * x - b * y - c * z,
    )


@kernel(NOTHING, PROGRAM, SHOWING, INT, INT, INT, entry=True)
def orient(program, showing, first, last, posing):
    """Write how particles ``first`` to ``last`` lie into their instances.

    ``posing`` is the address of :func:`~..motion.path.pose`. What stays behind lies as at the clock of its
    birth.
    """
    drawn, track, laid = program.drawn, program.track, program.extra_rows.laid
    state, serial, out, columns, clock = (
        showing.state,
        showing.serial,
        showing.out,
        showing.columns,
        showing.clock,
    )
    now, q = np.zeros(POSE), np.zeros(4)
    call_pose(posing, track, clock, now)
    _quaternion(now, q)
    stays = track.moves and not program.follow
    across, turn, lot = columns[_ACROSS], columns[_TURN], columns[_LOT]
    for i in range(first, last):
        if stays:
            call_pose(posing, track, np.float64(state[rows.CLOCK, i]), now)
        if across >= 0 and drawn.draw != _MESH and drawn.across >= _AXIS:
            column = 1 if drawn.across == _AXIS else 0
            for k in range(3):
                out[i, across + k] = now[ROTATION + 3 * k + column]
        if columns[_LAID] >= 0 and laid >= 0:
            out[i, columns[_LAID]] = state[laid, i]
        if drawn.draw != _MESH:
            continue
        if lot >= 0:
            out[i, lot] = random_of(uint32(drawn.random_values), serial[i])
        if turn < 0:
            continue
        if stays:
            _quaternion(now, q)
        half = np.float64(state[rows.ANGLE, i]) / 2.0
        sin, cos = math.sin(half), math.cos(half)
        x, y, z = 0.0, 1.0, 0.0
        if drawn.stand == _TUMBLE:
            y = 1.0 - 2.0 * np.float64(random_of(uint32(drawn.random_values) ^ _OTHER, serial[i]))
            wide, angle = (
                math.sqrt(max(1.0 - y * y, 0.0)),
                TAU * np.float64(random_of(uint32(drawn.random_values) ^ _THIRD, serial[i])),
            )
            x, z = wide * math.cos(angle), wide * math.sin(angle)
        if drawn.stand == _TRAVEL:
            vx, vy, vz = (
                np.float64(state[rows.WX, i]),
                np.float64(state[rows.WY, i]),
                np.float64(state[rows.WZ, i]),
            )
            fast = math.sqrt(vx * vx + vy * vy + vz * vz)
            if 1e-9 < fast < 1e30:
                # The shortest turn that takes +Y there; half a turn about X where it is upside down.
                c = vy / fast
                w = math.sqrt(max((1.0 + c) / 2.0, 0.0))
                q[0], q[1], q[2], q[3] = (
                    (vz / fast / (2.0 * w), 0.0, -vx / fast / (2.0 * w), w)
                    if w > 1e-4
                    else (1.0, 0.0, 0.0, 0.0)
                )
            else:
                _quaternion(now, q)
        a, b, c, d = _turned_by(q, x * sin, y * sin, z * sin, cos)
        out[i, turn], out[i, turn + 1], out[i, turn + 2], out[i, turn + 3] = a, b, c, d

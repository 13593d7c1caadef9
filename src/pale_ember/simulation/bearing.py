"""Births: particles as they are at the moment that they come from the layer's shape, or from a parent's event."""

from __future__ import annotations

import numpy as np

from . import slots as s
from . import state as r
from .course import AT, CENTRE, MIDDLE, ROTATION, SPARE, STRETCH, TO, VECTORS
from .given import AXIS, COLOR, PLACE, VELOCITY
from .kernels import inlined, kernel, lean_helper
from .path import call_carried, call_pose
from .recording import BIRTH, note
from .sampling import one
from .shapes import call_spawn
from .signatures import BIRTHS, COURSE, D1, F2, INT, NOTHING, U1


@inlined
def tick_of(course, step):
    """Return the number of the places that glittering particles have in a step."""
    whole = course.clock.whole
    return step % whole if course.weather.repeats and whole > 0 else step


@lean_helper
def _to_pose(a, b, at):
    """Move a place, the first three numbers, as the layer moves from one pose to another."""
    x, y, z = at[0] - a[CENTRE], at[1] - a[CENTRE + 1], at[2] - a[CENTRE + 2]
    grow = b[STRETCH] / a[STRETCH]
    u = a[ROTATION] * x + a[ROTATION + 3] * y + a[ROTATION + 6] * z
    v = a[ROTATION + 1] * x + a[ROTATION + 4] * y + a[ROTATION + 7] * z
    t = a[ROTATION + 2] * x + a[ROTATION + 5] * y + a[ROTATION + 8] * z
    for i in range(3):
        row = ROTATION + 3 * i
        at[i] = b[CENTRE + i] + grow * (b[row] * u + b[row + 1] * v + b[row + 2] * t)


@lean_helper
def _with_axis(ax, ay, az, x, y, z):
    """Return a vector as the shortest turn leaves it that takes +Y to a direction (T. Möller, J. F. Hughes, 1999)."""
    if ay < -0.999999:
        # Upside down: half a turn about X.
        return x, -y, -z
    k = 1.0 / (1.0 + ay)
    return (
        x * (ay + k * az * az) + y * ax - z * k * ax * az,
        -x * ax + y * ay - z * az,
        -x * k * ax * az + y * az + z * (ay + k * ax * ax),
    )


@kernel(NOTHING, COURSE, F2, INT, F2, INT, D1, D1, lean=True)
def receive(course, state, at, given, k, there, now):
    """Put a newborn at its event, turn it with the event's axis, and give it what it has of its parent.

    ``there`` is the pose that it was born from, ``now`` the layer's at its moment.
    """
    ax, ay, az = np.float64(given[k, AXIS]), np.float64(given[k, AXIS + 1]), np.float64(given[k, AXIS + 2])
    p, v = course.poses[VECTORS][3:6], course.poses[VECTORS][6:9]
    for i in range(3):
        p[i] = np.float64(state[r.PX + i, at]) - there[CENTRE + i]
        v[i] = state[r.VX + i, at]
    if ax != 0.0 or ay != 0.0 or az != 0.0:
        v[0], v[1], v[2] = _with_axis(ax, ay, az, v[0], v[1], v[2])
        # Where each step gives another place of the shape, the shape keeps to the layer's axes.
        if not course.shape.glitter:
            p[0], p[1], p[2] = _with_axis(ax, ay, az, p[0], p[1], p[2])
    for i in range(3):
        p[i] += np.float64(given[k, PLACE + i])
    if course.track.moves and course.follow:
        _to_pose(now, there, p)
    for i in range(3):
        state[r.PX + i, at] = p[i]
        state[r.VX + i, at] = v[i] + np.float64(given[k, VELOCITY + i])
    if course.rows.taken >= 0:
        for i in range(4):
            state[course.rows.taken + i, at] = given[k, COLOR + i]


call_receive = receive.call


@kernel(NOTHING, COURSE, F2, U1, INT, BIRTHS, INT, INT, INT, lean=True)
def bear(course, state, serial, alive, births, first, last, step):
    """Write births ``first`` to ``last`` of a step behind the living, each as it is at its moment."""
    tables, track, clocks = course.tables, course.track, course.clock
    now, middle, to = course.poses[AT], course.poses[MIDDLE], course.poses[TO]
    way, moved, none = course.poses[SPARE][:6], course.poses[SPARE][6:9], course.poses[VECTORS][:3]
    tick = tick_of(course, step) if course.shape.glitter else 0
    follows = births.given.shape[0] > 0
    moves, carries = track.moves, track.moves and clocks.length > 0.0 and not follows
    rows, wants_births = course.rows, course.log.wants & BIRTH != 0
    born = state[r.BORN].view(np.int32)
    for k in range(first, last):
        at, number, clock = alive + k - first, births.number[k], births.clock[k]
        if moves:
            call_pose(course.calls.pose, track, clock, now)
        # Those that follow are carried on from the middle of the step with all others.
        there = middle if course.follow else now
        turned = to if course.shape.glitter and not course.follow else there
        call_spawn(course.calls.spawn, course.calls.place, course.shape, number, tick, True, way)
        speed = float(one(tables, s.SPEED, clock, number))
        for i in range(3):
            way[3 + i] = way[3 + i] * speed + float(one(tables, s.PUSH_X + i, clock, number))
        for i in range(3):
            row = ROTATION + 3 * i
            offset = (turned[row] * way[0] + turned[row + 1] * way[1] + turned[row + 2] * way[2]) * turned[STRETCH]
            state[r.PX + i, at] = there[CENTRE + i] + offset
            fast = there[row] * way[3] + there[row + 1] * way[4] + there[row + 2] * way[5]
            state[r.VX + i, at] = fast * there[STRETCH]
            moved[i] = offset
        carry = float(one(tables, s.CARRY, clock, number)) if carries else 0.0
        if carry != 0.0:
            call_carried(course.calls.carried, track, clock, now, moved[0], moved[1], moved[2], way)
            for i in range(3):
                state[r.VX + i, at] += way[i] * carry / clocks.length
        state[r.AGING, at] = 1.0 / max(float(one(tables, s.LIFETIME, clock, number)), 1e-4)
        state[r.ANGLE, at] = one(tables, s.ANGLE, clock, number)
        state[r.CLOCK, at] = clock
        state[r.SINCE, at] = births.left[k]
        born[at] = step + 1
        serial[at] = number
        if rows.hits >= 0:
            state[rows.hits].view(np.int32)[at] = 0
            state[rows.stuck].view(np.int32)[at] = 0
            state[rows.kept, at], state[rows.added, at] = np.float32(1.0), np.float32(0.0)
        if rows.flown >= 0:
            state[rows.flown, at], state[rows.walked, at] = np.float32(0.0), np.float32(0.0)
        if follows:
            call_receive(course.calls.receive, course, state, at, births.given, k, there, now)
        if wants_births:
            for i in range(3):
                way[i], way[3 + i] = state[r.PX + i, at], state[r.VX + i, at]
            if moves and course.follow:
                _to_pose(middle, now, way)
            note(course, state, at, number, BIRTH, 0, step, births.left[k], way[:3], none, way[3:], 0.0)


call_bear = bear.call

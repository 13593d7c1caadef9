"""A layer carried over many steps: its pose, births, motion, deaths, counts."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import njit, uint32
from numpy.typing import NDArray

from . import path as p
from . import slots as s
from .motion import Surroundings, advance
from .path import Track, pose, velocity
from .sampling import at_clock, one, options
from .shapes import Shape, birth, born
from .tables import Tables

# Entries of a layer's counters: births and refusals since time 0, and the next serial.
BORN, REFUSED, NEXT = range(3)
COUNTERS = 3
# Poses kept for a step: at its start, at its end, of the moment of a birth.
FROM, TO, AT = range(3)


class Course(NamedTuple):
    """All that a layer's motion depends on, as the kernels take it.

    ``rate`` steps/s; ``duration`` of a loop, 0 for none, ``begin`` and ``length`` of the window, s; ``follow``
    tells whether particles move with the layer. The rest is memory to reuse: ``form``, ``ends`` of the slots at
    this moment, ``spans`` (cap,) the steps of newborns, ``poses`` (3, pose).
    """

    rate: float
    duration: float
    begin: float
    length: float
    follow: bool
    tables: Tables
    shape: Shape
    track: Track
    around: Surroundings
    form: NDArray[np.int32]
    ends: NDArray[np.float32]
    spans: NDArray[np.float32]
    poses: NDArray[np.float64]


@njit(**options)
def clock_at(course, time):
    """Return the window's clock, 0…1, at a time."""
    if course.length <= 0.0:
        return 0.0
    if course.duration > 0.0:
        time -= np.floor(time / course.duration + 1e-12) * course.duration
    return min(max((time - course.begin) / course.length, 0.0), 1.0)


@njit(**options)
def _stand(around, now):
    """Put the surroundings at a pose."""
    for i in range(3):
        around.centre[i] = now[p.CENTRE + i]
        around.axis[i] = now[p.TURN + 3 * i + 1]
        for j in range(3):
            around.turn[i, j] = now[p.TURN + 3 * i + j]
    around.stretch[0] = now[p.STRETCH]


@njit(**options)
def settle(course, step):
    """Make slots and pose those of a step; a step k goes from k / rate to (k + 1) / rate."""
    middle = (step + 0.5) / course.rate
    clock = clock_at(course, middle)
    at_clock(course.tables, clock, course.form, course.ends)
    course.spans[0] = np.float32(1.0 / course.rate)
    if course.track.moves:
        pose(course.track, clock_at(course, step / course.rate), course.poses[FROM])
        pose(course.track, clock_at(course, (step + 1) / course.rate), course.poses[TO])
        if course.follow:
            _stand(course.around, course.poses[TO])
        else:
            pose(course.track, clock, course.poses[AT])
            _stand(course.around, course.poses[AT])


@njit(**options)
def _take_along(course, state, first, last):
    """Move particles as the layer moves in this step: turned, stretched and shifted about its centre."""
    a, b = course.poses[FROM], course.poses[TO]
    still = True
    for i in range(p.POSE):
        still &= a[i] == b[i]
    if still:
        return
    grow = b[p.STRETCH] / a[p.STRETCH]
    m = np.empty((3, 3))
    for i in range(3):
        for j in range(3):
            m[i, j] = 0.0
            for k in range(3):
                m[i, j] += b[p.TURN + 3 * i + k] * a[p.TURN + 3 * j + k] * grow
    for j in range(first, last):
        x, y, z = state[s.PX, j] - a[0], state[s.PY, j] - a[1], state[s.PZ, j] - a[2]
        state[s.PX, j] = b[0] + m[0, 0] * x + m[0, 1] * y + m[0, 2] * z
        state[s.PY, j] = b[1] + m[1, 0] * x + m[1, 1] * y + m[1, 2] * z
        state[s.PZ, j] = b[2] + m[2, 0] * x + m[2, 1] * y + m[2, 2] * z
        x, y, z = np.float64(state[s.VX, j]), np.float64(state[s.VY, j]), np.float64(state[s.VZ, j])
        state[s.VX, j] = m[0, 0] * x + m[0, 1] * y + m[0, 2] * z
        state[s.VY, j] = m[1, 0] * x + m[1, 1] * y + m[1, 2] * z
        state[s.VZ, j] = m[2, 0] * x + m[2, 1] * y + m[2, 2] * z


@njit(**options)
def _glitter(course, state, serial, first, last, step):
    """Move particles from their last place in the shape to the next one."""
    before = course.poses[TO] if course.follow else course.poses[FROM]
    now = course.poses[TO]
    for j in range(first, last):
        # A newborn is not moved in the step of its birth, which is the one before its first.
        ox, oy, oz, _, _, _ = born(course.shape, serial[j], step - 1)
        nx, ny, nz, _, _, _ = born(course.shape, serial[j], step)
        for i in range(3):
            a, b, k = before[p.TURN + 3 * i :], now[p.TURN + 3 * i :], now[p.STRETCH]
            old = (a[0] * ox + a[1] * oy + a[2] * oz) * before[p.STRETCH]
            state[s.PX + i, j] += (b[0] * nx + b[1] * ny + b[2] * nz) * k - old


@njit(**options)
def live(course, state, serial, first, last, to, step, scr):
    """Carry particles ``first`` to ``last``, all alive since before the step, over it; return where the next go."""
    if course.track.moves and course.follow:
        _take_along(course, state, first, last)
    if course.shape.glitter:
        _glitter(course, state, serial, first, last, step)
    middle = (step + 0.5) / course.rate
    c = course
    return advance(
        state, serial, first, last, to, c.spans, True, c.tables, c.form, c.ends, c.around, middle, scr
    )  # fmt: skip


@njit(**options)
def _give_birth(course, state, serial, at, number, moment, step):
    """Write a newborn particle at index ``at``."""
    tables, track = course.tables, course.track
    clock = clock_at(course, moment)
    now = course.poses[AT]
    if track.moves:
        pose(track, clock, now)
    # Those that follow are born in the layer's own axes, which are drawn at the step's end.
    there = course.poses[TO] if course.follow else now
    x, y, z, dx, dy, dz = birth(course.shape, number, step if course.shape.glitter else 0)
    speed = float(one(tables, s.SPEED, clock, number))
    dx = dx * speed + float(one(tables, s.PUSH_X, clock, number))
    dy = dy * speed + float(one(tables, s.PUSH_Y, clock, number))
    dz = dz * speed + float(one(tables, s.PUSH_Z, clock, number))
    stretch = there[p.STRETCH]
    carry = float(one(tables, s.CARRY, clock, number))
    for i in range(3):
        t = there[p.TURN + 3 * i :]
        state[s.PX + i, at] = there[p.CENTRE + i] + (t[0] * x + t[1] * y + t[2] * z) * stretch
        state[s.VX + i, at] = (t[0] * dx + t[1] * dy + t[2] * dz) * stretch
    if carry != 0.0 and track.moves and course.length > 0.0:
        way = np.empty(3)
        for i in range(3):
            t = now[p.TURN + 3 * i :]
            way[i] = (t[0] * x + t[1] * y + t[2] * z) * now[p.STRETCH]
        vx, vy, vz = velocity(track, clock, now, way[0], way[1], way[2])
        share = carry / course.length
        state[s.VX, at] += vx * share
        state[s.VY, at] += vy * share
        state[s.VZ, at] += vz * share
    state[s.AGE, at] = 0.0
    state[s.PACE, at] = 1.0 / max(float(one(tables, s.LIFETIME, clock, number)), 1e-4)
    state[s.TURN, at] = one(tables, s.ANGLE, clock, number)
    serial[at] = number


@njit(**options)
def give_births(course, state, serial, alive, counters, step, births, coming, last, scr):
    """Let the births of a step happen, and carry the newborn over what is left of it.

    Parameters
    ----------
    births : float64 array
        Births in order, s; from index ``coming`` on they are still to come.
    last : bool
        Whether all of them belong to this step, even if their time is a rounding behind it.

    Returns
    -------
    (int, int)
        How many are alive, and the next birth to come.
    """
    stop = (step + 1) / course.rate
    first, cap = alive, serial.shape[0]
    while coming < births.shape[0] and (births[coming] < stop or last):
        moment = births[coming]
        coming += 1
        if alive >= cap:
            counters[REFUSED] += 1
            continue
        _give_birth(course, state, serial, alive, uint32(counters[NEXT]), moment, step)
        course.spans[alive - first] = np.float32(max(stop - moment, 0.0))
        counters[NEXT] += 1
        counters[BORN] += 1
        alive += 1
    if alive > first:
        middle = (step + 0.5) / course.rate
        c = course
        alive = advance(
            state, serial, first, alive, first, c.spans, False, c.tables, c.form, c.ends, c.around, middle, scr
        )  # fmt: skip
    return alive, coming


@njit(**options)
def run(course, state, serial, alive, counters, first_step, steps, births, scr):
    """Carry a layer over ``steps`` steps.

    Parameters
    ----------
    state, serial : arrays, shape (rows, cap) and (cap,)
    alive : int
        How many particles there are.
    counters : int64 array
        Born, refused, the next serial.
    first_step : int
    births : float64 array
        All births in the time of these steps, in order, s.
    scr : float32 array
        From :func:`~.motion.scratch`.

    Returns
    -------
    int
        How many are alive afterwards.
    """
    coming = 0
    for step in range(first_step, first_step + steps):
        settle(course, step)
        alive = live(course, state, serial, 0, alive, 0, step, scr)
        last = step == first_step + steps - 1
        alive, coming = give_births(course, state, serial, alive, counters, step, births, coming, last, scr)
    return alive

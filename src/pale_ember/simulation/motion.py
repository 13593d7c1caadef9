"""The motion of particles over one step: forces, velocity, place, age; the dead are closed over.

Over a step, acceleration, drag and wind are held, and motion under them is exact::

    v1 = v0·e0 + (a + k·w)·e1      e0 = exp(-k·dt), e1 = (1 - e0)/k, e2 = (dt - e1)/k
    x1 = x0 + v0·e1 + (a + k·w)·e2

which without drag is the parabola x0 + v0·dt + a·dt²/2.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from . import slots as s
from .sampling import BLOCK, PAD, block, draws, level, needs_draw, options, speeds
from .turbulence import eddies


class Surroundings(NamedTuple):
    """What a layer's motion needs besides its slots, in the world's axes.

    ``turn`` (3, 3) float32 from layer to world, ``centre`` (3,), ``axis`` (3,) and ``stretch`` (1,) are those of
    this moment of the path; ``wind`` (3,) float32;
    ``eddy`` m, ``churn`` 1/s; ``octaves``; ``salt`` of its eddies;
    ``speed_range`` m/s; ``gust`` 0…1 of the wind, ``gust_period`` s.
    """

    turn: NDArray[np.float32]
    centre: NDArray[np.float32]
    axis: NDArray[np.float32]
    stretch: NDArray[np.float32]
    wind: NDArray[np.float32]
    eddy: float
    churn: float
    octaves: int
    salt: int
    speed_range: float
    gust: float
    gust_period: float


# Rows of the scratch memory, each a block long.
_MID, _U, _VALUE, _DT, _E0, _E1, _E2, _AX, _AY, _AZ, _T0, _T1, _T2, _LIMIT, _AT, _SHARE, _HELD, _FAST = range(18)
SCRATCH_ROWS = 18


def scratch() -> NDArray[np.float32]:
    """Return working memory for one thread's motion, shape (rows, block)."""
    return np.empty((SCRATCH_ROWS, BLOCK + PAD), np.float32)


@njit(inline="always", **options)
def part(state, row, start, n):
    """Return one row of a block of particles."""
    return state[row][start : start + n]


@njit(**options)
def relaxation(k, dt):
    """Return e0, e1, e2 of drag k over dt; a series where k·dt is tiny."""
    z = k * dt
    if z < 1e-3:
        e1 = dt * (1.0 - z * (0.5 - z * (1.0 / 6.0 - z / 24.0)))
        e2 = dt * dt * (0.5 - z * (1.0 / 6.0 - z * (1.0 / 24.0 - z / 120.0)))
        return 1.0 - k * e1, e1, e2
    e1 = -np.expm1(-z) / k
    return np.exp(-z), e1, (dt - e1) / k


@njit(**options)
def relaxations(k, dt, e0, e1, e2, n):
    """Fill e0, e1, e2 for n drags and steps, all float32; to a few units in the last place."""
    one, half, two = np.float32(1.0), np.float32(0.5), np.float32(2.0)
    c3, c4, c5, c6 = np.float32(1 / 6), np.float32(1 / 24), np.float32(1 / 120), np.float32(1 / 720)
    c7, c8, c9, c10 = np.float32(1 / 5040), np.float32(1 / 40320), np.float32(1 / 362880), np.float32(1 / 3628800)
    for i in range(n):
        z = k[i] * dt[i]
        # Up to a half, the series of (1 - e1/dt)/z; beyond it, seven halvings of z.
        far = z > half
        y = min(z, np.float32(60.0)) * (np.float32(1.0 / 128.0) if far else one)
        s2 = half - y * (c3 - y * (c4 - y * (c5 - y * (c6 - y * (c7 - y * (c8 - y * (c9 - y * c10)))))))
        s1 = one - y * s2
        # The share lost over the stretch; over twice the stretch it is lost(2 - lost).
        lost = y * s1
        w = lost * (two - lost)
        w *= two - w
        w *= two - w
        w *= two - w
        w *= two - w
        w *= two - w
        w *= two - w
        lost = w if far else lost
        safe = z if far else one
        a0 = one - lost
        a1 = lost / safe if far else s1
        a2 = (one - a1) / safe if far else s2
        e0[i] = a0
        e1[i] = a1 * dt[i]
        e2[i] = a2 * dt[i] * dt[i]


@njit(**options)
def gust_factor(gust, period, time):
    """Return by how much the wind is stronger at a time: two waves that don't repeat together, never below 0."""
    turn = 2.0 * np.pi * time / period
    return max(0.0, 1.0 + gust * (0.65 * np.sin(turn) + 0.35 * np.sin(2.618 * turn + 1.3)))


@njit(**options)
def _slot(scr, out, tables, form, ends, slot, serial, start, n, stretch):
    """Fill a scratch row with a slot's values at the particles' middle ages; lengths are stretched."""
    if needs_draw(form[slot]):
        draws(scr[_U], tables.key[slot], serial, start, n)
    at, held = scr[_AT].view(np.int32), scr[_HELD].view(np.int64)
    low, high, share = ends[slot, 0], ends[slot, 1], scr[_SHARE]
    if form[slot] >= s.SPEED_CURVE:
        block(scr[out], tables, slot, form[slot], low, high, scr[_FAST], scr[_U], 0, at, share, n)
        held[0] = 0
    else:
        held[0] = block(scr[out], tables, slot, form[slot], low, high, scr[_MID], scr[_U], held[0], at, share, n)
    if stretch[0] != np.float32(1.0) and s.LENGTHS[slot]:
        values, factor = scr[out], stretch[0]
        for i in range(n):
            values[i] *= factor


@njit(**options)
def _present(form, ends, slot):
    return form[slot] != s.LEVEL or ends[slot, 0] != np.float32(0.0)


@njit(**options)
def _thrust(scr, around, tables, form, ends, serial, start, n):
    """Add the layer's thrust, turned into the world."""
    ax, ay, az = scr[_AX], scr[_AY], scr[_AZ]
    value, turn = scr[_VALUE], around.turn
    for axis in range(3):
        slot = s.THRUST_X + axis
        if _present(form, ends, slot):
            _slot(scr, _VALUE, tables, form, ends, slot, serial, start, n, around.stretch)
            cx, cy, cz = turn[0, axis], turn[1, axis], turn[2, axis]
            for i in range(n):
                ax[i] += cx * value[i]
                ay[i] += cy * value[i]
                az[i] += cz * value[i]


@njit(**options)
def _from_centre(scr, state, around, start, n):
    """Fill the T rows with the particles' ways from the layer's centre, as they are in the middle of the step.

    Forces that turn with the place are taken there (the midpoint rule), so that circles stay circles.
    """
    wx, wy, wz, dt = scr[_T0], scr[_T1], scr[_T2], scr[_DT]
    vx, vy, vz = part(state, s.VX, start, n), part(state, s.VY, start, n), part(state, s.VZ, start, n)
    half = np.float32(0.5)
    px, py, pz = part(state, s.PX, start, n), part(state, s.PY, start, n), part(state, s.PZ, start, n)
    cx, cy, cz = around.centre[0], around.centre[1], around.centre[2]
    for i in range(n):
        wx[i] = px[i] - cx + half * dt[i] * vx[i]
        wy[i] = py[i] - cy + half * dt[i] * vy[i]
        wz[i] = pz[i] - cz + half * dt[i] * vz[i]


@njit(**options)
def _pull(scr, around, tables, form, ends, serial, start, n):
    """Add the pull to the layer's centre; the ways from it are in the T rows."""
    ax, ay, az, value = scr[_AX], scr[_AY], scr[_AZ], scr[_VALUE]
    wx, wy, wz = scr[_T0], scr[_T1], scr[_T2]
    _slot(scr, _VALUE, tables, form, ends, s.PULL, serial, start, n, around.stretch)
    for i in range(n):
        far = np.sqrt(wx[i] * wx[i] + wy[i] * wy[i] + wz[i] * wz[i])
        share = value[i] / max(far, np.float32(1e-6))
        ax[i] -= wx[i] * share
        ay[i] -= wy[i] * share
        az[i] -= wz[i] * share


@njit(**options)
def _swirl(scr, around, tables, form, ends, serial, start, n):
    """Add the push round the layer's axis; the ways from its centre are in the T rows."""
    ax, ay, az, value = scr[_AX], scr[_AY], scr[_AZ], scr[_VALUE]
    wx, wy, wz = scr[_T0], scr[_T1], scr[_T2]
    ux, uy, uz = around.axis[0], around.axis[1], around.axis[2]
    _slot(scr, _VALUE, tables, form, ends, s.SWIRL, serial, start, n, around.stretch)
    for i in range(n):
        tx, ty, tz = uy * wz[i] - uz * wy[i], uz * wx[i] - ux * wz[i], ux * wy[i] - uy * wx[i]
        far = np.sqrt(tx * tx + ty * ty + tz * tz)
        share = value[i] / max(far, np.float32(1e-6))
        ax[i] += tx * share
        ay[i] += ty * share
        az[i] += tz * share


@njit(**options)
def _turbulence(scr, state, around, tables, form, ends, serial, start, n, time):
    """Add the eddies' push."""
    ax, ay, az = scr[_AX], scr[_AY], scr[_AZ]
    value = scr[_VALUE]
    t0, t1, t2 = scr[_T0], scr[_T1], scr[_T2]
    inverse = np.float32(1.0 / (around.eddy * around.stretch[0]))
    slide = np.float32(around.churn * time)
    eddies(
        t0,
        t1,
        t2,
        part(state, s.PX, start, n),
        part(state, s.PY, start, n),
        part(state, s.PZ, start, n),
        n,
        inverse,
        slide,
        around.octaves,
        around.salt,
    )
    _slot(scr, _VALUE, tables, form, ends, s.TURBULENCE, serial, start, n, around.stretch)
    for i in range(n):
        ax[i] += t0[i] * value[i]
        ay[i] += t1[i] * value[i]
        az[i] += t2[i] * value[i]


@njit(**options)
def _drag_and_wind(scr, around, tables, form, ends, serial, start, n, time):
    """Fill the relaxation rows and add the wind's push, k·w."""
    value, dt = scr[_VALUE], scr[_DT]
    e0, e1, e2 = scr[_E0], scr[_E1], scr[_E2]
    _slot(scr, _VALUE, tables, form, ends, s.DRAG, serial, start, n, around.stretch)
    relaxations(value, dt, e0, e1, e2, n)
    if _present(form, ends, s.WIND):
        ax, ay, az = scr[_AX], scr[_AY], scr[_AZ]
        carried = scr[_T0]
        _slot(scr, _T0, tables, form, ends, s.WIND, serial, start, n, around.stretch)
        swell = np.float32(gust_factor(around.gust, around.gust_period, time))
        wx, wy, wz = around.wind[0] * swell, around.wind[1] * swell, around.wind[2] * swell
        for i in range(n):
            share = carried[i] * value[i]
            ax[i] += share * wx
            ay[i] += share * wy
            az[i] += share * wz


@njit(**options)
def _move(scr, state, start, n):
    """Carry velocity and place over the step."""
    e0, e1, e2 = scr[_E0], scr[_E1], scr[_E2]
    for axis in range(3):
        p, v, a = part(state, s.PX + axis, start, n), part(state, s.VX + axis, start, n), scr[_AX + axis]
        for i in range(n):
            before = v[i]
            p[i] += before * e1[i] + a[i] * e2[i]
            v[i] = before * e0[i] + a[i] * e1[i]


@njit(**options)
def _move_limited(scr, state, start, n):
    """As :func:`_move`, and never faster than the limit row; a limit of 0 stops it."""
    e0, e1, e2, dt = scr[_E0], scr[_E1], scr[_E2], scr[_DT]
    ax, ay, az = scr[_AX], scr[_AY], scr[_AZ]
    limit = scr[_LIMIT]
    px, py, pz = part(state, s.PX, start, n), part(state, s.PY, start, n), part(state, s.PZ, start, n)
    vx, vy, vz = part(state, s.VX, start, n), part(state, s.VY, start, n), part(state, s.VZ, start, n)
    one = np.float32(1.0)
    for i in range(n):
        dx = vx[i] * e1[i] + ax[i] * e2[i]
        dy = vy[i] * e1[i] + ay[i] * e2[i]
        dz = vz[i] * e1[i] + az[i] * e2[i]
        wx = vx[i] * e0[i] + ax[i] * e1[i]
        wy = vy[i] * e0[i] + ay[i] * e1[i]
        wz = vz[i] * e0[i] + az[i] * e1[i]
        top = max(limit[i], np.float32(0.0))
        fast = np.sqrt(wx * wx + wy * wy + wz * wz)
        far = np.sqrt(dx * dx + dy * dy + dz * dz)
        hold = min(one, top / max(fast, np.float32(1e-30)))
        short = min(one, top * dt[i] / max(far, np.float32(1e-30)))
        px[i] += dx * short
        py[i] += dy * short
        pz[i] += dz * short
        vx[i] = wx * hold
        vy[i] = wy * hold
        vz[i] = wz * hold


@njit(**options)
def _drift(scr, state, around, tables, form, ends, serial, start, n):
    """Add the drift to the place alone."""
    value, dt, turn = scr[_VALUE], scr[_DT], around.turn
    px, py, pz = part(state, s.PX, start, n), part(state, s.PY, start, n), part(state, s.PZ, start, n)
    for axis in range(3):
        slot = s.DRIFT_X + axis
        if _present(form, ends, slot):
            _slot(scr, _VALUE, tables, form, ends, slot, serial, start, n, around.stretch)
            cx, cy, cz = turn[0, axis], turn[1, axis], turn[2, axis]
            for i in range(n):
                far = value[i] * dt[i]
                px[i] += cx * far
                py[i] += cy * far
                pz[i] += cz * far


@njit(**options)
def _orbit(scr, state, around, tables, form, ends, serial, start, n):
    """Turn place and velocity about the layer's axis (Rodrigues' rotation, in float64)."""
    value, dt = scr[_VALUE], scr[_DT]
    _slot(scr, _VALUE, tables, form, ends, s.ORBIT, serial, start, n, around.stretch)
    ux, uy, uz = np.float64(around.axis[0]), np.float64(around.axis[1]), np.float64(around.axis[2])
    for i in range(n):
        j = start + i
        angle = np.float64(value[i]) * np.float64(dt[i])
        sin, cos = np.sin(angle), np.cos(angle)
        for what in range(2):
            row = s.PX if what == 0 else s.VX
            ox = np.float64(around.centre[0]) if what == 0 else 0.0
            oy = np.float64(around.centre[1]) if what == 0 else 0.0
            oz = np.float64(around.centre[2]) if what == 0 else 0.0
            x, y, z = state[row, j] - ox, state[row + 1, j] - oy, state[row + 2, j] - oz
            along = (ux * x + uy * y + uz * z) * (1.0 - cos)
            state[row, j] = ox + x * cos + (uy * z - uz * y) * sin + ux * along
            state[row + 1, j] = oy + y * cos + (uz * x - ux * z) * sin + uy * along
            state[row + 2, j] = oz + z * cos + (ux * y - uy * x) * sin + uz * along


@njit(**options)
def _spin(scr, state, around, tables, form, ends, serial, start, n):
    value, dt, turned = scr[_VALUE], scr[_DT], part(state, s.TURN, start, n)
    _slot(scr, _VALUE, tables, form, ends, s.SPIN, serial, start, n, around.stretch)
    for i in range(n):
        turned[i] += value[i] * dt[i]


@njit(**options)
def _close_over(state, serial, start, n, to):
    """Move a block's living particles down to ``to``, in their order; return where the next go."""
    age = part(state, s.AGE, start, n)
    dead = 0
    for i in range(n):
        dead += age[i] >= np.float32(1.0)
    if dead == 0 and to == start:
        return start + n
    kept = np.empty(BLOCK, np.int32)
    count = 0
    for i in range(n):
        if age[i] < np.float32(1.0):
            kept[count] = i
            count += 1
    for row in range(s.ROWS):
        old, new = part(state, row, start, n), state[row][to : to + count]
        for i in range(count):
            new[i] = old[kept[i]]
    before, after = serial[start : start + n], serial[to : to + count]
    for i in range(count):
        after[i] = before[kept[i]]
    return to + count


@njit(**options)
def move_down(state, serial, start, stop, to):
    """Move particles ``start`` to ``stop`` down to ``to``, in their order; return where the next go."""
    if start == to:
        return stop
    for row in range(s.ROWS):
        line = state[row]
        for i in range(stop - start):
            line[to + i] = line[start + i]
    for i in range(stop - start):
        serial[to + i] = serial[start + i]
    return to + stop - start


@njit(**options)
def advance(state, serial, first, last, to, steps, even, tables, form, ends, around, time, scr):
    """Move particles ``first`` to ``last`` over one step and close over the dead.

    Parameters
    ----------
    state : float32 array, shape (rows, cap)
    serial : uint32 array, shape (cap,)
    to : int
        Where the living are put, at most ``first``.
    steps : float32 array
        How long each particle's step is, s, counted from ``first``; only its first entry is read if
        ``even``.
    even : bool
        Whether all have the same step.
    form, ends : arrays
        The slots at this moment, from :func:`at_clock`.
    time : float
        The middle of the step, s.
    scr : float32 array
        From :func:`scratch`.

    Returns
    -------
    int
        Where the next living particle would be put.
    """
    zero = np.float32(0.0)
    gravity_varies = form[s.GRAVITY] != s.LEVEL
    drag_varies = form[s.DRAG] != s.LEVEL or not even
    thrusts = _present(form, ends, s.THRUST_X) or _present(form, ends, s.THRUST_Y) or _present(form, ends, s.THRUST_Z)
    pulls = _present(form, ends, s.PULL)
    swirls = _present(form, ends, s.SWIRL)
    stirs = _present(form, ends, s.TURBULENCE)
    winds = _present(form, ends, s.WIND) and _present(form, ends, s.DRAG)
    drifts = _present(form, ends, s.DRIFT_X) or _present(form, ends, s.DRIFT_Y) or _present(form, ends, s.DRIFT_Z)
    orbits = _present(form, ends, s.ORBIT)
    # A fixed 0 sets no limit; a curve or spread that comes to 0 means it.
    limited = tables.form[s.TOP_SPEED] != s.LEVEL or _present(form, ends, s.TOP_SPEED)
    spins = _present(form, ends, s.SPIN)
    reads_age = False
    reads_speed = False
    for slot in range(s.GRAVITY, s.SPIN + 1):
        reads_age |= form[slot] >= s.LIFE_CURVE
        reads_speed |= form[slot] >= s.SPEED_CURVE
    forces_vary = gravity_varies or thrusts or pulls or swirls or stirs or winds
    dt, mid = scr[_DT], scr[_MID]
    ax, ay, az = scr[_AX], scr[_AY], scr[_AZ]
    # What is the same for all is written once and stays in its rows.
    level(dt, steps[0], BLOCK)
    level(ax, zero, BLOCK)
    level(az, zero, BLOCK)
    level(ay, -ends[s.GRAVITY, 0], BLOCK)
    if not drag_varies:
        r0, r1, r2 = relaxation(np.float64(ends[s.DRAG, 0]), np.float64(steps[0]))
        level(scr[_E0], np.float32(r0), BLOCK)
        level(scr[_E1], np.float32(r1), BLOCK)
        level(scr[_E2], np.float32(r2), BLOCK)
    half = np.float32(0.5)
    for start in range(first, last, BLOCK):
        n = min(BLOCK, last - start)
        age, pace = part(state, s.AGE, start, n), part(state, s.PACE, start, n)
        if not even:
            for i in range(n):
                dt[i] = steps[start - first + i]
        if reads_age:
            scr[_HELD].view(np.int64)[0] = 0
            for i in range(n):
                mid[i] = min(age[i] + half * pace[i] * dt[i], np.float32(1.0))
        if reads_speed:
            speeds(scr[_FAST], state, start, n, around.speed_range)
        if forces_vary:
            level(ax, zero, n)
            level(az, zero, n)
            if gravity_varies:
                _slot(scr, _VALUE, tables, form, ends, s.GRAVITY, serial, start, n, around.stretch)
                weight = scr[_VALUE]
                for i in range(n):
                    ay[i] = -weight[i]
            else:
                level(ay, -ends[s.GRAVITY, 0], n)
            if thrusts:
                _thrust(scr, around, tables, form, ends, serial, start, n)
            if pulls or swirls:
                _from_centre(scr, state, around, start, n)
            if pulls:
                _pull(scr, around, tables, form, ends, serial, start, n)
            if swirls:
                _swirl(scr, around, tables, form, ends, serial, start, n)
            if stirs:
                _turbulence(scr, state, around, tables, form, ends, serial, start, n, time)
        if drag_varies or winds:
            _drag_and_wind(scr, around, tables, form, ends, serial, start, n, time)
        if limited:
            _slot(scr, _LIMIT, tables, form, ends, s.TOP_SPEED, serial, start, n, around.stretch)
            _move_limited(scr, state, start, n)
        else:
            _move(scr, state, start, n)
        if drifts:
            _drift(scr, state, around, tables, form, ends, serial, start, n)
        if orbits:
            _orbit(scr, state, around, tables, form, ends, serial, start, n)
        if spins:
            _spin(scr, state, around, tables, form, ends, serial, start, n)
        for i in range(n):
            age[i] += pace[i] * dt[i]
        to = _close_over(state, serial, start, n, to)
    return to

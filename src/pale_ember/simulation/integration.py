"""The motion of particles over one step, block by block; the dead are closed over."""

from __future__ import annotations

import numpy as np
from numba import njit

from . import scratch as w
from . import slots as s
from . import state as r
from .forces import axis_of, call_centre, call_drag, relaxation
from .kernels import helper, kernel
from .limiting import call_limit
from .sampling import BLOCK, HELD, ages, call_values, level, piece, present, speeds
from .signatures import AROUND, BOOL, CALLS, F2, I1, INT, REAL, TABLES, U1
from .turbulence import call_stir
from .turning import call_orbit


@njit(inline="always")
def _along(scr, row, factors, n, around, axis):
    """Add a row times the layer's axis to three rows of the world, from ``row`` on."""
    x, y, z = scr[row], scr[row + 1], scr[row + 2]
    cx, cy, cz = around.rotation[0, axis], around.rotation[1, axis], around.rotation[2, axis]
    for i in range(n):
        x[i] += cx * factors[i]
        y[i] += cy * factors[i]
        z[i] += cz * factors[i]


@helper
def _to_middle(scr, state, start, n, drifts, paced):
    """Fill the M rows with where particles are in the middle of the step, but for what pushes them in it."""
    span, pace = scr[w.SPAN], scr[w.PACE]
    half = np.float32(0.5)
    for axis in range(3):
        p, v = piece(state, r.PX + axis, start, n), piece(state, r.VX + axis, start, n)
        m, d = scr[w.MX + axis], scr[w.DX + axis]
        if paced:
            for i in range(n):
                m[i] = p[i] + half * span[i] * pace[i] * v[i]
        else:
            for i in range(n):
                m[i] = p[i] + half * span[i] * v[i]
        if drifts:
            for i in range(n):
                m[i] += half * span[i] * d[i]


@helper
def _speeds_in_the_middle(scr, state, start, n, reach):
    """Fill the FAST row with the speeds that forces known so far give in the middle of the step, as shares of reach."""
    e0, e1, fast = scr[w.E0], scr[w.E1], scr[w.FAST]
    vx, vy, vz = piece(state, r.VX, start, n), piece(state, r.VY, start, n), piece(state, r.VZ, start, n)
    ax, ay, az = scr[w.AX], scr[w.AY], scr[w.AZ]
    share, one = np.float32(1.0 / reach), np.float32(1.0)
    for i in range(n):
        h0 = np.sqrt(e0[i])
        h1 = e1[i] / (one + h0)
        x, y, z = vx[i] * h0 + ax[i] * h1, vy[i] * h0 + ay[i] * h1, vz[i] * h0 + az[i] * h1
        fast[i] = min(np.sqrt(x * x + y * y + z * z) * share, one)


@helper
def _move(scr, state, start, n, paced):
    """Carry velocity and place over the step."""
    e0, e1, e2, pace = scr[w.E0], scr[w.E1], scr[w.E2], scr[w.PACE]
    for axis in range(3):
        p, v, a = piece(state, r.PX + axis, start, n), piece(state, r.VX + axis, start, n), scr[w.AX + axis]
        if paced:
            for i in range(n):
                before = v[i]
                p[i] += pace[i] * (before * e1[i] + a[i] * e2[i])
                v[i] = before * e0[i] + a[i] * e1[i]
        else:
            for i in range(n):
                before = v[i]
                p[i] += before * e1[i] + a[i] * e2[i]
                v[i] = before * e0[i] + a[i] * e1[i]


@helper
def _close_over(state, serial, end, start, n, to):
    """Move a block's living particles down to ``to``, in their order; return where the next go."""
    dead = 0
    for i in range(n):
        dead += end[i] >= np.float32(1.0)
    if dead == 0 and to == start:
        return start + n
    kept = np.empty(BLOCK, np.int32)
    count = 0
    for i in range(n):
        if end[i] < np.float32(1.0):
            kept[count] = i
            count += 1
    for row in range(r.ROWS):
        old, new = piece(state, row, start, n), state[row][to : to + count]
        for i in range(count):
            new[i] = old[kept[i]]
    before, after = serial[start : start + n], serial[to : to + count]
    for i in range(count):
        after[i] = before[kept[i]]
    return to + count


@kernel(INT, F2, U1, INT, INT, INT, BOOL, TABLES, I1, F2, AROUND, INT, REAL, F2, CALLS)
def advance(state, serial, first, last, to, newborn, tables, form, ends, around, step, rate, scr, calls):
    """Carry particles ``first`` to ``last`` over a step, and move the living down to ``to``, in their order.

    What acts is taken in the middle of the step (see :mod:`.forces`), what turns half before and half after, so the
    whole is of second order; constant acceleration and drag are exact.

    Parameters
    ----------
    state : float32 array, shape (rows, cap)
        Rows as :mod:`.state` numbers them.
    newborn : bool
        Whether they are born in this step, and live only what is left of it.
    form, ends : arrays
        The slots in the middle of the step, from :func:`~.sampling.at_clock`.
    step : int
        Its number; it goes from step / rate to (step + 1) / rate.
    scr : float32 array
        From :func:`~.scratch.motion_scratch`.

    Returns
    -------
    int
        Where the next living particle would be put.
    """
    zero, half = np.float32(0.0), np.float32(0.5)
    whole, stretch = np.float32(1.0 / rate), around.stretch[0]
    gravity_varies = form[s.GRAVITY] != s.LEVEL
    drag_varies = form[s.DRAG] != s.LEVEL or newborn
    thrusts = present(form, ends, s.THRUST_X) or present(form, ends, s.THRUST_Y) or present(form, ends, s.THRUST_Z)
    centres = present(form, ends, s.PULL) or present(form, ends, s.SWIRL)
    stirs = present(form, ends, s.TURBULENCE)
    winds = present(form, ends, s.WIND) and present(form, ends, s.DRAG)
    drifts = present(form, ends, s.DRIFT_X) or present(form, ends, s.DRIFT_Y) or present(form, ends, s.DRIFT_Z)
    orbits = present(form, ends, s.ORBIT)
    paced = form[s.PACE] != s.LEVEL or ends[s.PACE, 0] != np.float32(1.0)
    # A fixed 0 sets no limit; a curve or spread that comes to 0 means it.
    limited = tables.form[s.TOP_SPEED] != s.LEVEL or present(form, ends, s.TOP_SPEED)
    spins = present(form, ends, s.SPIN)
    reads_age = False
    reads_speed = False
    for slot in range(s.GRAVITY, s.SPIN + 1):
        reads_age |= form[slot] == s.LIFE_CURVE or form[slot] == s.LIFE_BAND
        reads_speed |= form[slot] >= s.SPEED_CURVE
    pushes_vary = gravity_varies or thrusts or centres or stirs or winds
    held = scr[HELD].view(np.int64)
    span, middle, end = scr[w.SPAN], scr[w.MIDDLE], scr[w.END]
    ax, ay, az = scr[w.AX], scr[w.AY], scr[w.AZ]
    # What is the same for all is written once and stays in its rows.
    level(span, whole, BLOCK)
    level(ax, zero, BLOCK)
    level(az, zero, BLOCK)
    level(ay, -ends[s.GRAVITY, 0], BLOCK)
    level(scr[w.PACE], np.float32(1.0), BLOCK)
    if not drag_varies:
        r0, r1, r2 = relaxation(np.float64(ends[s.DRAG, 0]), 1.0 / rate)
        level(scr[w.E0], np.float32(r0), BLOCK)
        level(scr[w.E1], np.float32(r1), BLOCK)
        level(scr[w.E2], np.float32(r2), BLOCK)
    for start in range(first, last, BLOCK):
        n = min(BLOCK, last - start)
        ages(end, state, start, n, step + 1, rate)
        if newborn:
            since = piece(state, r.SINCE, start, n)
            for i in range(n):
                span[i] = since[i]
        held[0] = 0
        if reads_age:
            aging = piece(state, r.AGING, start, n)
            for i in range(n):
                middle[i] = min(max(end[i] - half * span[i] * aging[i], zero), np.float32(1.0))
        if reads_speed:
            speeds(scr[w.FAST], state, start, n, around.speed_range * around.stretch[0])
        # Where something follows the speed, a first round finds that of the middle of the step.
        for turn in range(0 if reads_speed else 1, 2):
            if orbits and turn == 1:
                call_values(
                    calls.values,
                    scr,
                    w.TURNED,
                    axis_of(form, s.ORBIT),
                    tables,
                    form,
                    ends,
                    s.ORBIT,
                    serial,
                    start,
                    n,
                    stretch,
                )
                angle = scr[w.TURNED]
                for i in range(n):
                    angle[i] *= half * span[i]
                call_orbit(calls.orbit, scr, state, around, start, n)
            if drifts:
                for axis in range(3):
                    level(scr[w.DX + axis], zero, n)
                for axis in range(3):
                    if present(form, ends, s.DRIFT_X + axis):
                        slot = s.DRIFT_X + axis
                        call_values(
                            calls.values,
                            scr,
                            w.VALUE,
                            axis_of(form, slot),
                            tables,
                            form,
                            ends,
                            slot,
                            serial,
                            start,
                            n,
                            stretch,
                        )
                        _along(scr, w.DX, scr[w.VALUE], n, around, axis)
            if paced:
                call_values(
                    calls.values,
                    scr,
                    w.PACE,
                    axis_of(form, s.PACE),
                    tables,
                    form,
                    ends,
                    s.PACE,
                    serial,
                    start,
                    n,
                    stretch,
                )
            if pushes_vary:
                level(ax, zero, n)
                level(az, zero, n)
                call_values(
                    calls.values,
                    scr,
                    w.VALUE,
                    axis_of(form, s.GRAVITY),
                    tables,
                    form,
                    ends,
                    s.GRAVITY,
                    serial,
                    start,
                    n,
                    stretch,
                )
                weight = scr[w.VALUE]
                for i in range(n):
                    ay[i] = -weight[i]
                for axis in range(3):
                    if thrusts and present(form, ends, s.THRUST_X + axis):
                        slot = s.THRUST_X + axis
                        call_values(
                            calls.values,
                            scr,
                            w.VALUE,
                            axis_of(form, slot),
                            tables,
                            form,
                            ends,
                            slot,
                            serial,
                            start,
                            n,
                            stretch,
                        )
                        _along(scr, w.AX, scr[w.VALUE], n, around, axis)
                if centres or stirs:
                    _to_middle(scr, state, start, n, drifts, paced)
                if centres:
                    call_centre(calls.centre, scr, around, tables, form, ends, serial, start, n, calls)
                if stirs:
                    call_stir(calls.stir, scr[w.T0], scr[w.T1], scr[w.T2], scr[w.MX], scr[w.MY], scr[w.MZ], n, around)
                    call_values(
                        calls.values,
                        scr,
                        w.VALUE,
                        axis_of(form, s.TURBULENCE),
                        tables,
                        form,
                        ends,
                        s.TURBULENCE,
                        serial,
                        start,
                        n,
                        stretch,
                    )
                    value = scr[w.VALUE]
                    for axis in range(3):
                        a, push = scr[w.AX + axis], scr[w.T0 + axis]
                        for i in range(n):
                            a[i] += push[i] * value[i]
            if drag_varies or winds:
                call_drag(calls.drag, scr, around, tables, form, ends, serial, start, n, calls)
            if turn == 0:
                held[0] = 0
                reach = around.speed_range * stretch
                _speeds_in_the_middle(scr, state, start, n, reach)
                if limited and form[s.TOP_SPEED] < s.SPEED_CURVE:
                    call_values(calls.values, scr, w.LIMIT, w.MIDDLE, tables, form, ends, s.TOP_SPEED, serial, start, n, stretch)
                    fast, top, share = scr[w.FAST], scr[w.LIMIT], np.float32(1.0 / reach)
                    for i in range(n):
                        fast[i] = min(fast[i], max(top[i], zero) * share)
        if limited:
            call_values(
                calls.values,
                scr,
                w.LIMIT,
                axis_of(form, s.TOP_SPEED),
                tables,
                form,
                ends,
                s.TOP_SPEED,
                serial,
                start,
                n,
                stretch,
            )
            last_limit = scr[w.LAST_LIMIT]
            if form[s.TOP_SPEED] == s.LIFE_CURVE or form[s.TOP_SPEED] == s.LIFE_BAND:
                for i in range(n):
                    middle[i] = min(end[i], np.float32(1.0))
                held[0] = 0
                call_values(
                    calls.values,
                    scr,
                    w.LAST_LIMIT,
                    axis_of(form, s.TOP_SPEED),
                    tables,
                    form,
                    ends,
                    s.TOP_SPEED,
                    serial,
                    start,
                    n,
                    stretch,
                )
                held[0] = 0
                aging = piece(state, r.AGING, start, n)
                for i in range(n):
                    middle[i] = min(max(end[i] - half * span[i] * aging[i], zero), np.float32(1.0))
            else:
                now = scr[w.LIMIT]
                for i in range(n):
                    last_limit[i] = now[i]
            call_limit(calls.limit, scr, state, start, n)
        else:
            _move(scr, state, start, n, paced)
        if drifts:
            for axis in range(3):
                p, d = piece(state, r.PX + axis, start, n), scr[w.DX + axis]
                for i in range(n):
                    p[i] += d[i] * span[i]
        if orbits:
            call_orbit(calls.orbit, scr, state, around, start, n)
        if spins:
            call_values(
                calls.values, scr, w.VALUE, axis_of(form, s.SPIN), tables, form, ends, s.SPIN, serial, start, n, stretch
            )
            value, angle = scr[w.VALUE], piece(state, r.ANGLE, start, n)
            for i in range(n):
                angle[i] += value[i] * span[i]
        to = _close_over(state, serial, end, start, n, to)
    return to


call_advance = advance.call

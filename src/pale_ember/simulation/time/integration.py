"""Moves particles over one step, block by block, and closes the gaps that the dead leave."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ..births.moving_along import call_take_along
from ..contact.hits import call_touch
from ..kernels.compiling import kernel, lean_helper
from ..layout import rows, scratch, slots
from ..layout.program import FROM, MIDDLE, TO
from ..layout.recording import call_record
from ..layout.scratch import BLOCK
from ..layout.signatures import BOOL, F2, INT, PROGRAM, U1
from ..motion.forces import call_drag, is_pushed, relaxation
from ..motion.orbit import call_orbit
from ..motion.pushing import call_glide, call_push
from ..motion.speeds import call_speeds
from ..motion.top_speed import call_limit
from ..values.sampling import ages, fill_row, forget, is_nonzero, piece

# The slots that are read at each step: from the first one to behind the last.
_STEPPED, _STEPPED_END = slots.STEPPED.start, slots.STEPPED.stop


@lean_helper
def _move(scr, state, start, n, paced):
    """Carry velocity and place over the step."""
    e0, e1, e2, pace = scr[scratch.E0], scr[scratch.E1], scr[scratch.E2], scr[scratch.PACE]
    for axis in range(3):
        p, v, a = (
            piece(state, rows.PX + axis, start, n),
            piece(state, rows.VX + axis, start, n),
            scr[scratch.AX + axis],
        )
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


@lean_helper
def _close_over(state, serial, end, start, n, to, kept):
    """Move a block's living particles down to ``to``, in their order; return where the next go."""
    dead = 0
    for i in range(n):
        dead += end[i] >= np.float32(1.0)
    if dead == 0 and to == start:
        return start + n
    count = 0
    for i in range(n):
        if end[i] < np.float32(1.0):
            kept[count] = i
            count += 1
    for row in range(state.shape[0]):
        old, new = piece(state, row, start, n), state[row][to : to + count]
        for i in range(count):
            new[i] = old[kept[i]]
    before, after = serial[start : start + n], serial[to : to + count]
    for i in range(count):
        after[i] = before[kept[i]]
    return to + count


@lean_helper
def _note_before(state, start, n, scr):
    """Keep places, velocities and angles of a block as they are before the step."""
    for axis in range(3):
        p, v = piece(state, rows.PX + axis, start, n), piece(state, rows.VX + axis, start, n)
        p0, v0 = scr[scratch.P0X + axis], scr[scratch.V0X + axis]
        for i in range(n):
            p0[i] = p[i]
            v0[i] = v[i]
    angle, before, span, stretch, gone = (
        piece(state, rows.ANGLE, start, n),
        scr[scratch.TURNED_FROM],
        scr[scratch.SPAN],
        scr[scratch.PIECE],
        scr[scratch.GONE],
    )
    for i in range(n):
        before[i] = angle[i]
        stretch[i] = span[i]
        gone[i] = np.float32(0.0)


class Acts(NamedTuple):
    """What acts on a layer's particles in a step, and what that is read along."""

    drag_varies: bool
    winds: bool
    drifts: bool
    orbits: bool
    paced: bool
    limited: bool
    spins: bool
    pushed: bool
    reads_age: bool
    reads_speed: bool


@lean_helper
def _find_acts(program, newborn):
    """Return which of a layer's fields do anything in this step."""
    form, ends = program.form, program.ends
    winds = is_nonzero(form, ends, slots.WIND) and is_nonzero(form, ends, slots.DRAG)
    drifts = (
        is_nonzero(form, ends, slots.DRIFT_X)
        or is_nonzero(form, ends, slots.DRIFT_Y)
        or is_nonzero(form, ends, slots.DRIFT_Z)
    )
    paced = form[slots.PACE] != slots.CONSTANT or ends[slots.PACE, 0] != np.float32(1.0)
    reads_age = False
    reads_speed = False
    for slot in range(_STEPPED, _STEPPED_END):
        reads_age |= form[slot] == slots.LIFE_CURVE or form[slot] == slots.LIFE_BAND
        reads_speed |= form[slot] >= slots.SPEED_CURVE
    return Acts(
        drag_varies=form[slots.DRAG] != slots.CONSTANT or newborn,
        winds=winds,
        drifts=drifts,
        orbits=is_nonzero(form, ends, slots.ORBIT),
        paced=paced,
        # A fixed 0 sets no limit; a curve or spread that comes to 0 means it.
        limited=program.tables.form[slots.TOP_SPEED] != slots.CONSTANT
        or is_nonzero(form, ends, slots.TOP_SPEED),
        spins=is_nonzero(form, ends, slots.SPIN),
        pushed=is_pushed(form, ends) or program.calls.forces.shape[0] > 0 or drifts or paced or winds,
        reads_age=reads_age,
        reads_speed=reads_speed,
    )


@lean_helper
def _fill_shared(ends, rate, drag_varies, scr):
    """Write once what is the same for all particles; it stays in its rows."""
    zero, whole = np.float32(0.0), np.float32(1.0 / rate)
    fill_row(scr[scratch.SPAN], whole, BLOCK)
    fill_row(scr[scratch.AX], zero, BLOCK)
    fill_row(scr[scratch.AZ], zero, BLOCK)
    fill_row(scr[scratch.AY], -ends[slots.GRAVITY, 0], BLOCK)
    fill_row(scr[scratch.PACE], np.float32(1.0), BLOCK)
    if not drag_varies:
        r0, r1, r2 = relaxation(np.float64(ends[slots.DRAG, 0]), 1.0 / rate)
        fill_row(scr[scratch.E0], np.float32(r0), BLOCK)
        fill_row(scr[scratch.E1], np.float32(r1), BLOCK)
        fill_row(scr[scratch.E2], np.float32(r2), BLOCK)


@lean_helper
def _push(program, state, serial, start, n, acts, scr):
    """Find what pushes a block's particles, and how drag takes it, in the middle of the step."""
    tables, form, ends, around, calls = (
        program.tables,
        program.form,
        program.ends,
        program.around,
        program.calls,
    )
    if acts.reads_speed:
        call_speeds(calls.speeds, scr, state, serial, start, n, tables, form, ends, around, calls, True)
    # Where something follows the speed, a first round finds that of the middle of the step.
    for turn in range(0 if acts.reads_speed else 1, 2):
        if acts.orbits and turn == 1:
            call_orbit(calls.orbit, scr, state, serial, start, n, tables, form, ends, around, calls, True)
        if acts.pushed:
            call_push(calls.push, scr, state, serial, start, n, tables, form, ends, around, calls)
        if acts.drag_varies or acts.winds:
            call_drag(calls.drag, scr, around, tables, form, ends, serial, start, n, calls)
        if turn == 0:
            call_speeds(calls.speeds, scr, state, serial, start, n, tables, form, ends, around, calls, False)


@kernel(INT, PROGRAM, F2, U1, INT, INT, INT, BOOL, INT, F2, lean=True, everyday=True, cost=2.7)
def advance(program, state, serial, first, last, to, newborn, step, scr):
    """Carry particles ``first`` to ``last`` over a step, and move the living down to ``to``, in their order.

    What acts is taken in the middle of the step (see :mod:`..motion.forces`), what turns half before and half
    after, so the whole is of second order; constant acceleration and drag are exact.

    Parameters
    ----------
    state : float32 array, shape (rows, cap)
        Rows as :mod:`..layout.rows` numbers them.
    newborn : bool
        Whether they are born in this step, and live only what is left of it.
    step : int
        Its number; it goes from step / rate to (step + 1) / rate.
    scr : float32 array
        From :func:`~..layout.scratch.motion_scratch`.

    Returns
    -------
    int
        Where the next living particle would be put.
    """
    tables, form, ends, around, calls = (
        program.tables,
        program.form,
        program.ends,
        program.around,
        program.calls,
    )
    rate, poses = program.clock.rate, program.poses
    zero, half = np.float32(0.0), np.float32(0.5)
    acts = _find_acts(program, newborn)
    # Hits and recorded flight are found along the whole displacement, that of the moving layer included.
    watched = program.has_contact or program.is_recorded
    carried = watched and program.track.moves and program.follow
    span, middle, end = scr[scratch.SPAN], scr[scratch.MIDDLE], scr[scratch.END]
    _fill_shared(ends, rate, acts.drag_varies, scr)
    for start in range(first, last, BLOCK):
        n = min(BLOCK, last - start)
        ages(end, state, start, n, step + 1, rate)
        if newborn:
            since = piece(state, rows.SINCE, start, n)
            for i in range(n):
                span[i] = since[i]
        if watched:
            _note_before(state, start, n, scr)
            if carried and not newborn:
                call_take_along(calls.take_along, state, start, start + n, poses[FROM], poses[MIDDLE])
        forget(scr)
        if acts.reads_age:
            aging = piece(state, rows.AGING, start, n)
            for i in range(n):
                middle[i] = min(max(end[i] - half * span[i] * aging[i], zero), np.float32(1.0))
        _push(program, state, serial, start, n, acts, scr)
        if acts.limited:
            call_limit(calls.limit, scr, state, serial, start, n, tables, form, ends, around, calls)
        else:
            _move(scr, state, start, n, acts.paced)
        if acts.drifts or acts.spins:
            call_glide(
                calls.glide, scr, state, serial, start, n, tables, form, ends, calls, acts.drifts, acts.spins
            )
        if acts.orbits:
            call_orbit(calls.orbit, scr, state, serial, start, n, tables, form, ends, around, calls, False)
        if watched:
            if carried:
                call_take_along(calls.take_along, state, start, start + n, poses[MIDDLE], poses[TO])
            if program.has_contact:
                call_touch(calls.contact, program, state, serial, start, n, step, newborn, scr)
            if program.is_recorded:
                call_record(calls.record, program, state, serial, start, n, step, scr)
        to = _close_over(state, serial, end, start, n, to, scr[scratch.T2].view(np.int32))
    return to


call_advance = advance.call

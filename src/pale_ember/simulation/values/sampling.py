"""Reading baked Values inside kernels: one number, or a block of particles at once.

Blocks keep to plain element-wise arithmetic without fast-math, so that a particle's result does not
depend on its place in the block or on how the work is split.
"""

from __future__ import annotations

import numpy as np
from numba import uint32

from ..kernels.compiling import helper, inlined, kernel, lean_helper
from ..kernels.simd import LANES, band_lanes, curve_lanes
from ..layout import rows, slots
from ..layout.program import CELLS, CUT_HIGH, CUT_HIGH_SLOPE, CUT_LOW, CUT_LOW_SLOPE, CUT_X, CUTS, OFFSET
from ..layout.scratch import AT, HELD, SHARE, U
from ..layout.signatures import F2, FLOAT, I1, INT, NOTHING, REAL, TABLES, U1
from .dice import UNIT, mix


@inlined
def piece(state, row, start, n):
    """Return one row of a block of particles."""
    return state[row][start : start + n]


@inlined
def is_curve(form):
    """Return whether a form is a single curve, along whatever; one of several numbers is one along the
    draw.
    """
    return (
        form == slots.LIFE_CURVE
        or form == slots.CLOCK_CURVE
        or form == slots.SPEED_CURVE
        or form == slots.ONE_OF
    )


@inlined
def needs_random(form):
    """Return whether a form uses the particles' draws."""
    return (
        form == slots.SPREAD
        or form == slots.ONE_OF
        or form == slots.LIFE_BAND
        or form == slots.CLOCK_BAND
        or form == slots.SPEED_BAND
    )


@inlined
def is_nonzero(form, ends, slot):
    """Return whether a slot is anything but 0 at this moment."""
    return form[slot] != slots.CONSTANT or ends[slot, 0] != np.float32(0.0)


@inlined
def ages(out, state, start, n, step, rate):
    """Fill ``out[:n]`` with ages 0…1 at the start of a step; exact to about 2e-7 however long they live."""
    born = piece(state, rows.BORN, start, n).view(np.int32)
    since, aging = piece(state, rows.SINCE, start, n), piece(state, rows.AGING, start, n)
    dt, now = np.float32(1.0 / rate), np.int32(step)
    for i in range(n):
        out[i] = (np.float32(np.int32(now - born[i])) * dt + since[i]) * aging[i]


@inlined
def speeds(out, state, start, n, reach):
    """Fill ``out[:n]`` with particles' speeds as shares of ``reach``, at most 1."""
    vx, vy, vz = (
        piece(state, rows.VX, start, n),
        piece(state, rows.VY, start, n),
        piece(state, rows.VZ, start, n),
    )
    share = np.float32(1.0 / reach)
    for i in range(n):
        out[i] = min(np.sqrt(vx[i] * vx[i] + vy[i] * vy[i] + vz[i] * vz[i]) * share, np.float32(1.0))


@lean_helper
def random_of(key, serial):
    """Return one particle's draw in [0, 1)."""
    return np.float32(mix(uint32(serial + key)) >> uint32(8)) * UNIT


@inlined
def fill_random(out, key, serial, start, n):
    """Fill ``out[:n]`` with the draws of particles ``start`` to ``start + n``."""
    k = uint32(key)
    own = serial[start : start + n]
    for i in range(n):
        out[i] = np.float32(np.int32(uint32(mix(uint32(own[i] + k)) >> uint32(8)))) * UNIT


@lean_helper
def _cut(tables, slot, cell, x):
    """Return the cut that x has passed in its cell; -1 for none."""
    found = -1
    if tables.place[slot, CUTS] >= 0:
        k = tables.cut_of[tables.place[slot, CUTS] + cell]
        while k >= 0 and x >= tables.cut[k, CUT_X]:
            found = k
            k += 1
    return found


@lean_helper
def table_ends(tables, slot, x):
    """Return low and high of a slot's table at x, the same for a curve."""
    cells = tables.place[slot, CELLS]
    x = min(max(np.float32(x), np.float32(0.0)), np.float32(1.0))
    f = x * np.float32(cells)
    i = min(np.int64(f), cells - 1)
    t = f - np.float32(i)
    single = is_curve(tables.form[slot])
    k = _cut(tables, slot, i, x)
    if k >= 0:
        dx = x - tables.cut[k, CUT_X]
        low = tables.cut[k, CUT_LOW] + tables.cut[k, CUT_LOW_SLOPE] * dx
        return low, low if single else tables.cut[k, CUT_HIGH] + tables.cut[k, CUT_HIGH_SLOPE] * dx
    if single:
        at = tables.place[slot, OFFSET] + 2 * i
        v = tables.data[at] + tables.data[at + 1] * t
        return v, v
    at = tables.place[slot, OFFSET] + 4 * i
    return tables.data[at] + tables.data[at + 1] * t, tables.data[at + 2] + tables.data[at + 3] * t


@lean_helper
def one(tables, slot, x, serial):
    """Return one particle's value of a slot; x is where a table is read."""
    form = tables.form[slot]
    if form == slots.CONSTANT:
        return tables.ends[slot, 0]
    if form == slots.SPREAD:
        low, high = tables.ends[slot, 0], tables.ends[slot, 1]
    elif form == slots.ONE_OF:
        return table_ends(tables, slot, random_of(tables.key[slot], serial))[0]
    else:
        low, high = table_ends(tables, slot, x)
        if is_curve(form):
            return low
    return low + (high - low) * random_of(tables.key[slot], serial)


@kernel(NOTHING, TABLES, REAL, I1, F2, entry=True, everyday=True, cost=0.4)
def at_clock(tables, clock, form, ends):
    """Reduce the slots that run along the clock to levels and spreads of this moment."""
    for slot in range(slots.COUNT):
        form[slot] = tables.form[slot]
        ends[slot, 0] = tables.ends[slot, 0]
        ends[slot, 1] = tables.ends[slot, 1]
        if tables.form[slot] == slots.CLOCK_CURVE or tables.form[slot] == slots.CLOCK_BAND:
            low, high = table_ends(tables, slot, clock)
            ends[slot, 0] = low
            ends[slot, 1] = high
            form[slot] = slots.CONSTANT if tables.form[slot] == slots.CLOCK_CURVE else slots.SPREAD


@inlined
def forget(scr):
    """Begin a new block: nothing that the common rows hold is good any more."""
    held = scr[HELD].view(np.int64)
    held[0] = 0
    held[2] = 0


@helper
def fill_row(out, value, n):
    """Fill ``out[:n]`` with one number."""
    for i in range(n):
        out[i] = value


@inlined
def _find(x, cells, at, share, n):
    """Fill ``at[:n]`` with the cells that x falls in, and ``share[:n]`` with how far into them."""
    count = np.float32(cells)
    last = np.int32(cells - 1)
    for i in range(n):
        # Whatever x is, nothing outside of the table is read.
        at[i] = min(max(np.int32(x[i] * count), np.int32(0)), last)
    for i in range(n):
        share[i] = x[i] * count - np.float32(at[i])


@inlined
def _mend_cut(out, tables, slot, single, x, u, at, n):
    """Give those that have passed a cut in their cell the value from there on."""
    first = tables.place[slot, CUTS]
    for i in range(n):
        if tables.cut_of[first + at[i]] >= 0:
            k = _cut(tables, slot, at[i], x[i])
            if k >= 0:
                dx = x[i] - tables.cut[k, CUT_X]
                low = tables.cut[k, CUT_LOW] + tables.cut[k, CUT_LOW_SLOPE] * dx
                if not single:
                    high = tables.cut[k, CUT_HIGH] + tables.cut[k, CUT_HIGH_SLOPE] * dx
                    low += (high - low) * u[i]
                out[i] = low


@kernel(NOTHING, F2, INT, INT, TABLES, I1, F2, INT, U1, INT, INT, FLOAT, everyday=True, cost=0.9)
def values(scr, row, axis, tables, form, ends, slot, serial, start, n, factor):
    """Fill a scratch row with a slot's values for a block.

    Parameters
    ----------
    scr : float32 array
        Scratch memory that begins with the common rows. ``HELD`` says for how many cells, of which row,
        ``AT`` and ``SHARE`` hold the places already, and whose draws ``U`` holds; 0 for none
        (:func:`forget`).
    axis : int
        The row that says where tables are read, 0…1.
    form, ends : arrays
        The slots at this moment.
    serial, start, n
        Whose draws are taken.
    factor : float
        Multiplies what is in metres.
    """
    out, u, kind, held = scr[row], scr[U], form[slot], scr[HELD].view(np.int64)
    # Channels of a colour share their dice.
    whose = np.int64(tables.key[slot]) + 1
    if needs_random(kind) and held[2] != whose:
        fill_random(u, tables.key[slot], serial, start, n)
        held[2] = whose
        if held[1] == U:
            # Places that other draws led to.
            held[0] = 0
    if kind == slots.CONSTANT:
        fill_row(out, ends[slot, 0], n)
    elif kind == slots.SPREAD:
        low, rise = ends[slot, 0], ends[slot, 1] - ends[slot, 0]
        for i in range(n):
            out[i] = low + rise * u[i]
    else:
        cells = tables.place[slot, CELLS]
        if kind == slots.ONE_OF:
            axis = U
        x, at, share = scr[axis], scr[AT].view(np.int32), scr[SHARE]
        if held[0] != cells or held[1] != axis:
            _find(x, cells, at, share, n)
            held[0], held[1] = cells, axis
        data = tables.data[tables.place[slot, OFFSET] :]
        single = is_curve(kind)
        # Rows of scratch memory are whole numbers of lanes long: what is behind n is read by nobody.
        whole = (n + LANES - 1) // LANES * LANES
        for i in range(n, whole):
            at[i] = 0
        if single:
            for i in range(0, whole, LANES):
                curve_lanes(out, data, at, share, i)
        else:
            for i in range(0, whole, LANES):
                band_lanes(out, data, at, share, u, i)
        if tables.place[slot, CUTS] >= 0:
            _mend_cut(out, tables, slot, single, x, u, at, n)
    if factor != np.float32(1.0) and slots.LENGTHS[slot]:
        for i in range(n):
            out[i] *= factor


call_values, call_at_clock = values.call, at_clock.call

"""Reading baked Values inside kernels: one number, or a block of particles at once.

Blocks keep to plain element-wise arithmetic without fast-math, so that a particle's result does not
depend on its place in the block or on how the work is split.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit, uint32

from . import slots as s
from .dice import UNIT, mix
from .lanes import LANES, band_lanes, curve_lanes

BLOCK = 512
# Keeps the rows of scratch memory out of each other's cache sets.
PAD = 80
options: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy"}


@njit(**options)
def is_curve(form):
    """Return whether a form is a single curve, along whatever."""
    return form == s.LIFE_CURVE or form == s.CLOCK_CURVE or form == s.SPEED_CURVE


@njit(**options)
def speeds(out, state, start, n, reach):
    """Fill ``out[:n]`` with particles' speeds as shares of ``reach``, at most 1."""
    vx = state[s.VX][start : start + n]
    vy = state[s.VY][start : start + n]
    vz = state[s.VZ][start : start + n]
    share = np.float32(1.0 / reach)
    for i in range(n):
        out[i] = min(np.sqrt(vx[i] * vx[i] + vy[i] * vy[i] + vz[i] * vz[i]) * share, np.float32(1.0))


@njit(**options)
def one_draw(key, serial):
    """Return one particle's draw in [0, 1)."""
    return np.float32(mix(uint32(serial + key)) >> uint32(8)) * UNIT


@njit(**options)
def draws(out, key, serial, start, n):
    """Fill ``out[:n]`` with the draws of particles ``start`` to ``start + n``."""
    k = uint32(key)
    own = serial[start : start + n]
    for i in range(n):
        out[i] = np.float32(np.int32(uint32(mix(uint32(own[i] + k)) >> uint32(8)))) * UNIT


@njit(**options)
def table_ends(tables, slot, x):
    """Return low and high of a slot's table at x, the same for a curve."""
    cells = tables.cells[slot]
    f = min(max(np.float32(x), np.float32(0.0)), np.float32(1.0)) * np.float32(cells)
    i = min(np.int64(f), cells - 1)
    t = f - np.float32(i)
    form = tables.form[slot]
    if is_curve(form):
        at = tables.offset[slot] + 2 * i
        v = tables.data[at] + tables.data[at + 1] * t
        return v, v
    at = tables.offset[slot] + 4 * i
    return tables.data[at] + tables.data[at + 1] * t, tables.data[at + 2] + tables.data[at + 3] * t


@njit(**options)
def one(tables, slot, x, serial):
    """Return one particle's value of a slot; x is where a table is read."""
    form = tables.form[slot]
    if form == s.LEVEL:
        return tables.ends[slot, 0]
    if form == s.SPREAD:
        low, high = tables.ends[slot, 0], tables.ends[slot, 1]
    else:
        low, high = table_ends(tables, slot, x)
        if is_curve(form):
            return low
    return low + (high - low) * one_draw(tables.key[slot], serial)


@njit(**options)
def at_clock(tables, clock, form, ends):
    """Reduce the slots that run along the clock to levels and spreads of this moment."""
    for slot in range(s.COUNT):
        form[slot] = tables.form[slot]
        ends[slot, 0] = tables.ends[slot, 0]
        ends[slot, 1] = tables.ends[slot, 1]
        if tables.form[slot] == s.CLOCK_CURVE or tables.form[slot] == s.CLOCK_BAND:
            low, high = table_ends(tables, slot, clock)
            ends[slot, 0] = low
            ends[slot, 1] = high
            form[slot] = s.LEVEL if tables.form[slot] == s.CLOCK_CURVE else s.SPREAD


@njit(**options)
def level(out, value, n):
    """Fill ``out[:n]`` with one number."""
    for i in range(n):
        out[i] = value


@njit(**options)
def find(x, cells, at, share, n):
    """Fill ``at[:n]`` with the cells that x falls in, and ``share[:n]`` with how far into them."""
    count = np.float32(cells)
    last = np.int32(cells - 1)
    for i in range(n):
        at[i] = min(np.int32(x[i] * count), last)
    for i in range(n):
        share[i] = x[i] * count - np.float32(at[i])


@njit(**options)
def block(out, tables, slot, form, low, high, x, u, found, at, share, n):
    """Fill ``out[:n]`` with a slot's values.

    Parameters
    ----------
    form : int
        The slot's form at this moment; low and high count for levels and spreads.
    x : float32 array
        Where tables are read, 0…1.
    u : float32 array
        The particles' draws, for spreads and bands.
    found : int
        For how many cells ``at`` and ``share`` hold the places of x already; 0 for none.

    Returns
    -------
    int
        For how many cells they hold them now.
    """
    if form == s.LEVEL:
        level(out, low, n)
        return found
    if form == s.SPREAD:
        rise = high - low
        for i in range(n):
            out[i] = low + rise * u[i]
        return found
    cells = tables.cells[slot]
    if cells != found:
        find(x, cells, at, share, n)
    offset = tables.offset[slot]
    data = tables.data[offset:]
    whole = n - n % LANES
    if is_curve(form):
        for i in range(0, whole, LANES):
            curve_lanes(out, data, at, share, i)
        for i in range(whole, n):
            k = np.uintp(at[i]) * np.uintp(2)
            out[i] = data[k] + data[k + np.uintp(1)] * share[i]
    else:
        for i in range(0, whole, LANES):
            band_lanes(out, data, at, share, u, i)
        for i in range(whole, n):
            k = np.uintp(at[i]) * np.uintp(4)
            t = share[i]
            a = data[k] + data[k + np.uintp(1)] * t
            b = data[k + np.uintp(2)] + data[k + np.uintp(3)] * t
            out[i] = a + (b - a) * u[i]
    return cells


@njit(**options)
def needs_draw(form):
    """Return whether a form uses the particles' draws."""
    return form == s.SPREAD or form == s.LIFE_BAND or form == s.CLOCK_BAND or form == s.SPEED_BAND

"""The appearance of particles at one moment, written straight into the array that the GPU takes."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from . import slots as s
from .motion import part
from .path import channel, piece_at
from .sampling import BLOCK, PAD, block, draws, level, needs_draw, options, speeds
from .stepping import clock_at

# Rows of the scratch memory: one for each slot from SIZE on, then draws and birth clocks.
_FIRST = s.SIZE
_U = s.COUNT - _FIRST
_CLOCK, _AT, _SHARE, _FAST = _U + 1, _U + 2, _U + 3, _U + 4
SCRATCH_ROWS = _U + 5


def scratch() -> NDArray[np.float32]:
    """Return working memory for one thread's appearance, shape (rows, block)."""
    return np.empty((SCRATCH_ROWS, BLOCK + PAD), np.float32)


@njit(**options)
def _row(scr, tables, slot, channels, form, ends, x, found, serial, start, n):
    """Fill a slot's row, or those of three colour channels with one draw; see ``block`` for ``found``."""
    if needs_draw(form[slot]):
        draws(scr[_U], tables.key[slot], serial, start, n)
    for c in range(slot, slot + channels):
        low, high, at, share = ends[c, 0], ends[c, 1], scr[_AT].view(np.int32), scr[_SHARE]
        found = block(scr[c - _FIRST], tables, c, form[c], low, high, x, scr[_U], found, at, share, n)
    return found


@njit(**options)
def _birth_clocks(out, state, start, n, time, duration, begin, length):
    """Fill ``out[:n]`` with the window's clock at each particle's birth; duration 0 means no loop."""
    for i in range(n):
        born = time - np.float64(state[s.AGE, start + i]) / np.float64(state[s.PACE, start + i])
        if duration > 0.0:
            born -= np.floor(born / duration) * duration
        out[i] = np.float32(min(max((born - begin) / length, 0.0), 1.0))


@njit(**options)
def _scale(track, clock):
    return max(channel(track, piece_at(track, clock), 6, clock), 1e-4)


@njit(**options)
def appear(course, state, serial, first, last, out, form, ends, time, scr):
    """Write the instances of particles ``first`` to ``last``.

    Parameters
    ----------
    course : Course
        Of their layer, for its tables, its window and its path.
    out : float32 array, shape (cap, stride)
        Columns as ``slots.COLUMNS``; size and angle as drawn, colour linear and without intensity.
    form, ends : arrays
        The slots at this moment, from :func:`~.sampling.at_clock`.
    time : float
        Now, s.
    scr : float32 array
        From :func:`scratch`.
    """
    tables, duration, begin, length = course.tables, course.duration, course.begin, max(course.length, 1e-9)
    speed_range = course.around.speed_range
    # A layer whose path grows or shrinks it: particles that don't follow keep the size of their birth.
    grown = np.float32(1.0)
    grows = False
    if course.track.moves:
        grown = np.float32(_scale(course.track, clock_at(course, time)))
        grows = not course.follow
    by_birth = grows
    for slot in range(s.SIZE, s.TINT_B + 1):
        by_birth |= tables.form[slot] >= s.CLOCK_CURVE
    by_speed = False
    for slot in range(s.GROW, s.COUNT):
        by_speed |= form[slot] >= s.SPEED_CURVE
    for slot in range(s.SIZE, s.COUNT):
        if form[slot] == s.LEVEL:
            level(scr[slot - _FIRST], ends[slot, 0], BLOCK)
    size, aspect = scr[s.SIZE - _FIRST], scr[s.ASPECT - _FIRST]
    grow, opacity = scr[s.GROW - _FIRST], scr[s.OPACITY - _FIRST]
    intensity = scr[s.INTENSITY - _FIRST]
    tr, tg, tb = scr[s.TINT_R - _FIRST], scr[s.TINT_G - _FIRST], scr[s.TINT_B - _FIRST]
    cr, cg, cb = scr[s.COLOR_R - _FIRST], scr[s.COLOR_G - _FIRST], scr[s.COLOR_B - _FIRST]
    stretches = grows or grown != np.float32(1.0)
    for start in range(first, last, BLOCK):
        n = min(BLOCK, last - start)
        clocks = scr[_CLOCK]
        if stretches and form[s.SIZE] == s.LEVEL:
            level(size, ends[s.SIZE, 0], n)
        if by_birth:
            _birth_clocks(clocks, state, start, n, time, duration, begin, length)
        age = part(state, s.AGE, start, n)
        found = 0
        for slot in (s.SIZE, s.ASPECT):
            if form[slot] != s.LEVEL:
                found = _row(scr, tables, slot, 1, form, ends, clocks, found, serial, start, n)
        if form[s.TINT_R] != s.LEVEL:
            _row(scr, tables, s.TINT_R, 3, form, ends, clocks, found, serial, start, n)
        found = 0
        for slot in (s.GROW, s.OPACITY, s.INTENSITY):
            if form[slot] != s.LEVEL and form[slot] < s.SPEED_CURVE:
                found = _row(scr, tables, slot, 1, form, ends, age, found, serial, start, n)
        if form[s.COLOR_R] != s.LEVEL and form[s.COLOR_R] < s.SPEED_CURVE:
            _row(scr, tables, s.COLOR_R, 3, form, ends, age, found, serial, start, n)
        if by_speed:
            fast = scr[_FAST]
            speeds(fast, state, start, n, speed_range)
            found = 0
            for slot in (s.GROW, s.OPACITY, s.INTENSITY):
                if form[slot] >= s.SPEED_CURVE:
                    found = _row(scr, tables, slot, 1, form, ends, fast, found, serial, start, n)
            if form[s.COLOR_R] >= s.SPEED_CURVE:
                _row(scr, tables, s.COLOR_R, 3, form, ends, fast, found, serial, start, n)
        x, y, z = part(state, s.PX, start, n), part(state, s.PY, start, n), part(state, s.PZ, start, n)
        turned = part(state, s.TURN, start, n)
        rows = out[start : start + n]
        if grows:
            for i in range(n):
                size[i] *= np.float32(_scale(course.track, np.float64(clocks[i])))
        elif grown != np.float32(1.0):
            for i in range(n):
                size[i] *= grown
        for i in range(n):
            high = size[i] * grow[i]
            rows[i, 0] = x[i]
            rows[i, 1] = y[i]
            rows[i, 2] = z[i]
            rows[i, 3] = high * aspect[i]
            rows[i, 4] = high
            rows[i, 5] = turned[i]
            rows[i, 6] = tr[i] * cr[i]
            rows[i, 7] = tg[i] * cg[i]
            rows[i, 8] = tb[i] * cb[i]
            rows[i, 9] = opacity[i]
            rows[i, 10] = intensity[i]

"""A layer carried over many steps in one kernel call: births, motion, deaths, counts."""

from __future__ import annotations

import numpy as np
from numba import njit, uint32

from . import slots as s
from .motion import advance
from .sampling import at_clock, one, options
from .shapes import birth

# Entries of a layer's counters: births and refusals since time 0, and the next serial.
BORN, REFUSED, NEXT = range(3)
COUNTERS = 3


@njit(**options)
def _clock(time, duration, begin, length):
    if length <= 0.0:
        return 0.0
    if duration > 0.0:
        time -= np.floor(time / duration + 1e-12) * duration
    return min(max((time - begin) / length, 0.0), 1.0)


@njit(**options)
def _give_birth(state, serial, at, number, moment, clock, tables, shape, around):
    """Write a newborn particle at index ``at``."""
    x, y, z, dx, dy, dz = birth(shape, number)
    speed = float(one(tables, s.SPEED, clock, number))
    dx = dx * speed + float(one(tables, s.PUSH_X, clock, number))
    dy = dy * speed + float(one(tables, s.PUSH_Y, clock, number))
    dz = dz * speed + float(one(tables, s.PUSH_Z, clock, number))
    turn, centre = around.turn, around.centre
    for axis in range(3):
        a, b, c = float(turn[axis, 0]), float(turn[axis, 1]), float(turn[axis, 2])
        state[s.PX + axis, at] = float(centre[axis]) + a * x + b * y + c * z
        state[s.VX + axis, at] = a * dx + b * dy + c * dz
    state[s.AGE, at] = 0.0
    state[s.PACE, at] = 1.0 / max(float(one(tables, s.LIFETIME, clock, number)), 1e-4)
    state[s.TURN, at] = one(tables, s.ANGLE, clock, number)
    serial[at] = number


@njit(**options)
def run(state, serial, alive, counters, first_step, steps, rate, births, window, tables, shape, around, memory, scr):
    """Carry a layer over ``steps`` steps.

    Parameters
    ----------
    state, serial : arrays, shape (rows, cap) and (cap,)
    alive : int
        How many particles there are.
    counters : int64 array
        Born, refused, the next serial.
    first_step : int
        Number of the first step; a step k goes from k / rate to (k + 1) / rate.
    births : float64 array
        All births in the time of these steps, in order, s.
    window : (float, float, float)
        Duration of a loop (0 for none), begin and length of the window, s.
    memory : tuple
        Arrays to reuse: forms, ends, and steps of newborns (cap,).

    Returns
    -------
    int
        How many are alive afterwards.
    """
    form, ends, spans = memory
    duration, begin, length = window
    cap = serial.shape[0]
    coming = 0
    for step in range(first_step, first_step + steps):
        stop = (step + 1) / rate
        middle = (step + 0.5) / rate
        at_clock(tables, _clock(middle, duration, begin, length), form, ends)
        spans[0] = np.float32(1.0 / rate)
        alive = advance(state, serial, 0, alive, 0, spans, True, tables, form, ends, around, middle, scr)
        first = alive
        last_step = step == first_step + steps - 1
        while coming < births.shape[0] and (births[coming] < stop or last_step):
            moment = births[coming]
            coming += 1
            if alive >= cap:
                counters[REFUSED] += 1
                continue
            number = uint32(counters[NEXT])
            clock = _clock(moment, duration, begin, length)
            _give_birth(state, serial, alive, number, moment, clock, tables, shape, around)
            spans[alive - first] = np.float32(max(stop - moment, 0.0))
            counters[NEXT] += 1
            counters[BORN] += 1
            alive += 1
        if alive > first:
            alive = advance(state, serial, first, alive, first, spans, False, tables, form, ends, around, middle, scr)
    return alive

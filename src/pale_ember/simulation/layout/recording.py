"""Records what happens to a layer's particles, for layers that follow it: births, hits, deaths, and stretches
of flight.

Each is a row. Besides what all have, a stretch of flight has where and when it began.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import kernel, lean_helper
from . import rows, scratch
from .program import Log
from .signatures import F2, INT, NOTHING, PROGRAM, U1

# Kinds, and the bits that ask for them.
BIRTH, HIT, DEATH, FLIGHT = 1, 2, 4, 8
# Columns of ``what``: seconds of the step left behind it; place, m; the surface's normal, 0 for none;
# velocity as it comes, m/s; age; the layer's clock at the particle's birth; colour and size that the particle
# itself has taken.
LEFT, PLACE, NORMAL, VELOCITY, AGE, CLOCK, TAKEN = 0, 1, 4, 7, 10, 11, 12
COLUMNS = 16
# Of a stretch of flight also: where it began, m; how long and how far it had flown before, s and m, and
# behind it.
BEGAN, FLOWN, WALKED, FLOWN_TO, WALKED_TO = 16, 19, 20, 21, 22
FLIGHT_COLUMNS = 24
# Columns of ``who``: step, kind, the particle's number, the event's place among that particle's of its kind.
STEP, KIND, NUMBER, INDEX = range(4)
# Rows that a particle may write in a step.
MOST_HITS = 8


def new_log(wants: int, room: int) -> Log:
    """Return memory for so many rows."""
    columns = FLIGHT_COLUMNS if wants & FLIGHT else COLUMNS
    return Log(
        wants=wants,
        what=np.zeros((room, columns), np.float32),
        who=np.zeros((room, 4), np.int64),
        used=np.zeros(2, np.int64),
    )


@lean_helper
def note(program, state, j, number, kind, index, step, left, place, normal, velocity, age):
    """Write an event down, if it is wanted and there is room; return its row, -1 if it isn't written."""
    log = program.log
    at = log.used[0]
    if log.wants & kind == 0 or at >= log.what.shape[0]:
        return -1
    log.used[0] = at + 1
    row, who = log.what[at], log.who[at]
    row[LEFT] = left
    for i in range(3):
        row[PLACE + i] = place[i]
        row[NORMAL + i] = normal[i]
        row[VELOCITY + i] = velocity[i]
    row[AGE] = age
    row[CLOCK] = state[rows.CLOCK, j]
    taken = program.extra_rows.taken
    for i in range(4):
        row[TAKEN + i] = state[taken + i, j] if taken >= 0 else np.float32(1.0)
    who[STEP], who[KIND], who[NUMBER], who[INDEX] = step, kind, number, index
    return at


@lean_helper
def fly(program, state, j, number, step, left, span, begin, end, velocity, age, none):
    """Write a stretch of flight down, and count how far and how long the particle has flown."""
    extra = program.extra_rows
    if extra.flown < 0:
        return
    x, y, z = end[0] - begin[0], end[1] - begin[1], end[2] - begin[2]
    flown, walked = state[extra.flown, j], state[extra.walked, j]
    state[extra.flown, j] = flown + span
    state[extra.walked, j] = walked + np.sqrt(x * x + y * y + z * z)
    at = note(program, state, j, number, FLIGHT, 0, step, left, end, none, velocity, age)
    if at >= 0:
        row = program.log.what[at]
        for i in range(3):
            row[BEGAN + i] = begin[i]
        row[FLOWN], row[WALKED] = flown, walked
        row[FLOWN_TO], row[WALKED_TO] = state[extra.flown, j], state[extra.walked, j]


@kernel(NOTHING, PROGRAM, F2, U1, INT, INT, INT, F2, lean=True, cost=0.7)
def record(program, state, serial, start, n, step, scr):
    """Write down the deaths of a block in a step, and how it flew; the P rows say where the last stretch
    began.
    """
    wants = program.log.wants
    spare = scr[scratch.WORK].view(np.float64)
    begin, end, velocity, none = spare[:3], spare[3:6], spare[6:9], spare[9:12]
    for axis in range(3):
        none[axis] = 0.0
    for i in range(n):
        dies = scr[scratch.END, i] >= np.float32(1.0)
        if scr[scratch.GONE, i] != np.float32(0.0) or not (wants & FLIGHT or (dies and wants & DEATH)):
            continue
        j, span = start + i, np.float64(scr[scratch.PIECE, i])
        left = 0.0
        if dies:
            left = min(
                max((np.float64(scr[scratch.END, i]) - 1.0) / np.float64(state[rows.AGING, j]), 0.0), span
            )
        share = 1.0 - left / span if span > 0.0 else 1.0
        for axis in range(3):
            v0, v1 = np.float64(scr[scratch.V0X + axis, i]), np.float64(state[rows.VX + axis, j])
            p0, way = (
                np.float64(scr[scratch.P0X + axis, i]),
                np.float64(state[rows.PX + axis, j]) - np.float64(scr[scratch.P0X + axis, i]),
            )
            bow = 0.5 * np.float64(scr[scratch.PACE, i]) * span * (v1 - v0)
            begin[axis] = p0
            end[axis] = p0 + way * share + bow * (share * share - share)
            velocity[axis] = v0 + (v1 - v0) * share
        age = min(np.float64(scr[scratch.END, i]), 1.0)
        if wants & FLIGHT:
            fly(program, state, j, serial[j], step, left, span - left, begin, end, velocity, age, none)
        if dies:
            note(program, state, j, serial[j], DEATH, 0, step, left, end, none, velocity, 1.0)


call_record = record.call

"""One particle's values of this step, its height among them."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from ..layout import rows, slots
from ..motion.path import channel, piece_at
from ..values.sampling import one, one_draw, table_ends


@lean_helper
def now(course, slot, age, speed, serial):
    """Return one particle's value of a slot at an age and a speed of this step."""
    form, ends, tables = course.form, course.ends, course.tables
    kind = form[slot]
    if kind == slots.LEVEL:
        return np.float64(ends[slot, 0])
    if kind == slots.SPREAD:
        low, high = np.float64(ends[slot, 0]), np.float64(ends[slot, 1])
    else:
        reach = course.around.speed_range * course.around.stretch[0]
        low32, high32 = table_ends(tables, slot, speed / reach if kind >= slots.SPEED_CURVE else age)
        low, high = np.float64(low32), np.float64(high32)
    return low + (high - low) * np.float64(one_draw(tables.key[slot], serial))


@lean_helper
def height(course, state, j, age, speed, serial):
    """Return a particle's height as it is drawn, m."""
    clock = np.float64(state[rows.CLOCK, j])
    size = np.float64(one(course.tables, slots.SIZE, clock, serial)) * now(course, slots.GROW, age, speed, serial)
    if course.extra_rows.taken >= 0:
        size *= np.float64(state[course.extra_rows.taken + 3, j])
    if course.track.moves:
        if course.follow:
            size *= np.float64(course.around.stretch[0])
        else:
            size *= max(channel(course.track, piece_at(course.track, clock), 6, clock), 1e-4)
    return size

"""One particle's values of this step, its height among them."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from ..layout import rows, slots
from ..motion.path import channel, piece_at
from ..values.sampling import one, random_of, table_ends


@lean_helper
def now(program, slot, age, speed, serial):
    """Return one particle's value of a slot at an age and a speed of this step."""
    form, ends, tables = program.form, program.ends, program.tables
    kind = form[slot]
    if kind == slots.CONSTANT:
        return np.float64(ends[slot, 0])
    if kind == slots.SPREAD:
        low, high = np.float64(ends[slot, 0]), np.float64(ends[slot, 1])
    else:
        reach = program.around.speed_range * program.around.stretch[0]
        low32, high32 = table_ends(tables, slot, speed / reach if kind >= slots.SPEED_CURVE else age)
        low, high = np.float64(low32), np.float64(high32)
    return low + (high - low) * np.float64(random_of(tables.key[slot], serial))


@lean_helper
def height(program, state, j, age, speed, serial):
    """Return a particle's height as it is drawn, m."""
    clock = np.float64(state[rows.CLOCK, j])
    size = np.float64(one(program.tables, slots.SIZE, clock, serial)) * now(
        program, slots.GROW, age, speed, serial
    )
    if program.extra_rows.taken >= 0:
        size *= np.float64(state[program.extra_rows.taken + 3, j])
    if program.track.moves:
        if program.follow:
            size *= np.float64(program.around.stretch[0])
        else:
            size *= max(channel(program.track, piece_at(program.track, clock), 6, clock), 1e-4)
    return size

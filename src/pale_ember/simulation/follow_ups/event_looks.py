"""What particles look like at events: the colour and height that a follow-up takes over."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..births.schedule import Schedule
from ..kernels.compiling import helper, kernel
from ..layout import recording, slots
from ..layout.program import LayerProgram, Tables
from ..layout.signatures import BOOL, D1, F2, NOTHING, REAL, TABLES, TRACK, U1
from ..motion.path import channel, piece_at
from ..values.sampling import one


@helper
def _read(tables, slot, age, clock, speed, serial):
    """Return one particle's value of a slot, along whatever it runs."""
    form = tables.form[slot]
    x = age
    if form >= slots.SPEED_CURVE:
        x = speed
    elif form >= slots.CLOCK_CURVE:
        x = clock
    return one(tables, slot, x, serial)


@kernel(NOTHING, TABLES, TRACK, BOOL, REAL, D1, D1, D1, D1, U1, F2, entry=True, cost=0.3)
def look_at_events(tables, track, follow, speed_range, now, births, ages, speeds, serial, out):
    """Write colour and height, (n, 4), that particles have at events.

    Parameters
    ----------
    now, births : float64 arrays, shape (n,)
        The layer's clock at the events, and at the particles' births.
    ages, speeds : float64 arrays, shape (n,)
    """
    for i in range(ages.shape[0]):
        grown: float = 1.0
        if track.moves:
            clock = now[i] if follow else births[i]
            grown = max(channel(track, piece_at(track, clock), 6, clock), 1e-4)
        fast = speeds[i] / (speed_range * grown)
        for k in range(3):
            tint = one(tables, slots.TINT_R + k, births[i], serial[i])
            out[i, k] = tint * _read(tables, slots.COLOR_R + k, ages[i], now[i], fast, serial[i])
        size = one(tables, slots.SIZE, births[i], serial[i]) * _read(
            tables, slots.GROW, ages[i], now[i], fast, serial[i]
        )
        out[i, 3] = size * np.float32(grown)


class Seen(Protocol):
    """What is needed of a layer to know what its particles look like."""

    tables: Tables
    program: LayerProgram
    schedule: Schedule
    rate: int


def looks_of(parent: Seen, what: NDArray[np.float32], who: NDArray[np.int64]) -> NDArray[np.float32]:
    """Return colour and height, (n, 4), of a parent's particles at some of its events."""
    at = who[:, recording.STEP] + 1 - what[:, recording.LEFT].astype(np.float64) * parent.rate
    now = np.array([parent.schedule.clock(float(step)) for step in at])
    births, ages = (what[:, column].astype(np.float64) for column in (recording.CLOCK, recording.AGE))
    speeds = np.linalg.norm(what[:, recording.VELOCITY : recording.VELOCITY + 3].astype(np.float64), axis=1)
    out = np.empty((len(at), 4), np.float32)
    c = parent.program
    look_at_events(
        parent.tables,
        c.track,
        c.follow,
        c.around.speed_range,
        now,
        births,
        ages,
        speeds,
        who[:, recording.NUMBER].astype(np.uint32),
        out,
    )
    return out * what[:, recording.TAKEN : recording.TAKEN + 4]

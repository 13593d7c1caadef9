"""Ribbons as bands of triangles, all of a layer in one strip."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..kernels.compiling import kernel, lean_helper
from ..layout.signatures import F1, F2, I1, INT, L1, U1, U2
from .band_edges import come_and_go, is_narrow, look_along, room, seen, sides, sides_kept, write
from .band_lines import as_they_are, directions, gather, measure, round_off, shade
from .band_memory import AXIS, BASE, ENDS, F_LAID, HALF, LAYING, LEFT, LIGHT, RIGHT, SPOT, WORK_ROWS, Laying

__all__ = ["BASE", "ENDS", "LIGHT", "SPOT", "WORK_ROWS", "Laying", "addresses", "lay_bands", "room_for"]


# The kernels that lay_bands calls, in the order of their addresses.
BAND_KERNELS = (directions, round_off, shade, look_along, sides, sides_kept, seen, write, measure, room)


def addresses() -> NDArray[np.int64]:
    """Return where the kernels are that :func:`lay_bands` calls."""
    return np.array([called.address for called in BAND_KERNELS], np.int64)


call_directions, call_round, call_shade, call_look = (called.call for called in BAND_KERNELS[:4])
call_sides, call_kept, call_seen, call_write, call_measure, call_room = (
    called.call for called in BAND_KERNELS[4:]
)


@lean_helper
def _lay_one(lay, calls, rows, work, who, between, n, cut, lot, out, width, at):
    """Write one band through n points; return where the next one goes."""
    whole = call_directions(calls[0], lay, work, n)
    apart = whole != n - 1 or cut != 0.0
    m = (
        as_they_are(work, who, between, n)
        if not apart
        else call_round(calls[1], lay, work, who, between, n, cut)
    )
    total = call_measure(calls[8], work, m)
    if total <= 0.0:
        return at
    call_shade(calls[2], lay, rows, work, between, apart, m)
    from_head = 0.0
    if lay.laid and lay.every > 0.0 and lay.fields[F_LAID] >= 0:
        long = np.float64(rows[np.int64(who[n - 1]), lay.fields[F_LAID]]) / lay.every
        from_head = long - math.floor(long)
    if lay.across < AXIS:
        come_and_go(work, m)
        if not is_narrow(work, m):
            call_look(calls[3], work, m, total)
        if not call_sides(calls[4], lay, work, m):
            call_kept(calls[5], lay, work, m)
        call_room(calls[9], work, m)
    else:
        left, right, half = work[LEFT], work[RIGHT], work[HALF]
        for k in range(m):
            left[k] = right[k] = half[k]
    call_seen(calls[6], lay, work, m, total, from_head)
    return call_write(calls[7], lay, work, m, lot, out, width, at)


@kernel(INT, LAYING, L1, F2, I1, I1, F1, F1, INT, INT, F2, U1, U2, F1, INT, entry=True)
def lay_bands(
    lay, calls, rows, starts, order, cuts, random_values, first, last, work, who, between, out, width
):
    """Write bands as one strip of triangles; return how many vertices it has.

    Parameters
    ----------
    calls : int64 array
        From :func:`addresses`.
    rows : float32 array (n, columns)
        The points' instances.
    starts, order : int32 arrays
        Of :class:`~.joining.Joined`.
    cuts, random_values : float32 arrays (ribbons,)
        How much of the way from its first point to the second is gone already; a number that tells it from
        others.
    first, last : int
        Which of the ribbons.
    work, who, between : float32 array (rows, most), uint32 arrays (most,) and (2, most)
        Memory, for the longest of them.
    out, width : float32 array (room · width,) and int
        Each vertex has so many numbers.
    """
    at = 0
    for k in range(first, last):
        here, cut = starts[k], np.float64(cuts[k])
        while here < starts[k + 1]:
            n, here = gather(lay, rows, order, here, starts[k + 1], work, who)
            if n > 1:
                at = _lay_one(lay, calls, rows, work, who, between, n, cut, random_values[k], out, width, at)
            cut = np.float64(0.0)
    return at


def room_for(count: int, ribbons: int, smooth: int) -> int:
    """Return how many vertices so many points in so many ribbons need at most."""
    return 4 * count * (smooth + 1) + 4 * ribbons + 4

"""Kernels that pass over a parent's events: which ones a follow-up takes, in which order, and the list of
births.

The rows are those of :mod:`..layout.recording`: ``what`` (n, columns) float32 and ``who`` (n, 4) int64.
"""

from __future__ import annotations

import numpy as np
from numba import uint32, uint64

from ...effect.kinds import FollowAim, code_of
from ..kernels.compiling import kernel, lean_helper
from ..layout import payload_columns, recording
from ..layout.signatures import BIRTHS, BOOL, CLOCK, D1, F2, I1, INT, L1, L2, NOTHING, NUMBER, REAL, U1, U8
from ..values.dice import mix
from ..values.sampling import random_of

# Outcomes of an event: answered, too slow, refused by chance, outside the window.
ANSWERED, SLOW, CHANCE, OUTSIDE = range(4)
_SURFACE, _MIRROR, _OWN = (code_of(aim) for aim in (FollowAim.SURFACE, FollowAim.MIRROR, FollowAim.OWN))
# Bits that are sorted by at a time.
_BITS = 11
DIGITS = 1 << _BITS
# Events keep what is left of their step in 32 bits, so their moments are known to so many steps.
JUST_BEFORE = 1e-6


@lean_helper
def since_begin(clock, at):
    """Return the time since the window began, s, of a moment in steps.

    A moment that rounding puts just before a loop begins is its beginning.
    """
    if clock.duration <= 0.0:
        return at / clock.rate - clock.begin
    if clock.whole > 0:
        return (at - np.floor((at + JUST_BEFORE) / clock.whole) * clock.whole) / clock.rate - clock.begin
    loops = np.floor((at + JUST_BEFORE) / (clock.rate * clock.duration))
    return at / clock.rate - loops * clock.duration - clock.begin


@kernel(NOTHING, CLOCK, D1, D1, entry=True, lean=True)
def find_since_begin(clock, at, out):
    """Fill ``out`` with the times since the window began, s, of moments in steps."""
    for i in range(at.shape[0]):
        out[i] = since_begin(clock, at[i])


@kernel(NOTHING, F2, L2, CLOCK, NUMBER, NUMBER, REAL, REAL, INT, D1, U1, U8, I1, entry=True, lean=True)
def weigh(what, who, clock, source, chance_key, chance, least, first, clocks, starts, keys, verdict):
    """Say what becomes of each event.

    Parameters
    ----------
    clock : Clock
        The follow-up's.
    source : int
        Of the events' numbers, mixed: the first birth's number comes from it, the parent's number, and the
        event's place among that parent's.
    chance_key, chance, least
        How likely an event is answered, and the least speed, m/s.
    first : int
        The step that keys count from.
    clocks, starts, keys, verdict : arrays (n,)
        Filled with the follow-up's clock at the event, the number of the first birth, what sorts events by
        step and moment, and one of :data:`ANSWERED` and so on.
    """
    slow = least * least
    for i in range(what.shape[0]):
        row, step = what[i], who[i, recording.STEP]
        left = np.float64(row[recording.LEFT])
        parent = mix(uint32(source + uint32(who[i, recording.NUMBER])))
        starts[i] = mix(uint32(parent + uint32(who[i, recording.INDEX])))
        local = since_begin(clock, step + 1 - left * clock.rate)
        inside = local >= -1e-7 and local < clock.length - 1e-9
        if clock.duration <= 0.0 and clock.begin <= 0.0 and local < 0.0:
            # Events in a one-shot's warm-up count as at its beginning.
            inside = True
        inside &= clock.length > 0.0
        clocks[i] = min(max(local / max(clock.length, 1e-30), 0.0), 1.0)
        x, y, z = (
            np.float64(row[recording.VELOCITY]),
            np.float64(row[recording.VELOCITY + 1]),
            np.float64(row[recording.VELOCITY + 2]),
        )
        speed = x * x + y * y + z * z
        if least > 0.0 and speed < slow:
            verdict[i] = SLOW
        elif not inside:
            verdict[i] = OUTSIDE
        else:
            verdict[i] = ANSWERED if np.float64(random_of(chance_key, starts[i])) < chance else CHANCE
        # Of two in a step the one with more of it left comes first; left fits into so many bits.
        share = uint64(min(max(left * clock.rate, 0.0), 1.0) * 4294967295.0)
        keys[i] = uint64(step - first) << uint64(32) | (uint64(4294967295) - share)


@kernel(INT, U8, I1, L1, L1, L1, entry=True, lean=True)
def put_in_order(keys, verdict, order, spare, counts):
    """Fill ``order`` with the places of the answered events, by their keys, equal ones as they stand; return
    how many.

    By digits, the last first (H. H. Seward, 1954). ``spare`` (n,) and ``counts`` (``DIGITS`` + 1,) are
    memory.
    """
    n = 0
    most = uint64(0)
    least = uint64(0xFFFFFFFFFFFFFFFF)
    for i in range(keys.shape[0]):
        if verdict[i] == ANSWERED:
            order[n] = i
            n += 1
            most |= keys[i]
            least &= keys[i]
    differ = most ^ least
    a, b = order, spare
    swapped = False
    for digit in range(6):
        shift = uint64(digit * _BITS)
        if differ >> shift & uint64(DIGITS - 1) == uint64(0) or n == 0:
            continue
        for k in range(DIGITS + 1):
            counts[k] = 0
        for i in range(n):
            counts[np.int64(keys[a[i]] >> shift & uint64(DIGITS - 1)) + 1] += 1
        for k in range(DIGITS):
            counts[k + 1] += counts[k]
        for i in range(n):
            at = np.int64(keys[a[i]] >> shift & uint64(DIGITS - 1))
            b[counts[at]] = a[i]
            counts[at] += 1
        a, b = b, a
        swapped = not swapped
    if swapped:
        for i in range(n):
            order[i] = spare[i]
    return n


@kernel(INT, L2, F2, L1, INT, U1, D1, D1, NUMBER, INT, INT, INT, INT, L1, L1, L1, L1, entry=True, lean=True)
def count_births(
    who, what, order, n, starts, low, high, key, limit, cap, most_looked, first, many, listed, each_step, rest
):
    """Say how many births each answered event has, and return how many are listed in all.

    Parameters
    ----------
    low, high : float64 arrays (n,)
        Between which the number of each event, in order, is drawn by ``key``.
    limit, cap : int
        In each step no more than these are listed; what is beyond is refused, and counted in ``rest`` from
        time 0 on.
    most_looked : int
        Events of a step that are looked at: what stands behind so many can't be born, and counts as one each.
    many, listed : int64 arrays (n,)
    each_step, rest : int64 arrays (steps,)
    """
    total, ahead, seen, here = 0, 0, 0, -1
    most = min(limit, cap)
    for i in range(n):
        at = order[i]
        step = who[at, recording.STEP]
        if step != here:
            here, ahead, seen = step, 0, 0
        seen += 1
        counted = step >= 0 or (step == -1 and what[at, recording.LEFT] == np.float32(0.0))
        if seen > most_looked:
            many[i], listed[i] = 0, 0
            rest[step - first] += 1 if step >= 0 else 0
            continue
        least = max(np.rint(min(low[i], high[i])), 0.0)
        span = max(np.rint(max(low[i], high[i])), 0.0) - least + 1.0
        many[i] = np.int64(least + np.floor(np.float64(random_of(key, starts[at])) * span))
        listed[i] = min(max(most - ahead, 0), many[i])
        each_step[step - first] += listed[i]
        if counted:
            rest[step - first] += many[i] - listed[i]
        ahead += many[i]
        total += listed[i]
    return total


@kernel(NOTHING, F2, L1, INT, D1, U1, L1, BIRTHS, entry=True, lean=True)
def list_births(what, order, n, clocks, starts, listed, births):
    """Fill the rows of ``births`` with those of the answered events, in order."""
    k = 0
    for i in range(n):
        at, many = order[i], listed[i]
        left, clock, start, event = what[at, recording.LEFT], clocks[at], starts[at], np.int32(i)
        # By pieces, whose places are known not to count from the end: so they are written in one go.
        lefts, times, numbers, events = (
            births.left[k : k + many],
            births.clock[k : k + many],
            births.number[k : k + many],
            births.of[k : k + many],
        )
        for j in range(many):
            lefts[j], times[j], numbers[j], events[j] = left, clock, start + uint32(j), event
        k += many


@kernel(NOTHING, F2, L1, INT, INT, BOOL, F2, entry=True, lean=True)
def give(what, order, n, aim, carries, payload):
    """Fill the rows of ``payload``, as :mod:`..layout.payload_columns` numbers them, from the answered
    events; ``aim`` is a place in ``FollowAim``.
    """
    for i in range(n):
        row, out = what[order[i]], payload[i]
        x, y, z = (
            np.float64(row[recording.VELOCITY]),
            np.float64(row[recording.VELOCITY + 1]),
            np.float64(row[recording.VELOCITY + 2]),
        )
        u, v, t = (
            np.float64(row[recording.NORMAL]),
            np.float64(row[recording.NORMAL + 1]),
            np.float64(row[recording.NORMAL + 2]),
        )
        for k in range(3):
            out[payload_columns.PLACE + k] = row[recording.PLACE + k]
            out[payload_columns.VELOCITY + k] = row[recording.VELOCITY + k] if carries else np.float32(0.0)
        for k in range(4):
            out[payload_columns.COLOR + k] = np.float32(1.0)
        # Events without a surface have no normal.
        aimed = aim != _OWN
        if aim == _SURFACE:
            aimed = u * u + v * v + t * t > 0.25
            x, y, z = u, v, t
        elif aim == _MIRROR:
            into = min(x * u + y * v + z * t, 0.0)
            x -= 2.0 * into * u
            y -= 2.0 * into * v
            z -= 2.0 * into * t
        far = np.sqrt(x * x + y * y + z * z)
        if aimed and far > 1e-9:
            out[payload_columns.AXIS], out[payload_columns.AXIS + 1], out[payload_columns.AXIS + 2] = (
                x / far,
                y / far,
                z / far,
            )
        else:
            out[payload_columns.AXIS], out[payload_columns.AXIS + 1], out[payload_columns.AXIS + 2] = (
                np.float32(0.0),
                np.float32(0.0),
                np.float32(0.0),
            )

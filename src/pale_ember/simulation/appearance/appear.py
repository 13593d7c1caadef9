"""Writes what is seen of particles at one moment into the array of instances that the GPU takes."""

from __future__ import annotations

import numpy as np
from numba import uint32
from numpy.typing import NDArray

from ...effect.kinds import DrawnAs, code_of
from ..kernels.compiling import helper, inlined, kernel
from ..layout import rows, slots
from ..layout.instances import NAMES, WITH_COLOR
from ..layout.program import LayerProgram, Showing
from ..layout.scratch import BLOCK, COMMON_ROWS, PAD
from ..layout.signatures import F2, INT, NOTHING, PROGRAM, SHOWING
from ..motion.path import channel, piece_at, pose
from ..values.sampling import ages, call_values, fill_random, fill_row, forget, piece, speeds
from .orienting import orient

# The first slot that is read here, and the first one behind those that keep to the birth.
_SEEN, _UNKEPT = slots.KEPT.start, slots.KEPT.stop
# Rows of the scratch memory: one for each of these slots, then ages, clocks of birth, and speeds.
_FIRST = _SEEN - COMMON_ROWS
_AGE, _BIRTH, _FAST = (slots.COUNT - _FIRST + i for i in range(3))
SPRITE = code_of(DrawnAs.SPRITE)
SCRATCH_ROWS = slots.COUNT - _FIRST + 3
PLACE, WIDTH_HEIGHT, TURNED, LIGHT, WAY, SHEET, DICE, LIVED, COVER, STRENGTH = (
    NAMES.index(name)
    for name in (
        "place",
        "size",
        "angle",
        "color",
        "way",
        "frame",
        "dice",
        "lived",
        "opacity",
        "intensity",
    )
)
# Of each other Value that is carried as it is: its column, which part of that, and the scratch row it is in.
_STRAIGHT = np.array(
    [
        (NAMES.index(name), part, straight.slot + part - _FIRST)
        for name, straight in slots.STRAIGHT.items()
        for part in range(straight.parts)
        if name not in WITH_COLOR
    ],
    np.int64,
)
MIRROR_SALT = uint32(0x51ED270B)


def look_scratch() -> NDArray[np.float32]:
    """Return working memory for one thread's appearance, shape (rows, block)."""
    return np.zeros((SCRATCH_ROWS, BLOCK + PAD), np.float32)


@inlined
def _scale(track, clock):
    return max(channel(track, piece_at(track, clock), 6, clock), 1e-4)


@inlined
def _axis_row(slot, form):
    """Return the row that holds what a slot's tables run along: what keeps to the birth, its clock."""
    if slot < _UNKEPT:
        return _BIRTH
    return _FAST if form[slot] >= slots.SPEED_CURVE else _AGE


@helper
def _fill_shared(form, ends, scr):
    """Fill the rows of slots that are the same for all; return which of births, ages and speeds the others
    run along.
    """
    by_birth, by_age, by_speed = False, False, False
    for slot in range(_SEEN, slots.COUNT):
        if form[slot] == slots.CONSTANT:
            fill_row(scr[slot - _FIRST], ends[slot, 0], BLOCK)
        elif form[slot] != slots.SPREAD:
            at = _axis_row(slot, form)
            by_birth |= at == _BIRTH
            by_age |= at == _AGE
            by_speed |= at == _FAST
    return by_birth, by_age, by_speed


@helper
def _fill_varying(program, showing, start, n, scr):
    """Fill the rows of the other slots for one block."""
    form, ends = showing.form, showing.ends
    forget(scr)
    for slot in range(_SEEN, slots.COUNT):
        if form[slot] != slots.CONSTANT:
            call_values(
                program.calls.values,
                scr,
                slot - _FIRST,
                _axis_row(slot, form),
                program.tables,
                form,
                ends,
                slot,
                showing.serial,
                start,
                n,
                np.float32(1.0),
            )


@helper
def _write_place(showing, start, n, scr):
    """Write places, widths and heights."""
    state, columns = showing.state, showing.columns
    size, aspect, grow = scr[slots.SIZE - _FIRST], scr[slots.ASPECT - _FIRST], scr[slots.GROW - _FIRST]
    widen = scr[slots.WIDEN - _FIRST]
    x, y, z = (
        piece(state, rows.PX, start, n),
        piece(state, rows.PY, start, n),
        piece(state, rows.PZ, start, n),
    )
    instances, place, wide = showing.out[start : start + n], columns[PLACE], columns[WIDTH_HEIGHT]
    for i in range(n):
        high = size[i] * grow[i]
        instances[i, place] = x[i]
        instances[i, place + 1] = y[i]
        instances[i, place + 2] = z[i]
        instances[i, wide] = high * aspect[i] * widen[i]
        instances[i, wide + 1] = high


@helper
def _write_motion(showing, rate, start, n, scr):
    """Write what few layers carry of their motion: ways, frames of a sheet, seconds lived, angles."""
    state, columns = showing.state, showing.columns
    instances = showing.out[start : start + n]
    if columns[WAY] >= 0:
        column, streak = columns[WAY], scr[slots.STREAK - _FIRST]
        for axis in range(3):
            way = piece(state, rows.WX + axis, start, n)
            for i in range(n):
                instances[i, column + axis] = way[i] * streak[i]
    if columns[SHEET] >= 0 or columns[LIVED] >= 0:
        born = piece(state, rows.BORN, start, n).view(np.int32)
        since, dt, lived = piece(state, rows.SINCE, start, n), np.float32(1.0 / rate), scr[_FAST]
        for i in range(n):
            lived[i] = np.float32(np.int32(np.int32(showing.step) - born[i])) * dt + since[i]
        if columns[SHEET] >= 0:
            column, frame, fps = columns[SHEET], scr[slots.FRAME - _FIRST], scr[slots.FRAME_RATE - _FIRST]
            for i in range(n):
                instances[i, column] = frame[i] + fps[i] * lived[i]
        if columns[LIVED] >= 0:
            for i in range(n):
                instances[i, columns[LIVED]] = lived[i]
    if columns[TURNED] >= 0:
        angle, column = piece(state, rows.ANGLE, start, n), columns[TURNED]
        for i in range(n):
            instances[i, column] = angle[i]


@helper
def _write_extras(showing, tables, start, n, scr):
    """Write what few layers carry of their look: Values that go to the GPU as they are, and draws."""
    columns, instances = showing.columns, showing.out[start : start + n]
    for k in range(_STRAIGHT.shape[0]):
        column = columns[_STRAIGHT[k, 0]]
        if column >= 0:
            column += _STRAIGHT[k, 1]
            some = scr[_STRAIGHT[k, 2]]
            for i in range(n):
                instances[i, column] = some[i]
    if columns[DICE] >= 0:
        column, random_values = columns[DICE], scr[_FAST]
        fill_random(random_values, tables.key[slots.ERODE], showing.serial, start, n)
        for i in range(n):
            instances[i, column] = random_values[i]
        fill_random(random_values, uint32(tables.key[slots.FRAME] ^ MIRROR_SALT), showing.serial, start, n)
        for i in range(n):
            instances[i, column + 1] = random_values[i]


@helper
def _write_light(showing, start, n, scr):
    """Write colours, opacities and intensities."""
    columns, instances = showing.columns, showing.out[start : start + n]
    tr, tg, tb = scr[slots.TINT_R - _FIRST], scr[slots.TINT_G - _FIRST], scr[slots.TINT_B - _FIRST]
    cr, cg, cb = scr[slots.COLOR_R - _FIRST], scr[slots.COLOR_G - _FIRST], scr[slots.COLOR_B - _FIRST]
    opacity, intensity = scr[slots.OPACITY - _FIRST], scr[slots.INTENSITY - _FIRST]
    light, cover, strength = columns[LIGHT], columns[COVER], columns[STRENGTH]
    if light >= 0 and cover >= 0 and strength >= 0:
        # Most layers carry all of them: one pass over the instances.
        for i in range(n):
            instances[i, light] = tr[i] * cr[i]
            instances[i, light + 1] = tg[i] * cg[i]
            instances[i, light + 2] = tb[i] * cb[i]
            instances[i, cover] = opacity[i]
            instances[i, strength] = intensity[i]
        return
    if light >= 0:
        for i in range(n):
            instances[i, light] = tr[i] * cr[i]
            instances[i, light + 1] = tg[i] * cg[i]
            instances[i, light + 2] = tb[i] * cb[i]
    if cover >= 0:
        for i in range(n):
            instances[i, cover] = opacity[i]
    if strength >= 0:
        for i in range(n):
            instances[i, strength] = intensity[i]


@kernel(NOTHING, PROGRAM, SHOWING, INT, INT, F2, entry=True, everyday=True, cost=3.7)
def appear(program, showing, first, last, scr):
    """Write the instances of particles ``first`` to ``last``; ``scr`` is from :func:`look_scratch`."""
    track, state, form, ends = program.track, showing.state, showing.form, showing.ends
    rate, taken = program.clock.rate, program.extra_rows.taken
    # A layer whose path grows or shrinks it: particles that don't follow keep the size of their birth.
    grown, grows, reach = np.float32(1.0), False, program.around.speed_range
    if track.moves:
        now = _scale(track, showing.clock)
        reach *= now
        grown, grows = np.float32(now), not program.follow
    by_birth, by_age, by_speed = _fill_shared(form, ends, scr)
    stretches = grows or grown != np.float32(1.0) or taken >= 0
    size = scr[slots.SIZE - _FIRST]
    for start in range(first, last, BLOCK):
        n = min(BLOCK, last - start)
        births = scr[_BIRTH]
        if by_birth or grows:
            clocks = piece(state, rows.CLOCK, start, n)
            for i in range(n):
                births[i] = clocks[i]
        if by_age:
            ages(scr[_AGE], state, start, n, showing.step, rate)
        if by_speed:
            speeds(scr[_FAST], state, start, n, reach)
        if stretches and form[slots.SIZE] == slots.CONSTANT:
            fill_row(size, ends[slots.SIZE, 0], n)
        _fill_varying(program, showing, start, n, scr)
        if grows:
            for i in range(n):
                size[i] *= np.float32(_scale(track, np.float64(births[i])))
        elif grown != np.float32(1.0):
            for i in range(n):
                size[i] *= grown
        if taken >= 0:
            some = piece(state, taken + 3, start, n)
            for i in range(n):
                size[i] *= some[i]
        _write_place(showing, start, n, scr)
        _write_motion(showing, rate, start, n, scr)
        _write_extras(showing, program.tables, start, n, scr)
        if taken >= 0 and showing.columns[LIGHT] >= 0:
            for k in range(3):
                some, hue = piece(state, taken + k, start, n), scr[slots.TINT_R + k - _FIRST]
                if form[slots.TINT_R + k] == slots.CONSTANT:
                    fill_row(hue, ends[slots.TINT_R + k, 0], n)
                for i in range(n):
                    hue[i] *= some[i]
        _write_light(showing, start, n, scr)


def write_instances(
    program: LayerProgram, showing: Showing, first: int, last: int, scr: NDArray[np.float32]
) -> None:
    """Write the instances of particles ``first`` to ``last``, and how ribbons and meshes lie."""
    if program.drawn.draw != SPRITE:
        orient(program, showing, first, last, pose.address)
    appear(program, showing, first, last, scr)

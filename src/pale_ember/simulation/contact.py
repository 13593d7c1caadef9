"""Contact: particles that meet the floor and the props on their way through a step.

The way is a parabola through both ends of the free step, with the change of velocity as its bow; so moments of hits
are exact under constant acceleration. At a hit the velocity is thrown back by ``bounce`` and held by Coulomb's friction
(the impulse along the surface is at most ``friction`` times that into it), and what is left of the step is flown anew;
where nothing lifts the particle off, it slides or rests.
"""

from __future__ import annotations

import numpy as np

from ..effect.kinds import OnHit
from . import scratch as w
from . import slots as s
from . import state as r
from .answering import BOW, DV, NONE, OUT, VS, WAY, A, B, P, V, dot, slide, throw_back, turn_with
from .colliders import NEVER, TOUCH
from .kernels import kernel, lean_helper
from .meeting import (
    FLOOR,
    NOTHING_MET,
    first_fall,
    into_prop,
    meet_prop,
    out_of_prop,
    place_prop,
    put_out_of_mesh,
    where_it_was,
)
from .nearness import ALL, candidates, find_bows, find_cells, within
from .path import channel, piece_at
from .prop_motion import surface_velocity
from .recording import DEATH, HIT, MOST_HITS, fly, note
from .sampling import one, one_draw, table_ends
from .signatures import BOOL, COURSE, F2, INT, NOTHING, U1

STICK, VANISH = (tuple(OnHit).index(kind) for kind in (OnHit.STICK, OnHit.VANISH))
# What can't bounce higher than this, m, rests.
HAIR = 1e-4


@lean_helper
def _now(course, slot, age, speed, serial):
    """Return one particle's value of a slot at an age and a speed of this step."""
    form, ends, tables = course.form, course.ends, course.tables
    kind = form[slot]
    if kind == s.LEVEL:
        return np.float64(ends[slot, 0])
    if kind == s.SPREAD:
        low, high = np.float64(ends[slot, 0]), np.float64(ends[slot, 1])
    else:
        reach = course.around.speed_range * course.around.stretch[0]
        low32, high32 = table_ends(tables, slot, speed / reach if kind >= s.SPEED_CURVE else age)
        low, high = np.float64(low32), np.float64(high32)
    return low + (high - low) * np.float64(one_draw(tables.key[slot], serial))


@lean_helper
def _size(course, state, j, age, speed, serial):
    """Return a particle's height as it is drawn, m."""
    clock = np.float64(state[r.CLOCK, j])
    size = np.float64(one(course.tables, s.SIZE, clock, serial)) * _now(course, s.GROW, age, speed, serial)
    if course.rows.taken >= 0:
        size *= np.float64(state[course.rows.taken + 3, j])
    if course.track.moves:
        if course.follow:
            size *= np.float64(course.around.stretch[0])
        else:
            size *= max(channel(course.track, piece_at(course.track, clock), 6, clock), 1e-4)
    return size


@lean_helper
def _held(course, state, j, i, scr, m, turn, centre):
    """Carry a particle that sticks along with what it sticks to."""
    world, rate = course.world, course.clock.rate
    prop = state[course.rows.stuck].view(np.int32)[j] - 1
    p = m[P]
    for axis in range(3):
        p[axis] = scr[w.P0X + axis, i]
        m[V, axis] = 0.0
    if prop < world.kind.shape[0]:
        # From where the prop was: at the end of a loop it may jump, and takes along what sticks to it.
        at = m[B]
        stretch = where_it_was(world, prop, centre, turn)
        into_prop(centre, turn, stretch, p[0], p[1], p[2], at)
        stretch = place_prop(world, prop, 0.0, centre, turn)
        out_of_prop(centre, turn, stretch, at, p)
        for axis in range(3):
            scr[w.P0X + axis, i] = p[axis]
        stretch = place_prop(world, prop, 1.0, centre, turn)
        out_of_prop(centre, turn, stretch, at, p)
        for axis in range(3):
            m[V, axis] = (p[axis] - np.float64(scr[w.P0X + axis, i])) * rate
        if not (_is_told(p, m[NONE]) and _is_told(m[V], m[NONE])):
            for axis in range(3):
                p[axis], m[V, axis] = state[r.PX + axis, j], 0.0
    for axis in range(3):
        state[r.PX + axis, j] = p[axis]
        state[r.VX + axis, j] = m[V, axis]
        scr[w.V0X + axis, i] = m[V, axis]
    state[r.ANGLE, j] = scr[w.TURNED_FROM, i]


@lean_helper
def _carry(course, state, serial, j, i, step, newborn, floor, mask, scr, m, work, turn, stack):
    """Carry one particle over a step in which it may meet something."""
    world, rows, rate = course.world, course.rows, course.clock.rate
    p, v, way, bow, dv, out, vs = m[P], m[V], m[WAY], m[BOW], m[DV], m[OUT], m[VS]
    span, pace, number = np.float64(scr[w.SPAN, i]), np.float64(scr[w.PACE, i]), serial[j]
    share, aging = max(1.0 - span * rate, 0.0), np.float64(state[r.AGING, j])
    far = 0.0
    for k in range(3):
        p[k], v[k] = scr[w.P0X + k, i], scr[w.V0X + k, i]
        way[k] = np.float64(state[r.PX + k, j]) - p[k]
        dv[k] = np.float64(state[r.VX + k, j]) - v[k]
        bow[k] = 0.5 * pace * span * dv[k]
        far = max(far, abs(p[k]))
    slop = TOUCH + 4e-7 * far
    size = _size(course, state, j, min(np.float64(scr[w.END, i]), 1.0), np.sqrt(dot(v, v)), number)
    radius = min(world.reach * size, world.widest)
    changed, hits, wide = False, 0, False
    if newborn:
        for prop in range(world.kind.shape[0]):
            inside = world.closed[prop] != 0 and mask >> np.uint64(prop) & np.uint64(1) != 0
            if inside and put_out_of_mesh(world, prop, radius, share, p, work, turn, stack):
                changed = True
                _stop_inward(v, work[0], way, span, pace)
    while hits < MOST_HITS:
        hits += 1
        # What dies on the way meets nothing behind that.
        until = 1.0
        oldest = np.float64(scr[w.END, i])
        if oldest >= 1.0 and span > 0.0:
            until = 1.0 - min((oldest - 1.0) / aging / span, 1.0)
        best, which, pushed = NEVER, NOTHING_MET, False
        if floor:
            high = p[1] - radius
            if high < -slop:
                p[1] = radius
                best, which, pushed, changed = 0.0, FLOOR, True, True
            else:
                best = first_fall(bow[1], way[1] - bow[1], high, slop)
                which = FLOOR
            if best < NEVER:
                out[0], out[1], out[2] = 0.0, 1.0, 0.0
        if mask != np.uint64(0) and not pushed:
            for prop in range(world.kind.shape[0]):
                if mask >> np.uint64(prop) & np.uint64(1):
                    at = meet_prop(world, prop, radius, slop, share, p, way, bow, work, turn, stack)
                    if at < best:
                        best, which = max(at, 0.0), prop
                        for k in range(3):
                            out[k] = work[0, k]
                            m[B, k] = work[1, k]
                        if at < 0.0:
                            pushed, changed = True, True
                            for k in range(3):
                                p[k] = work[2, k]
                            break
        if best > until or best == NEVER:
            break
        changed = True
        for k in range(3):
            vs[k] = 0.0
        if pushed:
            _stop_inward(v, out, way, span, pace)
            continue
        if which != FLOOR and world.movers.shape[0] > 0:
            surface_velocity(world, which, rate, m[B], m, turn, work[3])
        if not wide:
            # Thrown back it may come to whatever is as near as its way is long.
            wide, floor = True, world.floor
            mask = within(world, p, np.sqrt(dot(way, way)) + 2.0 * np.sqrt(dot(bow, bow)) + np.sqrt(dot(v, v)) * span + radius + slop)
        # To the hit.
        for k in range(3):
            m[A, k] = p[k]
            m[B, k] = v[k] + dv[k] * best
            p[k] += way[k] * best + bow[k] * (best * best - best)
        if which == FLOOR:
            p[1] = radius
        left = span * (1.0 - best)
        age = min(np.float64(scr[w.END, i]) - left * aging, 1.0)
        fly(course, state, j, number, step, left, span - left, m[A], p, m[B], age, m[NONE])
        for k in range(3):
            v[k] = m[B, k]
        into = dot(v, out) - dot(vs, out)
        still = 2.0 * HAIR * max(-dot(dv, out) / span, 0.0) if span > 0.0 else 0.0
        counts = into < 0.0 and into * into > still
        speed = np.sqrt(dot(v, v))
        if counts:
            index = state[rows.hits].view(np.int32)[j]
            state[rows.hits].view(np.int32)[j] = index + 1
            if step >= 0:
                course.log.used[1] += 1
            for k in range(3):
                m[A, k] = p[k] - out[k] * radius
            note(course, state, j, number, HIT, index, step, left, m[A], out, v, max(age, 0.0))
            if world.on_hit != VANISH and world.wear > 0.0:
                state[r.SINCE, j] += np.float32(world.wear / aging)
                scr[w.END, i] += np.float32(world.wear)
                age += world.wear
            if world.on_hit == VANISH or age >= 1.0:
                note(course, state, j, number, DEATH, 0, step, left, m[A] if world.on_hit == VANISH else p, out, v, min(age, 1.0))
                scr[w.END, i], scr[w.GONE, i] = np.float32(2.0), np.float32(1.0)
                span = left
                for k in range(3):
                    way[k], dv[k] = 0.0, 0.0
                break
        if world.on_hit == STICK:
            state[rows.stuck].view(np.int32)[j] = which + 1
            state[rows.kept, j], state[rows.added, j] = np.float32(0.0), np.float32(0.0)
            span = left
            for k in range(3):
                v[k], dv[k], way[k] = vs[k], 0.0, vs[k] * left
            break
        # The free rest of the way, and how the hit changes it.
        for k in range(3):
            way[k] = way[k] * (1.0 - best) - bow[k] * (best * best - best)
            bow[k] *= (1.0 - best) * (1.0 - best)
            dv[k] *= 1.0 - best
            way[k] -= pace * v[k] * left
        bounce = min(max(_now(course, s.BOUNCE, age, speed, number), 0.0), 1.0) if counts else 0.0
        friction = max(_now(course, s.FRICTION, age, speed, number), 0.0)
        share += (1.0 - share) * best
        span = left
        kept = 1.0
        if into < 0.0:
            kept = throw_back(m, bounce, friction, still)
        for k in range(3):
            way[k] += pace * v[k] * span
        leaving = 0.0
        for k in range(3):
            leaving += (way[k] - bow[k] - vs[k] * span) * out[k]
        if leaving <= 1e-9 * (1.0 + speed) * span or dot(v, out) - dot(vs, out) <= 0.0:
            held = friction * max(-dot(dv, out), 0.0)
            slide(m, span, pace, friction)
            if held > 0.0:
                for k in range(3):
                    m[A, k] = v[k] - vs[k]
                slip = np.sqrt(dot(m[A], m[A]))
                kept = min(kept, slip / (slip + held))
            if kept == 0.0 and dot(way, way) == 0.0 and dot(dv, dv) == 0.0:
                # It rests: there is no way on which it could meet anything.
                state[rows.kept, j], state[rows.added, j] = np.float32(0.0), np.float32(0.0)
                break
        if kept < 1.0:
            for k in range(3):
                m[A, k] = v[k] - vs[k]
            turn_with(course, state, j, size, kept, out, m[A])
        if hits == MOST_HITS:
            # So many hits in one step: it waits for the next one.
            for k in range(3):
                way[k], dv[k] = 0.0, 0.0
    if not changed:
        return
    if not (_is_told(p, way) and _is_told(v, dv)):
        # What a step took beyond all numbers stays where it was, at rest.
        for k in range(3):
            p[k], v[k], way[k], dv[k] = scr[w.P0X + k, i], 0.0, 0.0, 0.0
    for k in range(3):
        state[r.PX + k, j] = p[k] + way[k]
        state[r.VX + k, j] = v[k] + dv[k]
        scr[w.P0X + k, i], scr[w.V0X + k, i] = p[k], v[k]
    scr[w.PIECE, i] = span
    if floor and np.float64(state[r.PY, j]) < radius:
        state[r.PY, j] = radius
    if rows.way >= 0:
        # A chord over the corner of a hit is no way to be drawn along.
        whole = np.float32(min(np.float64(scr[w.SPAN, i]), 1.0 / rate))
        for k in range(3):
            state[r.WX + k, j] = state[r.PX + k, j] - state[r.VX + k, j] * whole


@lean_helper
def _stop_inward(v, out, way, span, pace):
    """Take from what was put out of a body the velocity that leads back into it."""
    into = dot(v, out)
    if into < 0.0:
        for k in range(3):
            v[k] -= into * out[k]
            way[k] -= pace * into * out[k] * span


@lean_helper
def _is_told(a, b):
    """Return whether the sum of two vectors is one of numbers that float32 has."""
    return abs(a[0] + b[0]) + abs(a[1] + b[1]) + abs(a[2] + b[2]) < 1e38


@kernel(NOTHING, COURSE, F2, U1, INT, INT, INT, BOOL, F2, lean=True)
def touch(course, state, serial, start, n, step, newborn, scr):
    """Let a block that was carried over a step meet what is in its way.

    The rows P0 and V0 of the scratch memory have places and velocities before the step; they are left with those at
    the beginning of the last stretch of the way, ``PIECE`` with its seconds, ``GONE`` 1 for those whose death is
    written down.
    """
    world, rows = course.world, course.rows
    kept, added, angle = state[rows.kept], state[rows.added], state[r.ANGLE]
    stuck = state[rows.stuck].view(np.int32)
    for i in range(n):
        j = start + i
        before = scr[w.TURNED_FROM, i]
        angle[j] = before + (angle[j] - before) * kept[j] + added[j] * scr[w.SPAN, i]
    # Who comes near the floor, and who near a resting prop: loops over rows, for all at once.
    margin = np.float32(world.widest + 1e-4)
    find_bows(state, scr, start, n)
    near, bow, y0, y1 = scr[w.NEAR], scr[w.T1], scr[w.P0Y], state[r.PY]
    if world.floor:
        for i in range(n):
            low = min(y0[i], y1[start + i]) - bow[i] - margin
            near[i] = np.float32(1.0) if low < np.float32(0.0) else np.float32(0.0)
    else:
        for i in range(n):
            near[i] = np.float32(0.0)
    # Rows of the scratch memory, for one particle's vectors at a time.
    spare = scr[w.WORK].view(np.float64)
    m, work, turn = spare[:30].reshape((10, 3)), spare[30:54].reshape((8, 3)), spare[54:63].reshape((3, 3))
    for k in range(3):
        m[NONE, k] = 0.0
    stack = scr[w.STACK].view(np.int64)
    props, movers = world.kind.shape[0], world.movers.shape[0]
    resting = movers < props
    cell, cells = scr[w.CELL].view(np.int32), world.grid.reshape(-1)
    if resting:
        find_cells(world, state, scr, start, n, margin)
    for i in range(n):
        j = start + i
        if stuck[j] != 0:
            _held(course, state, j, i, scr, m, turn, work[3])
            continue
        mask = np.uint64(0)
        found = np.uint64(0)
        if resting:
            if cell[i] >= 0:
                found = cells[cell[i]]
            elif cell[i] == -2:
                found = ALL
        if found != np.uint64(0) or movers > 0:
            mask = candidates(world, state, scr, i, j, found, margin, newborn, work, stack)
        if near[i] == np.float32(0.0) and mask == np.uint64(0):
            continue
        _carry(course, state, serial, j, i, step, newborn, near[i] != np.float32(0.0), mask, scr, m, work, turn, stack)


call_touch = touch.call

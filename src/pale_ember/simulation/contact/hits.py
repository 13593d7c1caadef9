"""Contact: takes particles over a step in which they may hit the floor, props and meshes.

The way is a parabola through both ends of the free step, with the change of velocity as its bow; so moments
of hits are exact under constant acceleration. At a hit the velocity is thrown back by ``bounce`` and held by
Coulomb's friction (the impulse along the surface is at most ``friction`` times that into it). What is left of
the step is flown anew with it: the change goes through drag, orbit and pace like any velocity. Where nothing
lifts the particle off, it slides or rests.
"""

from __future__ import annotations

import numpy as np

from ...effect.kinds import OnHit, code_of
from ..kernels.compiling import kernel, lean_helper
from ..layout import rows, scratch, slots
from ..layout.recording import DEATH, HIT, MOST_HITS, fly, note
from ..layout.signatures import BOOL, F2, INT, NOTHING, PROGRAM, U1
from ..motion.prop_motion import surface_motion
from ..values.sampling import is_nonzero
from .broad_phase import ALL, candidates, find_bows, find_cells, within
from .colliders import length, slop_at
from .first_hit import FLOOR, NOTHING_MET, meet_prop, put_out_of_mesh
from .one_particle import height, now
from .parabolas import ALONG, NEVER, meet_floor, presses
from .response import (
    AS,
    BOW,
    COMES,
    DV,
    LAST,
    MET,
    NONE,
    OUT,
    PUT,
    VECTORS,
    VS,
    WAY,
    A,
    B,
    P,
    V,
    bend,
    dot,
    fly_on,
    keep_to_crease,
    slide,
    throw_back,
    turn_with,
    velocity_on_way,
)
from .resting import carry_along, is_told, put_out, stay_on

STICK, VANISH = (code_of(kind) for kind in (OnHit.STICK, OnHit.VANISH))
# A particle that would bounce lower than this, m, rests.
HAIR = 1e-4


@lean_helper
def _first_met(world, p, displacement, sagitta, radius, slop, share, floor, mask, m, work, turn, stack):
    """Find what a way meets first; return the share of it, and the prop or the floor.

    Fills rows OUT, MET and PUT of ``m``; the share is below 0 where the way begins inside of something.
    """
    best, which = NEVER, NOTHING_MET
    if floor:
        high, along = p[1] - radius, ALONG * (abs(displacement[1]) + abs(sagitta[1])) + 0.25 * slop
        best = (
            -1.0 if high < -slop else meet_floor(high, displacement[1] - sagitta[1], sagitta[1], slop, along)
        )
        if best < NEVER:
            which = FLOOR
            m[OUT, 0], m[OUT, 1], m[OUT, 2] = 0.0, 1.0, 0.0
            s = max(best, 0.0)
            for k in range(3):
                m[PUT, k] = p[k] + displacement[k] * s + sagitta[k] * (s * s - s)
            m[PUT, 1] = radius
    if mask != np.uint64(0) and best >= 0.0:
        for prop in range(world.kind.shape[0]):
            if mask >> np.uint64(prop) & np.uint64(1):
                at = meet_prop(world, prop, radius, slop, share, p, displacement, sagitta, work, turn, stack)
                if at < best:
                    best, which = at, prop
                    for k in range(3):
                        m[OUT, k], m[MET, k], m[PUT, k] = work[0, k], work[1, k], work[2, k]
                    if at < 0.0:
                        break
    return best, which


@lean_helper
def _answer(program, state, j, m, size, age, number, counts, still, speed, span, pace, drag, angle, slop):
    """Let what was hit answer: throw back, turn, let slide; the rest of the way is changed by it. Return
    whether it slides.
    """
    v, displacement, dv, out, vs, acc = m[V], m[WAY], m[DV], m[OUT], m[VS], m[AS]
    into = dot(v, out) - dot(vs, out)
    friction = max(now(program, slots.FRICTION, age, speed, number), 0.0)
    spin = now(program, slots.SPIN, age, speed, number)
    lost = 0.0
    if into < 0.0:
        bounce = min(max(now(program, slots.BOUNCE, age, speed, number), 0.0), 1.0) if counts else 0.0
        lost = throw_back(m, bounce, friction, still)
        fly_on(m, m[A], span, pace, drag, program.around.axis, angle)
    bend(m, span, pace, drag)
    leaving, gains = 0.0, 0.0
    for k in range(3):
        gains += (dv[k] - acc[k] * span) * out[k]
        leaving += (displacement[k] - m[BOW, k] - vs[k] * span) * out[k]
    along = ALONG * (length(displacement) + length(m[BOW])) + 0.25 * slop
    slides = presses(0.0, leaving, 0.5 * pace * span * gains, slop, along)
    if slides:
        lost += slide(m, span, pace, drag, friction)
    if slides or leaving <= along:
        if dot(m[LAST], m[LAST]) > 0.0:
            keep_to_crease(m, span)
        bend(m, span, pace, drag)
        for k in range(3):
            m[LAST, k] = out[k]
        m[COMES, 0], m[COMES, 1] = dot(vs, out), dot(acc, out)
    else:
        m[LAST, 0], m[LAST, 1], m[LAST, 2] = 0.0, 0.0, 0.0
    if lost > 0.0:
        for k in range(3):
            m[A, k] = v[k] + (dv[k] - acc[k] * span if slides else 0.0) - vs[k]
        turn_with(program, state, j, size, spin, lost, out, m[A])
    return slides


@lean_helper
def _set_out(state, j, i, scr, m):
    """Take a particle's way, and the change of its velocity, from what the free step gave; return how far
    from the origin it is, m.
    """
    far = 0.0
    for k in range(3):
        m[P, k], m[V, k] = scr[scratch.P0X + k, i], scr[scratch.V0X + k, i]
        m[WAY, k] = np.float64(state[rows.PX + k, j]) - m[P, k]
        m[DV, k] = np.float64(state[rows.VX + k, j]) - m[V, k]
        m[LAST, k] = 0.0
        far = max(far, abs(m[P, k]))
    return far


@lean_helper
def _leave_meshes(world, mask, radius, share, span, pace, m, work, turn, stack):
    """Put a newborn particle out of closed meshes that it was born in; return whether it was in one."""
    found = False
    for prop in range(world.kind.shape[0]):
        inside = world.closed[prop] != 0 and mask >> np.uint64(prop) & np.uint64(1) != 0
        if inside and put_out_of_mesh(world, prop, radius, share, m[P], work, turn, stack):
            found = True
            into = dot(m[V], work[0])
            if into < 0.0:
                for k in range(3):
                    m[V, k] -= into * work[0, k]
                    m[WAY, k] -= pace * into * work[0, k] * span
    return found


@lean_helper
def _go_to_hit(world, which, rate, best, passed, span, drag, axis, angle, m, turn, work):
    """Carry a particle to what it hits, and find how that moves; return how hard it is pushed into it,
    m/s².
    """
    p, v, displacement, sagitta, dv, out, vs = m[P], m[V], m[WAY], m[BOW], m[DV], m[OUT], m[VS]
    for k in range(3):
        vs[k], m[AS, k] = 0.0, 0.0
        m[A, k] = p[k]
    if which != FLOOR and world.movers.shape[0] > 0:
        surface_motion(world, which, rate, passed, m[MET], vs, m[AS], turn, work[3])
    velocity_on_way(v, dv, best, drag, axis, angle, m[B])
    pushed = (dot(dv, out) / span if span > 0.0 else 0.0) - dot(m[AS], out)
    for k in range(3):
        p[k] = m[PUT, k]
        dv[k] += v[k] - m[B, k]
        v[k] = m[B, k]
        displacement[k] = displacement[k] * (1.0 - best) - sagitta[k] * (best * best - best)
    return pushed


@lean_helper
def _count_hit(program, state, j, i, number, step, left, age, aging, radius, scr, m):
    """Write down a hit, and what it costs of life; return the age after it, and whether that ends there."""
    world, extra = program.world, program.extra_rows
    p, v, out = m[P], m[V], m[OUT]
    index = state[extra.hits].view(np.int32)[j]
    state[extra.hits].view(np.int32)[j] = index + 1
    if step >= 0:
        program.log.used[1] += 1
    for k in range(3):
        m[A, k] = p[k] - out[k] * radius
    note(program, state, j, number, HIT, index, step, left, m[A], out, v, max(age, 0.0))
    if world.on_hit != VANISH and world.wear > 0.0:
        state[rows.SINCE, j] += np.float32(world.wear / aging)
        scr[scratch.END, i] += np.float32(world.wear)
        age += world.wear
    if world.on_hit != VANISH and age < 1.0:
        return age, False
    place = m[A] if world.on_hit == VANISH else p
    note(program, state, j, number, DEATH, 0, step, left, place, out, v, min(age, 1.0))
    scr[scratch.END, i], scr[scratch.GONE, i] = np.float32(2.0), np.float32(1.0)
    for k in range(3):
        m[WAY, k], m[DV, k] = 0.0, 0.0
    return age, True


@lean_helper
def _put_down(program, state, j, i, span, radius, floor, scr, m):
    """Write where a particle is after its hits, and the last stretch of its way."""
    extra = program.extra_rows
    p, v, displacement, dv = m[P], m[V], m[WAY], m[DV]
    if not (is_told(p, displacement) and is_told(v, dv)):
        # A particle that a step made non-finite stays where it was, at rest.
        for k in range(3):
            p[k], v[k], displacement[k], dv[k] = scr[scratch.P0X + k, i], 0.0, 0.0, 0.0
    for k in range(3):
        state[rows.PX + k, j] = p[k] + displacement[k]
        state[rows.VX + k, j] = v[k] + dv[k]
        scr[scratch.P0X + k, i], scr[scratch.V0X + k, i] = p[k], v[k]
    scr[scratch.PIECE, i] = span
    if floor and np.float64(state[rows.PY, j]) < radius:
        state[rows.PY, j] = radius
    if extra.way >= 0:
        # A chord over the corner of a hit is no way to be drawn along.
        whole = np.float32(min(np.float64(scr[scratch.SPAN, i]), 1.0 / program.clock.rate))
        for k in range(3):
            state[rows.WX + k, j] = state[rows.PX + k, j] - state[rows.VX + k, j] * whole


@lean_helper
def _carry(program, state, serial, j, i, step, newborn, floor, mask, scr, m, work, turn, stack):
    """Carry one particle over a step in which it may meet something."""
    world, extra, rate, axis = program.world, program.extra_rows, program.clock.rate, program.around.axis
    p, v, displacement, sagitta, dv, out, vs = m[P], m[V], m[WAY], m[BOW], m[DV], m[OUT], m[VS]
    span, pace, number = np.float64(scr[scratch.SPAN, i]), np.float64(scr[scratch.PACE, i]), serial[j]
    share, aging = max(1.0 - span * rate, 0.0), np.float64(state[rows.AGING, j])
    # The change by drag and orbit per second.
    thin = (1.0 - np.float64(scr[scratch.E0, i])) / max(np.float64(scr[scratch.E1, i]), 1e-30)
    round_ = 0.0
    if is_nonzero(program.form, program.ends, slots.ORBIT) and span > 0.0:
        round_ = 2.0 * np.float64(scr[scratch.TURNED, i]) / span
    slop = slop_at(_set_out(state, j, i, scr, m))
    bend(m, span, pace, thin * span)
    size = height(program, state, j, min(np.float64(scr[scratch.END, i]), 1.0), np.sqrt(dot(v, v)), number)
    radius = min(world.reach * size, world.widest)
    changed, hits = False, 0
    if newborn:
        changed = _leave_meshes(world, mask, radius, share, span, pace, m, work, turn, stack)
    while hits < MOST_HITS:
        hits += 1
        # A particle that dies during the step meets nothing after that.
        until = 1.0
        oldest = np.float64(scr[scratch.END, i])
        if oldest >= 1.0 and span > 0.0:
            until = 1.0 - min((oldest - 1.0) / aging / span, 1.0)
        best, which = _first_met(
            world, p, displacement, sagitta, radius, slop, share, floor, mask, m, work, turn, stack
        )
        if best > until or best == NEVER:
            break
        changed = True
        if best < 0.0:
            put_out(m, world, which, mask, slop, share, newborn, span, pace, work, turn, stack)
            if hits == MOST_HITS:
                # There is no looking any more at what may be on its way from here.
                for k in range(3):
                    displacement[k], dv[k] = 0.0, 0.0
            continue
        left, passed = span * (1.0 - best), share + (1.0 - share) * best
        pushed = _go_to_hit(
            world, which, rate, best, passed, span, thin * span, axis, round_ * span, m, turn, work
        )
        age = min(np.float64(scr[scratch.END, i]) - left * aging, 1.0)
        fly(program, state, j, number, step, left, span - left, m[A], p, v, age, m[NONE])
        into = dot(v, out) - dot(vs, out)
        still = 2.0 * HAIR * max(-pushed, 0.0)
        counts = into < 0.0 and into * into > still
        speed = np.sqrt(dot(v, v))
        share, span = passed, left
        if counts:
            age, ended = _count_hit(program, state, j, i, number, step, left, age, aging, radius, scr, m)
            if ended:
                break
        if world.on_hit == STICK:
            state[extra.stuck].view(np.int32)[j] = which + 1
            state[extra.kept, j], state[extra.added, j] = np.float32(0.0), np.float32(0.0)
            for k in range(3):
                v[k] = vs[k]
            stay_on(m, world, which, np.uint64(0), slop, share, span, work, turn, stack)
            break
        drag, angle = thin * span, round_ * span
        slides = _answer(
            program, state, j, m, size, age, number, counts, still, speed, span, pace, drag, angle, slop
        )
        if slides and dot(displacement, displacement) == 0.0 and dot(dv, dv) == 0.0 and dot(v, v) == 0.0:
            # It rests: there is no way on which it could meet anything but what comes.
            state[extra.kept, j], state[extra.added, j] = np.float32(0.0), np.float32(0.0)
            if world.movers.shape[0] == 0:
                break
        # Thrown back it may come to whatever is as near as its way is long.
        floor = world.floor
        far = np.sqrt(dot(displacement, displacement)) + np.sqrt(dot(sagitta, sagitta)) + radius + slop
        mask = within(world, p, far)
        if hits == MOST_HITS:
            # Too many hits in one step: the particle waits for the next step.
            stay_on(m, world, which, mask, slop, share, span, work, turn, stack)
    if changed:
        _put_down(program, state, j, i, span, radius, floor, scr, m)


@kernel(NOTHING, PROGRAM, F2, U1, INT, INT, INT, BOOL, F2, lean=True, cost=12.0)
def touch(program, state, serial, start, n, step, newborn, scr):
    """Let a block that was carried over a step meet what is in its way.

    The rows P0 and V0 of the scratch memory have places and velocities before the step; they are left with
    those at the beginning of the last stretch of the way, ``PIECE`` with its seconds, ``GONE`` 1 for those
    whose death is written down.
    """
    world, extra = program.world, program.extra_rows
    kept, added, angle = state[extra.kept], state[extra.added], state[rows.ANGLE]
    stuck = state[extra.stuck].view(np.int32)
    for i in range(n):
        j = start + i
        before = scr[scratch.TURNED_FROM, i]
        angle[j] = before + (angle[j] - before) * kept[j] + added[j] * scr[scratch.SPAN, i]
    # Find the particles near the floor or near a resting prop: loops over rows, all at once.
    margin = np.float32(world.widest + 1e-4)
    find_bows(state, scr, start, n)
    near, sagitta, y0, y1 = scr[scratch.NEAR], scr[scratch.T1], scr[scratch.P0Y], state[rows.PY]
    if world.floor:
        for i in range(n):
            low = min(y0[i], y1[start + i]) - sagitta[i] - margin
            near[i] = np.float32(1.0) if low < np.float32(0.0) else np.float32(0.0)
    else:
        for i in range(n):
            near[i] = np.float32(0.0)
    # Rows of the scratch memory, for one particle's vectors at a time.
    spare = scr[scratch.WORK].view(np.float64)
    m, work = (
        spare[: 3 * VECTORS].reshape((VECTORS, 3)),
        spare[3 * VECTORS : 3 * VECTORS + 24].reshape((8, 3)),
    )
    turn = spare[3 * VECTORS + 24 : 3 * VECTORS + 33].reshape((3, 3))
    for k in range(3):
        m[NONE, k] = 0.0
    stack = scr[scratch.STACK].view(np.int64)
    props, movers = world.kind.shape[0], world.movers.shape[0]
    resting = movers < props
    cell, cells = scr[scratch.CELL].view(np.int32), world.grid.reshape(-1)
    if resting:
        find_cells(world, state, scr, start, n, margin)
    for i in range(n):
        j = start + i
        if stuck[j] != 0:
            carry_along(program, state, j, i, scr, m, turn, work[3])
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
        _carry(
            program,
            state,
            serial,
            j,
            i,
            step,
            newborn,
            near[i] != np.float32(0.0),
            mask,
            scr,
            m,
            work,
            turn,
            stack,
        )


call_touch = touch.call

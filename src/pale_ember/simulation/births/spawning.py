"""Fills the state of newborn particles: by the layer's shape, or by the parent's event that they come
from.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import inlined, kernel, lean_helper
from ..layout import rows, scratch, slots
from ..layout.payload_columns import AXIS, COLOR, PARENT, PLACE, VELOCITY, WALKED
from ..layout.program import AT, CENTRE, MIDDLE, ROTATION, SPARE, STRETCH, TO, VECTORS
from ..layout.recording import BIRTH, note
from ..layout.scratch import BLOCK
from ..layout.signatures import BIRTHS, D1, F2, INT, NOTHING, PROGRAM, U1
from ..motion.path import call_carried, call_pose
from ..values.sampling import call_values, fill_row, forget, piece
from .aiming import call_spawn
from .moving_along import offsets

# The slots of a launch in the order of the rows; the share of the layer's velocity comes last.
_SLOTS = (slots.SPEED, slots.PUSH_X, slots.PUSH_Y, slots.PUSH_Z, slots.LIFETIME, slots.ANGLE, slots.CARRY)
_ROWS = (scratch.FAST, scratch.P0X, scratch.P0Y, scratch.P0Z, scratch.E0, scratch.E1, scratch.LIMIT)


@inlined
def tick_of(program, step):
    """Return the number of the places that glittering particles have in a step."""
    whole = program.clock.whole
    return step % whole if program.weather.repeats and whole > 0 else step


@lean_helper
def _to_pose(a, b, at):
    """Move a place, the first three numbers, as the layer moves from one pose to another."""
    x, y, z = at[0] - a[CENTRE], at[1] - a[CENTRE + 1], at[2] - a[CENTRE + 2]
    grow = b[STRETCH] / a[STRETCH]
    u = a[ROTATION] * x + a[ROTATION + 3] * y + a[ROTATION + 6] * z
    v = a[ROTATION + 1] * x + a[ROTATION + 4] * y + a[ROTATION + 7] * z
    t = a[ROTATION + 2] * x + a[ROTATION + 5] * y + a[ROTATION + 8] * z
    for i in range(3):
        row = ROTATION + 3 * i
        at[i] = b[CENTRE + i] + grow * (b[row] * u + b[row + 1] * v + b[row + 2] * t)


@lean_helper
def _axis_turn(ax, ay, az):
    """Return, row by row, the shortest turn that takes +Y to a direction (T. Möller, J. F. Hughes, 1999);
    none for 0.
    """
    if ax == 0.0 and ay == 0.0 and az == 0.0:
        return 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0
    if ay < -0.999999:
        # Upside down: half a turn about X.
        return 1.0, 0.0, 0.0, 0.0, -1.0, 0.0, 0.0, 0.0, -1.0
    k = 1.0 / (1.0 + ay)
    across = -k * ax * az
    return ay + k * az * az, ax, across, -ax, ay, -az, across, az, ay + k * ax * ax


@kernel(NOTHING, PROGRAM, F2, INT, INT, BIRTHS, INT, D1, D1, lean=True)
def receive(program, state, start, n, births, first, there, now):
    """Put newborn at their events, turn them with the events' axes, and give them what they have of their
    parents.

    ``there`` is the pose that they were born from, ``now`` the layer's at their moment.
    """
    payload, taken = births.payload, program.extra_rows.taken
    moves, whole = program.track.moves and program.follow, births.carried.shape[0] == 0
    p = program.poses[VECTORS][3:6]
    # Where each step gives another place of the shape, the shape keeps to the layer's axes.
    turns = not program.shape.glitter
    cx, cy, cz = there[CENTRE], there[CENTRE + 1], there[CENTRE + 2]
    of = births.of[first : first + n]
    begin = 0
    while begin < n:
        # Those of one event stand together.
        end = begin + 1
        while end < n and of[end] == of[begin]:
            end += 1
        event, at, m = payload[of[begin]], start + begin, end - begin
        px, py, pz = piece(state, rows.PX, at, m), piece(state, rows.PY, at, m), piece(state, rows.PZ, at, m)
        vx, vy, vz = piece(state, rows.VX, at, m), piece(state, rows.VY, at, m), piece(state, rows.VZ, at, m)
        a, b, c, d, e, f, g, h, k = _axis_turn(
            np.float64(event[AXIS]), np.float64(event[AXIS + 1]), np.float64(event[AXIS + 2])
        )
        ex, ey, ez = np.float64(event[PLACE]), np.float64(event[PLACE + 1]), np.float64(event[PLACE + 2])
        for i in range(m):
            x, y, z = np.float64(px[i]) - cx, np.float64(py[i]) - cy, np.float64(pz[i]) - cz
            px[i] = ex + (a * x + b * y + c * z if turns else x)
            py[i] = ey + (d * x + e * y + f * z if turns else y)
            pz[i] = ez + (g * x + h * y + k * z if turns else z)
        for i in range(m if moves else 0):
            p[0], p[1], p[2] = px[i], py[i], pz[i]
            _to_pose(now, there, p)
            px[i], py[i], pz[i] = p[0], p[1], p[2]
        for i in range(m):
            x, y, z = np.float64(vx[i]), np.float64(vy[i]), np.float64(vz[i])
            vx[i], vy[i], vz[i] = a * x + b * y + c * z, d * x + e * y + f * z, g * x + h * y + k * z
        fast_x, fast_y, fast_z = event[VELOCITY], event[VELOCITY + 1], event[VELOCITY + 2]
        if fast_x != np.float32(0.0) or fast_y != np.float32(0.0) or fast_z != np.float32(0.0):
            for i in range(m):
                carried = np.float32(1.0) if whole else births.carried[first + begin + i]
                vx[i] += fast_x * carried
                vy[i] += fast_y * carried
                vz[i] += fast_z * carried
        if taken >= 0:
            for j in range(4):
                fill_row(piece(state, taken + j, at, m), event[COLOR + j], m)
        begin = end


call_receive = receive.call


@lean_helper
def _launch(state, at, n, there, turned, scr):
    """Put a block of newborn, from rows M and D, into the world: where they are and how fast they go.

    ``there`` is the layer's pose, ``turned`` the one that turns their places.
    """
    offsets(scr, n, turned, scratch.AX)
    speed, dx, dy, dz = scr[scratch.FAST], scr[scratch.DX], scr[scratch.DY], scr[scratch.DZ]
    px, py, pz = scr[scratch.P0X], scr[scratch.P0Y], scr[scratch.P0Z]
    for i in range(n):
        dx[i] = dx[i] * speed[i] + px[i]
        dy[i] = dy[i] * speed[i] + py[i]
        dz[i] = dz[i] * speed[i] + pz[i]
    for axis in range(3):
        row, k, centre = ROTATION + 3 * axis, there[STRETCH], there[CENTRE + axis]
        a, b, c = there[row] * k, there[row + 1] * k, there[row + 2] * k
        place, fast = piece(state, rows.PX + axis, at, n), piece(state, rows.VX + axis, at, n)
        away = scr[scratch.AX + axis]
        for i in range(n):
            place[i] = centre + away[i]
            fast[i] = a * dx[i] + b * dy[i] + c * dz[i]


@lean_helper
def _launch_moving(program, state, at, births, k, i, now, there, turned, carries, scr):
    """The same for one of a layer that moves: from the pose of its own moment, which it may be given the
    velocity of.
    """
    track, clocks, clock = program.track, program.clock, births.clock[k]
    way = program.poses[SPARE][:6]
    speed = np.float64(scr[scratch.FAST, i])
    x, y, z = np.float64(scr[scratch.MX, i]), np.float64(scr[scratch.MY, i]), np.float64(scr[scratch.MZ, i])
    dx = np.float64(scr[scratch.DX, i]) * speed + np.float64(scr[scratch.P0X, i])
    dy = np.float64(scr[scratch.DY, i]) * speed + np.float64(scr[scratch.P0Y, i])
    dz = np.float64(scr[scratch.DZ, i]) * speed + np.float64(scr[scratch.P0Z, i])
    for axis in range(3):
        row = ROTATION + 3 * axis
        way[3 + axis] = (turned[row] * x + turned[row + 1] * y + turned[row + 2] * z) * turned[STRETCH]
        state[rows.PX + axis, at] = there[CENTRE + axis] + way[3 + axis]
        state[rows.VX + axis, at] = (there[row] * dx + there[row + 1] * dy + there[row + 2] * dz) * there[
            STRETCH
        ]
    carry = np.float64(scr[scratch.LIMIT, i]) if carries else 0.0
    if carry != 0.0:
        call_carried(program.calls.carried, track, clock, now, way[3], way[4], way[5], way)
        for axis in range(3):
            state[rows.VX + axis, at] += way[axis] * carry / clocks.length


@lean_helper
def _begin_lives(program, state, at, births, first, n, step, scr):
    """Give a block of newborn what all have besides place and velocity."""
    extra, lifetime, angles = program.extra_rows, scr[scratch.E0], scr[scratch.E1]
    aging, angle, since = (
        piece(state, rows.AGING, at, n),
        piece(state, rows.ANGLE, at, n),
        piece(state, rows.SINCE, at, n),
    )
    born, left = piece(state, rows.BORN, at, n).view(np.int32), births.left[first : first + n]
    for i in range(n):
        aging[i] = 1.0 / max(np.float64(lifetime[i]), 1e-4)
        angle[i] = angles[i]
        since[i] = left[i]
        born[i] = np.int32(step + 1)
    if extra.hits >= 0:
        fill_row(piece(state, extra.hits, at, n), np.float32(0.0), n)
        fill_row(piece(state, extra.stuck, at, n), np.float32(0.0), n)
        fill_row(piece(state, extra.kept, at, n), np.float32(1.0), n)
        fill_row(piece(state, extra.added, at, n), np.float32(0.0), n)
    if extra.flown >= 0:
        fill_row(piece(state, extra.flown, at, n), np.float32(0.0), n)
        fill_row(piece(state, extra.walked, at, n), np.float32(0.0), n)


@lean_helper
def _begin_ribbons(program, state, at, births, first, n):
    """Give a block of newborn their places in what they are joined to."""
    extra, payload = program.extra_rows, births.payload
    if extra.row >= 0:
        shares = piece(state, extra.row, at, n)
        for i in range(n):
            shares[i] = births.row[first + i] if births.row.shape[0] > 0 else np.float32(0.0)
    if extra.owner >= 0:
        owner = piece(state, extra.owner, at, n)
        for i in range(n):
            owner[i] = payload[births.of[first + i], PARENT] if payload.shape[0] > 0 else np.float32(0.0)
    if extra.laid < 0:
        return
    for i in range(n):
        j = at + i
        if extra.owner >= 0:
            state[extra.laid, j] = (
                payload[births.of[first + i], WALKED] if payload.shape[0] > 0 else np.float32(0.0)
            )
        elif j == 0:
            state[extra.laid, j] = np.float32(0.0)
        else:
            far = 0.0
            for axis in range(3):
                way = np.float64(state[rows.PX + axis, j]) - np.float64(state[rows.PX + axis, j - 1])
                far += way * way
            state[extra.laid, j] = state[extra.laid, j - 1] + np.float32(np.sqrt(far))


@lean_helper
def _note_births(program, state, serial, at, births, begin, n, step, moves):
    """Write down the births of a block, each where it was at its moment."""
    now, middle = program.poses[AT], program.poses[MIDDLE]
    way, none = program.poses[SPARE][:6], program.poses[VECTORS][:3]
    for i in range(n):
        for axis in range(3):
            way[axis], way[3 + axis] = state[rows.PX + axis, at + i], state[rows.VX + axis, at + i]
        if moves and program.follow:
            call_pose(program.calls.pose, program.track, births.clock[begin + i], now)
            _to_pose(middle, now, way)
        left = births.left[begin + i]
        note(program, state, at + i, serial[at + i], BIRTH, 0, step, left, way[:3], none, way[3:], 0.0)


@kernel(NOTHING, PROGRAM, F2, U1, INT, BIRTHS, INT, INT, INT, F2, lean=True, everyday=True, cost=0.9)
def bear(program, state, serial, alive, births, first, last, step, scr):
    """Write births ``first`` to ``last`` of a step behind the living, each as it is at its moment."""
    calls, tables, track = program.calls, program.tables, program.track
    now, middle, to = program.poses[AT], program.poses[MIDDLE], program.poses[TO]
    tick = tick_of(program, step) if program.shape.glitter else 0
    follows = births.payload.shape[0] > 0
    moves, carries = track.moves, track.moves and program.clock.length > 0.0 and not follows
    wants_births = program.log.wants & BIRTH != 0
    # Those that follow are carried on from the middle of the step with all others.
    there = middle if program.follow else now
    turned = to if program.shape.glitter and not program.follow else there
    one = np.float32(1.0)
    for begin in range(first, last, BLOCK):
        n, at = min(BLOCK, last - begin), alive + begin - first
        clock, clocks = piece(state, rows.CLOCK, at, n), scr[scratch.MIDDLE]
        numbers, times, own = (
            births.number[begin : begin + n],
            births.clock[begin : begin + n],
            serial[at : at + n],
        )
        for i in range(n):
            own[i] = numbers[i]
            clock[i] = times[i]
            clocks[i] = clock[i]
        if births.row.shape[0] > 0:
            shares = scr[scratch.ROW]
            for i in range(n):
                shares[i] = births.row[begin + i]
        if program.shape.moves:
            # Those that go along with a bow come to where it will be.
            when = scr[scratch.WHEN]
            for i in range(n):
                when[i] = (
                    one if program.follow else one - births.left[begin + i] * np.float32(program.clock.rate)
                )
        call_spawn(calls.spawn, calls.place, program.shape, serial, at, n, tick, True, scr)
        forget(scr)
        for k in range(6 if not carries else 7):
            row, slot = _ROWS[k], _SLOTS[k]
            call_values(
                calls.values,
                scr,
                row,
                scratch.MIDDLE,
                tables,
                tables.form,
                tables.ends,
                slot,
                serial,
                at,
                n,
                one,
            )
        if moves:
            for i in range(n):
                call_pose(calls.pose, track, births.clock[begin + i], now)
                _launch_moving(program, state, at + i, births, begin + i, i, now, there, turned, carries, scr)
                if follows:
                    call_receive(calls.receive, program, state, at + i, 1, births, begin + i, there, now)
        else:
            _launch(state, at, n, there, turned, scr)
            if follows:
                call_receive(calls.receive, program, state, at, n, births, begin, there, now)
        _begin_lives(program, state, at, births, begin, n, step, scr)
        if program.extra_rows.row >= 0 or program.extra_rows.owner >= 0 or program.extra_rows.laid >= 0:
            _begin_ribbons(program, state, at, births, begin, n)
        if wants_births:
            _note_births(program, state, serial, at, births, begin, n, step, moves)


call_bear = bear.call

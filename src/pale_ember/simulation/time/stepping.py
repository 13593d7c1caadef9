"""Takes a layer over many steps: its pose, births, motion, deaths and counts."""

from __future__ import annotations

import numpy as np

from ..births.moving_along import call_glitter, call_take_along
from ..births.spawning import call_bear, tick_of
from ..kernels.compiling import kernel, lean_helper
from ..layout import rows
from ..layout.program import BORN, CENTRE, FROM, FULL, MIDDLE, REFUSED, ROTATION, STRETCH, TO
from ..layout.signatures import BIRTHS, F2, INT, L1, NOTHING, PROGRAM, U1
from ..motion.path import call_pose
from ..motion.prop_motion import call_stand_props
from ..motion.turbulence import APART, OTHER_SLIDE, SLIDE
from ..values.sampling import call_at_clock
from .integration import call_advance

TAU = 2.0 * np.pi


@lean_helper
def local_time(clock, steps):
    """Return the time inside the loop, s, after a number of steps; the same bits in each loop of whole
    steps.
    """
    if clock.whole > 0:
        return (steps - np.floor(steps / clock.whole) * clock.whole) / clock.rate
    time = steps / clock.rate
    if clock.duration > 0.0:
        time -= np.floor(time / clock.duration + 1e-12) * clock.duration
    return time


@lean_helper
def clock_at(clock, steps):
    """Return the window's clock, 0…1, after a number of steps."""
    if clock.length <= 0.0:
        return 0.0
    return min(max((local_time(clock, steps) - clock.begin) / clock.length, 0.0), 1.0)


@lean_helper
def _stand(around, now):
    """Put the surroundings at a pose."""
    for i in range(3):
        around.centre[i] = now[CENTRE + i]
        around.axis[i] = now[ROTATION + 3 * i + 1]
        for j in range(3):
            around.rotation[i, j] = now[ROTATION + 3 * i + j]
    around.stretch[0] = now[STRETCH]


@lean_helper
def _gust(weather, time, duration):
    """Return by how much the wind is stronger: two waves that don't repeat together, never below 0.

    Where loops repeat each wave goes a whole number of times through one.
    """
    first, second = time / weather.gust_period, 2.618 * time / weather.gust_period
    if weather.repeats and duration > 0.0:
        turns = max(np.rint(duration / weather.gust_period), 1.0)
        more = max(np.rint(2.618 * duration / weather.gust_period), 1.0)
        first, second = turns * time / duration, more * time / duration
    return max(0.0, 1.0 + weather.gust * (0.65 * np.sin(TAU * first) + 0.35 * np.sin(TAU * second + 1.3)))


@lean_helper
def _weather(weather, around, clock, steps):
    """Make wind and eddies those after a number of steps."""
    comes_round = weather.repeats and clock.duration > 0.0
    time = local_time(clock, steps) if comes_round else steps / clock.rate
    swell = 1.0 if weather.gust == 0.0 else _gust(weather, time, clock.duration)
    for i in range(3):
        around.breeze[i] = weather.wind[i] * swell
    if comes_round:
        # Round a circle as long as the straight way, so that eddies change as fast and end where they began.
        angle = TAU * time / clock.duration
        radius = weather.churn * clock.duration / TAU
        along, across = radius * np.sin(angle), radius * (1.0 - np.cos(angle))
    else:
        along, across = weather.churn * time, 0.0
    for i in range(3):
        around.slid[0, i] = SLIDE[i] * along + OTHER_SLIDE[i] * across
        around.slid[1, i] = APART[i] + OTHER_SLIDE[i] * along - SLIDE[i] * across


@kernel(NOTHING, PROGRAM, INT, entry=True, lean=True, everyday=True, cost=0.4)
def settle(program, step):
    """Make slots, weather and poses those of a step; a step k goes from k / rate to (k + 1) / rate."""
    clock = clock_at(program.clock, step + 0.5)
    call_at_clock(program.calls.at_clock, program.tables, clock, program.form, program.ends)
    _weather(program.weather, program.around, program.clock, step + 0.5)
    if program.track.moves:
        call_pose(
            program.calls.pose, program.track, clock_at(program.clock, np.float64(step)), program.poses[FROM]
        )
        call_pose(program.calls.pose, program.track, clock, program.poses[MIDDLE])
        call_pose(program.calls.pose, program.track, clock_at(program.clock, step + 1.0), program.poses[TO])
        _stand(program.around, program.poses[MIDDLE])
    if program.shape.moves:
        program.shape.at[0] = step - program.shape.at[1]
    if program.world.movers.shape[0] > 0:
        call_stand_props(program.calls.stand_props, program, step)


call_settle = settle.call


@lean_helper
def _note_places(state, first, last):
    """Where a layer knows its particles' way, keep where they are before a step."""
    for axis in range(3):
        here, kept = state[rows.PX + axis], state[rows.WX + axis]
        for i in range(first, last):
            kept[i] = here[i]


@lean_helper
def _note_way(state, first, last, rate):
    """Make of the places before a step, and those after it, how fast each went."""
    whole = np.float32(1.0 / rate)
    for axis in range(3):
        here, kept, fast, since = (
            state[rows.PX + axis],
            state[rows.WX + axis],
            state[rows.VX + axis],
            state[rows.SINCE],
        )
        for i in range(first, last):
            span = min(since[i], whole)
            # In a step that has hardly begun there is no way yet.
            kept[i] = (here[i] - kept[i]) / span if span > np.float32(1e-4) else fast[i]


@lean_helper
def _note_step(state, first, last, rate):
    """The same for those that lived the whole step."""
    share = np.float32(rate)
    for axis in range(3):
        here, kept = state[rows.PX + axis], state[rows.WX + axis]
        for i in range(first, last):
            kept[i] = (here[i] - kept[i]) * share


@kernel(INT, PROGRAM, F2, U1, INT, INT, INT, INT, F2, entry=True, lean=True, everyday=True, cost=0.3)
def live(program, state, serial, first, last, to, step, scr):
    """Carry particles ``first`` to ``last``, all alive since before the step, over it; return where the
    next go.
    """
    c = program
    # Where something is met or written down, all that is done for each block.
    carries = c.track.moves and c.follow and not c.has_contact and not c.is_recorded
    if c.shape.glitter:
        call_glitter(
            c.calls.glitter, c, state, serial, first, last, tick_of(c, step - 1), tick_of(c, step), scr
        )
    elif c.shape.moves and c.follow:
        call_glitter(c.calls.glitter, c, state, serial, first, last, 0, 0, scr)
    knows_way = c.extra_rows.way >= 0
    if knows_way:
        _note_places(state, first, last)
    if carries:
        call_take_along(c.calls.take_along, state, first, last, c.poses[FROM], c.poses[MIDDLE])
    stop = call_advance(c.calls.advance, c, state, serial, first, last, to, False, step, scr)
    if carries:
        call_take_along(c.calls.take_along, state, to, stop, c.poses[MIDDLE], c.poses[TO])
    if knows_way:
        _note_step(state, to, stop, c.clock.rate)
    return stop


call_live = live.call


@kernel(INT, PROGRAM, F2, U1, INT, L1, INT, BIRTHS, INT, F2, entry=True, lean=True, everyday=True, cost=0.4)
def give_births(program, state, serial, alive, counters, step, births, at, scr):
    """Let the births of a step happen, carry the newborn over what is left of it, and return how many are
    alive.

    ``at`` is the step's place in the stretch that the births are of. A full cap refuses them, and counts
    those since time 0. What the list of births leaves out, since no cap could hold it or by a follow-up's
    limit, is refused as well.
    """
    c, first, cap = program, alive, serial.shape[0]
    begin, end = births.first[at], births.first[at + 1]
    taken = min(end - begin, cap - alive)
    if taken > 0:
        call_bear(c.calls.bear, c, state, serial, alive, births, begin, begin + taken, step, scr)
        alive += taken
    if step >= 0:
        counters[BORN] += taken
        counters[REFUSED] += end - begin - taken
        counters[FULL] += end - begin - taken
    elif step == -1:
        # A birth right at the end of the step before time 0 is one at time 0.
        for k in range(begin, end):
            if births.left[k] == 0.0:
                counters[BORN if k < begin + taken else REFUSED] += 1
    counters[REFUSED] += births.rest[at]
    if alive > first:
        if c.extra_rows.way >= 0:
            _note_places(state, first, alive)
        stop = call_advance(c.calls.advance, c, state, serial, first, alive, first, True, step, scr)
        if c.track.moves and c.follow and not c.has_contact and not c.is_recorded:
            call_take_along(c.calls.take_along, state, first, stop, c.poses[MIDDLE], c.poses[TO])
        if c.extra_rows.way >= 0:
            _note_way(state, first, stop, c.clock.rate)
        alive = stop
    return alive


call_give_births = give_births.call


@kernel(
    INT,
    PROGRAM,
    F2,
    U1,
    INT,
    L1,
    INT,
    INT,
    BIRTHS,
    INT,
    F2,
    INT,
    INT,
    INT,
    entry=True,
    lean=True,
    everyday=True,
    cost=0.1,
)
def run(
    program, state, serial, alive, counters, first_step, steps, births, at, scr, settling, living, bearing
):
    """Carry a layer over ``steps`` steps.

    Parameters
    ----------
    state, serial : arrays, shape (rows, cap) and (cap,)
    alive : int
        How many particles there are.
    counters : int64 array
        Born and refused since time 0.
    first_step : int
    births : Births
        Of a stretch that holds these steps; the first of them is its step number ``at``.
    scr : float32 array
        From :func:`~..layout.scratch.motion_scratch`.
    settling, living, bearing : int
        The addresses of :func:`settle`, :func:`live` and :func:`give_births`.

    Returns
    -------
    int
        How many are alive afterwards.
    """
    for i in range(steps):
        step = first_step + i
        call_settle(settling, program, step)
        if alive > 0:
            alive = call_live(living, program, state, serial, 0, alive, 0, step, scr)
        if births.first[at + i + 1] > births.first[at + i] or births.rest[at + i] > 0:
            alive = call_give_births(
                bearing, program, state, serial, alive, counters, step, births, at + i, scr
            )
    return alive

"""The collision response: the velocity after a hit or while sliding, and the flight for the rest of the
step.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper

# Rows of the memory for one particle's vectors while it is carried over a step: place, velocity, way, bow,
# change of velocity, outward direction, the surface's velocity and acceleration, the direction of the surface
# that it slid on last, how fast that comes along it, m/s and m/s², the place met in the prop's axes and in
# the world, what is soon used up, and nothing.
P, V, WAY, BOW, DV, OUT, VS, AS, LAST, COMES, MET, PUT, A, B, NONE = range(15)
VECTORS = 15
# The fastest that a hit makes something turn, radians/s.
FASTEST_TURN = 120.0
# What a change of speed along a surface changes of a ball's turning, times its radius: 1 / (2/5).
PER_IMPULSE = 2.5


@lean_helper
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@lean_helper
def turn_with(program, state, j, size, spin, lost, out, along):
    """Let a hit, or sliding, turn a ball's spin towards rolling along the surface, as far as friction goes.

    Parameters
    ----------
    spin : float
        The particle's own, radians/s.
    lost : float
        The speed along the surface that friction took, m/s.
    along : float64 array (3,)
        The velocity along the surface behind it, m/s.
    """
    radius = max(0.5 * size, 1e-3)
    # Rolling turns about the axis across way and surface; which way round is told as seen from the front.
    x = out[1] * along[2] - out[2] * along[1]
    y = out[2] * along[0] - out[0] * along[2]
    z = out[0] * along[1] - out[1] * along[0]
    fast = min(np.sqrt(x * x + y * y + z * z) / radius, FASTEST_TURN)
    roll = fast if 0.35 * x + 0.2 * y + 0.91 * z >= 0.0 else -fast
    kept, added = (
        np.float64(state[program.extra_rows.kept, j]),
        np.float64(state[program.extra_rows.added, j]),
    )
    gap, most = abs(roll - kept * spin - added), PER_IMPULSE * lost / radius
    share = 1.0 if gap <= most else most / gap
    state[program.extra_rows.kept, j] = kept * (1.0 - share)
    state[program.extra_rows.added, j] = added + (roll - added) * share


@lean_helper
def turned(axis, angle, a):
    """Turn a vector about an axis by an angle (O. Rodrigues' rotation formula, 1840)."""
    if angle == 0.0:
        return
    ux, uy, uz = np.float64(axis[0]), np.float64(axis[1]), np.float64(axis[2])
    sin, cos = np.sin(angle), np.cos(angle)
    x, y, z = a[0], a[1], a[2]
    along = (ux * x + uy * y + uz * z) * (1.0 - cos)
    a[0] = x * cos + (uy * z - uz * y) * sin + ux * along
    a[1] = y * cos + (uz * x - ux * z) * sin + uy * along
    a[2] = z * cos + (ux * y - uy * x) * sin + uz * along


@lean_helper
def velocity_on_way(v, dv, u, drag, axis, angle, out):
    """Write the velocity at a share of a way that begins with ``v`` and ends with ``v + dv``.

    Drag makes it fall off exponentially towards where it ends up, orbit turns it on the way: both exactly.

    Parameters
    ----------
    drag : float
        The rate of drag times the way's seconds.
    axis, angle : float32 array (3,), float
        What orbit turns it about, and by how much over the whole way, radians.
    """
    kept, gained = 1.0 - u, u
    if drag > 1e-4:
        whole = np.exp(-drag)
        gained = (1.0 - np.exp(-drag * u)) / (1.0 - whole)
        kept = 1.0 - gained
    for i in range(3):
        out[i] = v[i] + dv[i]
    turned(axis, -angle, out)
    for i in range(3):
        out[i] = v[i] * kept + out[i] * gained
    turned(axis, angle * u, out)


@lean_helper
def fly_on(m, change, span, pace, drag, axis, angle):
    """Change the rest of a way as a hit's change of velocity does: drag uses it up, orbit turns it.

    ``m`` has the velocity before the hit, and its change until the end of the free way; both are changed.
    """
    v, displacement, dv = m[V], m[WAY], m[DV]
    kept, gone = 1.0 - drag, span
    if drag > 1e-4:
        kept = np.exp(-drag)
        gone = span * (1.0 - kept) / drag
    elif drag > 0.0:
        kept, gone = 1.0 - drag * (1.0 - 0.5 * drag), span * (1.0 - 0.5 * drag)
    for i in range(3):
        v[i] += change[i]
        dv[i] -= change[i]
    turned(axis, angle, change)
    for i in range(3):
        displacement[i] += pace * gone * change[i]
        dv[i] += kept * change[i]


@lean_helper
def bend(m, span, pace, drag):
    """Fill the bow of a way; strong drag bends it no further than it goes."""
    sagitta, dv = m[BOW], m[DV]
    share = 0.5 * pace * span * min(1.0, 2.0 / max(drag, 1e-9))
    for i in range(3):
        sagitta[i] = share * dv[i]


@lean_helper
def throw_back(m, bounce, friction, still):
    """Write into row A how a hit changes the velocity; return how much speed along the surface is lost, m/s.

    Coulomb's friction: the impulse along the surface is at most so many times that into it.
    """
    v, out, vs, change = m[V], m[OUT], m[VS], m[A]
    into = dot(v, out) - dot(vs, out)
    back = -bounce * into
    if back * back <= still or back < 0.0:
        back = 0.0
    for i in range(3):
        change[i] = v[i] - vs[i] - into * out[i]
    slip = np.sqrt(dot(change, change))
    lost = min(friction * (back - into), slip)
    share = lost / slip if slip > 0.0 else 0.0
    for i in range(3):
        change[i] = (back - into) * out[i] - share * change[i]
    return lost


@lean_helper
def share_of_change(drag):
    """Return how much of its change of velocity a way's mean velocity has: a half, more where drag uses
    that up early.
    """
    if drag < 1e-2:
        return 0.5 + drag / 12.0
    lost = 1.0 - np.exp(-drag)
    return (drag - lost) / (drag * lost)


@lean_helper
def slide(m, span, pace, drag, friction):
    """Make the rest of a way one along the surface, held by friction; return how much speed that takes,
    m/s.
    """
    mean = share_of_change(drag)
    v, displacement, dv, out, vs, acc, along, ahead = m[V], m[WAY], m[DV], m[OUT], m[VS], m[AS], m[A], m[B]
    # As the surface sees it, which may be pulled round itself.
    for i in range(3):
        displacement[i] -= pace * (v[i] + mean * dv[i]) * span
        dv[i] -= acc[i] * span
    push = max(-dot(dv, out), 0.0)
    moves = dot(vs, vs) > 0.0
    # What moves a particle besides its velocity, such as drift, goes on along the surface.
    lifted, gain, drift = dot(v, out) - dot(vs, out), dot(dv, out), dot(displacement, out)
    for i in range(3):
        along[i] = v[i] - vs[i] - lifted * out[i]
        ahead[i] = dv[i] - gain * out[i]
        displacement[i] -= drift * out[i]
    hold = friction * push
    slip, tug = np.sqrt(dot(along, along)), np.sqrt(dot(ahead, ahead))
    whole = 0.0
    for i in range(3):
        whole += (along[i] + ahead[i]) ** 2
    lasts = 1.0
    if np.sqrt(whole) <= hold and (moves or slip <= 1e-7):
        for i in range(3):
            along[i], ahead[i] = 0.0, 0.0
    else:
        # Friction holds against the way that it slides, or would begin to.
        by = max(slip if slip > 1e-7 else tug, 1e-300)
        back = 0.0
        for i in range(3):
            back += (along[i] if slip > 1e-7 else ahead[i]) / by * ahead[i]
        stop = hold - back
        if slip > 1e-7 and tug <= hold and stop > slip:
            # It comes to rest inside the step, and stays.
            lasts, mean = slip / stop, 0.5
            for i in range(3):
                ahead[i] = -along[i]
        else:
            for i in range(3):
                ahead[i] -= hold * (along[i] if slip > 1e-7 else ahead[i]) / by
    for i in range(3):
        v[i] = vs[i] + along[i]
        dv[i] = ahead[i] + acc[i] * span
        # Of a surface the way goes on at its own pace.
        displacement[i] += (pace * (along[i] + mean * ahead[i]) * lasts + vs[i] + 0.5 * acc[i] * span) * span
    if lasts < 1.0:
        for i in range(3):
            v[i] = vs[i]
            dv[i] = acc[i] * span
    return min(hold, slip + tug)


@lean_helper
def _in_crease(a, out, last, line, far, first, second):
    """Let a vector go along the line where two surfaces meet, and with each surface as that comes.

    Parameters
    ----------
    line, far
        The cross product of both directions, and its square.
    first, second : float
        How far the surfaces come along their own directions.
    """
    slant = dot(out, last)
    along = dot(a, line) / far
    one, other = (first - slant * second) / far, (second - slant * first) / far
    for i in range(3):
        a[i] = along * line[i] + one * out[i] + other * last[i]


@lean_helper
def keep_to_crease(m, span):
    """Let what slides on one surface into that which it slid on before go along the line where they meet,
    if at all.
    """
    v, displacement, dv, out, vs, acc, last, line = m[V], m[WAY], m[DV], m[OUT], m[VS], m[AS], m[LAST], m[A]
    comes, faster = m[COMES, 0], m[COMES, 1] * span
    tiny = 1e-9 * (np.sqrt(dot(v, v)) + np.sqrt(dot(dv, dv)))
    if dot(v, last) - comes >= -tiny and dot(dv, last) - faster >= -tiny:
        return
    line[0] = out[1] * last[2] - out[2] * last[1]
    line[1] = out[2] * last[0] - out[0] * last[2]
    line[2] = out[0] * last[1] - out[1] * last[0]
    # The square of a sine: what two unit vectors have over their common part.
    far = dot(line, line)
    if far < 1e-12:
        # The same surface twice, or one against the other.
        if dot(out, last) < 0.0:
            for i in range(3):
                v[i], dv[i] = vs[i], acc[i] * span
                displacement[i] = (vs[i] + 0.5 * acc[i] * span) * span
        return
    own, own_faster = dot(vs, out), dot(acc, out) * span
    _in_crease(v, out, last, line, far, own, comes)
    _in_crease(dv, out, last, line, far, own_faster, faster)
    _in_crease(
        displacement, out, last, line, far, (own + 0.5 * own_faster) * span, (comes + 0.5 * faster) * span
    )

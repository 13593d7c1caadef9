"""Forces on a block of particles: drag and wind; pull and swirl about the layer's centre.

Over a step, acceleration, drag and wind are held at what they are in its middle, and motion under them is
exact (the exponential midpoint rule; M. Hochbruck, A. Ostermann, "Exponential integrators", Acta Numerica 19,
2010)::

    v1 = v0·e0 + (a + k·w)·e1      e0 = exp(-k·dt), e1 = (1 - e0)/k, e2 = (dt - e1)/k
    x1 = x0 + v0·e1 + (a + k·w)·e2

which without drag is the parabola x0 + v0·dt + a·dt²/2.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import inlined, kernel
from ..layout import scratch, slots
from ..layout.signatures import AROUND, CALLS, F2, I1, INT, NOTHING, TABLES, U1
from ..values.sampling import call_values, is_nonzero, random_of
from .force import force


@inlined
def axis_of(form, slot):
    """Return the scratch row that a slot's tables are read along."""
    return scratch.FAST if form[slot] >= slots.SPEED_CURVE else scratch.MIDDLE


@inlined
def is_pushed(form, ends):
    """Return whether gravity or thrust differs from particle to particle or from axis to axis."""
    thrusts = (
        is_nonzero(form, ends, slots.THRUST_X)
        or is_nonzero(form, ends, slots.THRUST_Y)
        or is_nonzero(form, ends, slots.THRUST_Z)
    )
    return form[slots.GRAVITY] != slots.CONSTANT or thrusts


@inlined
def relaxation(k, dt):
    """Return e0, e1, e2 of drag k over dt; where k·dt is tiny by their Taylor series, whose differences
    lose nothing.
    """
    z = k * dt
    if z < 1e-3:
        e1 = dt * (1.0 - z * (0.5 - z * (1.0 / 6.0 - z / 24.0)))
        e2 = dt * dt * (0.5 - z * (1.0 / 6.0 - z * (1.0 / 24.0 - z / 120.0)))
        return 1.0 - k * e1, e1, e2
    e1 = -np.expm1(-z) / k
    return np.exp(-z), e1, (dt - e1) / k


@inlined
def relaxations(k, dt, e0, e1, e2, n):
    """Fill e0, e1, e2 for n drags and steps, all float32; to a few units in the last place.

    Up to z = k·dt = 1/2 by the Taylor series of (1 - (1 - exp(-z))/z)/z; beyond it z is halved seven times
    and the share lost, 1 - exp(-z), doubled back (scaling and squaring; C. Moler, C. Van Loan, SIAM Review
    45, 2003).
    """
    one, half, two = np.float32(1.0), np.float32(0.5), np.float32(2.0)
    c3, c4, c5, c6 = np.float32(1 / 6), np.float32(1 / 24), np.float32(1 / 120), np.float32(1 / 720)
    c7, c8, c9, c10 = (
        np.float32(1 / 5040),
        np.float32(1 / 40320),
        np.float32(1 / 362880),
        np.float32(1 / 3628800),
    )
    for i in range(n):
        z = k[i] * dt[i]
        far = z > half
        y = min(z, np.float32(60.0)) * (np.float32(1.0 / 128.0) if far else one)
        s2 = half - y * (c3 - y * (c4 - y * (c5 - y * (c6 - y * (c7 - y * (c8 - y * (c9 - y * c10)))))))
        s1 = one - y * s2
        # The share lost over the stretch; over twice the stretch it is lost(2 - lost).
        lost = y * s1
        more = lost * (two - lost)
        more *= two - more
        more *= two - more
        more *= two - more
        more *= two - more
        more *= two - more
        more *= two - more
        lost = more if far else lost
        safe = z if far else one
        a0 = one - lost
        a1 = lost / safe if far else s1
        a2 = (one - a1) / safe if far else s2
        e0[i] = a0
        e1[i] = a1 * dt[i]
        e2[i] = a2 * dt[i] * dt[i]


@kernel(NOTHING, F2, AROUND, TABLES, I1, F2, U1, INT, INT, CALLS, everyday=True, cost=0.4)
def drag_and_wind(scr, around, tables, form, ends, serial, start, n, calls):
    """Fill the relaxation rows and add the wind's push, k·w."""
    value, stretch = scr[scratch.VALUE], around.stretch[0]
    call_values(
        calls.values,
        scr,
        scratch.VALUE,
        axis_of(form, slots.DRAG),
        tables,
        form,
        ends,
        slots.DRAG,
        serial,
        start,
        n,
        stretch,
    )
    relaxations(value, scr[scratch.SPAN], scr[scratch.E0], scr[scratch.E1], scr[scratch.E2], n)
    if is_nonzero(form, ends, slots.WIND):
        ax, ay, az, taken = scr[scratch.AX], scr[scratch.AY], scr[scratch.AZ], scr[scratch.T0]
        call_values(
            calls.values,
            scr,
            scratch.T0,
            axis_of(form, slots.WIND),
            tables,
            form,
            ends,
            slots.WIND,
            serial,
            start,
            n,
            stretch,
        )
        bx, by, bz = around.breeze[0], around.breeze[1], around.breeze[2]
        for i in range(n):
            share = taken[i] * value[i]
            ax[i] += share * bx
            ay[i] += share * by
            az[i] += share * bz


@inlined
def _sideways(around, serial, j):
    """Return a direction across the layer's axis that belongs to one particle."""
    ux, uy, uz = around.axis[0], around.axis[1], around.axis[2]
    turn = np.float32(2.0 * np.pi) * random_of(np.uint32(around.sides), serial[j])
    across = around.rotation
    cos, sin = np.cos(turn), np.sin(turn)
    # The layer's own X and Z lie across its axis.
    x = across[0, 0] * cos + across[0, 2] * sin
    y = across[1, 0] * cos + across[1, 2] * sin
    z = across[2, 0] * cos + across[2, 2] * sin
    return uy * z - uz * y, uz * x - ux * z, ux * y - uy * x


@force("pull", "swirl")
def about_centre(scr, around, tables, form, ends, serial, start, n, calls):
    """Add the pull to the layer's centre and the push round its axis, at the places in the middle of the
    step.
    """
    ax, ay, az, value = scr[scratch.AX], scr[scratch.AY], scr[scratch.AZ], scr[scratch.VALUE]
    mx, my, mz = scr[scratch.MX], scr[scratch.MY], scr[scratch.MZ]
    cx, cy, cz = around.centre[0], around.centre[1], around.centre[2]
    tiny, stretch = np.float32(1e-6), around.stretch[0]
    if is_nonzero(form, ends, slots.PULL):
        call_values(
            calls.values,
            scr,
            scratch.VALUE,
            axis_of(form, slots.PULL),
            tables,
            form,
            ends,
            slots.PULL,
            serial,
            start,
            n,
            stretch,
        )
        for i in range(n):
            x, y, z = mx[i] - cx, my[i] - cy, mz[i] - cz
            share = value[i] / max(np.sqrt(x * x + y * y + z * z), tiny)
            ax[i] -= x * share
            ay[i] -= y * share
            az[i] -= z * share
    if is_nonzero(form, ends, slots.SWIRL):
        call_values(
            calls.values,
            scr,
            scratch.VALUE,
            axis_of(form, slots.SWIRL),
            tables,
            form,
            ends,
            slots.SWIRL,
            serial,
            start,
            n,
            stretch,
        )
        ux, uy, uz = around.axis[0], around.axis[1], around.axis[2]
        far = scr[scratch.T0]
        on_axis = False
        for i in range(n):
            x, y, z = mx[i] - cx, my[i] - cy, mz[i] - cz
            tx, ty, tz = uy * z - uz * y, uz * x - ux * z, ux * y - uy * x
            r = np.sqrt(tx * tx + ty * ty + tz * tz)
            far[i] = r
            share = value[i] / max(r, tiny)
            ax[i] += tx * share
            ay[i] += ty * share
            az[i] += tz * share
        for i in range(n):
            on_axis |= far[i] < tiny
        if on_axis:
            for i in range(n):
                if far[i] < tiny:
                    tx, ty, tz = _sideways(around, serial, start + i)
                    ax[i] += tx * value[i]
                    ay[i] += ty * value[i]
                    az[i] += tz * value[i]


call_drag, call_force = drag_and_wind.call, about_centre.call

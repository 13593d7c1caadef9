"""The push of eddies: :mod:`.turbulence` says where they push, the field how strongly."""

from __future__ import annotations

from ..kernels.compiling import helper
from ..layout import scratch, slots
from ..values.sampling import call_values, is_nonzero
from .force import force
from .forces import axis_of
from .turbulence import call_stir


@helper
def _add_push(scr, value, n):
    for axis in range(3):
        a, push = scr[scratch.AX + axis], scr[scratch.T0 + axis]
        for i in range(n):
            a[i] += push[i] * value[i]


@force("turbulence")
def stir_up(scr, around, tables, form, ends, serial, start, n, calls):
    """Add the push of eddies, at the places in the middle of the step."""
    if not is_nonzero(form, ends, slots.TURBULENCE):
        return
    call_stir(
        calls.stir,
        scr[scratch.T0],
        scr[scratch.T1],
        scr[scratch.T2],
        scr[scratch.MX],
        scr[scratch.MY],
        scr[scratch.MZ],
        n,
        around,
    )
    axis, value, stretch = axis_of(form, slots.TURBULENCE), scratch.VALUE, around.stretch[0]
    call_values(
        calls.values, scr, value, axis, tables, form, ends, slots.TURBULENCE, serial, start, n, stretch
    )
    _add_push(scr, scr[scratch.VALUE], n)

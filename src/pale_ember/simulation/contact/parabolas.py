"""Parabolas: where a particle is on one, and when it comes to a plane.

A way goes from ``a`` to ``a + way`` as u goes from 0 to 1, and leaves the straight line between them by its
bow: ``a + way u + bow (u² - u)``.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper

# A way that doesn't meet anything is said to meet it at NEVER.
NEVER = 2.0
# How little a way may go into what it touches, as a share of its length, and still go along it.
ALONG = 1e-7


@lean_helper
def fall(high, slope, curve):
    """Return the first h > 0 at which high + slope h + curve h² comes down to 0, from ``high`` ≥ 0; NEVER
    or more if it doesn't.
    """
    root = slope * slope - 4.0 * curve * high
    if slope < 0.0:
        # Without taking near numbers from each other (W. Kahan).
        return 2.0 * high / (np.sqrt(root) - slope) if root >= 0.0 else NEVER
    if curve >= 0.0:
        return NEVER
    return -0.5 * (slope + np.sqrt(root)) / curve


@lean_helper
def presses(high, slope, curve, slop, along):
    """Return whether what is so high over a surface touches it and goes, or is pushed, into it.

    Parameters
    ----------
    high : float
        How far it is from touching; nearer than ``slop`` it touches.
    slope, curve : float
        How the height begins to change along the way, and by how much it bends.
    along : float
        What changes by less goes along the surface.
    """
    if high > slop:
        return False
    return slope < -along or (slope <= along and curve < -along) or (high < -0.25 * slop and slope < 0.0)


@lean_helper
def meet_floor(high, slope, curve, slop, along):
    """Return the share of a way at which it comes down to the floor from a height; 0 where it touches and
    presses.
    """
    if presses(high, slope, curve, slop, along):
        return 0.0
    if high <= slop and slope <= along:
        return NEVER
    u = fall(max(high, 0.0), slope, curve)
    return u if u <= 1.0 else NEVER

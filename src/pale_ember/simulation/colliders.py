"""How far a point is from a box, ball or cylinder, and where a straight way first meets one that is rounded by a radius.

Each distance is a convex function of the place, so along a straight way it is one too. Newton's steps from the way's
beginning therefore come to the first meeting from its near side and never pass it, however thin the body is.
"""

from __future__ import annotations

import numpy as np

from ..effect.kinds import PropKind
from .kernels import lean_helper

BOX, BALL, CYLINDER, MESH = (tuple(PropKind).index(kind) for kind in (PropKind.BOX, PropKind.BALL, PropKind.CYLINDER, PropKind.MESH))
# What counts as touching, m; a way that doesn't meet anything is said to meet it at NEVER.
TOUCH, NEVER = 1e-6, 2.0
_STEPS = 48


@lean_helper
def _sign(x):
    return 1.0 if x >= 0.0 else -1.0


@lean_helper
def body_distance(kind, hx, hy, hz, x, y, z):
    """Return how far a point is from a body's skin, below 0 inside, and the gradient of that: (d, gx, gy, gz).

    Exact for boxes, balls and round cylinders; for flattened ones it is less than the distance, with the same skin.

    Parameters
    ----------
    hx, hy, hz : float
        Half of the body's width, height and depth, m.
    x, y, z : float
        The point, from the body's middle.
    """
    if kind == BALL:
        if hx == hy and hy == hz:
            far = np.sqrt(x * x + y * y + z * z)
            if far < 1e-12:
                return -hx, 0.0, 1.0, 0.0
            return far - hx, x / far, y / far, z / far
        ux, uy, uz = x / hx, y / hy, z / hz
        k, least = np.sqrt(ux * ux + uy * uy + uz * uz), min(hx, hy, hz)
        if k < 1e-9:
            return -least, 0.0, least / hy, 0.0
        return (k - 1.0) * least, ux / hx / k * least, uy / hy / k * least, uz / hz / k * least
    if kind == CYLINDER:
        if hx == hz:
            far = np.sqrt(x * x + z * z)
            q = far - hx
            gx, gz = (x / far, z / far) if far > 1e-12 else (1.0, 0.0)
        else:
            ux, uz = x / hx, z / hz
            far, least = np.sqrt(ux * ux + uz * uz), min(hx, hz)
            q = (far - 1.0) * least
            gx, gz = (ux / hx / far * least, uz / hz / far * least) if far > 1e-9 else (least / hx, 0.0)
        t = abs(y) - hy
        if q <= 0.0 and t <= 0.0:
            if q > t:
                return q, gx, 0.0, gz
            return t, 0.0, _sign(y), 0.0
        a, b = max(q, 0.0), max(t, 0.0)
        d = np.sqrt(a * a + b * b)
        return d, gx * a / d, _sign(y) * b / d, gz * a / d
    qx, qy, qz = abs(x) - hx, abs(y) - hy, abs(z) - hz
    if qx <= 0.0 and qy <= 0.0 and qz <= 0.0:
        if qx >= qy and qx >= qz:
            return qx, _sign(x), 0.0, 0.0
        if qy >= qz:
            return qy, 0.0, _sign(y), 0.0
        return qz, 0.0, 0.0, _sign(z)
    a, b, c = max(qx, 0.0), max(qy, 0.0), max(qz, 0.0)
    d = np.sqrt(a * a + b * b + c * c)
    return d, _sign(x) * a / d, _sign(y) * b / d, _sign(z) * c / d


@lean_helper
def rounded(kind, hx, hy, hz, r):
    """Return the body and the radius that stand for one which is rounded by a radius: flattened ones are made larger."""
    if kind == BALL and not (hx == hy and hy == hz):
        return hx + r, hy + r, hz + r, 0.0
    if kind == CYLINDER and hx != hz:
        return hx + r, hy + r, hz + r, 0.0
    return hx, hy, hz, r


@lean_helper
def unit(x, y, z):
    """Return a vector at length 1; upwards where it has none."""
    far = np.sqrt(x * x + y * y + z * z)
    if far < 1e-12:
        return 0.0, 1.0, 0.0
    return x / far, y / far, z / far


@lean_helper
def meet_body(kind, hx, hy, hz, r, slop, a, b):
    """Return where the way from a to b first meets a body that is rounded by a radius, and the outward direction there.

    Parameters
    ----------
    a, b : float64 arrays (3,)
        From the body's middle, in its axes.

    Returns
    -------
    (s, x, y, z)
        A share of the way, 0 where it begins in touch and goes in, below 0 where it begins inside, NEVER if it
        doesn't meet.
    """
    hx, hy, hz, r = rounded(kind, hx, hy, hz, r)
    s, dx, dy, dz = 0.0, b[0] - a[0], b[1] - a[1], b[2] - a[2]
    for k in range(_STEPS):
        d, gx, gy, gz = body_distance(kind, hx, hy, hz, a[0] + dx * s, a[1] + dy * s, a[2] + dz * s)
        f = d - r
        slope = gx * dx + gy * dy + gz * dz
        if k == 0 and f < -slop:
            gx, gy, gz = unit(gx, gy, gz)
            return -1.0, gx, gy, gz
        if slope >= 0.0:
            return NEVER, 0.0, 1.0, 0.0
        if f <= TOUCH * 0.5 or (k == 0 and f <= slop):
            gx, gy, gz = unit(gx, gy, gz)
            return s, gx, gy, gz
        s -= f / slope
        if s > 1.0:
            return NEVER, 0.0, 1.0, 0.0
    return NEVER, 0.0, 1.0, 0.0


@lean_helper
def put_out_of_body(kind, hx, hy, hz, r, at):
    """Move a point inside a rounded body to the nearest place on its skin."""
    hx, hy, hz, r = rounded(kind, hx, hy, hz, r)
    for _ in range(16):
        d, gx, gy, gz = body_distance(kind, hx, hy, hz, at[0], at[1], at[2])
        f = d - r
        if f >= -1e-12:
            return
        share = -f / (gx * gx + gy * gy + gz * gz)
        at[0] += gx * share
        at[1] += gy * share
        at[2] += gz * share

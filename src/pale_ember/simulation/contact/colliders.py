"""Distances from boxes, balls and cylinders, and where a displacement first meets one that is rounded by a
radius.

Each distance is a convex function of the place, so nowhere less than its tangent says. Where a bowed way
falls through the plane that the tangent stands for, it is therefore not behind the skin yet. Steps from plane
to plane come to the first meeting from its near side and never pass it, however thin the body is and wherever
the way bends.
"""

from __future__ import annotations

import numpy as np

from ...effect.kinds import PropKind, code_of
from ..kernels.compiling import lean_helper
from .parabolas import ALONG, NEVER, fall, presses

BOX, BALL, CYLINDER, MESH = (
    code_of(kind) for kind in (PropKind.BOX, PropKind.BALL, PropKind.CYLINDER, PropKind.MESH)
)
# The distance that counts as touching, m.
TOUCH = 1e-6
_STEPS = 64


@lean_helper
def slop_at(far):
    """Return what counts as touching so far from the origin, m: places are 32-bit floats."""
    return TOUCH + 4e-7 * far


@lean_helper
def _sign(x):
    return 1.0 if x >= 0.0 else -1.0


@lean_helper
def body_distance(kind, hx, hy, hz, x, y, z):
    """Return how far a point is from a body's skin, below 0 inside, and the gradient of that: (d, gx, gy,
    gz).

    Exact for boxes, balls and round cylinders; for flattened ones it is less than the distance, with the same
    skin.

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
    """Return the body and the radius that stand for one which is rounded by a radius: flattened ones are
    made larger.
    """
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
def length(a):
    """Return the length of a vector."""
    return np.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2])


@lean_helper
def back_to_skin(u, deep, slope):
    """Return the share of a way at which it was at a skin, from one at which it is a little below 0 deep
    in it.
    """
    return max(u - deep / slope, 0.0) if slope < 0.0 else u


@lean_helper
def meet_body(kind, hx, hy, hz, r, slop, a, displacement, sagitta):
    """Return where a way first meets a body that is rounded by a radius, and the outward direction there.

    Parameters
    ----------
    slop : float
        What is nearer to the skin than this touches it. A way meets a body where it comes deeper than half of
        this, so that one along the skin doesn't; the share of the way is that at the skin.
    a, displacement, sagitta : float64 arrays (3,)
        The way (see :mod:`.parabolas`), from the body's middle, in its axes.

    Returns
    -------
    (u, x, y, z)
        A share of the way, 0 where it begins in touch and presses in, below 0 where it begins inside, NEVER
        if it doesn't meet.
    """
    hx, hy, hz, r = rounded(kind, hx, hy, hz, r)
    along = ALONG * (length(displacement) + length(sagitta)) + 0.25 * slop
    u = 0.0
    for k in range(_STEPS):
        bent, lead = u * u - u, 2.0 * u - 1.0
        d, gx, gy, gz = body_distance(
            kind,
            hx,
            hy,
            hz,
            a[0] + displacement[0] * u + sagitta[0] * bent,
            a[1] + displacement[1] * u + sagitta[1] * bent,
            a[2] + displacement[2] * u + sagitta[2] * bent,
        )
        f = d - r
        curve = gx * sagitta[0] + gy * sagitta[1] + gz * sagitta[2]
        slope = gx * displacement[0] + gy * displacement[1] + gz * displacement[2] + curve * lead
        if k == 0:
            if f < -slop or presses(f, slope, curve, slop, along):
                gx, gy, gz = unit(gx, gy, gz)
                return -1.0 if f < -slop else 0.0, gx, gy, gz
        elif f <= -0.25 * slop:
            gx, gy, gz = unit(gx, gy, gz)
            return back_to_skin(u, f, slope), gx, gy, gz
        u += fall(max(f + 0.5 * slop, 0.0), slope, curve)
        if u > 1.0:
            return NEVER, 0.0, 1.0, 0.0
    # So many steps come to nothing but the skin.
    gx, gy, gz = unit(gx, gy, gz)
    return u, gx, gy, gz


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

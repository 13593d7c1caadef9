"""Eddies: the curl of a moving noise potential, which stirs without gathering or thinning.

The field is the cross product of the gradients of two noises, which is the curl of one times the
gradient of the other and so has no divergence (DeWolf, "Divergence-free noise", 2005). The noises are
lattice gradient noise with a quintic fade (Perlin, "Improving noise", SIGGRAPH 2002). They slide
against each other with time, so that eddies form and pass instead of only travelling.
"""

from __future__ import annotations

import numpy as np
from numba import uint32

from ..kernels.compiling import inlined, kernel
from ..layout.signatures import AROUND, F1, INT, NOTHING
from ..values.dice import mix

# Makes the field's root mean square 1: gradients are counted in 512ths, and one octave of them has 0.6075 of
# that.
CONSTANT = np.float32(1.0 / (512.0**2 * 0.6075))
# Which way the first noise slides; the second goes another.
SLIDE = (0.61, -0.37, 0.53)
OTHER_SLIDE = (-0.53, -0.61, -0.37)
# How far the second is from the first at time 0: on one lattice the two would be strongest at the same
# places.
APART = (17.37, 5.61, 31.23)
# Each octave slides faster than the one before.
QUICKER = 1.7


# What a step along each axis adds to a lattice point's number.
_ALONG = (0x8DA6B343, 0xD8163841, 0xCB1AB31F)


@inlined
def _corner(h):
    """Return the gradient at the lattice point of a number: three whole parts in [-512, 512)."""
    # One round is enough: neighbours' numbers already differ in all bits.
    # Numba widens what isn't narrowed again at once, and wide products are slow.
    h = uint32(h ^ uint32(h >> uint32(15)))
    h = uint32(h * uint32(0x846CA68B))
    h = uint32(h ^ uint32(h >> uint32(16)))
    gx = np.float32(np.int32(np.int32(h) >> np.int32(22)))
    gy = np.float32(np.int32(np.int32(uint32(h << uint32(10))) >> np.int32(22)))
    gz = np.float32(np.int32(np.int32(uint32(h << uint32(20))) >> np.int32(22)))
    return gx, gy, gz


@inlined
def _lerp(a, b, t):
    return a + (b - a) * t


@inlined
def noise_gradient(x, y, z, ox, oy, oz, salt):
    """Return the gradient of lattice noise at a point, in 512ths (float32 parts); the lattice is ``ox`` …
    points on.
    """
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    ix, iy, iz = np.int32(np.int32(fx) + ox), np.int32(np.int32(fy) + oy), np.int32(np.int32(fz) + oz)
    x, y, z = x - fx, y - fy, z - fz
    one = np.float32(1.0)
    c6, c15, c10, c30, c2 = np.float32(6), np.float32(15), np.float32(10), np.float32(30), np.float32(2)
    u = x * x * x * (x * (x * c6 - c15) + c10)
    v = y * y * y * (y * (y * c6 - c15) + c10)
    w = z * z * z * (z * (z * c6 - c15) + c10)
    du = c30 * x * x * (x * (x - c2) + one)
    dv = c30 * y * y * (y * (y - c2) + one)
    dw = c30 * z * z * (z * (z - c2) + one)
    ux, uy, uz = uint32(_ALONG[0]), uint32(_ALONG[1]), uint32(_ALONG[2])
    h = uint32(uint32(uint32(ix) * ux) + uint32(uint32(iy) * uy))
    h = uint32(h + uint32(uint32(uint32(iz) * uz) + uint32(salt)))
    a0, a1, a2 = _corner(h)
    b0, b1, b2 = _corner(uint32(h + ux))
    c0, c1, c2_ = _corner(uint32(h + uy))
    d0, d1, d2 = _corner(uint32(h + uint32(ux + uy)))
    h = uint32(h + uz)
    e0, e1, e2 = _corner(h)
    f0, f1, f2 = _corner(uint32(h + ux))
    g0, g1, g2 = _corner(uint32(h + uy))
    h0, h1, h2 = _corner(uint32(h + uint32(ux + uy)))
    x1, y1, z1 = x - one, y - one, z - one
    na = a0 * x + a1 * y + a2 * z
    nb = b0 * x1 + b1 * y + b2 * z
    nc = c0 * x + c1 * y1 + c2_ * z
    nd = d0 * x1 + d1 * y1 + d2 * z
    ne = e0 * x + e1 * y + e2 * z1
    nf = f0 * x1 + f1 * y + f2 * z1
    ng = g0 * x + g1 * y1 + g2 * z1
    nh = h0 * x1 + h1 * y1 + h2 * z1
    # The gradient of the blend is the blend of the gradients and the fade's own slope.
    gx = _lerp(_lerp(_lerp(a0, b0, u), _lerp(c0, d0, u), v), _lerp(_lerp(e0, f0, u), _lerp(g0, h0, u), v), w)
    gy = _lerp(_lerp(_lerp(a1, b1, u), _lerp(c1, d1, u), v), _lerp(_lerp(e1, f1, u), _lerp(g1, h1, u), v), w)
    gz = _lerp(_lerp(_lerp(a2, b2, u), _lerp(c2_, d2, u), v), _lerp(_lerp(e2, f2, u), _lerp(g2, h2, u), v), w)
    gx += du * _lerp(_lerp(nb - na, nd - nc, v), _lerp(nf - ne, nh - ng, v), w)
    low, high = _lerp(na, nb, u), _lerp(nc, nd, u)
    low_z, high_z = _lerp(ne, nf, u), _lerp(ng, nh, u)
    gy += dv * _lerp(high - low, high_z - low_z, w)
    gz += dw * (_lerp(low_z, high_z, v) - _lerp(low, high, v))
    return gx, gy, gz


@inlined
def _parted(slid):
    """Return a way as whole lattice points and what is left of them, so that a long one loses nothing."""
    whole = np.floor(slid)
    return np.int32(np.int64(whole)), np.float32(slid - whole)


@kernel(NOTHING, F1, F1, F1, F1, F1, F1, INT, AROUND, entry=True, everyday=True, cost=1.5)
def stir(out_x, out_y, out_z, x, y, z, n, around):
    """Fill ``out[:n]`` with the field at n positions, m; its root mean square is 1 whatever its octaves.

    Each further octave is half as wide and half as strong, and slides faster.
    """
    zero = np.float32(0.0)
    for i in range(n):
        out_x[i] = zero
        out_y[i] = zero
        out_z[i] = zero
    scale = np.float32(1.0 / (around.eddy * around.stretch[0]))
    strength, whole, quick = 1.0, 0.0, 1.0
    for _ in range(around.octaves):
        whole += strength * strength
        strength *= 0.5
    fill_row = np.float32(CONSTANT / np.sqrt(whole))
    gradients = np.empty((6, n), np.float32)
    for octave in range(around.octaves):
        salt = uint32(around.salt + 2 * octave)
        for which in range(2):
            ox, fx = _parted(around.slid[which, 0] * quick)
            oy, fy = _parted(around.slid[which, 1] * quick)
            oz, fz = _parted(around.slid[which, 2] * quick)
            gx, gy, gz = gradients[3 * which], gradients[3 * which + 1], gradients[3 * which + 2]
            for i in range(n):
                gx[i], gy[i], gz[i] = noise_gradient(
                    x[i] * scale + fx, y[i] * scale + fy, z[i] * scale + fz, ox, oy, oz, salt
                )
            salt = mix(salt)
        ax, ay, az, bx, by, bz = (
            gradients[0],
            gradients[1],
            gradients[2],
            gradients[3],
            gradients[4],
            gradients[5],
        )
        for i in range(n):
            out_x[i] += (ay[i] * bz[i] - az[i] * by[i]) * fill_row
            out_y[i] += (az[i] * bx[i] - ax[i] * bz[i]) * fill_row
            out_z[i] += (ax[i] * by[i] - ay[i] * bx[i]) * fill_row
        fill_row *= np.float32(0.5)
        scale *= np.float32(2.0)
        quick *= QUICKER


call_stir = stir.call

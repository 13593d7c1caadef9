"""Eddies: the curl of a moving noise potential, which stirs without gathering or thinning.

The field is the cross product of the gradients of two noises, which is the curl of one times the
gradient of the other and so has no divergence (DeWolf, "Divergence-free noise", 2005). The noises are
lattice gradient noise with a quintic fade (Perlin, "Improving noise", SIGGRAPH 2002). They slide
against each other with time, so that eddies form and pass instead of only travelling.
"""

from __future__ import annotations

import numpy as np
from numba import njit, uint32

from .dice import mix
from .sampling import options

# Makes the field's root mean square about 1 for one octave: gradients are counted in 512ths.
LEVEL = np.float32(1.0 / 512.0**2)
SLIDE = (np.float32(0.61), np.float32(0.37), np.float32(0.53))


# What a step along each axis adds to a lattice point's number.
_ALONG = (0x8DA6B343, 0xD8163841, 0xCB1AB31F)


@njit(inline="always", **options)
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


@njit(inline="always", **options)
def _lerp(a, b, t):
    return a + (b - a) * t


@njit(inline="always", **options)
def noise_gradient(x, y, z, salt):
    """Return the gradient of lattice noise at a point, in 512ths (float32 parts)."""
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    ix, iy, iz = np.int32(fx), np.int32(fy), np.int32(fz)
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


@njit(**options)
def eddies(out_x, out_y, out_z, x, y, z, n, inverse, slide, octaves, salt):
    """Fill ``out[:n]`` with the field at n positions.

    Parameters
    ----------
    inverse : float32
        One over the width of the largest eddies, 1/m.
    slide : float32
        How far the noises have slid, in eddies: churn times time.
    octaves : int
        Each further one is half as wide and half as strong.
    """
    s0, s1, s2 = SLIDE
    for i in range(n):
        out_x[i] = np.float32(0.0)
        out_y[i] = np.float32(0.0)
        out_z[i] = np.float32(0.0)
    strength = LEVEL
    scale = inverse
    moved = slide
    for octave in range(octaves):
        salt_a = uint32(salt + uint32(2 * octave))
        salt_b = mix(salt_a)
        for i in range(n):
            qx, qy, qz = x[i] * scale, y[i] * scale, z[i] * scale
            ax, ay, az = noise_gradient(qx + moved * s0, qy - moved * s1, qz + moved * s2, salt_a)
            bx, by, bz = noise_gradient(qx - moved * s2, qy - moved * s0, qz - moved * s1, salt_b)
            out_x[i] += (ay * bz - az * by) * strength
            out_y[i] += (az * bx - ax * bz) * strength
            out_z[i] += (ax * by - ay * bx) * strength
        strength *= np.float32(0.5)
        scale *= np.float32(2.0)
        moved *= np.float32(1.7)

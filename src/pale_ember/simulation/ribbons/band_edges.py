"""The edges of a band, to both sides of its line. Where the line turns tightly they come closer, so that
none folds back.
"""

from __future__ import annotations

import math

import numpy as np

from ..kernels.compiling import kernel, lean_helper
from ..layout.signatures import BOOL, F1, F2, FLOAT, INT, NOTHING, REAL
from .band_memory import (
    ALONG,
    AX,
    AXIS,
    AY,
    AZ,
    BX,
    BY,
    BZ,
    CORNER,
    COVER,
    DX,
    DY,
    DZ,
    ENDS,
    FLAT,
    HALF,
    HEAD,
    LAYING,
    LEFT,
    LIGHT,
    LONG,
    MORE,
    RIGHT,
    SIGN,
    SPOT,
    STEP,
    SX,
    SY,
    SZ,
    TAIL,
    UX,
    A,
    B,
    G,
    R,
    X,
    Y,
    Z,
)


@lean_helper
def _between(work, at, long, k):
    """Return one part of the place at a length of a way that lies between one of its places and the next."""
    a, b = np.float64(work[LONG, at]), np.float64(work[LONG, at + 1])
    f = min(max((long - a) / max(b - a, 1e-30), 0.0), 1.0)
    return np.float64(work[X + k, at]) + (np.float64(work[X + k, at + 1]) - np.float64(work[X + k, at])) * f


@lean_helper
def is_narrow(work, m):
    """Return whether each piece of a way is longer than half of its width."""
    step, half, wide = work[STEP], work[HALF], 0
    for k in range(m - 1):
        wide += 1 if step[k] < half[k] or step[k] < half[k + 1] else 0
    return wide == 0


@lean_helper
def come_and_go(work, m):
    """Fill which way a way comes to each of its places, and goes on."""
    for k in range(3):
        d, come, go = work[DX + k], work[AX + k], work[BX + k]
        for i in range(m - 1):
            go[i] = d[i]
        for i in range(m - 1):
            come[i + 1] = d[i]
        come[0], go[m - 1] = d[0], d[m - 2]


@kernel(NOTHING, F2, INT, REAL, lean=True)
def look_along(work, m, total):
    """Fill which way a way comes to each of its places and goes on, looked at over half of its width.

    A band can't turn within less than its own width: so small turns of a wide band move it as a whole instead
    of fanning it out.
    """
    step, half, long = work[STEP], work[HALF], work[LONG]
    low, high = 0, 0
    for k in range(m):
        reach = half[k]
        if k > 0 and step[k - 1] < reach:
            edge = np.float64(long[k]) - np.float64(reach)
            low = min(low, k - 1)
            while low > 0 and long[low] > edge:
                low -= 1
            while low < k - 1 and long[low + 1] <= edge:
                low += 1
            for i in range(3):
                work[AX + i, k] = np.float64(work[X + i, k]) - _between(work, low, max(edge, 0.0), i)
        if k < m - 1 and step[k] < reach:
            edge = np.float64(long[k]) + np.float64(reach)
            high = max(high, k)
            while high > k and long[high] > edge:
                high -= 1
            while high < m - 2 and long[high + 1] < edge:
                high += 1
            for i in range(3):
                work[BX + i, k] = _between(work, high, min(edge, total), i) - np.float64(work[X + i, k])
    for k in range(3):
        work[AX + k, 0] = work[BX + k, 0]
        work[BX + k, m - 1] = work[AX + k, m - 1]


@kernel(BOOL, LAYING, F2, INT, lean=True, cost=1.8)
def sides(lay, work, m):
    """Fill which way the width goes at each place of a way, to the right of it as seen; return whether all
    could be told.

    Where a way comes back as seen, its width changes sides: there ``SIGN`` is -1, and what it has is the side
    before.
    """
    x, y, z, half, step = work[X], work[Y], work[Z], work[HALF], work[STEP]
    ax, ay, az, bx, by, bz = work[AX], work[AY], work[AZ], work[BX], work[BY], work[BZ]
    sx, sy, sz, sign, corner = work[SX], work[SY], work[SZ], work[SIGN], work[CORNER]
    seen = np.float32(0.0 if lay.across == FLAT else 1.0)
    one, zero = np.float32(1.0), np.float32(0.0)
    ex, ey, ez = np.float32(lay.eye[0]), np.float32(lay.eye[1]), np.float32(lay.eye[2])
    unclear, least = 0, np.float32(1e-9)
    for k in range(m):
        vx, vy, vz = (ex - x[k]) * seen, (ey - y[k]) * seen + (one - seen), (ez - z[k]) * seen
        px, py, pz = ay[k] * vz - az[k] * vy, az[k] * vx - ax[k] * vz, ax[k] * vy - ay[k] * vx
        nx, ny, nz = by[k] * vz - bz[k] * vy, bz[k] * vx - bx[k] * vz, bx[k] * vy - by[k] * vx
        pp, nn, vv = px * px + py * py + pz * pz, nx * nx + ny * ny + nz * nz, vx * vx + vy * vy + vz * vz
        aa, bb = ax[k] * ax[k] + ay[k] * ay[k] + az[k] * az[k], bx[k] * bx[k] + by[k] * by[k] + bz[k] * bz[k]
        unclear += 1 if pp <= least * aa * vv or nn <= least * bb * vv else 0
        p, n = one / np.sqrt(max(pp, np.float32(1e-30))), one / np.sqrt(max(nn, np.float32(1e-30)))
        same = px * nx + py * ny + pz * nz >= zero
        n = n if same else -n
        ux, uy, uz = px * p + nx * n, py * p + ny * n, pz * p + nz * n
        far = np.sqrt(ux * ux + uy * uy + uz * uz)
        inverse = one / max(far, np.float32(1e-6))
        sx[k], sy[k], sz[k] = ux * inverse, uy * inverse, uz * inverse
        sign[k] = one if same else -one
        corner[k] = np.float32(2.0) / max(far, one)
    # Edges of straight pieces meet in the middle of the angle, and so farther out.
    for k in range(m):
        shortest = min(step[max(k - 1, 0)], step[min(k, m - 2)])
        sharp = min(max(shortest / max(half[k], np.float32(1e-30)) - one, zero), one)
        corner[k] = one + (corner[k] - one) * sharp
    return unclear == 0


@lean_helper
def _right_of(x, y, z, vx, vy, vz, lx, ly, lz):
    """Return the unit vector to the right of a direction as seen from v; the last one, where it is seen
    from its end.
    """
    rx, ry, rz = y * vz - z * vy, z * vx - x * vz, x * vy - y * vx
    far = math.sqrt(rx * rx + ry * ry + rz * rz)
    long = math.sqrt(x * x + y * y + z * z) * math.sqrt(vx * vx + vy * vy + vz * vz)
    if far < 1e-4 * long or far < 1e-30:
        # As near to the last one as is square to the direction.
        k = (lx * x + ly * y + lz * z) / max(x * x + y * y + z * z, 1e-30)
        rx, ry, rz = lx - k * x, ly - k * y, lz - k * z
        far = math.sqrt(rx * rx + ry * ry + rz * rz)
        if far < 1e-6:
            return lx, ly, lz
    return rx / far, ry / far, rz / far


@kernel(NOTHING, LAYING, F2, INT, lean=True)
def sides_kept(lay, work, m):
    """The same, one place after the other: where a way is seen from its end, its width goes on as it went
    before.
    """
    lx, ly, lz = 1.0, 0.0, 0.0
    for k in range(m):
        vx, vy, vz = 0.0, 1.0, 0.0
        if lay.across != FLAT:
            vx, vy, vz = (
                lay.eye[0] - np.float64(work[X, k]),
                lay.eye[1] - np.float64(work[Y, k]),
                lay.eye[2] - np.float64(work[Z, k]),
            )
        px, py, pz = _right_of(
            np.float64(work[AX, k]), np.float64(work[AY, k]), np.float64(work[AZ, k]), vx, vy, vz, lx, ly, lz
        )
        nx, ny, nz = _right_of(
            np.float64(work[BX, k]), np.float64(work[BY, k]), np.float64(work[BZ, k]), vx, vy, vz, px, py, pz
        )
        sign = 1.0 if px * nx + py * ny + pz * nz >= 0.0 else -1.0
        sx, sy, sz = px + sign * nx, py + sign * ny, pz + sign * nz
        far = math.sqrt(sx * sx + sy * sy + sz * sz)
        work[SX, k], work[SY, k], work[SZ, k], work[SIGN, k] = sx / far, sy / far, sz / far, sign
        lx, ly, lz = sign * sx / far, sign * sy / far, sign * sz / far


@kernel(NOTHING, F2, INT, lean=True)
def room(work, m):
    """Fill how far the two edges are from each place: half of the width, but no farther than they never go
    back where the way turns.
    """
    sx, sy, sz, sign, corner = work[SX], work[SY], work[SZ], work[SIGN], work[CORNER]
    dx, dy, dz, step, half, left, right = (
        work[DX],
        work[DY],
        work[DZ],
        work[STEP],
        work[HALF],
        work[LEFT],
        work[RIGHT],
    )
    zero, far = np.float32(0.0), np.float32(1e30)
    turns = work[TAIL]
    for k in range(m):
        left[k] = right[k] = half[k] * corner[k]
    for k in range(m - 1):
        turn = (
            (sx[k + 1] - sign[k] * sx[k]) * dx[k]
            + (sy[k + 1] - sign[k] * sy[k]) * dy[k]
            + (sz[k + 1] - sign[k] * sz[k]) * dz[k]
        )
        # Above zero for the left edge, below for the right one.
        room = np.float32(0.98) * step[k] / max(abs(turn), np.float32(1e-12))
        turns[k] = room if turn > zero else -room
    for k in range(m - 1):
        # Of a place where it changes sides, the edges are those before.
        here = turns[k] * sign[k]
        right[k] = min(right[k], -here if here < zero else far)
        left[k] = min(left[k], here if here > zero else far)
    for k in range(m - 1):
        right[k + 1] = min(right[k + 1], -turns[k] if turns[k] < zero else far)
        left[k + 1] = min(left[k + 1], turns[k] if turns[k] > zero else far)


@kernel(NOTHING, LAYING, F2, INT, REAL, REAL, lean=True)
def seen(lay, work, m, total, from_head):
    """Fill how opaque each place still is, how far along the picture it is, and how far the ends are;
    widen what is thin.
    """
    x, y, z, half, long = work[X], work[Y], work[Z], work[HALF], work[LONG]
    cover, along, tail, head, left, right = (
        work[COVER],
        work[ALONG],
        work[TAIL],
        work[HEAD],
        work[LEFT],
        work[RIGHT],
    )
    one, zero = np.float32(1.0), np.float32(0.0)
    bx, by, bz = np.float32(lay.back[0]), np.float32(lay.back[1]), np.float32(lay.back[2])
    ex, ey, ez = np.float32(lay.eye[0]), np.float32(lay.eye[1]), np.float32(lay.eye[2])
    whole, seen = np.float32(total), lay.dense > 0.0
    per_pixel = np.float32(1.0 / lay.dense) if seen and lay.widens else zero
    for k in range(m):
        wide = half[k]
        depth = (ex - x[k]) * bx + (ey - y[k]) * by + (ez - z[k]) * bz
        least = max(depth * per_pixel, zero)
        thin = wide < least
        grown = least / max(wide, np.float32(1e-12)) if thin else one
        # Ribbons very near the eye fade instead of filling the picture.
        near = min(max(depth / max(np.float32(0.5) * wide, np.float32(1e-4)), zero), one)
        near = near * near * (np.float32(3.0) - np.float32(2.0) * near) if seen else one
        cover[k] = near * (max(wide, zero) / least if thin else one)
        left[k] *= grown
        right[k] *= grown
        wide = max(least if thin else wide, np.float32(1e-9))
        tail[k], head[k] = long[k] / wide, (whole - long[k]) / wide
    if lay.every > 0.0:
        begin, scale = np.float32(2.0 * from_head - 1.0), np.float32(2.0 / lay.every)
        for k in range(m):
            along[k] = begin + (long[k] - whole) * scale
    else:
        scale = np.float32(2.0) / whole
        for k in range(m):
            along[k] = long[k] * scale - one


@lean_helper
def _copy(out, width, of, to):
    """Write a vertex again; both are told by where they begin."""
    for i in range(width):
        out[to + np.uint64(i)] = out[of + np.uint64(i)]


@lean_helper
def _put_more(lay, work, first, k, lot, out, a):
    """Write what few layers have of a vertex."""
    for i in range(lay.more.shape[0]):
        out[a + np.uint64(lay.more[i, 1])] = work[MORE + i, k]
    if lay.sides >= 0:
        for i in range(3):
            out[a + np.uint64(lay.sides + i)] = work[first + i, k]
            out[a + np.uint64(lay.sides + 3 + i)] = work[DX + i, k]
    if lay.random_values >= 0:
        out[a + np.uint64(lay.random_values)] = lot


@kernel(INT, LAYING, F2, INT, FLOAT, F1, INT, INT, lean=True, cost=2.0)
def write(lay, work, m, lot, out, width, at):
    """Write the vertices of one band, a pair at each place of its way; return where the next ones go."""
    x, y, z, left, right, half, corner = (
        work[X],
        work[Y],
        work[Z],
        work[LEFT],
        work[RIGHT],
        work[HALF],
        work[CORNER],
    )
    turns = lay.across < AXIS
    first = SX if turns else UX
    sx, sy, sz, sign = work[first], work[first + 1], work[first + 2], work[SIGN]
    red, green, blue, opacity, cover = work[R], work[G], work[B], work[A], work[COVER]
    along, tail, head = work[ALONG], work[TAIL], work[HEAD]
    dx, dy, dz = work[DX], work[DY], work[DZ]
    one, zero, wide = np.float32(1.0), np.float32(0.0), np.uint64(width)
    ox = oy = oz = px = py = pz = zero
    begin, a = np.uint64(at) * wide, np.uint64(at) * wide
    if at > 0:
        # A strip without area leads here from the last band.
        a += np.uint64(2) * wide
    more = lay.more.shape[0] > 0 or lay.sides >= 0 or lay.random_values >= 0
    for k in range(m):
        less, beyond, ux, uy, uz = left[k], right[k], sx[k], sy[k], sz[k]
        whole = half[k] * corner[k] if turns else half[k]
        # The picture goes on as wide as it was: what has no room is not there.
        share = one / max(whole, np.float32(1e-30))
        b = a + wide
        lx, ly, lz = x[k] - ux * less, y[k] - uy * less, z[k] - uz * less
        rx, ry, rz = x[k] + ux * beyond, y[k] + uy * beyond, z[k] + uz * beyond
        if k > 0 and turns:
            # An edge that would still go backward, where the width changes along a slanted way, stays put.
            tx, ty, tz = dx[k - 1], dy[k - 1], dz[k - 1]
            back = min((lx - ox) * tx + (ly - oy) * ty + (lz - oz) * tz, zero)
            lx, ly, lz = lx - tx * back, ly - ty * back, lz - tz * back
            back = min((rx - px) * tx + (ry - py) * ty + (rz - pz) * tz, zero)
            rx, ry, rz = rx - tx * back, ry - ty * back, rz - tz * back
        ox, oy, oz, px, py, pz = lx, ly, lz, rx, ry, rz
        if sign[k] < zero and turns:
            ox, oy, oz, px, py, pz = rx, ry, rz, lx, ly, lz
        out[a], out[a + np.uint64(1)], out[a + np.uint64(2)] = lx, ly, lz
        out[b], out[b + np.uint64(1)], out[b + np.uint64(2)] = rx, ry, rz
        out[a + np.uint64(SPOT)], out[b + np.uint64(SPOT)] = -min(less * share, one), min(beyond * share, one)
        long, red_, green_, blue_ = along[k], red[k], green[k], blue[k]
        opaque, behind, before = opacity[k] * cover[k], tail[k], head[k]
        out[a + np.uint64(SPOT + 1)], out[b + np.uint64(SPOT + 1)] = long, long
        out[a + np.uint64(LIGHT)], out[b + np.uint64(LIGHT)] = red_, red_
        out[a + np.uint64(LIGHT + 1)], out[b + np.uint64(LIGHT + 1)] = green_, green_
        out[a + np.uint64(LIGHT + 2)], out[b + np.uint64(LIGHT + 2)] = blue_, blue_
        out[a + np.uint64(LIGHT + 3)], out[b + np.uint64(LIGHT + 3)] = opaque, opaque
        out[a + np.uint64(ENDS)], out[b + np.uint64(ENDS)] = behind, behind
        out[a + np.uint64(ENDS + 1)], out[b + np.uint64(ENDS + 1)] = before, before
        if more:
            _put_more(lay, work, first, k, lot, out, a)
            _put_more(lay, work, first, k, lot, out, b)
        if k == 0 and at > 0:
            _copy(out, width, begin - wide, begin)
            _copy(out, width, a, begin + wide)
        a = b + wide
        if turns and sign[k] < np.float32(0.0) and 0 < k < m - 1:
            # The same edges, each now the other one of the picture's.
            _copy(out, width, a - wide, a)
            _copy(out, width, a - np.uint64(2) * wide, a + wide)
            for c in (a, a + wide):
                out[c + np.uint64(SPOT)] = -out[c + np.uint64(SPOT)]
            a += np.uint64(2) * wide
    return np.int64(a // wide)

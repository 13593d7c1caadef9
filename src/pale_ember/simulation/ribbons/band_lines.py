"""The line of a band: a rounded curve through the points of a ribbon, its colours, and its length.

The way between two points is a cubic by C. Hermite whose ends go as the circle through each point and its
neighbours does there, and as fast as makes it that circle's own arc, within a few millionths of its radius.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import kernel, lean_helper
from ..layout.signatures import BOOL, F2, INT, NOTHING, REAL, U1, U2
from .band_memory import (
    AXIS,
    CHORD,
    CX,
    CY,
    CZ,
    DX,
    DY,
    DZ,
    F_ACROSS,
    F_COVER,
    F_LIGHT,
    F_PLACE,
    F_STRENGTH,
    F_WIDE,
    HALF,
    LAYING,
    LONG,
    MORE,
    NEAR,
    ONE,
    PARTS,
    PH,
    PIXELS,
    PX,
    PY,
    PZ,
    SHARE,
    STEP,
    TAIL,
    TURN,
    TX,
    TY,
    TZ,
    UX,
    A,
    R,
    X,
    Y,
    Z,
)


@lean_helper
def gather(lay, rows, order, first, last, work, who):
    """Fill the points of one band, those that are one left out, until a gap; return their number, and
    where to go on.
    """
    n, at, gap = 0, first, np.float32(lay.gap * lay.gap)
    place, wide = lay.fields[F_PLACE], lay.fields[F_WIDE]
    px, py, pz, half = work[PX], work[PY], work[PZ], work[PH]
    far = np.float32(1e15)
    while at < last:
        row = np.uint32(order[at])
        x, y, z, w = rows[row, place], rows[row, place + 1], rows[row, place + 2], rows[row, wide]
        at += 1
        if not abs(x) + abs(y) + abs(z) < far:
            continue
        if n > 0:
            dx, dy, dz = x - px[n - 1], y - py[n - 1], z - pz[n - 1]
            apart = dx * dx + dy * dy + dz * dz
            if gap > np.float32(0.0) and apart > gap:
                return n, at - 1
            near = max(np.float32(NEAR), np.float32(ONE) * w)
            if apart < near * near:
                if n == 1:
                    continue
                # The newer one stands for both, but at the tail.
                n -= 1
        px[n], py[n], pz[n], half[n], who[n] = x, y, z, w * np.float32(0.5), row
        n += 1
    return n, at


@kernel(INT, LAYING, F2, INT, lean=True, cost=2.0)
def directions(lay, work, n):
    """Fill chords, and which way the band goes at each point: as the circle through it and its two neighbours
    does.

    Return how many pieces the whole has.
    """
    px, py, pz = work[PX], work[PY], work[PZ]
    cx, cy, cz, chord, tx, ty, tz, parts = (
        work[CX],
        work[CY],
        work[CZ],
        work[CHORD],
        work[TX],
        work[TY],
        work[TZ],
        work[PARTS],
    )
    one, two = np.float32(1.0), np.float32(2.0)
    for i in range(n - 1):
        x, y, z = px[i + 1] - px[i], py[i + 1] - py[i], pz[i + 1] - pz[i]
        far = np.sqrt(x * x + y * y + z * z)
        inverse = one / far
        chord[i], cx[i], cy[i], cz[i] = far, x * inverse, y * inverse, z * inverse
    for i in range(1, n - 1):
        # By the inverse of their lengths, so that the nearer one tells more.
        u, v = chord[i] / (chord[i - 1] + chord[i]), chord[i - 1] / (chord[i - 1] + chord[i])
        x, y, z = cx[i - 1] * u + cx[i] * v, cy[i - 1] * u + cy[i] * v, cz[i - 1] * u + cz[i] * v
        far = np.sqrt(x * x + y * y + z * z)
        back = far < np.float32(1e-5)
        inverse = one / (one if back else far)
        # Right back: on as it came.
        tx[i], ty[i], tz[i] = (
            cx[i - 1] if back else x * inverse,
            cy[i - 1] if back else y * inverse,
            cz[i - 1] if back else z * inverse,
        )
    for end in range(2):
        i, j, c = (0, 1, 0) if end == 0 else (n - 1, n - 2, n - 2)
        x, y, z = cx[c], cy[c], cz[c]
        if n > 2:
            # On the same circle as its neighbour.
            k = two * (tx[j] * x + ty[j] * y + tz[j] * z)
            if k > np.float32(0.2):
                x, y, z = k * x - tx[j], k * y - ty[j], k * z - tz[j]
        tx[i], ty[i], tz[i] = x, y, z
    if lay.smooth == 0:
        return n - 1
    bx, by, bz = np.float32(lay.back[0]), np.float32(lay.back[1]), np.float32(lay.back[2])
    ex, ey, ez = np.float32(lay.eye[0]), np.float32(lay.eye[1]), np.float32(lay.eye[2])
    dense, most, per_turn = (
        np.float32(lay.dense / 8.0 / PIXELS),
        np.float32(lay.smooth + 1),
        np.float32(1.0 / TURN),
    )
    for i in range(n - 1):
        first = cx[i] * tx[i] + cy[i] * ty[i] + cz[i] * tz[i]
        last = cx[i] * tx[i + 1] + cy[i] * ty[i + 1] + cz[i] * tz[i + 1]
        turn = np.sqrt(max(two - two * first, np.float32(0.0))) + np.sqrt(
            max(two - two * last, np.float32(0.0))
        )
        depth = abs((ex - px[i]) * bx + (ey - py[i]) * by + (ez - pz[i]) * bz)
        off = np.sqrt(chord[i] * turn * dense / max(depth, np.float32(1e-3)))
        # Rounding can't tell smaller turns from none.
        wanted = np.ceil(max(turn * per_turn, off)) if turn > np.float32(2e-3) else one
        parts[i] = min(max(wanted, one), most)
    whole = np.int64(0)
    for i in range(n - 1):
        whole += np.int64(parts[i])
    return whole


@lean_helper
def _pace(cos):
    """Return how fast a way goes that leaves its chord by an angle as a circle does, in chords (an arc's
    4 tan(a/4)).
    """
    return min(2.0 / (1.0 + max(cos, 0.0)), 1.3)


@lean_helper
def _blended(out, rows, column, fixed, near, far, share, apart, m):
    """Fill a row with one column of instances, each between two of them; what all share, where there is
    none.
    """
    if column < 0:
        for i in range(m):
            out[i] = fixed
        return
    c = np.uint64(column)
    for i in range(m):
        out[i] = rows[near[i], c]
    for i in range(m if apart else 0):
        out[i] += (rows[far[i], c] - out[i]) * share[i]


@kernel(NOTHING, LAYING, F2, F2, U2, BOOL, INT, lean=True)
def shade(lay, rows, work, between, apart, m):
    """Fill what the places of a way show: each is a point's, or, ``apart`` from them, somewhere between
    two.
    """
    fields, shared, near, far, share = lay.fields, lay.shared, between[0], between[1], work[SHARE]
    strength, lit = work[TAIL], fields[F_STRENGTH] >= 0 or shared[4] != np.float32(1.0)
    _blended(strength, rows, fields[F_STRENGTH], shared[4], near, far, share, apart, m)
    for k in range(3):
        light, column = work[R + k], fields[F_LIGHT]
        _blended(light, rows, column + k if column >= 0 else -1, shared[k], near, far, share, apart, m)
        for i in range(m if lit else 0):
            light[i] *= strength[i]
    _blended(work[A], rows, fields[F_COVER], shared[3], near, far, share, apart, m)
    if lay.across >= AXIS:
        for k in range(3):
            _blended(work[UX + k], rows, fields[F_ACROSS] + k, np.float32(0.0), near, far, share, apart, m)
    for k in range(lay.more.shape[0]):
        _blended(work[MORE + k], rows, lay.more[k, 0], np.float32(0.0), near, far, share, apart, m)


@lean_helper
def as_they_are(work, who, between, n):
    """Make the points themselves the way."""
    for k in range(4):
        source, target = work[PX + k], work[X + k]
        for i in range(n):
            target[i] = source[i]
    near, far, share = between[0], between[1], work[SHARE]
    for i in range(n):
        near[i], far[i], share[i] = who[i], who[i], np.float32(0.0)
    return n


@kernel(INT, LAYING, F2, U1, U2, INT, REAL, lean=True)
def round_off(lay, work, who, between, n, cut):
    """Fill the way through the points, those put between two included; return how many places it has."""
    m = 0
    half, parts = work[PH], work[PARTS]
    for i in range(n - 1):
        count = np.int64(parts[i]) if lay.smooth > 0 else 1
        j = i + 1
        chord = np.float64(work[CHORD, i])
        first, last = 0.0, 0.0
        for k in range(3):
            first += np.float64(work[CX + k, i]) * np.float64(work[TX + k, i])
            last += np.float64(work[CX + k, i]) * np.float64(work[TX + k, j])
        u, v = chord * _pace(first), chord * _pace(last)
        for part in range(count):
            f = part / count
            if i == 0 and cut > 0.0:
                # The share of the tail that is gone already.
                f = cut + (1.0 - cut) * f
            g = 1.0 - f
            h0, h1, h2, h3 = (1.0 + 2.0 * f) * g * g, f * g * g * u, f * f * (3.0 - 2.0 * f), -f * f * g * v
            for k in range(3):
                place = np.float64(work[PX + k, i])
                if f > 0.0:
                    place = (
                        h0 * place
                        + h1 * np.float64(work[TX + k, i])
                        + h2 * np.float64(work[PX + k, j])
                        + h3 * np.float64(work[TX + k, j])
                    )
                work[X + k, m] = place
            work[HALF, m] = half[i] + (half[j] - half[i]) * np.float32(f)
            between[0, m], between[1, m], work[SHARE, m] = who[i], who[j], f
            m += 1
    for k in range(4):
        work[X + k, m] = work[PX + k, n - 1]
    between[0, m] = between[1, m] = who[n - 1]
    work[SHARE, m] = np.float32(0.0)
    return m + 1


@kernel(REAL, F2, INT, lean=True)
def measure(work, m):
    """Fill directions and lengths along a way; return how long it is, 0 if a piece of it has no length."""
    x, y, z, long = work[X], work[Y], work[Z], work[LONG]
    dx, dy, dz, step = work[DX], work[DY], work[DZ], work[STEP]
    stands = 0
    for k in range(m - 1):
        a, b, c = x[k + 1] - x[k], y[k + 1] - y[k], z[k + 1] - z[k]
        far = np.sqrt(a * a + b * b + c * c)
        inverse = np.float32(1.0) / max(far, np.float32(1e-30))
        step[k], dx[k], dy[k], dz[k] = far, a * inverse, b * inverse, c * inverse
        stands += 1 if far == np.float32(0.0) else 0
    dx[m - 1], dy[m - 1], dz[m - 1], step[m - 1] = dx[m - 2], dy[m - 2], dz[m - 2], step[m - 2]
    total = 0.0
    for k in range(m):
        long[k] = total
        total += np.float64(step[k]) if k < m - 1 else 0.0
    return total if stands == 0 else 0.0

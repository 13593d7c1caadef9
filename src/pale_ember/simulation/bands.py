"""Ribbons as bands of triangles: a rounded way through points, and two edges along it that never go back.

The way between two points is a cubic by C. Hermite whose ends go as the circle through each point and its neighbours
does there, and as fast as makes it that circle's own arc, within a few millionths of its radius.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .bundles import Bundle, bundled
from .kernels import inlined, kernel, lean_helper
from .signatures import BOOL, D1, D2, F1, F2, I1, INT, L1, L2, REAL

# Which way a band's width goes, as in ``Across``.
CAMERA, FLAT, AXIS, LINE = range(4)
# What every vertex has: its place, m; across -1 to 1 and along, twice the picture's share less 1; light and
# opacity; how far its tail and its head are, in halves of the width.
PLACE, SPOT, LIGHT, ENDS, BASE = 0, 3, 5, 9, 11
# Columns of the way: place, half the width, the point and the share of the way to the next, the length up to there, the
# direction and the length from there on; which way its width goes, whether that changes sides here, how much farther out
# edges meet, and how far the right and the left one may be from the way, m.
X, Y, Z, HALF, AT, LONG, DX, DY, DZ, STEP, SX, SY, SZ, SWAPS, CORNER, PLUS, MINUS = range(17)
WAY_COLUMNS = 17
# Of the points themselves: place, the direction there, the distance to the next.
P, T, CHORD, ROW = 0, 3, 6, 7
POINT_COLUMNS = 8
# Points nearer to each other than this share of the width are one, and so are those nearer than this, m.
_ONE, _NEAR = 1e-4, 1e-7
# A rounded way turns no more than this from one point put between to the next, nor leaves the true one by more pixels.
_TURN, _PIXELS = math.radians(6.0), 0.15


@bundled
class Laying(NamedTuple):
    """How bands are laid.

    ``across`` is a place in ``Across``; ``smooth`` so many points at most between two; ``gap`` m, 0 for none; ``every`` m
    that the picture is long, 0 for the whole band; ``laid`` whether it stays where it was laid. ``eye`` (3,) and ``back``
    (3,) are the camera's; ``dense`` pixels that a metre has at a metre's distance, 0 where nothing is seen from anywhere;
    ``widens`` whether what is thinner than two pixels is drawn as wide with less light.

    ``fields`` (9,) are the columns of place, width, light, opacity, intensity, across, how long the ribbon was in the rows,
    -1 for what all share: ``shared`` (5,) light, opacity, intensity. ``more`` (n, 2) are columns in the rows and in the
    vertices of whatever else goes along; ``sides`` the column of each vertex's side and way, 6, ``lots`` that of a number
    that tells ribbons apart; -1 for none.
    """

    across: int
    smooth: int
    gap: float
    every: float
    laid: bool
    eye: NDArray[np.float64]
    back: NDArray[np.float64]
    dense: float
    widens: bool
    fields: NDArray[np.int64]
    shared: NDArray[np.float32]
    more: NDArray[np.int64]
    sides: int
    lots: int


F_PLACE, F_WIDE, F_LIGHT, F_COVER, F_STRENGTH, F_ACROSS, F_LAID = range(7)
LAYING = Bundle(Laying, INT, INT, REAL, REAL, BOOL, D1, D1, REAL, BOOL, L1, F1, L2, INT, INT)


@inlined
def _length(x, y, z):
    return math.sqrt(x * x + y * y + z * z)


@lean_helper
def _collect(lay, rows, order, first, last, cut, points):
    """Fill the points of one band, those that are one left out, until a gap; return their number, and where to go on."""
    n, at = 0, first
    place, gap = lay.fields[F_PLACE], lay.gap
    while at < last:
        row = order[at]
        x, y, z = np.float64(rows[row, place]), np.float64(rows[row, place + 1]), np.float64(rows[row, place + 2])
        if not abs(x) + abs(y) + abs(z) < 1e15:
            at += 1
            continue
        if n > 0:
            q = points[n - 1]
            far = _length(x - q[P], y - q[P + 1], z - q[P + 2])
            if gap > 0.0 and far > gap:
                break
            if far < max(_NEAR, _ONE * np.float64(rows[row, lay.fields[F_WIDE]])):
                # The newer one stands for both, but at the tail.
                if n > 1:
                    q[P], q[P + 1], q[P + 2], q[ROW] = x, y, z, row
                    w = points[n - 2]
                    w[CHORD] = _length(x - w[P], y - w[P + 1], z - w[P + 2])
                at += 1
                continue
            q[CHORD] = far
        q = points[n]
        q[P], q[P + 1], q[P + 2], q[ROW], q[CHORD] = x, y, z, row, 0.0
        n += 1
        at += 1
    return n, at


@lean_helper
def _directions(points, n):
    """Fill which way the band goes at each point: as the circle through it and its two neighbours does."""
    for i in range(1, n - 1):
        a, q, b = points[i - 1], points[i], points[i + 1]
        u, v = 1.0 / (a[CHORD] * a[CHORD]), 1.0 / (q[CHORD] * q[CHORD])
        x = (q[P] - a[P]) * u + (b[P] - q[P]) * v
        y = (q[P + 1] - a[P + 1]) * u + (b[P + 1] - q[P + 1]) * v
        z = (q[P + 2] - a[P + 2]) * u + (b[P + 2] - q[P + 2]) * v
        far = _length(x, y, z)
        if far > 1e-9 * (u * a[CHORD] + v * q[CHORD]):
            q[T], q[T + 1], q[T + 2] = x / far, y / far, z / far
        else:
            # Right back: on as it came.
            q[T], q[T + 1], q[T + 2] = (q[P] - a[P]) / a[CHORD], (q[P + 1] - a[P + 1]) / a[CHORD], (q[P + 2] - a[P + 2]) / a[CHORD]
    for end in range(2):
        i, j = (0, 1) if end == 0 else (n - 1, n - 2)
        q, o, chord = points[i], points[j], points[min(i, j), CHORD]
        sign = 1.0 if end == 0 else -1.0
        x, y, z = (o[P] - q[P]) / chord * sign, (o[P + 1] - q[P + 1]) / chord * sign, (o[P + 2] - q[P + 2]) / chord * sign
        if n > 2:
            # On the same circle as its neighbour.
            k = 2.0 * (o[T] * x + o[T + 1] * y + o[T + 2] * z)
            if k > 0.2:
                x, y, z = k * x - o[T], k * y - o[T + 1], k * z - o[T + 2]
        q[T], q[T + 1], q[T + 2] = x, y, z


@lean_helper
def _pace(cos):
    """Return how fast a way goes that leaves its chord by an angle as a circle does, in chords (an arc's 4 tan(a/4))."""
    return min(2.0 / (1.0 + max(cos, 0.0)), 1.3)


@lean_helper
def _round(lay, rows, points, n, cut, way):
    """Fill the way through the points, those put between two included; return how many places it has."""
    m = 0
    wide = lay.fields[F_WIDE]
    for i in range(n - 1):
        a, b = points[i], points[i + 1]
        chord = a[CHORD]
        cx, cy, cz = (b[P] - a[P]) / chord, (b[P + 1] - a[P + 1]) / chord, (b[P + 2] - a[P + 2]) / chord
        first = min(max(a[T] * cx + a[T + 1] * cy + a[T + 2] * cz, -1.0), 1.0)
        last = min(max(b[T] * cx + b[T + 1] * cy + b[T + 2] * cz, -1.0), 1.0)
        parts = 1
        if lay.smooth > 0 and (first < 0.99999 or last < 0.99999):
            turn = math.acos(first) + math.acos(last)
            parts = max(math.ceil(turn / _TURN), 1)
            if lay.dense > 0.0:
                depth = abs((a[P] - lay.eye[0]) * lay.back[0] + (a[P + 1] - lay.eye[1]) * lay.back[1] + (a[P + 2] - lay.eye[2]) * lay.back[2])
                off = chord * turn / 8.0 * lay.dense / max(depth, 1e-3) / _PIXELS
                parts = max(parts, int(min(math.ceil(math.sqrt(off)), 64.0)))
            parts = min(parts, lay.smooth + 1)
        u, v = chord * _pace(first), chord * _pace(last)
        w0, w1 = np.float64(rows[int(a[ROW]), wide]) / 2.0, np.float64(rows[int(b[ROW]), wide]) / 2.0
        for k in range(parts):
            f = k / parts
            if i == 0 and cut > 0.0:
                # What of the tail is gone already.
                f = cut + (1.0 - cut) * f
            g = 1.0 - f
            q = way[m]
            if parts == 1 and f == 0.0:
                q[X], q[Y], q[Z] = a[P], a[P + 1], a[P + 2]
            else:
                h0, h1, h2, h3 = (1.0 + 2.0 * f) * g * g, f * g * g * u, f * f * (3.0 - 2.0 * f), -f * f * g * v
                q[X] = h0 * a[P] + h1 * a[T] + h2 * b[P] + h3 * b[T]
                q[Y] = h0 * a[P + 1] + h1 * a[T + 1] + h2 * b[P + 1] + h3 * b[T + 1]
                q[Z] = h0 * a[P + 2] + h1 * a[T + 2] + h2 * b[P + 2] + h3 * b[T + 2]
            q[HALF], q[AT] = w0 + (w1 - w0) * f, i + f
            m += 1
    b, q = points[n - 1], way[m]
    q[X], q[Y], q[Z], q[AT] = b[P], b[P + 1], b[P + 2], n - 1.0
    q[HALF] = np.float64(rows[int(b[ROW]), wide]) / 2.0
    return m + 1


@lean_helper
def _measure(way, m):
    """Fill directions and lengths along a way, what does not go on at all left out; return how many places are left."""
    kept = 1
    way[0, LONG] = 0.0
    for k in range(1, m):
        a, q = way[kept - 1], way[k]
        x, y, z = q[X] - a[X], q[Y] - a[Y], q[Z] - a[Z]
        far = _length(x, y, z)
        if far < 1e-9:
            continue
        a[DX], a[DY], a[DZ], a[STEP] = x / far, y / far, z / far, far
        b = way[kept]
        b[X], b[Y], b[Z], b[HALF], b[AT] = q[X], q[Y], q[Z], q[HALF], q[AT]
        b[LONG] = a[LONG] + far
        kept += 1
    return kept


@lean_helper
def _right_of(x, y, z, vx, vy, vz, lx, ly, lz):
    """Return the unit vector to the right of a direction as seen from v; the last one, where it is seen from its end."""
    rx, ry, rz = y * vz - z * vy, z * vx - x * vz, x * vy - y * vx
    far = _length(rx, ry, rz)
    if far < 1e-5 * _length(vx, vy, vz) or far < 1e-30:
        # As near to the last one as is square to the direction.
        k = lx * x + ly * y + lz * z
        rx, ry, rz = lx - k * x, ly - k * y, lz - k * z
        far = _length(rx, ry, rz)
        if far < 1e-6:
            return lx, ly, lz
    return rx / far, ry / far, rz / far


@lean_helper
def _write(lay, rows, points, q, along, lot, cover, tail, head, out, at, x, y, z, spot, sx, sy, sz, tx, ty, tz):
    """Write one vertex: a point of the way's light and whatever else goes along."""
    row = out[at]
    i = int(q[AT])
    f = np.float32(q[AT] - i)
    a = rows[int(points[i, ROW])]
    b = a if f == np.float32(0.0) else rows[int(points[i + 1, ROW])]
    row[PLACE], row[PLACE + 1], row[PLACE + 2] = x, y, z
    row[SPOT], row[SPOT + 1], row[ENDS], row[ENDS + 1] = spot, along, tail, head
    fields, shared = lay.fields, lay.shared
    column = fields[F_STRENGTH]
    strength = shared[4] if column < 0 else a[column] + (b[column] - a[column]) * f
    column = fields[F_LIGHT]
    for k in range(3):
        light = shared[k] if column < 0 else a[column + k] + (b[column + k] - a[column + k]) * f
        row[LIGHT + k] = light * strength
    column = fields[F_COVER]
    opacity = shared[3] if column < 0 else a[column] + (b[column] - a[column]) * f
    row[LIGHT + 3] = opacity * np.float32(cover)
    for k in range(lay.more.shape[0]):
        column = lay.more[k, 0]
        row[lay.more[k, 1]] = a[column] + (b[column] - a[column]) * f
    if lay.sides >= 0:
        row[lay.sides], row[lay.sides + 1], row[lay.sides + 2] = sx, sy, sz
        row[lay.sides + 3], row[lay.sides + 4], row[lay.sides + 5] = tx, ty, tz
    if lay.lots >= 0:
        row[lay.lots] = lot


@lean_helper
def _copy(out, of, to):
    for i in range(out.shape[1]):
        out[to, i] = out[of, i]


@lean_helper
def _between(way, at, long, out):
    """Write the place at a length of a way that lies between one of its places and the next."""
    a, b = way[at], way[at + 1]
    f = min(max((long - a[LONG]) / max(b[LONG] - a[LONG], 1e-30), 0.0), 1.0)
    out[0], out[1], out[2] = a[X] + (b[X] - a[X]) * f, a[Y] + (b[Y] - a[Y]) * f, a[Z] + (b[Z] - a[Z]) * f


@lean_helper
def _sides(lay, way, m, spare):
    """Fill which way the width goes at each place of a way, to the right of it as seen.

    A band can't turn within less than its own width: the way is looked at over half of it on either side, so that small
    turns of a wide band move it as a whole instead of fanning it out. Where it comes back as seen, sides change: there it
    ``SWAPS``, and what it has is the side before.
    """
    lx, ly, lz = 1.0, 0.0, 0.0
    low, high, last = 0, 0, m - 1
    total = way[last, LONG]
    for k in range(m):
        q, p, d = way[k], way[max(k - 1, 0)], way[min(k, m - 2)]
        reach, here = q[HALF], q[LONG]
        ax, ay, az, bx, by, bz = p[DX], p[DY], p[DZ], d[DX], d[DY], d[DZ]
        if p[STEP] < reach and k > 0:
            low = min(low, k - 1)
            while low > 0 and way[low, LONG] > here - reach:
                low -= 1
            while low < k - 1 and way[low + 1, LONG] <= here - reach:
                low += 1
            _between(way, low, max(here - reach, 0.0), spare)
            ax, ay, az = q[X] - spare[0], q[Y] - spare[1], q[Z] - spare[2]
        if d[STEP] < reach and k < last:
            high = max(high, k)
            while high > k and way[high, LONG] > here + reach:
                high -= 1
            while high < m - 2 and way[high + 1, LONG] < here + reach:
                high += 1
            _between(way, high, min(here + reach, total), spare)
            bx, by, bz = spare[0] - q[X], spare[1] - q[Y], spare[2] - q[Z]
        if k == 0:
            ax, ay, az = bx, by, bz
        elif k == last:
            bx, by, bz = ax, ay, az
        if lay.across == FLAT:
            vx, vy, vz = 0.0, 1.0, 0.0
        else:
            vx, vy, vz = lay.eye[0] - q[X], lay.eye[1] - q[Y], lay.eye[2] - q[Z]
        px, py, pz = _right_of(ax, ay, az, vx, vy, vz, lx, ly, lz)
        nx, ny, nz = _right_of(bx, by, bz, vx, vy, vz, px, py, pz)
        q[SWAPS] = 1.0 if px * nx + py * ny + pz * nz < 0.0 else 0.0
        if q[SWAPS] > 0.0:
            nx, ny, nz = -nx, -ny, -nz
        sx, sy, sz = px + nx, py + ny, pz + nz
        far = _length(sx, sy, sz)
        q[SX], q[SY], q[SZ] = sx / far, sy / far, sz / far
        # Edges of straight pieces meet in the middle of the angle, and so farther out.
        sharp = min(max(min(p[STEP], d[STEP]) / max(reach, 1e-30) - 1.0, 0.0), 1.0)
        corner = 2.0 / max(far, 1.0)
        q[CORNER] = 1.0 + (corner - 1.0) * sharp
        sign = -1.0 if q[SWAPS] > 0.0 else 1.0
        lx, ly, lz = sign * q[SX], sign * q[SY], sign * q[SZ]


@lean_helper
def _room(way, m):
    """Fill how far the two edges may be from each place: so far that neither goes back where the way turns."""
    for k in range(m):
        q = way[k]
        q[PLUS] = q[MINUS] = 1e30
    for k in range(m - 1):
        q, n = way[k], way[k + 1]
        sign = -1.0 if q[SWAPS] > 0.0 else 1.0
        turn = (n[SX] - sign * q[SX]) * q[DX] + (n[SY] - sign * q[SY]) * q[DY] + (n[SZ] - sign * q[SZ]) * q[DZ]
        if abs(turn) < 1e-12:
            continue
        room = 0.98 * q[STEP] / abs(turn)
        # Of the place before, the edges are those before it swaps.
        if (turn < 0.0) == (sign > 0.0):
            q[PLUS] = min(q[PLUS], room)
        else:
            q[MINUS] = min(q[MINUS], room)
        if turn < 0.0:
            n[PLUS] = min(n[PLUS], room)
        else:
            n[MINUS] = min(n[MINUS], room)


@lean_helper
def _edges(lay, rows, points, way, m, from_head, lot, out, at, spare):
    """Write the vertices of one band, a pair at each place of its way; return where the next ones go."""
    total, begin, last = way[m - 1, LONG], at, int(way[m - 1, AT])
    turns = lay.across < AXIS
    if turns:
        _sides(lay, way, m, spare)
        _room(way, m)
    for k in range(m):
        q, d = way[k], way[min(k, m - 2)]
        vx, vy, vz = lay.eye[0] - q[X], lay.eye[1] - q[Y], lay.eye[2] - q[Z]
        depth = vx * lay.back[0] + vy * lay.back[1] + vz * lay.back[2]
        half, cover = q[HALF], 1.0
        if lay.dense > 0.0:
            if lay.widens and depth > 0.0:
                least = depth / lay.dense
                if half < least:
                    cover, half = max(half, 0.0) / least, least
            # What comes very near the eye fades instead of filling the picture.
            near = min(max(depth / max(0.5 * half, 1e-4), 0.0), 1.0)
            cover *= near * near * (3.0 - 2.0 * near)
        if lay.every > 0.0:
            along = 2.0 * (from_head + (q[LONG] - total) / lay.every) - 1.0
        else:
            along = 2.0 * q[LONG] / total - 1.0
        plus = minus = half
        right = left = 1.0
        sx, sy, sz = q[SX], q[SY], q[SZ]
        if turns:
            whole = half * q[CORNER]
            plus, minus = min(whole, q[PLUS]), min(whole, q[MINUS])
            # The picture goes on as wide as it was: what has no room is not there.
            right, left = plus / max(whole, 1e-30), minus / max(whole, 1e-30)
        else:
            i, column = int(q[AT]), lay.fields[F_ACROSS]
            f = q[AT] - i
            a, b = rows[int(points[i, ROW])], rows[int(points[min(i + 1, last), ROW])]
            sx = np.float64(a[column]) + (np.float64(b[column]) - np.float64(a[column])) * f
            sy = np.float64(a[column + 1]) + (np.float64(b[column + 1]) - np.float64(a[column + 1])) * f
            sz = np.float64(a[column + 2]) + (np.float64(b[column + 2]) - np.float64(a[column + 2])) * f
        if k == 0 and begin > 0:
            # A strip without area leads here from the last band.
            at += 2
        tx, ty, tz = d[DX], d[DY], d[DZ]
        tail, head = q[LONG] / max(half, 1e-9), (total - q[LONG]) / max(half, 1e-9)
        _write(lay, rows, points, q, along, lot, cover, tail, head, out, at, q[X] - sx * minus, q[Y] - sy * minus, q[Z] - sz * minus, -left, sx, sy, sz, tx, ty, tz)
        _write(lay, rows, points, q, along, lot, cover, tail, head, out, at + 1, q[X] + sx * plus, q[Y] + sy * plus, q[Z] + sz * plus, right, sx, sy, sz, tx, ty, tz)
        if k == 0 and begin > 0:
            _copy(out, begin - 1, at - 2)
            _copy(out, at, at - 1)
        at += 2
        if turns and q[SWAPS] > 0.0 and 0 < k < m - 1:
            # The same edges, each now the other one of the picture's.
            for j in range(2):
                _copy(out, at - 1 - j, at + j)
            for j in range(2):
                out[at + j, SPOT] = -out[at + j, SPOT]
            at += 2
    return at


@kernel(INT, LAYING, F2, I1, I1, F1, F1, INT, INT, D2, D2, F2, entry=True)
def lay_bands(lay, rows, starts, order, cuts, lots, first, last, points, way, out):
    """Write bands as one strip of triangles; return how many vertices it has.

    Parameters
    ----------
    rows : float32 array (n, columns)
        The points' instances.
    starts, order : int32 arrays
        Of :class:`~.joining.Joined`.
    cuts, lots : float32 arrays (ribbons,)
        How much of the way from its first point to the second is gone already; a number that tells it from others.
    first, last : int
        Which of the ribbons.
    points, way : float64 arrays (most, columns)
        Memory, for the longest of them.
    out : float32 array (room, columns)
    """
    at = 0
    for k in range(first, last):
        here, cut = starts[k], float(cuts[k])
        while here < starts[k + 1]:
            n, here = _collect(lay, rows, order, here, starts[k + 1], cut, points)
            if n > 1:
                _directions(points, n)
                m = _measure(way, _round(lay, rows, points, n, cut, way))
                from_head = 0.0
                column = lay.fields[F_LAID]
                if lay.laid and lay.every > 0.0 and column >= 0:
                    long = np.float64(rows[int(points[n - 1, ROW]), column]) / lay.every
                    from_head = long - math.floor(long)
                if m > 1:
                    at = _edges(lay, rows, points, way, m, from_head, lots[k], out, at, way[m, :3])
            cut = 0.0
    return at


def room_for(count: int, ribbons: int, smooth: int) -> int:
    """Return how many vertices so many points in so many ribbons need at most."""
    return 4 * count * (smooth + 1) + 4 * ribbons + 4

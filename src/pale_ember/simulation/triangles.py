"""Meshes that particles meet: a tree of boxes around triangles, a grid over them, and where a way first meets one.

Both keep the triangles themselves, and no distance field is made: so a wall of two triangles stays exactly where it is
at any thickness. Most ways in a step are short and look into a cell or two, most of which are empty; long ones go down
the tree.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .colliders import NEVER
from .kernels import lean_helper

Floats = NDArray[np.float64]
# Triangles that a box of the tree holds at most; how deep it may be.
LEAF = 4
# Cells, and triangles listed in them, that a grid has at most.
MOST_LISTED = 2_000_000
# Cells that a short way looks into at most, along each axis.
SHORT = 3
# A mesh is a skin of this thickness at least, m: on what has none there is no side to be on.
SKIN = 2e-5


class Tree(NamedTuple):
    """A tree of boxes.

    Attributes
    ----------
    boxes : (n, 6) low and high corner
    links : (n, 2) int64
        The first of two boxes inside, and 0; or of a leaf the first triangle, and how many.
    corners : (t, 3, 3)
        Triangles in the order of the leaves.
    planes : (t, 8)
        The unit normal of each, how far it is from the origin along that, and the middle and radius of a ball around it.
    """

    boxes: Floats
    links: NDArray[np.int64]
    corners: Floats
    planes: Floats


def tree_of(corners: Floats) -> Tree:
    """Return the tree of some triangles, (t, 3, 3): halved at the median along the longest side of their middles."""
    low, high, middle = corners.min(axis=1), corners.max(axis=1), corners.mean(axis=1)
    order = np.arange(len(corners))
    boxes: list[Floats] = [np.zeros(6)]
    links: list[tuple[int, int]] = [(0, 0)]
    coming = [(0, 0, len(corners))]
    while coming:
        at, first, last = coming.pop()
        own = order[first:last]
        boxes[at] = np.concatenate([low[own].min(axis=0), high[own].max(axis=0)])
        if last - first <= LEAF:
            links[at] = (first, last - first)
            continue
        axis = int(np.argmax(np.ptp(middle[own], axis=0)))
        half = (last - first) // 2
        order[first:last] = own[np.argpartition(middle[own, axis], half)]
        links[at] = (len(boxes), 0)
        coming += [(len(boxes), first, first + half), (len(boxes) + 1, first + half, last)]
        boxes += [np.zeros(6), np.zeros(6)]
        links += [(0, 0), (0, 0)]
    corners = np.ascontiguousarray(corners[order])
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    centre = (corners.min(axis=1) + corners.max(axis=1)) / 2
    radius = np.linalg.norm(corners - centre[:, None], axis=2).max(axis=1, keepdims=True)
    planes = np.concatenate([normal, np.sum(normal * corners[:, 0], axis=1, keepdims=True), centre, radius], axis=1)
    return Tree(np.array(boxes), np.array(links, np.int64), corners, planes)


class Cells(NamedTuple):
    """A grid of boxes over triangles, for ways that are short.

    Attributes
    ----------
    low, dense : (3,)
        Where it begins, and how many cells there are to a metre.
    many : (3,) int64
        How many along each axis.
    first : (cells + 1,) int64
        Where the triangles of each cell begin in ``listed``.
    listed : (n,) int32
    bits : (words,) uint64
        A bit for each cell that has some, so that empty ones are told without going through memory; each row of cells
        along z begins with a word of its own.
    """

    low: Floats
    dense: Floats
    many: NDArray[np.int64]
    first: NDArray[np.int32]
    listed: NDArray[np.int32]
    bits: NDArray[np.uint64]


def cells_of(corners: Floats) -> Cells:
    """Return a grid over some triangles, about one cell for each along a surface, no finer than memory allows."""
    low, high = corners.min(axis=(0, 1)) - 1e-6, corners.max(axis=(0, 1)) + 1e-6
    wide = np.maximum(high - low, 1e-5)
    fine = np.sqrt(0.8 * len(corners) / max(wide[0] * wide[1] + wide[1] * wide[2] + wide[0] * wide[2], 1e-12))
    while True:
        count = np.clip(np.ceil(wide * fine), 1, 256).astype(np.int64)
        dense = count / wide
        begin = np.clip(((corners.min(axis=1) - low) * dense).astype(np.int64), 0, count - 1)
        end = np.clip(((corners.max(axis=1) - low) * dense).astype(np.int64), 0, count - 1)
        each = np.prod(end - begin + 1, axis=1)
        if int(each.sum()) + int(np.prod(count)) <= MOST_LISTED or fine < 1e-3:
            break
        fine *= 0.6
    of = np.repeat(np.arange(len(corners)), each)
    place = np.arange(len(of)) - np.repeat(np.cumsum(each) - each, each)
    size = (end - begin + 1)[of]
    x, y, z = place // (size[:, 1] * size[:, 2]), place // size[:, 2] % size[:, 1], place % size[:, 2]
    cell = ((begin[of, 0] + x) * count[1] + begin[of, 1] + y) * count[2] + begin[of, 2] + z
    order = np.argsort(cell, kind="stable")
    first = np.concatenate([[0], np.cumsum(np.bincount(cell, minlength=int(np.prod(count))))])
    words = int(-(-count[2] // 64))
    bits = np.zeros((int(count[0] * count[1]), words), np.uint64)
    z = cell % count[2]
    np.bitwise_or.at(bits, (cell // count[2], z // 64), np.uint64(1) << (z % 64).astype(np.uint64))
    return Cells(low, dense, count, first.astype(np.int32), of[order].astype(np.int32), bits.reshape(-1))


def is_closed(corners: Floats) -> bool:
    """Return whether triangles enclose a space: each edge is shared by two, which go along it in opposite ways."""
    size = max(float(np.ptp(corners.reshape(-1, 3), axis=0).max()), 1e-12)
    points = np.round(corners.reshape(-1, 3) / (size * 1e-6)).astype(np.int64)
    _, number = np.unique(points, axis=0, return_inverse=True)
    faces = number.reshape(-1, 3)
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    edges = edges[edges[:, 0] != edges[:, 1]]
    ahead = {tuple(edge) for edge in edges.tolist()}
    return len(ahead) == len(edges) and all((b, a) in ahead for a, b in ahead)


@lean_helper
def nearest_on(t, x, y, z, out):
    """Write the point of a triangle (3, 3) that is nearest to another; return whether it lies inside the face
    (C. Ericson, "Real-Time Collision Detection", 2005, 5.1.5)."""
    abx, aby, abz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
    acx, acy, acz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
    px, py, pz = x - t[0, 0], y - t[0, 1], z - t[0, 2]
    d1, d2 = abx * px + aby * py + abz * pz, acx * px + acy * py + acz * pz
    v, w = 0.0, 0.0
    inside = False
    qx, qy, qz = px - abx, py - aby, pz - abz
    d3, d4 = abx * qx + aby * qy + abz * qz, acx * qx + acy * qy + acz * qz
    rx, ry, rz = px - acx, py - acy, pz - acz
    d5, d6 = abx * rx + aby * ry + abz * rz, acx * rx + acy * ry + acz * rz
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    if d1 <= 0.0 and d2 <= 0.0:
        pass
    elif d3 >= 0.0 and d4 <= d3:
        v = 1.0
    elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        v = d1 / (d1 - d3)
    elif d6 >= 0.0 and d5 <= d6:
        w = 1.0
    elif vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        w = d2 / (d2 - d6)
    elif va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        w = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        v = 1.0 - w
    else:
        whole = 1.0 / (va + vb + vc)
        v, w = vb * whole, vc * whole
        inside = True
    out[0] = t[0, 0] + abx * v + acx * w
    out[1] = t[0, 1] + aby * v + acy * w
    out[2] = t[0, 2] + abz * v + acz * w
    return inside


@lean_helper
def from_triangle(t, plane, x, y, z, near):
    """Return how far a point is from a triangle and which way: (d, nx, ny, nz); on a face its normal, to the point's side."""
    inside = nearest_on(t, x, y, z, near)
    dx, dy, dz = x - near[0], y - near[1], z - near[2]
    d = np.sqrt(dx * dx + dy * dy + dz * dz)
    # So near to an edge the way to it is rounding; its face tells the side.
    if inside or d < 1e-4:
        side = -1.0 if plane[0] * dx + plane[1] * dy + plane[2] * dz < 0.0 else 1.0
        return d, plane[0] * side, plane[1] * side, plane[2] * side
    return d, dx / d, dy / d, dz / d


@lean_helper
def _meet_triangle(t, plane, r, slop, a, dx, dy, dz, most, near):
    """Return where a way first meets a rounded triangle: (s, x, y, z).

    It meets nothing before it is as near to the triangle's plane; from there on by Newton, as for bodies.
    """
    begin = plane[0] * a[0] + plane[1] * a[1] + plane[2] * a[2] - plane[3]
    toward = plane[0] * dx + plane[1] * dy + plane[2] * dz
    if begin < 0.0:
        begin, toward = -begin, -toward
    s = 0.0
    if begin > r + slop:
        s = (r - begin) / toward
        if s >= most or s < 0.0:
            return NEVER, 0.0, 1.0, 0.0
    first = s == 0.0
    for k in range(32):
        d, nx, ny, nz = from_triangle(t, plane, a[0] + dx * s, a[1] + dy * s, a[2] + dz * s, near)
        f, slope = d - r, nx * dx + ny * dy + nz * dz
        if slope >= 0.0:
            return NEVER, 0.0, 1.0, 0.0
        if f <= 5e-7 or (k == 0 and first and f <= slop):
            return s, nx, ny, nz
        s -= f / slope
        if s >= most:
            return NEVER, 0.0, 1.0, 0.0
    return NEVER, 0.0, 1.0, 0.0


@lean_helper
def _reaches(plane, a, dx, dy, dz, half, more):
    """Return whether a way comes as near as so much to a triangle's plane and to the ball around it; ``half`` is half the way."""
    begin = plane[0] * a[0] + plane[1] * a[1] + plane[2] * a[2] - plane[3]
    end = begin + plane[0] * dx + plane[1] * dy + plane[2] * dz
    x, y, z = a[0] + 0.5 * dx - plane[4], a[1] + 0.5 * dy - plane[5], a[2] + 0.5 * dz - plane[6]
    far = plane[7] + half + more
    return min(begin, end) <= more and max(begin, end) >= -more and x * x + y * y + z * z <= far * far * 1.000001


@lean_helper
def _passes(box, a, lx, ly, lz, hx, hy, hz, ix, iy, iz, r, long):
    """Return whether a way's own box, made larger by r, and for long ways the way itself, touch a box of the tree."""
    if lx > box[3] or hx < box[0] or ly > box[4] or hy < box[1] or lz > box[5] or hz < box[2]:
        return False
    if long:
        t0, t1 = 0.0, 1.0
        near, far = (box[0] - r - a[0]) * ix, (box[3] + r - a[0]) * ix
        t0, t1 = max(t0, min(near, far)), min(t1, max(near, far))
        near, far = (box[1] - r - a[1]) * iy, (box[4] + r - a[1]) * iy
        t0, t1 = max(t0, min(near, far)), min(t1, max(near, far))
        near, far = (box[2] - r - a[2]) * iz, (box[5] + r - a[2]) * iz
        t0, t1 = max(t0, min(near, far)), min(t1, max(near, far))
        return t0 <= t1 + 1e-9
    return True


@lean_helper
def _over(d):
    """Return 1 / d, finite."""
    return 1.0 / d if abs(d) > 1e-12 else 1e12


@lean_helper
def meet_mesh(boxes, links, corners, planes, root, r, slop, a, b, near, stack):
    """Return where the way from a to b first meets a mesh that is rounded by a radius: (s, x, y, z, triangle)."""
    dx, dy, dz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    more, half = r + slop, 0.5 * np.sqrt(dx * dx + dy * dy + dz * dz)
    lx, hx = min(a[0], b[0]) - more, max(a[0], b[0]) + more
    ly, hy = min(a[1], b[1]) - more, max(a[1], b[1]) + more
    lz, hz = min(a[2], b[2]) - more, max(a[2], b[2]) + more
    ix, iy, iz = _over(dx), _over(dy), _over(dz)
    whole = boxes[root]
    wide = (whole[3] - whole[0]) + (whole[4] - whole[1]) + (whole[5] - whole[2])
    long = abs(dx) + abs(dy) + abs(dz) > 0.02 * wide
    best, nx, ny, nz, which = NEVER, 0.0, 1.0, 0.0, -1
    if not _passes(whole, a, lx, ly, lz, hx, hy, hz, ix, iy, iz, more, long):
        return best, nx, ny, nz, which
    count = 1
    stack[0] = root
    while count > 0:
        count -= 1
        at = stack[count]
        first, some = links[at, 0], links[at, 1]
        if some > 0:
            for k in range(first, first + some):
                if not _reaches(planes[k], a, dx, dy, dz, half, more):
                    continue
                s, x, y, z = _meet_triangle(corners[k], planes[k], r, slop, a, dx, dy, dz, min(best, 1.0 + 1e-9), near)
                # Of two that are met at once, the one that is gone into more straightly.
                if s < best or (s == best and s < NEVER and x * dx + y * dy + z * dz < nx * dx + ny * dy + nz * dz):
                    best, nx, ny, nz, which = s, x, y, z, k
            continue
        for k in range(2):
            child = first + k
            if _passes(boxes[child], a, lx, ly, lz, hx, hy, hz, ix, iy, iz, more, long):
                stack[count] = child
                count += 1
    return best, nx, ny, nz, which


@lean_helper
def cell_range(grid, count, a, b, more, out):
    """Write the first and last cell, along each axis, of a way's own box made larger; return how many in all, 0 outside.

    Parameters
    ----------
    grid : float64 array (6,)
        Where the grid begins, and its cells to a metre.
    out : int64 array (6,)
    """
    many = 1
    for k in range(3):
        low = int(np.floor((min(a[k], b[k]) - more - grid[k]) * grid[3 + k]))
        high = int(np.floor((max(a[k], b[k]) + more - grid[k]) * grid[3 + k]))
        if high < 0 or low >= count[k]:
            return 0
        out[k], out[3 + k] = max(low, 0), min(high, count[k] - 1)
        many *= out[3 + k] - out[k] + 1
    return many


@lean_helper
def has_triangles(bits, base, count, span):
    """Return whether there is a triangle in some cells."""
    words = (count[2] + 63) >> 6
    for x in range(span[0], span[3] + 1):
        for y in range(span[1], span[4] + 1):
            row = base + (x * count[1] + y) * words
            for z in range(span[2], span[5] + 1):
                if bits[row + (z >> 6)] >> np.uint64(z & 63) & np.uint64(1) != np.uint64(0):
                    return True
    return False


@lean_helper
def meet_cells(corners, planes, first, listed, base, offset, count, span, r, slop, a, b, near):
    """The same as :func:`meet_mesh` for a short way, by the cells that it lies in; ``offset`` is that of its triangles."""
    dx, dy, dz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    half = 0.5 * np.sqrt(dx * dx + dy * dy + dz * dz)
    best, nx, ny, nz, which = NEVER, 0.0, 1.0, 0.0, -1
    for x in range(span[0], span[3] + 1):
        for y in range(span[1], span[4] + 1):
            row = base + (x * count[1] + y) * count[2]
            for k in range(first[row + span[2]], first[row + span[5] + 1]):
                t = offset + listed[k]
                if not _reaches(planes[t], a, dx, dy, dz, half, r + slop):
                    continue
                s, ux, uy, uz = _meet_triangle(corners[t], planes[t], r, slop, a, dx, dy, dz, min(best, 1.0 + 1e-9), near)
                if s < best or (s == best and s < NEVER and ux * dx + uy * dy + uz * dz < nx * dx + ny * dy + nz * dz):
                    best, nx, ny, nz, which = s, ux, uy, uz, t
    return best, nx, ny, nz, which


@lean_helper
def nearest_of_mesh(boxes, links, corners, root, x, y, z, out, near, stack):
    """Write the point of a mesh nearest to another; return whether that lies behind the nearest faces: inside a closed mesh."""
    best = 1e300
    inward, straight = False, -1.0
    count = 1
    stack[0] = root
    while count > 0:
        count -= 1
        at = stack[count]
        box = boxes[at]
        ex = max(box[0] - x, 0.0, x - box[3])
        ey = max(box[1] - y, 0.0, y - box[4])
        ez = max(box[2] - z, 0.0, z - box[5])
        if ex * ex + ey * ey + ez * ez > best * (1.0 + 1e-9):
            continue
        first, some = links[at, 0], links[at, 1]
        if some == 0:
            stack[count], stack[count + 1] = first, first + 1
            count += 2
            continue
        for k in range(first, first + some):
            t = corners[k]
            nearest_on(t, x, y, z, near)
            dx, dy, dz = x - near[0], y - near[1], z - near[2]
            d = dx * dx + dy * dy + dz * dz
            if d > best * (1.0 + 1e-9) + 1e-18:
                continue
            ux, uy, uz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
            vx, vy, vz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
            nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
            far = max(np.sqrt(nx * nx + ny * ny + nz * nz) * np.sqrt(max(d, 1e-300)), 1e-300)
            side = (nx * dx + ny * dy + nz * dz) / far
            # Where faces share the nearest edge, the one that is seen most straightly tells the side.
            if d < best * (1.0 - 1e-9) - 1e-18 or abs(side) > straight:
                inward, straight = side < 0.0, abs(side)
                out[0], out[1], out[2] = near[0], near[1], near[2]
            best = min(best, d)
    return inward

"""Meshes that particles meet: a tree of boxes around triangles, and where a way first meets one of them.

A tree and not a distance field: a wall of two triangles stays exactly where it is at any thickness, a file of ten
thousand triangles takes a megabyte, and a way of some centimetres looks into a few dozen boxes.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .colliders import NEVER
from .kernels import helper

Floats = NDArray[np.float64]
# Triangles that a box of the tree holds at most; how deep it may be.
LEAF, DEEP = 4, 64
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
    """

    boxes: Floats
    links: NDArray[np.int64]
    corners: Floats


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
    return Tree(np.array(boxes), np.array(links, np.int64), np.ascontiguousarray(corners[order]))


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


@helper
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


@helper
def from_triangle(t, x, y, z, near):
    """Return how far a point is from a triangle and which way: (d, nx, ny, nz); on a face its normal, to the point's side."""
    inside = nearest_on(t, x, y, z, near)
    dx, dy, dz = x - near[0], y - near[1], z - near[2]
    d = np.sqrt(dx * dx + dy * dy + dz * dz)
    # So near to an edge the way to it is rounding; its face tells the side.
    if inside or d < 1e-4:
        ux, uy, uz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
        vx, vy, vz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        far = max(np.sqrt(nx * nx + ny * ny + nz * nz), 1e-30)
        far = -far if nx * dx + ny * dy + nz * dz < 0.0 else far
        return d, nx / far, ny / far, nz / far
    return d, dx / d, dy / d, dz / d


@helper
def _meet_triangle(t, r, slop, a, dx, dy, dz, most, near):
    """Return where a way first meets a rounded triangle: (s, x, y, z); by Newton, as for bodies."""
    s = 0.0
    for k in range(32):
        d, nx, ny, nz = from_triangle(t, a[0] + dx * s, a[1] + dy * s, a[2] + dz * s, near)
        f, slope = d - r, nx * dx + ny * dy + nz * dz
        if slope >= 0.0:
            return NEVER, 0.0, 1.0, 0.0
        if f <= 5e-7 or (k == 0 and f <= slop):
            return s, nx, ny, nz
        s -= f / slope
        if s >= most:
            return NEVER, 0.0, 1.0, 0.0
    return NEVER, 0.0, 1.0, 0.0


@helper
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


@helper
def _over(d):
    """Return 1 / d, finite."""
    return 1.0 / d if abs(d) > 1e-12 else 1e12


@helper
def meet_mesh(boxes, links, corners, root, r, slop, a, b, near, stack):
    """Return where the way from a to b first meets a mesh that is rounded by a radius: (s, x, y, z, triangle)."""
    dx, dy, dz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    more = r + slop
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
                s, x, y, z = _meet_triangle(corners[k], r, slop, a, dx, dy, dz, min(best, 1.0 + 1e-9), near)
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


@helper
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

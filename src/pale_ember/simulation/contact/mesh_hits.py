"""The first hit on a mesh, by its tree for long displacements and by its grid for short ones; and its
nearest point.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from .colliders import back_to_skin, length
from .parabolas import ALONG, NEVER, fall, presses


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
    """Return how far a point is from a triangle and which way: (d, nx, ny, nz); on a face its normal, to
    the point's side.
    """
    inside = nearest_on(t, x, y, z, near)
    dx, dy, dz = x - near[0], y - near[1], z - near[2]
    d = np.sqrt(dx * dx + dy * dy + dz * dz)
    # So near to an edge the way to it is rounding; its face tells the side.
    if inside or d < 1e-10:
        side = -1.0 if plane[0] * dx + plane[1] * dy + plane[2] * dz < 0.0 else 1.0
        return d, plane[0] * side, plane[1] * side, plane[2] * side
    return d, dx / d, dy / d, dz / d


@lean_helper
def _meet_triangle(t, plane, r, slop, along, a, displacement, sagitta, most, near):
    """Return where a way first meets a rounded triangle: (u, x, y, z).

    It meets nothing before it is as near to the triangle's plane; from there on from plane to plane, as for
    bodies. What touches the triangle and goes along it, or away, isn't met there: others may be.
    """
    high = plane[0] * a[0] + plane[1] * a[1] + plane[2] * a[2] - plane[3]
    curve = plane[0] * sagitta[0] + plane[1] * sagitta[1] + plane[2] * sagitta[2]
    slope = plane[0] * displacement[0] + plane[1] * displacement[1] + plane[2] * displacement[2] - curve
    if high < 0.0:
        high, slope, curve = -high, -slope, -curve
    u = 0.0
    if high > r + slop:
        u = fall(high - r + 0.5 * slop, slope, curve)
        if u > most:
            return NEVER, 0.0, 1.0, 0.0
    begins = u == 0.0
    for k in range(64):
        bent, lead = u * u - u, 2.0 * u - 1.0
        x, y, z = (
            a[0] + displacement[0] * u + sagitta[0] * bent,
            a[1] + displacement[1] * u + sagitta[1] * bent,
            a[2] + displacement[2] * u + sagitta[2] * bent,
        )
        d, nx, ny, nz = from_triangle(t, plane, x, y, z, near)
        f = d - r
        curve = nx * sagitta[0] + ny * sagitta[1] + nz * sagitta[2]
        slope = nx * displacement[0] + ny * displacement[1] + nz * displacement[2] + curve * lead
        if k == 0 and begins:
            if presses(f, slope, curve, slop, along):
                return 0.0, nx, ny, nz
        elif f <= -0.25 * slop:
            return back_to_skin(u, f, slope), nx, ny, nz
        u += fall(max(f + 0.5 * slop, 0.0), slope, curve)
        if u > most:
            return NEVER, 0.0, 1.0, 0.0
    return u, nx, ny, nz


@lean_helper
def _reaches(plane, x, y, z, hx, hy, hz, half, more):
    """Return whether a way comes as near as so much to a triangle's plane and to the ball around it.

    x, y, z are the middle of its chord, hx, hy, hz half the way along that, and ``half`` the length of this.
    """
    high = plane[0] * x + plane[1] * y + plane[2] * z - plane[3]
    if abs(high) > more + abs(plane[0] * hx + plane[1] * hy + plane[2] * hz):
        return False
    x, y, z, far = x - plane[4], y - plane[5], z - plane[6], (plane[7] + more) * 1.000001
    apart, along, square = x * x + y * y + z * z, x * hx + y * hy + z * hz, half * half
    # Not behind one of its ends, nor beside it.
    return (
        apart <= (far + half) * (far + half)
        and apart * square - along * along <= far * far * square * 1.000001
    )


@lean_helper
def _is_before(u, x, y, z, best, nx, ny, nz, displacement, sagitta):
    """Return whether one meeting of a way is before another; of two at once, whether it is gone into more
    straightly.
    """
    if u != best:
        return u < best
    lead = 2.0 * u - 1.0
    tx, ty, tz = (
        displacement[0] + sagitta[0] * lead,
        displacement[1] + sagitta[1] * lead,
        displacement[2] + sagitta[2] * lead,
    )
    return x * tx + y * ty + z * tz < nx * tx + ny * ty + nz * tz


@lean_helper
def _passes(box, a, lx, ly, lz, hx, hy, hz, ix, iy, iz, r, long):
    """Return whether a way's own box, made larger by r, and for long ways the way itself, touch a box of
    the tree.
    """
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
def meet_mesh(boxes, links, corners, planes, root, r, slop, a, displacement, sagitta, near, stack):
    """Return where a way first meets a mesh that is rounded by a radius: (u, x, y, z, triangle)."""
    half, bent = 0.5 * length(displacement), 0.25 * length(sagitta)
    along = ALONG * (2.0 * half + 4.0 * bent) + 0.25 * slop
    more = r + slop + bent
    lx, ux = a[0] + min(displacement[0], 0.0) - more, a[0] + max(displacement[0], 0.0) + more
    ly, uy = a[1] + min(displacement[1], 0.0) - more, a[1] + max(displacement[1], 0.0) + more
    lz, uz = a[2] + min(displacement[2], 0.0) - more, a[2] + max(displacement[2], 0.0) + more
    hx, hy, hz = 0.5 * displacement[0], 0.5 * displacement[1], 0.5 * displacement[2]
    mx, my, mz = a[0] + hx, a[1] + hy, a[2] + hz
    ix, iy, iz = _over(displacement[0]), _over(displacement[1]), _over(displacement[2])
    whole = boxes[root]
    wide = (whole[3] - whole[0]) + (whole[4] - whole[1]) + (whole[5] - whole[2])
    long = abs(displacement[0]) + abs(displacement[1]) + abs(displacement[2]) > 0.02 * wide
    best, nx, ny, nz, which = NEVER, 0.0, 1.0, 0.0, -1
    if not _passes(whole, a, lx, ly, lz, ux, uy, uz, ix, iy, iz, more, long):
        return best, nx, ny, nz, which
    count = 1
    stack[0] = root
    while count > 0:
        count -= 1
        at = stack[count]
        first, some = links[at, 0], links[at, 1]
        if some > 0:
            for k in range(first, first + some):
                if _reaches(planes[k], mx, my, mz, hx, hy, hz, half, more):
                    u, x, y, z = _meet_triangle(
                        corners[k], planes[k], r, slop, along, a, displacement, sagitta, min(best, 1.0), near
                    )
                    if u <= 1.0 and _is_before(u, x, y, z, best, nx, ny, nz, displacement, sagitta):
                        best, nx, ny, nz, which = u, x, y, z, k
            continue
        for k in range(2):
            child = first + k
            if _passes(boxes[child], a, lx, ly, lz, ux, uy, uz, ix, iy, iz, more, long):
                stack[count] = child
                count += 1
    return best, nx, ny, nz, which


@lean_helper
def cell_range(grid, count, a, b, more, out):
    """Write the first and last cell, along each axis, of a way's own box made larger; return how many in all,
    0 outside.

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
def comes_to_triangle(planes, first, listed, base, offset, count, span, a, b, more):
    """Return whether a short way from a to b may come as near as so much to any triangle of the cells
    that it lies in.
    """
    hx, hy, hz = 0.5 * (b[0] - a[0]), 0.5 * (b[1] - a[1]), 0.5 * (b[2] - a[2])
    mx, my, mz = a[0] + hx, a[1] + hy, a[2] + hz
    half = np.sqrt(hx * hx + hy * hy + hz * hz)
    for x in range(span[0], span[3] + 1):
        for y in range(span[1], span[4] + 1):
            row = base + (x * count[1] + y) * count[2]
            for k in range(first[row + span[2]], first[row + span[5] + 1]):
                if _reaches(planes[offset + listed[k]], mx, my, mz, hx, hy, hz, half, more):
                    return True
    return False


@lean_helper
def meet_cells(
    corners, planes, first, listed, base, offset, count, span, r, slop, a, displacement, sagitta, near
):
    """The same as :func:`meet_mesh` for a short way, by the cells that it lies in; ``offset`` is that of
    its triangles.
    """
    half, bent = 0.5 * length(displacement), 0.25 * length(sagitta)
    along = ALONG * (2.0 * half + 4.0 * bent) + 0.25 * slop
    more = r + slop + bent
    hx, hy, hz = 0.5 * displacement[0], 0.5 * displacement[1], 0.5 * displacement[2]
    mx, my, mz = a[0] + hx, a[1] + hy, a[2] + hz
    best, nx, ny, nz, which = NEVER, 0.0, 1.0, 0.0, -1
    for x in range(span[0], span[3] + 1):
        for y in range(span[1], span[4] + 1):
            row = base + (x * count[1] + y) * count[2]
            for k in range(first[row + span[2]], first[row + span[5] + 1]):
                t = offset + listed[k]
                if _reaches(planes[t], mx, my, mz, hx, hy, hz, half, more):
                    u, ux, uy, uz = _meet_triangle(
                        corners[t], planes[t], r, slop, along, a, displacement, sagitta, min(best, 1.0), near
                    )
                    if u <= 1.0 and _is_before(u, ux, uy, uz, best, nx, ny, nz, displacement, sagitta):
                        best, nx, ny, nz, which = u, ux, uy, uz, t
    return best, nx, ny, nz, which


@lean_helper
def nearest_of_mesh(boxes, links, corners, root, x, y, z, out, near, stack):
    """Write the point of a mesh nearest to another; return whether that lies behind the nearest faces:
    inside a closed mesh.
    """
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

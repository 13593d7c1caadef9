"""Where the way of one particle first meets something: floor, bodies, meshes, resting or moving."""

from __future__ import annotations

import numpy as np

from .colliders import MESH, NEVER, body_distance, meet_body, put_out_of_body, rounded, unit
from .course import CENTRE, ROTATION, STRETCH
from .kernels import lean_helper
from .triangles import SHORT, SKIN, cell_range, from_triangle, has_triangles, meet_cells, meet_mesh, nearest_of_mesh

# What a particle has met besides a prop's place: the floor; nothing.
FLOOR, NOTHING_MET = 64, -1
# How little a way may go into what it touches, as a share of its length, and still go along it.
ALONG = 1e-7


@lean_helper
def first_fall(a, b, c, slop):
    """Return the first s, 0…1, at which a s² + b s + c comes down to 0; at once where it is there and falls. NEVER if none."""
    if c <= slop:
        if b < 0.0 or (b <= 0.0 and a < 0.0):
            return 0.0
        if a < 0.0 and -b / a <= 1.0:
            return -b / a
        return NEVER
    if abs(a) < 1e-30:
        s = -c / b if b < 0.0 else NEVER
        return s if s <= 1.0 else NEVER
    root = b * b - 4.0 * a * c
    if root < 0.0:
        return NEVER
    # Without taking near numbers from each other (W. Kahan).
    q = -0.5 * (b + (np.sqrt(root) if b >= 0.0 else -np.sqrt(root)))
    first, second = q / a, c / q if q != 0.0 else NEVER
    low, high = min(first, second), max(first, second)
    s = low if low > 0.0 else high
    return s if 0.0 < s <= 1.0 else NEVER


@lean_helper
def place_prop(world, prop, share, centre, turn):
    """Write where a prop stands after a share of the step: its foot's middle, and its rotation (3, 3); return its stretch."""
    begin, end, way = world.poses[0, prop], world.poses[1, prop], world.turn[prop]
    for i in range(3):
        centre[i] = begin[CENTRE + i] + (end[CENTRE + i] - begin[CENTRE + i]) * share
    if way[3] == 0.0 or share == 0.0:
        for i in range(3):
            for k in range(3):
                turn[i, k] = begin[ROTATION + 3 * i + k]
    elif share == 1.0:
        for i in range(3):
            for k in range(3):
                turn[i, k] = end[ROTATION + 3 * i + k]
    else:
        x, y, z = way[0], way[1], way[2]
        sin, cos = np.sin(way[3] * share), np.cos(way[3] * share)
        for k in range(3):
            a, b, c = begin[ROTATION + k], begin[ROTATION + 3 + k], begin[ROTATION + 6 + k]
            along = (x * a + y * b + z * c) * (1.0 - cos)
            turn[0, k] = a * cos + (y * c - z * b) * sin + x * along
            turn[1, k] = b * cos + (z * a - x * c) * sin + y * along
            turn[2, k] = c * cos + (x * b - y * a) * sin + z * along
    return begin[STRETCH] + (end[STRETCH] - begin[STRETCH]) * share


@lean_helper
def where_it_was(world, prop, centre, turn):
    """Write where a prop stood at the end of the step before, as :func:`place_prop` does."""
    was = world.poses[2, prop]
    for i in range(3):
        centre[i] = was[CENTRE + i]
        for k in range(3):
            turn[i, k] = was[ROTATION + 3 * i + k]
    return was[STRETCH]


@lean_helper
def into_prop(centre, turn, stretch, x, y, z, out):
    """Write a place in the world as one in a prop's axes, m of its unstretched body, from its foot's middle."""
    x, y, z = x - centre[0], y - centre[1], z - centre[2]
    for k in range(3):
        out[k] = (turn[0, k] * x + turn[1, k] * y + turn[2, k] * z) / stretch


@lean_helper
def out_of_prop(centre, turn, stretch, at, out):
    """Write a place in a prop's axes as one in the world."""
    for i in range(3):
        out[i] = centre[i] + (turn[i, 0] * at[0] + turn[i, 1] * at[1] + turn[i, 2] * at[2]) * stretch


@lean_helper
def _rise(n, dx, dy, dz):
    return dx * n[0] + dy * n[1] + dz * n[2]


@lean_helper
def comes_near(world, prop, p, q, more, newborn, a, b, stack):
    """Return whether a way from p to q, both in the world, comes nearer than so much to a resting prop's body or cells.

    What was just born may be inside a closed mesh, far from its skin.
    """
    pose, half = world.poses[0, prop], world.half[prop]
    over = 1.0 / pose[STRETCH]
    x, y, z = p[0] - pose[CENTRE], p[1] - pose[CENTRE + 1], p[2] - pose[CENTRE + 2]
    u, v, w = q[0] - pose[CENTRE], q[1] - pose[CENTRE + 1], q[2] - pose[CENTRE + 2]
    more *= over
    for k in range(3):
        c0, c1, c2 = pose[ROTATION + k] * over, pose[ROTATION + 3 + k] * over, pose[ROTATION + 6 + k] * over
        a[k], b[k] = c0 * x + c1 * y + c2 * z, c0 * u + c1 * v + c2 * w
        low = 0.0 if k == 1 else -half[k]
        if min(a[k], b[k]) - more > low + 2.0 * half[k] or max(a[k], b[k]) + more < low:
            return False
    if world.kind[prop] != MESH or world.roots[prop] < 0 or (newborn and world.closed[prop] != 0):
        return True
    many = cell_range(world.grids[prop], world.counts[prop], a, b, more, stack)
    if many == 0 or many > SHORT * SHORT * SHORT:
        return many > 0
    return has_triangles(world.bits, world.counts[prop, 5], world.counts[prop], stack)


@lean_helper
def meet_prop(world, prop, radius, slop, share, p, way, bow, work, turn, stack):
    """Find where a particle's way meets a prop.

    The way over what is left of the step is ``p + way s + bow (s² - s)``; it is looked at in the prop's axes, so that
    one that moves is met where it is by then. Its chord tells what is met, the bow when.

    Parameters
    ----------
    share : float
        How much of the step has passed where the way begins.
    work : float64 array (8, 3)
        Memory; row 0 is given the outward direction in the world, row 1 the place met in the prop's axes, row 2 the
        place that the particle is put out to, in the world.

    Returns
    -------
    float
        The share of the way; NEVER if it meets nothing, below 0 where it begins inside and is put out.
    """
    normal, met, put, centre, a, b, own, near = (
        work[0], work[1], work[2], work[3], work[4], work[5], work[6], work[7]
    )  # fmt: skip
    stretch = place_prop(world, prop, 1.0, centre, turn)
    into_prop(centre, turn, stretch, p[0] + way[0], p[1] + way[1], p[2] + way[2], b)
    still = world.turn[prop, 3] == 0.0 and world.poses[0, prop, STRETCH] == world.poses[1, prop, STRETCH]
    if world.movers.shape[0] > 0:
        stretch = place_prop(world, prop, share, centre, turn)
    into_prop(centre, turn, stretch, p[0], p[1], p[2], a)
    kind, r = world.kind[prop], radius / stretch
    hx, hy, hz = world.half[prop, 0], world.half[prop, 1], world.half[prop, 2]
    within = slop / stretch
    which = -1
    # Who stays outside the body's own box meets nothing.
    reach = r + within
    apart = min(a[0], b[0]) > hx + reach or max(a[0], b[0]) < -hx - reach or min(a[2], b[2]) > hz + reach
    apart |= max(a[2], b[2]) < -hz - reach or min(a[1], b[1]) > 2.0 * hy + reach or max(a[1], b[1]) < -reach
    if apart:
        return NEVER
    if kind == MESH:
        root = world.roots[prop]
        r = max(r, SKIN, 4.0 * within)
        if root < 0:
            return NEVER
        count = world.counts[prop]
        many = cell_range(world.grids[prop], count, a, b, r + within, stack)
        if many == 0:
            return NEVER
        if many <= SHORT * SHORT * SHORT:
            s, nx, ny, nz, which = meet_cells(
                world.corners, world.planes, world.first, world.listed, count[3], count[4], count, stack, r, within, a, b, near
            )
        else:
            s, nx, ny, nz, which = meet_mesh(
                world.nodes, world.links, world.corners, world.planes, root, r, within, a, b, near, stack
            )
        if which < 0:
            return NEVER
    else:
        a[1] -= hy
        b[1] -= hy
        s, nx, ny, nz = meet_body(kind, hx, hy, hz, r, within, a, b)
    dx, dy, dz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    if s == NEVER:
        return NEVER
    far = np.sqrt(dx * dx + dy * dy + dz * dz)
    # What touches and goes along is not met.
    if s == 0.0 and nx * dx + ny * dy + nz * dz > -ALONG * far:
        return NEVER
    own[0], own[1], own[2] = nx, ny, nz
    if s < 0.0:
        put_out_of_body(kind, hx, hy, hz, r, a)
        a[1] += hy
        out_of_prop(centre, turn, stretch, a, put)
    else:
        # The bow in the prop's axes.
        for k in range(3):
            near[k] = (turn[0, k] * bow[0] + turn[1, k] * bow[1] + turn[2, k] * bow[2]) / stretch
        high = -_rise(own, dx, dy, dz) * s
        for turns in range(2):
            # Where the bowed way falls through the plane that is met, from its height over it at the beginning.
            top = _rise(own, near[0], near[1], near[2])
            found = first_fall(top, _rise(own, dx, dy, dz) - top, high, 1e-9)
            if found == NEVER:
                if s == 0.0:
                    # It leaves, and its bow doesn't bring it back in this step.
                    return NEVER
                found = s
            k = found * found - found
            met[0], met[1], met[2] = a[0] + dx * found + near[0] * k, a[1] + dy * found + near[1] * k, a[2] + dz * found + near[2] * k
            if kind == MESH:
                d, nx, ny, nz = from_triangle(world.corners[which], world.planes[which], met[0], met[1], met[2], put)
            else:
                ex, ey, ez, er = rounded(kind, hx, hy, hz, r)
                d, nx, ny, nz = body_distance(kind, ex, ey, ez, met[0], met[1], met[2])
                nx, ny, nz = unit(nx, ny, nz)
                d -= er - r
            if d - r > 1e-3 and s == 0.0:
                # Where it would come back there is no surface any more.
                return NEVER
            s = found
            if turns == 0 and (kind == MESH or (nx - own[0]) ** 2 + (ny - own[1]) ** 2 + (nz - own[2]) ** 2 < 1e-12):
                break
            own[0], own[1], own[2] = nx, ny, nz
            # The plane at the curved skin there.
            high = _rise(own, a[0] - met[0], a[1] - met[1], a[2] - met[2]) + d - r
        if kind != MESH:
            met[1] += hy
        if not still:
            place_prop(world, prop, share + (1.0 - share) * s, centre, turn)
    for i in range(3):
        normal[i] = turn[i, 0] * own[0] + turn[i, 1] * own[1] + turn[i, 2] * own[2]
    return s


@lean_helper
def put_out_of_mesh(world, prop, radius, share, p, work, turn, stack):
    """Move a place inside a closed mesh to its skin; return whether it was inside, with the outward direction in row 0."""
    normal, out, a, near, centre = work[0], work[1], work[4], work[7], work[3]
    stretch = place_prop(world, prop, share, centre, turn)
    into_prop(centre, turn, stretch, p[0], p[1], p[2], a)
    root, r = world.roots[prop], max(radius / stretch, SKIN)
    box = world.nodes[root]
    for i in range(3):
        if a[i] < box[i] or a[i] > box[3 + i]:
            return False
    if not nearest_of_mesh(world.nodes, world.links, world.corners, root, a[0], a[1], a[2], out, near, stack):
        return False
    nx, ny, nz = unit(out[0] - a[0], out[1] - a[1], out[2] - a[2])
    out[0], out[1], out[2] = out[0] + nx * r, out[1] + ny * r, out[2] + nz * r
    out_of_prop(centre, turn, stretch, out, p)
    for i in range(3):
        normal[i] = turn[i, 0] * nx + turn[i, 1] * ny + turn[i, 2] * nz
    return True

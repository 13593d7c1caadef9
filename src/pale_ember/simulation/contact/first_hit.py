"""The first hit of one particle on one prop: a solid or a mesh, at rest or moving. Called by :mod:`.hits`.

A way is looked at in the prop's own axes. There the way past what only shifts is a parabola too (see
:mod:`.parabolas`). The way past what turns or grows is made of so many parabolas that each stays within a few
millionths of a metre of it; they join end to end, so nothing slips between two of them.
"""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from ..layout.program import CENTRE, ROTATION, STRETCH
from ..motion.prop_axes import into_prop, out_of_prop, place_prop
from .colliders import MESH, body_distance, length, meet_body, put_out_of_body, rounded, slop_at, unit
from .mesh_hits import (
    cell_range,
    comes_to_triangle,
    from_triangle,
    has_triangles,
    meet_cells,
    meet_mesh,
    nearest_of_mesh,
)
from .mesh_trees import SHORT, SKIN
from .parabolas import NEVER

# Results besides a prop's index: the floor, nothing.
FLOOR, NOTHING_MET = 64, -1
# How far a parabola may lie beside the way past what turns, m; how many of them there are at most.
BESIDE, MOST_PIECES = 2e-6, 64


@lean_helper
def comes_near(world, prop, p, q, more, newborn, a, b, stack):
    """Return whether a way from p to q, both in the world, comes nearer than so much to a resting prop's body
    or cells.

    What was just born may be inside a closed mesh, far from its skin.
    """
    pose, half = world.poses[0, prop], world.half[prop]
    over = 1.0 / pose[STRETCH]
    # The skin of meshes is thicker far away, where places are rounded more.
    more += 5.0 * slop_at(max(abs(p[0]), abs(p[1]), abs(p[2])))
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
    count = world.counts[prop]
    many = cell_range(world.grids[prop], count, a, b, more, stack)
    if many == 0 or many > SHORT * SHORT * SHORT:
        return many > 0
    if not has_triangles(world.bits, count[5], count, stack):
        return False
    return comes_to_triangle(
        world.planes, world.first, world.listed, count[3], count[4], count, stack, a, b, more
    )


@lean_helper
def _is_apart(half, reach, a, displacement, sagitta):
    """Return whether a way in a prop's axes stays outside the body's own box, made larger by so much."""
    for k in range(3):
        more = reach + 0.25 * abs(sagitta[k])
        low, high = (0.0, 2.0 * half[k]) if k == 1 else (-half[k], half[k])
        if a[k] + min(displacement[k], 0.0) - more > high or a[k] + max(displacement[k], 0.0) + more < low:
            return True
    return False


@lean_helper
def _meet_here(world, prop, r, within, a, displacement, sagitta, near, stack):
    """Return where a way in a prop's axes meets it, the outward direction, and of a mesh the triangle:
    (u, x, y, z, triangle).
    """
    half = world.half[prop]
    if _is_apart(half, r + within, a, displacement, sagitta):
        return NEVER, 0.0, 1.0, 0.0, -1
    if world.kind[prop] == MESH:
        root, count = world.roots[prop], world.counts[prop]
        if root < 0:
            return NEVER, 0.0, 1.0, 0.0, -1
        for k in range(3):
            near[k] = a[k] + displacement[k]
        many = cell_range(world.grids[prop], count, a, near, r + within + 0.25 * length(sagitta), stack)
        if many == 0:
            return NEVER, 0.0, 1.0, 0.0, -1
        if many <= SHORT * SHORT * SHORT:
            return meet_cells(
                world.corners,
                world.planes,
                world.first,
                world.listed,
                count[3],
                count[4],
                count,
                stack,
                r,
                within,
                a,
                displacement,
                sagitta,
                near,
            )
        return meet_mesh(
            world.nodes,
            world.links,
            world.corners,
            world.planes,
            root,
            r,
            within,
            a,
            displacement,
            sagitta,
            near,
            stack,
        )
    a[1] -= half[1]
    u, x, y, z = meet_body(world.kind[prop], half[0], half[1], half[2], r, within, a, displacement, sagitta)
    a[1] += half[1]
    return u, x, y, z, -1


@lean_helper
def _place_met(world, prop, r, within, u, nx, ny, nz, which, a, displacement, sagitta, near, met):
    """Write the place at a share of a way, in a prop's axes, no deeper in its skin than rounding goes."""
    bent, half = u * u - u, world.half[prop]
    for k in range(3):
        met[k] = a[k] + displacement[k] * u + sagitta[k] * bent
    if world.kind[prop] == MESH:
        d, nx, ny, nz = from_triangle(world.corners[which], world.planes[which], met[0], met[1], met[2], near)
    else:
        ex, ey, ez, er = rounded(world.kind[prop], half[0], half[1], half[2], r)
        d, _, _, _ = body_distance(world.kind[prop], ex, ey, ez, met[0], met[1] - half[1], met[2])
        d += r - er
    if d - r < -0.25 * within:
        met[0], met[1], met[2] = met[0] + nx * (r - d), met[1] + ny * (r - d), met[2] + nz * (r - d)


@lean_helper
def _turns(world, prop):
    """Return whether a prop turns or grows in this step."""
    return world.turn[prop, 3] != 0.0 or world.poses[0, prop, STRETCH] != world.poses[1, prop, STRETCH]


@lean_helper
def _shifts(world, prop):
    """Return whether a prop is at different places at the step's beginning and end."""
    begin, end = world.poses[0, prop], world.poses[1, prop]
    return (
        begin[CENTRE] != end[CENTRE]
        or begin[CENTRE + 1] != end[CENTRE + 1]
        or begin[CENTRE + 2] != end[CENTRE + 2]
    )


@lean_helper
def _pieces(world, prop, share, p, displacement, sagitta):
    """Return how many parabolas the way past a turning prop is made of: by the third derivative that it
    has at most.
    """
    begin, end = world.poses[0, prop], world.poses[1, prop]
    left = 1.0 - share
    least = min(begin[STRETCH], end[STRETCH])
    turned = (abs(world.turn[prop, 3]) + abs(end[STRETCH] - begin[STRETCH]) / least) * left
    far, gone = 0.0, 0.0
    for k in range(3):
        far += (p[k] - begin[CENTRE + k]) ** 2
        gone += (end[CENTRE + k] - begin[CENTRE + k]) ** 2
    gone = np.sqrt(gone) * left + length(displacement) + length(sagitta)
    far = np.sqrt(far) + gone
    third = turned * (turned * (turned * far + 3.0 * gone) + 6.0 * length(sagitta)) / least
    # Between three places of a parabola that has them the error is at most 1 / 72 √3 of that (of the way's
    # length cubed).
    return (
        int(min(np.ceil((0.00802 * third / BESIDE) ** (1.0 / 3.0)), np.float64(MOST_PIECES)))
        if third > 0.0
        else 1
    )


@lean_helper
def _lay_past_turning(world, prop, share, first, last, p, displacement, sagitta, a, w, b, centre, turn):
    """Write a piece of a way, from one share to another, as a parabola in the axes of a prop that turns;
    return its least stretch.
    """
    least = 1e300
    for k in range(3):
        u = first + (last - first) * 0.5 * k
        stretch = place_prop(world, prop, share + (1.0 - share) * u, centre, turn)
        least = min(least, stretch)
        bent = u * u - u
        out = a if k == 0 else (b if k == 1 else w)
        into_prop(
            centre,
            turn,
            stretch,
            p[0] + displacement[0] * u + sagitta[0] * bent,
            p[1] + displacement[1] * u + sagitta[1] * bent,
            p[2] + displacement[2] * u + sagitta[2] * bent,
            out,
        )
    for k in range(3):
        w[k] -= a[k]
        b[k] = 4.0 * a[k] + 2.0 * w[k] - 4.0 * b[k]
    return least


@lean_helper
def _lay_past(world, prop, share, p, displacement, sagitta, a, w, b, centre, turn):
    """Write a way as one in the axes of a prop that doesn't turn; return its stretch."""
    moves = _shifts(world, prop)
    stretch = place_prop(world, prop, share if moves else 0.0, centre, turn)
    into_prop(centre, turn, stretch, p[0], p[1], p[2], a)
    if moves:
        place_prop(world, prop, 1.0, centre, turn)
    into_prop(
        centre, turn, stretch, p[0] + displacement[0], p[1] + displacement[1], p[2] + displacement[2], w
    )
    for k in range(3):
        w[k] -= a[k]
        b[k] = (turn[0, k] * sagitta[0] + turn[1, k] * sagitta[1] + turn[2, k] * sagitta[2]) / stretch
    return stretch


@lean_helper
def meet_prop(world, prop, radius, slop, share, p, displacement, sagitta, work, turn, stack):
    """Find where a particle's way meets a prop, at rest or in motion.

    Parameters
    ----------
    share : float
        How much of the step has passed where the way begins; it ends with the step.
    work : float64 array (8, 3)
        Memory; row 0 is given the outward direction in the world, row 1 the place met in the prop's axes, row
        2 the place met in the world, or that which the particle is put out to.

    Returns
    -------
    float
        The share of the way; NEVER if it meets nothing, below 0 where it begins inside and is put out.
    """
    normal, met, put, centre, a, w, b, near = (
        work[0],
        work[1],
        work[2],
        work[3],
        work[4],
        work[5],
        work[6],
        work[7],
    )
    turns = _turns(world, prop)
    pieces = _pieces(world, prop, share, p, displacement, sagitta) if turns else 1
    half = world.half[prop]
    for piece in range(pieces):
        first, last = piece / pieces, (piece + 1) / pieces
        if turns:
            stretch = _lay_past_turning(
                world, prop, share, first, last, p, displacement, sagitta, a, w, b, centre, turn
            )
        else:
            stretch = _lay_past(world, prop, share, p, displacement, sagitta, a, w, b, centre, turn)
        r, within = radius / stretch, slop / stretch
        if world.kind[prop] == MESH:
            r = max(r, SKIN, 4.0 * within)
        u, nx, ny, nz, which = _meet_here(world, prop, r, within, a, w, b, near, stack)
        if u == NEVER:
            continue
        if u < 0.0:
            a[1] -= half[1]
            put_out_of_body(world.kind[prop], half[0], half[1], half[2], r, a)
            a[1] += half[1]
            for k in range(3):
                met[k] = a[k]
        else:
            _place_met(world, prop, r, within, u, nx, ny, nz, which, a, w, b, near, met)
        s = first + (last - first) * max(u, 0.0)
        stretch = place_prop(world, prop, share + (1.0 - share) * s, centre, turn)
        out_of_prop(centre, turn, stretch, met, put)
        for i in range(3):
            normal[i] = turn[i, 0] * nx + turn[i, 1] * ny + turn[i, 2] * nz
        # Inside it begins only with the first piece; what rounding puts there later is put out at once too.
        return u if u < 0.0 and piece == 0 else s
    return NEVER


@lean_helper
def meet_shift(world, prop, slop, begin, end, p, q, work, turn, stack):
    """Return the share of a straight shift, as a prop sees it, at which the middle of a particle comes to the
    prop's skin.

    Parameters
    ----------
    begin, end : float
        The shares of the step at which the particle is at ``p`` and at ``q``.
    work : float64 array (8, 3)
        Memory; row 2 is given the place that it comes to, at ``end``.
    """
    met, put, centre, a, w, b, near = work[1], work[2], work[3], work[4], work[5], work[6], work[7]
    last = place_prop(world, prop, end, centre, turn)
    into_prop(centre, turn, last, q[0], q[1], q[2], w)
    stretch = place_prop(world, prop, begin, centre, turn)
    into_prop(centre, turn, stretch, p[0], p[1], p[2], a)
    stretch = min(stretch, last)
    for k in range(3):
        w[k] -= a[k]
        b[k] = 0.0
    within = slop / stretch
    r = max(SKIN, 4.0 * within) if world.kind[prop] == MESH else 0.0
    u, nx, ny, nz, which = _meet_here(world, prop, r, within, a, w, b, near, stack)
    if u == NEVER:
        return NEVER
    if u < 0.0:
        # Hardly in, by what others have pushed it, it goes no deeper; deep in, this prop doesn't hold it.
        half = world.half[prop]
        d, _, _, _ = body_distance(world.kind[prop], half[0], half[1], half[2], a[0], a[1] - half[1], a[2])
        if d < -20.0 * within or nx * w[0] + ny * w[1] + nz * w[2] >= 0.0:
            return NEVER
        for k in range(3):
            met[k] = a[k]
        u = 0.0
    else:
        _place_met(world, prop, r, within, u, nx, ny, nz, which, a, w, b, near, met)
    if world.kind[prop] != MESH:
        # Along a body's skin it goes on: that bends away, and what else it may come to is asked too.
        into = nx * w[0] + ny * w[1] + nz * w[2]
        met[0], met[1], met[2] = (
            met[0] + (1.0 - u) * (w[0] - into * nx),
            met[1] + (1.0 - u) * (w[1] - into * ny),
            met[2] + (1.0 - u) * (w[2] - into * nz),
        )
    stretch = place_prop(world, prop, end, centre, turn)
    out_of_prop(centre, turn, stretch, met, put)
    return u


@lean_helper
def put_out_of_mesh(world, prop, radius, share, p, work, turn, stack):
    """Move a place inside a closed mesh to its skin; return whether it was inside, with the outward
    direction in row 0.
    """
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

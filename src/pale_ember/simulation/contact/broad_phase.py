"""The broad phase of contact: for whole blocks of particles, which props each may touch in a step."""

from __future__ import annotations

import numpy as np

from ..kernels.compiling import lean_helper
from ..layout import rows, scratch
from .first_hit import comes_near

# Bits of all props: a way that is too long for the grid may come to any.
ALL = np.uint64(0xFFFFFFFFFFFFFFFF)


@lean_helper
def within(world, p, far):
    """Return the props that are nearer to a place than so much, and those that move, a bit for each."""
    mask = np.uint64(0)
    for prop in range(world.kind.shape[0]):
        ball = world.balls[prop]
        x, y, z = p[0] - ball[0], p[1] - ball[1], p[2] - ball[2]
        if x * x + y * y + z * z <= (far + ball[3]) ** 2:
            mask |= np.uint64(1) << np.uint64(prop)
    for k in range(world.movers.shape[0]):
        mask |= np.uint64(1) << np.uint64(world.movers[k])
    return mask


@lean_helper
def _of_cells(world, low, high):
    """Return the resting props that a box of the world may touch, a bit for each."""
    grid = world.grid
    found = np.uint64(0)
    count = 1
    for k in range(3):
        first = int(np.floor((low[k] - world.low[k]) * world.dense[k]))
        last = int(np.floor((high[k] - world.low[k]) * world.dense[k]))
        if last < 0 or first >= grid.shape[k]:
            return found
        low[k], high[k] = max(first, 0), min(last, grid.shape[k] - 1)
        count *= int(high[k] - low[k]) + 1
    if count > 4096:
        return ALL
    for x in range(int(low[0]), int(high[0]) + 1):
        for y in range(int(low[1]), int(high[1]) + 1):
            for z in range(int(low[2]), int(high[2]) + 1):
                found |= grid[x, y, z]
    return found


@lean_helper
def find_cells(world, state, scr, start, n, margin):
    """Find the cell of the grid over resting props that each way ends in: -1 outside, -2 for ways longer than
    a cell.

    Cells know what lies in their neighbours too, so that for short ways one look is enough.
    """
    # In short loops of few rows, which compilers make into vectors.
    cell, where, sagitta = scr[scratch.CELL].view(np.int32), scr[scratch.T0], scr[scratch.T1]
    none, one, two = np.float32(0.0), np.float32(1.0), np.float32(2.0)
    for i in range(n):
        cell[i] = np.int32(0)
        where[i] = none
    for axis in range(3):
        low, dense = np.float32(world.low[axis]), np.float32(world.dense[axis])
        count, last = np.int32(world.grid.shape[axis]), np.float32(world.grid.shape[axis] - 1)
        p0, p1 = scr[scratch.P0X + axis], state[rows.PX + axis][start : start + n]
        for i in range(n):
            long = (abs(p1[i] - p0[i]) + sagitta[i]) * dense
            where[i] = max(where[i], two if long > np.float32(0.98) else none)
        for i in range(n):
            at = (p1[i] - low) * dense
            where[i] = max(where[i], one if at < none or at >= last + one else none)
            cell[i] = cell[i] * count + np.int32(min(max(at, none), last))
    for i in range(n):
        cell[i] = np.int32(-2) if where[i] > one else (np.int32(-1) if where[i] > none else cell[i])


@lean_helper
def find_bows(state, scr, start, n):
    """Fill a row with how far each way may leave its chord, along any axis."""
    sagitta, span, pace, eighth = scr[scratch.T1], scr[scratch.SPAN], scr[scratch.PACE], np.float32(0.125)
    for i in range(n):
        sagitta[i] = np.float32(0.0)
    for axis in range(3):
        v0, v1 = scr[scratch.V0X + axis], state[rows.VX + axis][start : start + n]
        for i in range(n):
            sagitta[i] = max(sagitta[i], abs(v1[i] - v0[i]))
    for i in range(n):
        sagitta[i] *= abs(pace[i] * span[i]) * eighth


@lean_helper
def candidates(world, state, scr, i, j, found, margin, newborn, work, stack):
    """Return the props, a bit for each, that a way may come to: of those that its cell holds, and of
    those that move.
    """
    mask = np.uint64(0)
    props, movers = world.kind.shape[0], world.movers.shape[0]
    x0, y0, z0 = scr[scratch.P0X, i], scr[scratch.P0Y, i], scr[scratch.P0Z, i]
    x, y, z = state[rows.PX, j], state[rows.PY, j], state[rows.PZ, j]
    sagitta = scr[scratch.T1, i]
    far = max(abs(x - x0), abs(y - y0), abs(z - z0)) * np.float32(1.7321) + sagitta * np.float32(2.0) + margin
    filled = False
    if found == ALL or movers > 0:
        for k in range(3):
            a, b = np.float64(scr[scratch.P0X + k, i]), np.float64(state[rows.PX + k, j])
            work[2, k], work[3, k] = min(a, b) - sagitta, max(a, b) + sagitta
            work[4, k], work[5, k] = work[2, k] - margin, work[3, k] + margin
        if found == ALL:
            found = _of_cells(world, work[4], work[5])
        for k in range(movers):
            prop = world.movers[k]
            box, more = world.boxes[prop], world.widest + 1e-3
            apart = False
            for axis in range(3):
                apart |= work[2, axis] > box[3 + axis] + more or work[3, axis] < box[axis] - more
            if not apart:
                mask |= np.uint64(1) << np.uint64(prop)
    prop = 0
    while found != np.uint64(0) and prop < props:
        if found & np.uint64(1) != np.uint64(0):
            ball = world.balls[prop]
            dx, dy, dz = x - ball[0], y - ball[1], z - ball[2]
            reach = ball[3] + far
            if dx * dx + dy * dy + dz * dz <= reach * reach:
                if not filled:
                    for k in range(3):
                        work[0, k], work[1, k] = scr[scratch.P0X + k, i], state[rows.PX + k, j]
                    filled = True
                if comes_near(
                    world,
                    prop,
                    work[0],
                    work[1],
                    margin + sagitta * np.float32(1.7321),
                    newborn,
                    work[6],
                    work[7],
                    stack,
                ):
                    mask |= np.uint64(1) << np.uint64(prop)
        found >>= np.uint64(1)
        prop += 1
    return mask

"""What breaks, burns and strikes: shards, cracks, bolts, scorches, grain."""

from __future__ import annotations

import itertools
import math

import numpy as np
from numba import njit

from ...effect.steps.makers import Bolt, Crack, Grain, Scorch, Shard
from . import noise
from .canvas import Canvas, Floats, dice, fall_off, grid, smoothstep
from .lines import draw_lines

# Pieces of a bolt, and of a crack.
_BENDS, _PIECES = 6, 18


def shard(step: Shard, canvas: Canvas) -> Floats:
    """Return a shard: an uneven polygon whose faces reach up to a peak."""
    x, y = grid(canvas.size)
    turn = math.radians(canvas.number(step.turn))
    c, s = np.float32(math.cos(turn)), np.float32(math.sin(turn))
    x, y = x * c + y * s, y * c - x * s
    reach, slender, uneven = (
        max(canvas.number(step.reach), 1e-3),
        canvas.number(step.slender),
        canvas.number(step.uneven),
    )
    draws = [[dice(canvas.seed, canvas.dice_of(step), i, k) for k in range(3)] for i in range(step.sides)]
    turns = [
        2.0 * math.pi * (i + 0.8 * uneven * (draws[i][0] - 0.5)) / step.sides + math.pi / 2
        for i in range(step.sides)
    ]
    longs = [reach * (1.0 - 0.6 * uneven * draws[i][1]) for i in range(step.sides)]
    thin = 1.0 - 0.8 * slender
    corners = [(long * math.cos(t) * thin, long * math.sin(t)) for t, long in zip(turns, longs, strict=True)]
    peak = 0.25 * uneven
    px, py = ((dice(canvas.seed, canvas.dice_of(step), 91, k) - 0.5) * peak * reach for k in range(2))
    px *= thin
    facets, pixel = canvas.number(step.facets), 2.0 / canvas.size
    found = np.zeros_like(x)
    dx, dy = x - np.float32(px), y - np.float32(py)
    # Each face reaches from the peak to an edge; a pixel is in just one of them.
    for i, (ax, ay) in enumerate(corners):
        bx, by = corners[(i + 1) % step.sides]
        here = ((ax - px) * dy - (ay - py) * dx >= 0) & ((bx - px) * dy - (by - py) * dx < 0)
        long = max(math.hypot(bx - ax, by - ay), 1e-6)
        inside = ((bx - ax) * (y - np.float32(ay)) - (by - ay) * (x - np.float32(ax))) / np.float32(long)
        cover = np.clip(inside / np.float32(pixel) + np.float32(0.5), 0.0, 1.0)
        found = np.where(here, cover * np.float32(1.0 - facets * (0.1 + 0.75 * draws[i][2])), found)
    return found.astype(np.float32)


def _way(
    seed: tuple[int, ...], x: float, y: float, turn: float, long: float, jagged: float, pieces: int
) -> list[tuple[float, float]]:
    """Return the corners of a crack that sets out somewhere in a direction."""
    found, heading = [(x, y)], turn
    for i in range(pieces):
        heading = turn + (heading - turn) * 0.7 + jagged * 1.7 * (dice(*seed, i, 5) - 0.5)
        step = long / pieces * (0.6 + 0.8 * dice(*seed, i, 6))
        x, y = x + step * math.cos(heading), y + step * math.sin(heading)
        found.append((x, y))
    return found


def _pieces(
    corners: list[tuple[float, float]],
    begin: float,
    end: float,
    first: float,
    last: float,
    grown: float,
    level: float,
) -> list[list[float]]:
    """Return a line's pieces as rows for :func:`draw_lines`, as far as it has grown; it thins towards its
    end.

    ``begin`` and ``end`` are where on the whole's way it sets out and ends, ``first`` and ``last`` its widths
    there.
    """
    rows, count = [], len(corners) - 1
    for i, ((ax, ay), (bx, by)) in enumerate(itertools.pairwise(corners)):
        a, b = begin + (end - begin) * i / count, begin + (end - begin) * (i + 1) / count
        if grown <= a:
            break
        share = min((grown - a) / max(b - a, 1e-9), 1.0)
        wa, wb = first + (last - first) * i / count, first + (last - first) * (i + 1) / count
        rows.append(
            [ax, ay, wa, level, ax + (bx - ax) * share, ay + (by - ay) * share, wa + (wb - wa) * share, level]
        )
    return rows


def crack(step: Crack, canvas: Canvas) -> Floats:
    """Return cracks that set out from the middle, and branch."""
    reach, width = canvas.number(step.reach), canvas.number(step.width)
    jagged, grown = canvas.number(step.jagged), canvas.number(step.grown)
    rows: list[list[float]] = []
    for arm in range(step.count):
        seed = (canvas.seed, canvas.dice_of(step), arm, 11)
        turn = 2.0 * math.pi * (arm + 0.7 * (dice(*seed, 1) - 0.5)) / step.count
        long = reach * (0.6 + 0.4 * dice(*seed, 2))
        corners = _way(seed, 0.0, 0.0, turn, long * 0.93, jagged, _PIECES)
        rows += _pieces(corners, 0.0, 1.0, width, width * 0.15, grown, 1.0)
        for fork in range(step.branches):
            one = (*seed, fork, 3)
            at = 2 + int((_PIECES - 4) * (fork + dice(*one, 1)) / max(step.branches, 1))
            side = 1.0 if dice(*one, 2) < 0.5 else -1.0
            begin = at / _PIECES
            x, y = corners[at]
            left = max(reach - math.hypot(x, y), 0.0)
            branch = _way(
                one,
                x,
                y,
                turn + side * (0.5 + 0.6 * dice(*one, 3)),
                left * (0.3 + 0.4 * dice(*one, 4)),
                jagged,
                7,
            )
            rows += _pieces(
                branch,
                begin,
                min(begin + 0.35, 1.0),
                width * (1.0 - 0.8 * begin) * 0.7,
                width * 0.1,
                grown,
                0.9,
            )
    return draw_lines(canvas.size, np.array(rows).reshape(-1, 8), 0.6)


def _bent(
    seed: tuple[int, ...], a: tuple[float, float], b: tuple[float, float], sway: float, jagged: float
) -> list[tuple[float, float]]:
    """Return a way from one place to another by moving middles aside, each time by less."""
    found, far = [a, b], sway
    for turn in range(_BENDS):
        more = [found[0]]
        for i, (p, q) in enumerate(itertools.pairwise(found)):
            long = math.hypot(q[0] - p[0], q[1] - p[1])
            aside = far * (2.0 * dice(*seed, turn, i) - 1.0) * min(long * 2.0, 1.0)
            nx, ny = (-(q[1] - p[1]) / long, (q[0] - p[0]) / long) if long > 1e-9 else (0.0, 0.0)
            more += [((p[0] + q[0]) / 2 + aside * nx, (p[1] + q[1]) / 2 + aside * ny), q]
        found, far = more, far * (0.35 + 0.4 * jagged)
    return found


def bolt(step: Bolt, canvas: Canvas) -> Floats:
    """Return a bolt from top to bottom, with branches and a glow."""
    width, sway = canvas.number(step.width), canvas.number(step.sway)
    jagged, grown = canvas.number(step.jagged), canvas.number(step.grown)
    seed = (canvas.seed, canvas.dice_of(step), 23)
    trunk = _bent(seed, (0.0, 0.93), (0.0, -0.93), sway, jagged)
    rows = _pieces(trunk, 0.0, 1.0, width, width * 0.6, grown, 1.0)
    count = len(trunk) - 1
    for fork in range(step.branches):
        one = (*seed, fork, 7)
        at = int(count * (0.1 + 0.7 * (fork + dice(*one, 1)) / step.branches))
        begin = at / count
        x, y = trunk[at]
        side = 1.0 if dice(*one, 2) < 0.5 else -1.0
        long = (0.25 + 0.35 * dice(*one, 3)) * (1.0 - 0.5 * begin)
        turn = -math.pi / 2 + side * (0.5 + 0.5 * dice(*one, 4))
        # No branch runs out of the picture.
        end = (min(max(x + long * math.cos(turn), -0.9), 0.9), max(y + long * math.sin(turn), -0.9))
        rows += _pieces(
            _bent(one, (x, y), end, sway * 0.5, jagged),
            begin,
            min(begin + 0.3, 1.0),
            width * 0.55,
            width * 0.1,
            grown,
            0.75,
        )
    lines = np.array(rows).reshape(-1, 8)
    found = draw_lines(canvas.size, lines, 0.8)
    glow = canvas.number(step.glow)
    if glow > 0.0 and len(lines):
        wide = lines.copy()
        wide[:, [2, 6]] = wide[:, [2, 6]] * 2.0 + 0.12
        wide[:, [3, 7]] *= 0.5 * glow
        light = draw_lines(canvas.size, wide, 1.0)
        # The glow ends before the border does.
        found = np.maximum(found, light * fall_off(_out(canvas), 0.1))
    return (found * (_out(canvas) < 1.0)).astype(np.float32)


def _out(canvas: Canvas) -> Floats:
    """Return how far out each pixel is, 1 in the outermost row."""
    across, up = grid(canvas.size)
    return (np.maximum(np.abs(across), np.abs(up)) / np.float32(1 - 1 / canvas.size)).astype(np.float32)


def scorch(step: Scorch, canvas: Canvas) -> Floats:
    """Return a burnt patch with a ragged edge, streaks and grain."""
    x, y = grid(canvas.size)
    far, angle = np.sqrt(x * x + y * y), np.arctan2(y, x)
    seed = (canvas.seed, canvas.dice_of(step), 41)
    radius, ragged = max(canvas.number(step.radius), 1e-3), canvas.number(step.ragged)
    rim = np.zeros_like(x)
    for k, (waves, high) in enumerate(((3, 0.14), (7, 0.1), (16, 0.07), (37, 0.05))):
        rim += np.float32(high) * np.cos(waves * angle + np.float32(2 * math.pi * dice(*seed, k)))
    edge = np.float32(radius) * (1.0 + np.float32(ragged) * rim)
    body = 1.0 - smoothstep(0.55, 1.1, (far / np.maximum(edge, 1e-3)).astype(np.float32))
    rows, long = [], canvas.number(step.streaks)
    for i in range(36) if long > 0.0 else ():
        draws = [dice(*seed, 7, i, k) for k in range(4)]
        turn = 2.0 * math.pi * (i + draws[0]) / 36
        c, s = math.cos(turn), math.sin(turn)
        begin, end = radius * 0.4, radius + max(0.95 - radius, 0.0) * long * draws[1]
        rows.append(
            [
                begin * c,
                begin * s,
                0.01 + 0.035 * draws[2],
                0.4 + 0.6 * draws[3],
                end * c,
                end * s,
                0.002,
                0.25 * draws[3],
            ]
        )
    streaks = draw_lines(canvas.size, np.array(rows), 1.0)
    grit = noise.cloud(canvas.size, 9, 4, 0.65, 0.0, 0.0, canvas.seed * 65537 + canvas.dice_of(step))
    left = 1.0 - np.float32(canvas.number(step.grain)) * smoothstep(0.45, 0.75, grit) * smoothstep(
        0.1, 0.9, (far / np.float32(radius)).astype(np.float32)
    )
    found = np.maximum(body, streaks) * left
    rim = fall_off((far / np.float32(1 - 1 / canvas.size)).astype(np.float32), 0.12)
    return (found * rim).astype(np.float32)  # type: ignore[no-any-return]


@njit(cache=True, nogil=True)
def _grains(out, across, density, uneven, rounded, seed):  # type: ignore[no-untyped-def]
    """Fill a picture with grains, one in each of ``across`` by ``across`` cells."""
    high, wide = out.shape
    for row in range(high):
        y = (row + 0.5) / high * across
        j = int(y)
        for column in range(wide):
            x = (column + 0.5) / wide * across
            i = int(x)
            if noise._unit(i, j, seed) >= density:
                out[row, column] = 0.0
                continue
            level = 1.0 - uneven * noise._unit(i, j, seed + 1)
            if rounded:
                size = 0.25 + 0.25 * noise._unit(i, j, seed + 2)
                cx = size + (1.0 - 2.0 * size) * noise._unit(i, j, seed + 3)
                cy = size + (1.0 - 2.0 * size) * noise._unit(i, j, seed + 4)
                far = math.sqrt((x - i - cx) ** 2 + (y - j - cy) ** 2) / size
                level *= min(max((1.0 - far) * 2.5, 0.0), 1.0)
            out[row, column] = level


def grain(step: Grain, canvas: Canvas) -> Floats:
    out = np.empty((canvas.size, canvas.size), np.float64)
    # Grains smaller than two pixels are squares of one.
    across = min(step.across, canvas.size)
    rounded = step.round and canvas.size >= 3 * across
    seed = (canvas.seed * 65537 + canvas.dice_of(step) * 8) & 0x7FFFFFFF
    _grains(out, across, canvas.number(step.density), canvas.number(step.uneven), rounded, seed)
    return np.clip(out, 0.0, 1.0).astype(np.float32)

"""The steps that make something: each gives 0…1 for every pixel of a frame."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from ...effect.steps import Maker
from ...effect.steps.drawn import Strokes
from ...effect.steps.makers import (
    Bolt,
    Cells,
    Cloud,
    Crack,
    Dot,
    Drop,
    Flake,
    Grain,
    Rays,
    Ring,
    Scorch,
    Shard,
    Slope,
    Streak,
)
from . import broken, noise
from .canvas import Canvas, Floats, dice, fall_off, grid, pi_share, smoothstep
from .hand import strokes


def _dot(step: Dot, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    radius = max(canvas.number(step.radius), 1e-3)
    return fall_off(
        (np.sqrt(x * x + y * y) / np.float32(radius)).astype(np.float32), canvas.number(step.softness)
    )


def _ring(step: Ring, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    width = max(canvas.number(step.width), 1e-3)
    far = np.abs(np.sqrt(x * x + y * y) - np.float32(canvas.number(step.radius))) / np.float32(width)
    return fall_off(far.astype(np.float32), canvas.number(step.softness))


def _rays(step: Rays, canvas: Canvas) -> Floats:
    """Return rays from the middle outwards."""
    x, y = grid(canvas.size)
    found = np.zeros_like(x)
    uneven, turn = canvas.number(step.uneven), canvas.number(step.turn)
    reach, width = canvas.number(step.reach), canvas.number(step.width)
    for i in range(step.count):
        draws = [dice(canvas.seed, canvas.dice_of(step), i, k) for k in range(3)]
        c, s = pi_share(turn + 360.0 * (i + uneven * (draws[0] - 0.5)) / step.count)
        long = max(reach * (1.0 - uneven * 0.7 * draws[1]), 1e-3)
        along, across = (x * c + y * s) / np.float32(long), np.abs(y * c - x * s)
        wide = np.float32(width * (0.6 + 0.8 * draws[2])) * np.clip(1.0 - along, 0.0, 1.0) + np.float32(1e-4)
        ray = fall_off((across / wide).astype(np.float32), 1.0) * np.clip(1.0 - along, 0.0, 1.0) * (along > 0)
        found = np.maximum(found, ray.astype(np.float32))
    return found


def _streak(step: Streak, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    length, width = max(canvas.number(step.length), 1e-3), max(canvas.number(step.width), 1e-3)
    at = y / np.float32(length)
    thin = 1.0 - np.float32(canvas.number(step.taper)) * np.clip((0.6 - at) / 1.6, 0.0, 1.0)
    across = np.abs(x) / (np.float32(width) * np.maximum(thin, 0.02))
    # Round at its head, drawn out at its foot.
    end = np.where(at > 0.6, (at - 0.6) / 0.4, np.clip(-at, 0.0, None))
    far = np.sqrt(across * across + end * end)
    return fall_off(far, canvas.number(step.softness)) * np.clip(thin, 0.0, 1.0)  # type: ignore[no-any-return]


def _drop(step: Drop, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    size, tail = max(canvas.number(step.size), 1e-2), canvas.number(step.tail)
    y = y + np.float32(tail / 2)
    up = np.clip(y / np.float32(max(tail, 1e-3)), 0.0, 1.0) if tail > 0 else np.zeros_like(y)
    wide = np.float32(size) * (1.0 - up) ** 1.6 + np.float32(1e-4)
    far = np.where(y > 0, np.abs(x) / wide + (up >= 1.0), np.sqrt(x * x + y * y) / np.float32(size))
    body = smoothstep(0.0, 0.12, (1.0 - far).astype(np.float32))
    inner = np.clip(1.0 - far, 0.0, 1.0)
    return body * (1.0 - np.float32(canvas.number(step.rim)) * smoothstep(0.0, 0.7, inner.astype(np.float32)))


def _flake(step: Flake, canvas: Canvas) -> Floats:
    """Return a flake of equal arms."""
    x, y = grid(canvas.size)
    angle = np.arctan2(y, x)
    part = 2.0 * math.pi / step.arms
    # All arms are one arm, turned and mirrored.
    angle = np.abs((angle + part / 2) % part - part / 2)
    far = np.sqrt(x * x + y * y)
    px, py = far * np.cos(angle), far * np.sin(angle)
    reach, width = max(canvas.number(step.reach), 1e-3), canvas.number(step.width)

    def bar(ax: float, ay: float, bx: float, by: float, wide: float) -> Floats:
        dx, dy = bx - ax, by - ay
        share = np.clip(((px - ax) * dx + (py - ay) * dy) / max(dx * dx + dy * dy, 1e-9), 0.0, 1.0)
        away = np.sqrt((px - ax - share * dx) ** 2 + (py - ay - share * dy) ** 2)
        return fall_off((away / np.float32(max(wide, 1e-3))).astype(np.float32), 0.7)

    found = bar(0.0, 0.0, reach, 0.0, width)
    for i in range(step.branches):
        draws = [dice(canvas.seed, canvas.dice_of(step), i, k) for k in range(2)]
        at = reach * (i + 0.8 + 0.3 * draws[0]) / (step.branches + 0.6)
        long = (reach - at) * (0.35 + 0.4 * draws[1]) + 0.04
        found = np.maximum(found, bar(at, 0.0, at + long * 0.5, long * 0.866, width * 0.75))
    return found


def _slope(step: Slope, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    c, s = pi_share(90.0 - canvas.number(step.turn))
    at = (x * np.float32(c) + y * np.float32(s)) / 2 + np.float32(0.5)
    begin, end = canvas.number(step.begin), canvas.number(step.end)
    span = end - begin
    span = span if abs(span) > 1e-4 else 1e-4
    return np.clip((at - np.float32(begin)) / np.float32(span), 0.0, 1.0)


def _cloud(step: Cloud, canvas: Canvas) -> Floats:
    return noise.cloud(
        canvas.size,
        step.across,
        step.octaves,
        canvas.number(step.roughness),
        canvas.number(step.ridges),
        canvas.number(step.evolve),
        canvas.seed * 65537 + canvas.dice_of(step),
    )


def _cells(step: Cells, canvas: Canvas) -> Floats:
    return noise.cells(
        canvas.size,
        step.across,
        canvas.number(step.uneven),
        canvas.number(step.walls),
        canvas.number(step.evolve),
        canvas.seed * 65537 + canvas.dice_of(step),
    )


# A flow makes all its frames at once, and pictures come from files: see ``build``.
MAKERS: dict[type[Maker], Callable[[Any, Canvas], Floats]] = {
    Dot: _dot,
    Ring: _ring,
    Rays: _rays,
    Streak: _streak,
    Drop: _drop,
    Flake: _flake,
    Shard: broken.shard,
    Crack: broken.crack,
    Scorch: broken.scorch,
    Bolt: broken.bolt,
    Slope: _slope,
    Cloud: _cloud,
    Cells: _cells,
    Grain: broken.grain,
    Strokes: strokes,
}

"""The steps that move points: each says where in the picture below a pixel comes from."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from ...effect.steps import Changer
from ...effect.steps.changers import Kaleidoscope, Polar, Swirl, Warp
from . import noise
from .canvas import Canvas, Floats, grid

Places = tuple[Floats, Floats]


def _warp(step: Warp, canvas: Canvas) -> Places:
    far, evolve = canvas.number(step.amount), canvas.number(step.evolve)
    seed = canvas.seed * 65537 + step.seed * 2
    moved = [
        (noise.cloud(canvas.size, step.across, step.octaves, 0.5, 0.0, evolve, seed + i) - np.float32(0.5))
        * np.float32(2 * far)
        for i in range(2)
    ]
    x, y = grid(canvas.size)
    return x + moved[0], y - moved[1]


def _swirl(step: Swirl, canvas: Canvas) -> Places:
    x, y = grid(canvas.size)
    left = np.clip(1.0 - np.sqrt(x * x + y * y) / np.float32(max(canvas.number(step.reach), 0.01)), 0.0, 1.0)
    turn = (-math.radians(canvas.number(step.turn)) * left * left).astype(np.float32)
    c, s = np.cos(turn), np.sin(turn)
    return x * c - y * s, x * s + y * c


def _polar(step: Polar, canvas: Canvas) -> Places:
    x, y = grid(canvas.size)
    turn = np.float32(math.radians(canvas.number(step.turn)))
    if step.back:
        angle, far = x * np.float32(math.pi) + turn, (y + 1) / 2
        return far * np.cos(angle), far * np.sin(angle)
    angle = (np.arctan2(y, x) - turn + np.float32(math.pi)) % np.float32(2 * math.pi) - np.float32(math.pi)
    # Beyond the rim the highest row goes on.
    edge = np.float32(1.0 - 1.0 / canvas.size)
    far = np.clip(np.sqrt(x * x + y * y) * 2 - 1, -edge, edge)
    return (angle / np.float32(math.pi)).astype(np.float32), far.astype(np.float32)


def _kaleidoscope(step: Kaleidoscope, canvas: Canvas) -> Places:
    """Return where each pixel is taken from: one sector, turned round."""
    x, y = grid(canvas.size)
    turn = np.float32(math.radians(canvas.number(step.turn)))
    far, angle = np.sqrt(x * x + y * y), np.arctan2(y, x)
    part = np.float32(2.0 * math.pi / step.count)
    inside = angle % part
    if step.mirror:
        inside = np.abs((angle + part / 2) % part - part / 2)
    # Corners beyond the border would read what is across it.
    edge = np.float32(1.0 - 1.0 / canvas.size)
    return np.clip(far * np.cos(inside + turn), -edge, edge), np.clip(
        far * np.sin(inside + turn), -edge, edge
    )


MOVERS: dict[type[Changer], Callable[[Any, Canvas], Places]] = {
    Warp: _warp,
    Swirl: _swirl,
    Polar: _polar,
    Kaleidoscope: _kaleidoscope,
}

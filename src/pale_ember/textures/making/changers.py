"""The steps that change what is below them."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from ...effect.steps import Changer
from ...effect.steps.changers import (
    Blur,
    Fade,
    Invert,
    Levels,
    Mask,
    Outline,
    Relief,
    Sharpen,
    Threshold,
    Tile,
)
from .canvas import Canvas, Floats, blurred, fall_off, grid, pi_share, slopes, smoothstep
from .edges import distance


def _levels(step: Levels, canvas: Canvas) -> Floats:
    black, white = canvas.number(step.black), canvas.number(step.white)
    span = white - black
    x = np.clip((canvas.light - np.float32(black)) / np.float32(span if abs(span) > 1e-4 else 1e-4), 0.0, 1.0)
    return np.power(x, np.float32(canvas.number(step.bend))).astype(np.float32)  # type: ignore[no-any-return]


def _threshold(step: Threshold, canvas: Canvas) -> Floats:
    at, soft = canvas.number(step.at), max(canvas.number(step.softness), 1e-4) / 2
    return smoothstep(at - soft, at + soft, canvas.light)


def _invert(step: Invert, canvas: Canvas) -> Floats:
    return 1.0 - canvas.light


def _blur(step: Blur, canvas: Canvas) -> Floats:
    radius = canvas.number(step.radius) * canvas.size / 2
    if radius < 0.05:
        return canvas.light
    return np.clip(blurred(canvas.light, radius), 0.0, 1.0)


def _tile(step: Tile, canvas: Canvas) -> Floats:
    """Return a picture whose left leads into its right, and its top into its bottom."""
    found, size = canvas.light, canvas.size
    margin = max(round(canvas.number(step.margin) * size), 1)
    at = (np.arange(size, dtype=np.float32) + 0.5) / np.float32(margin)
    # Half of a picture that is moved by half comes in towards the borders, with the same level on both sides
    # of them.
    share = (1.0 - smoothstep(0.0, 1.0, np.minimum(at, at[::-1]))).astype(np.float32)
    for axis in (0, 1):
        moved = np.roll(found, size // 2, axis)
        along = share[:, None] if axis == 0 else share[None, :]
        found = found + (moved - found) * along
    return found


def _fade(step: Fade, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    margin = max(canvas.number(step.margin), 0.01)
    far = np.sqrt(x * x + y * y) if step.round else np.maximum(np.abs(x), np.abs(y))
    # The outermost pixels are nothing at all.
    edge = np.float32(1.0 - 1.0 / canvas.size)
    return canvas.light * fall_off((far / edge).astype(np.float32), margin)


def _mask(step: Mask, canvas: Canvas) -> Floats:
    mask = canvas.packed.get(step.channel)
    return canvas.light if mask is None else canvas.light * mask


def _clean(found: Floats) -> Floats:
    """Return a picture in which what can't be seen is nothing: an FFT leaves a breath of everything
    everywhere.
    """
    return np.where(found < 1e-4, np.float32(0.0), found).astype(np.float32)


def _sharpen(step: Sharpen, canvas: Canvas) -> Floats:
    soft = blurred(canvas.light, canvas.number(step.radius) * canvas.size / 2)
    found = np.clip(canvas.light + (canvas.light - soft) * np.float32(canvas.number(step.amount)), 0.0, 1.0)
    return _clean(found)


def _outline(step: Outline, canvas: Canvas) -> Floats:
    half = max(canvas.number(step.width) * canvas.size / 4, 0.5)
    soft = max(canvas.number(step.softness) * half, 1.0)
    away = distance(canvas.light, canvas.number(step.at), min(math.ceil(half) + 2, canvas.size // 2))
    line = np.clip((half + 0.5 - away) / np.float32(soft), 0.0, 1.0).astype(np.float32)
    # Its own border is smooth, as that of what it runs along.
    return _clean(np.clip(blurred(line, 1.0), 0.0, 1.0))


def _relief(step: Relief, canvas: Canvas) -> Floats:
    light, (c, s) = canvas.light, pi_share(canvas.number(step.turn))
    # Its bulk and its folds, as a normal map has them; borders go around.
    broad, fine = blurred(light, 0.06 * canvas.size), blurred(light, 0.012 * canvas.size)
    high = np.sqrt(np.maximum(broad, 0.0)) * np.float32(0.6) + np.float32(0.4) * fine
    dx, dy = slopes(high)
    lit = -(dx * np.float32(c) + dy * np.float32(s)) * np.float32(canvas.number(step.height))
    # What is not there takes no light.
    shaded = light * (np.float32(0.6) + np.float32(0.6) * lit / np.sqrt(1.0 + lit * lit))
    return np.clip(shaded, 0.0, 1.0).astype(np.float32)  # type: ignore[no-any-return]


CHANGERS: dict[type[Changer], Callable[[Any, Canvas], Floats]] = {
    Levels: _levels,
    Threshold: _threshold,
    Invert: _invert,
    Blur: _blur,
    Sharpen: _sharpen,
    Tile: _tile,
    Fade: _fade,
    Outline: _outline,
    Relief: _relief,
    Mask: _mask,
}

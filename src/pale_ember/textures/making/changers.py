"""The steps that change what is below them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ...effect import build_steps as steps
from ...effect.colors import evaluate_stops
from ...effect.kinds import Channel
from . import noise
from .canvas import Canvas, Floats, fall_off, grid, sampled, smoothstep


def _levels(step: steps.Levels, canvas: Canvas) -> Floats:
    black, white = canvas.number(step.black), canvas.number(step.white)
    span = white - black
    x = np.clip((canvas.light - np.float32(black)) / np.float32(span if abs(span) > 1e-4 else 1e-4), 0.0, 1.0)
    return np.power(x, np.float32(canvas.number(step.bend))).astype(np.float32)


def _threshold(step: steps.Threshold, canvas: Canvas) -> Floats:
    at, soft = canvas.number(step.at), max(canvas.number(step.softness), 1e-4) / 2
    return smoothstep(at - soft, at + soft, canvas.light)


def _invert(step: steps.Invert, canvas: Canvas) -> Floats:
    return 1.0 - canvas.light  # type: ignore[no-any-return]


def _blur(step: steps.Blur, canvas: Canvas) -> Floats:
    radius = canvas.number(step.radius) * canvas.size / 2
    if radius < 0.05:
        return canvas.light
    return np.clip(blurred(canvas.light, radius), 0.0, 1.0)  # type: ignore[no-any-return]


def _warp(step: steps.Warp, canvas: Canvas) -> Floats:
    far, evolve = canvas.number(step.amount) * canvas.size / 2, canvas.number(step.evolve)
    seed = canvas.seed * 65537 + step.seed * 2
    moved = [
        (noise.cloud(canvas.size, step.across, step.octaves, 0.5, 0.0, evolve, seed + i) - np.float32(0.5)) * np.float32(2 * far)
        for i in range(2)
    ]
    y, x = np.mgrid[0 : canvas.size, 0 : canvas.size].astype(np.float32)
    return np.clip(sampled(canvas.light, x + moved[0], y + moved[1]), 0.0, 1.0)  # type: ignore[no-any-return]


def _tile(step: steps.Tile, canvas: Canvas) -> Floats:
    found, size = canvas.light, canvas.size
    margin = max(round(canvas.number(step.margin) * size), 1)
    at = (np.arange(size, dtype=np.float32) + 0.5) / np.float32(margin)
    # Half of a picture that is moved by half comes in towards the borders, with the same level on both sides of them.
    share = (1.0 - smoothstep(0.0, 1.0, np.minimum(at, at[::-1]))).astype(np.float32)
    for axis in (0, 1):
        moved = np.roll(found, size // 2, axis)
        along = share[:, None] if axis == 0 else share[None, :]
        found = found + (moved - found) * along
    return found


def _fade(step: steps.Fade, canvas: Canvas) -> Floats:
    x, y = grid(canvas.size)
    margin = max(canvas.number(step.margin), 0.01)
    far = np.sqrt(x * x + y * y) if step.round else np.maximum(np.abs(x), np.abs(y))
    # The outermost pixels are nothing at all.
    edge = np.float32(1.0 - 1.0 / canvas.size)
    return canvas.light * fall_off((far / edge).astype(np.float32), margin)


def _mask(step: steps.Mask, canvas: Canvas) -> Floats:
    mask = canvas.packed.get(step.channel)
    return canvas.light if mask is None else canvas.light * mask


def _color(step: steps.Color, canvas: Canvas) -> Floats:
    by = canvas.heat if canvas.heat is not None else canvas.light
    ramp = evaluate_stops(step.gradient, np.linspace(0.0, 1.0, 1025)).astype(np.float32)
    found = ramp[np.clip(by * 1024 + 0.5, 0, 1024).astype(np.int64)]
    share = np.float32(canvas.number(step.strength))
    before = canvas.color if canvas.color is not None else np.ones_like(found)
    canvas.color = before + (found - before) * share
    return canvas.light


def normals_of(height: Floats, strength: float) -> Floats:
    """Return unit normals of a height 0…1 over a picture 2 wide: right, up, towards the eye, (size, size, 3)."""
    size = height.shape[0]
    slope = np.float32(strength * size / 4)
    dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * slope
    dy = (np.roll(height, 1, 0) - np.roll(height, -1, 0)) * slope
    found = np.stack([-dx, -dy, np.ones_like(dx)], axis=2)
    return (found / np.sqrt((found * found).sum(axis=2, keepdims=True))).astype(np.float32)


def blurred(picture: Floats, radius: float) -> Floats:
    """Return a picture softened by a Gaussian of a radius in pixels; borders go around."""
    high, wide = picture.shape
    wave = 2.0 * np.pi * np.fft.fftfreq(high), 2.0 * np.pi * np.fft.rfftfreq(wide)
    keep = np.exp(-0.125 * radius * radius * (wave[0][:, None] ** 2 + wave[1][None, :] ** 2))
    return np.fft.irfft2(np.fft.rfft2(picture.astype(np.float64)) * keep, s=picture.shape).astype(np.float32)  # type: ignore[no-any-return]


def _normals(step: steps.Normals, canvas: Canvas) -> Floats:
    # Its folds on top of its bulk: each size of shapes bulges as high as it is wide.
    bulk = sum(
        np.sqrt(np.maximum(blurred(canvas.light, share * canvas.size), 0.0)) * np.float32(high)
        for share, high in ((0.25, 0.5), (0.09, 0.3), (0.03, 0.15), (0.012, 0.05))
    )
    strength = canvas.number(step.height) * canvas.number(step.strength)
    canvas.normals = normals_of(np.asarray(bulk, np.float32), 3.0 * strength)
    return canvas.light


def _pack(step: steps.Pack, canvas: Canvas) -> Floats:
    light = canvas.light * np.float32(canvas.number(step.strength))
    for channel in (Channel.RED, Channel.GREEN, Channel.BLUE, Channel.ALPHA) if step.channel == Channel.ALL else (step.channel,):
        canvas.packed[channel] = light
    canvas.color = canvas.heat = None
    return np.zeros_like(canvas.light)


CHANGERS: dict[type[steps.Changer], Callable[[Any, Canvas], Floats]] = {
    steps.Levels: _levels, steps.Threshold: _threshold, steps.Invert: _invert, steps.Blur: _blur, steps.Warp: _warp,
    steps.Tile: _tile, steps.Fade: _fade, steps.Mask: _mask, steps.Color: _color, steps.Normals: _normals, steps.Pack: _pack,
}  # fmt: skip
# Those whose strength is part of what they do.
WHOLE: tuple[type[steps.Changer], ...] = (steps.Color, steps.Normals, steps.Pack)

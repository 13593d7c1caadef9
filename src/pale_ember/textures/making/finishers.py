"""The steps that give colours, make maps, and fill channels."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ...effect.kinds import Channel
from ...effect.steps import Finisher
from ...effect.steps.finishers import Bleed, Color, Normals, Pack, Premultiply, Unpremultiply
from ...effect.values.colors import evaluate_stops, to_linear, to_srgb
from .canvas import Canvas, Floats, blurred, slopes


def _color(step: Color, canvas: Canvas) -> None:
    by = canvas.heat if canvas.heat is not None else canvas.light
    ramp = evaluate_stops(step.gradient, np.linspace(0.0, 1.0, 1025)).astype(np.float32)
    found = ramp[np.clip(by * 1024 + 0.5, 0, 1024).astype(np.int64)]
    share = np.float32(canvas.number(step.strength))
    before = canvas.color if canvas.color is not None else np.ones_like(found)
    canvas.color = before + (found - before) * share


def normals_of(height: Floats, strength: float) -> Floats:
    """Return unit normals of a height 0…1 over a picture 2 wide: right, up, towards the eye, (size, size,
    3).
    """
    dx, dy = slopes(height)
    found = np.stack([-dx * np.float32(strength), -dy * np.float32(strength), np.ones_like(dx)], axis=2)
    return (found / np.sqrt((found * found).sum(axis=2, keepdims=True))).astype(np.float32)  # type: ignore[no-any-return]


def _normals(step: Normals, canvas: Canvas) -> None:
    # Its folds on top of its bulk: each size of shapes bulges as high as it is wide.
    bulk = sum(
        np.sqrt(np.maximum(blurred(canvas.light, share * canvas.size), 0.0)) * np.float32(high)
        for share, high in ((0.25, 0.5), (0.09, 0.3), (0.03, 0.15), (0.012, 0.05))
    )
    strength = canvas.number(step.height) * canvas.number(step.strength)
    canvas.normals = normals_of(np.asarray(bulk, np.float32), 3.0 * strength)


def _pack(step: Pack, canvas: Canvas) -> None:
    light = canvas.light * np.float32(canvas.number(step.strength))
    for channel in (
        (Channel.RED, Channel.GREEN, Channel.BLUE, Channel.ALPHA)
        if step.channel == Channel.ALL
        else (step.channel,)
    ):
        canvas.packed[channel] = light
    canvas.color = canvas.heat = None
    canvas.light, canvas.begins = np.zeros_like(canvas.light), True


def _premultiply(step: Premultiply, canvas: Canvas) -> None:
    if canvas.premultiplied or canvas.number(step.strength) <= 0.0:
        return
    # A part of it would be light that is drawn as something else.
    color = canvas.color if canvas.color is not None else np.ones((*canvas.light.shape, 3), np.float32)
    canvas.color, canvas.premultiplied = color * canvas.light[..., None], True


def _unpremultiply(step: Unpremultiply, canvas: Canvas) -> None:
    """Win back the colour from under its cover."""
    if canvas.number(step.strength) <= 0.0:
        return
    canvas.premultiplied = False
    if canvas.color is None:
        return
    cover = canvas.light[..., None]
    # Where nothing is covered there is no colour to be won back.
    whole = np.where(cover > 1e-4, canvas.color / np.maximum(cover, 1e-4), canvas.color)
    if step.srgb:
        whole = np.where(
            cover > 1e-4, to_linear(to_srgb(canvas.color) / np.maximum(cover, 1e-4)), canvas.color
        )
    canvas.color = np.minimum(
        canvas.color + (whole - canvas.color) * np.float32(canvas.number(step.strength)), 65504.0
    ).astype(np.float32)


def _bleed(step: Bleed, canvas: Canvas) -> None:
    """Let colour run out into what hardly covers."""
    if canvas.color is None:
        return
    at = max(canvas.number(step.at), 1e-3)
    # What covers enough keeps its colour; the rest takes the mean of what is near, looked for farther and
    # farther out.
    sure = np.clip(canvas.light / np.float32(at), 0.0, 1.0)
    found: Floats = canvas.color * sure[..., None]
    known: Floats = sure
    radius = 1.0
    while radius < canvas.size:
        weight = np.maximum(blurred(sure, radius), 0.0)
        mean = np.stack([blurred(canvas.color[..., k] * sure, radius) for k in range(3)], axis=2)
        mean = (np.maximum(mean, 0.0) / np.maximum(weight, 1e-6)[..., None]).astype(np.float32)
        new = ((1.0 - known) * np.clip(weight * 8.0, 0.0, 1.0)).astype(np.float32)
        found, known = np.asarray(found + mean * new[..., None], np.float32), known + new
        radius *= 2.0
    # Far from everything the mean of all.
    total = max(float(sure.sum()), 1e-6)
    mean_of_all = (canvas.color * sure[..., None]).sum(axis=(0, 1)) / np.float32(total)
    found = (found + (1.0 - known)[..., None] * mean_of_all).astype(np.float32)
    canvas.color = (canvas.color + (found - canvas.color) * np.float32(canvas.number(step.strength))).astype(
        np.float32
    )


FINISHERS: dict[type[Finisher], Callable[[Any, Canvas], None]] = {
    Color: _color,
    Normals: _normals,
    Pack: _pack,
    Premultiply: _premultiply,
    Unpremultiply: _unpremultiply,
    Bleed: _bleed,
}

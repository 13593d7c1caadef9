"""Picture files brought into a build: which is meant in a frame, cut out of its sheet and fitted in."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ...effect.kinds import Channel, PictureFit
from ...effect.steps.pictures import Picture
from ..cutting import Grid
from ..reading import Raw, plain_or_light
from .canvas import Canvas, Floats

Files = Mapping[str, Raw]


def grid_of(step: Picture) -> Grid:
    """Return how a step's files are cut into frames."""
    return Grid(step.columns, step.rows, step.margin, step.gap)


def counted(step: Picture) -> int:
    """Return how many pictures a step has, the frames of each file."""
    each = step.columns * step.rows
    return len(step.files) * (min(step.count, each) if step.count else each)


def brought(step: Picture, canvas: Canvas, files: Files) -> tuple[Floats, Floats | None]:
    """Return the light of a step's picture in this frame, and its colours in linear light if all of it is
    wanted.

    Where there are as many frames as pictures each has its own; else they are spread evenly over the sheet.
    """
    size, count = canvas.size, counted(step)
    if count == 0:
        return np.zeros((size, size), np.float32), None
    which = min(canvas.frame * count // max(canvas.frames, 1), count - 1)
    each = count // len(step.files)
    raw = files.get(step.key_of(step.files[which // each]))
    if raw is None:
        return np.zeros((size, size), np.float32), None
    cut = grid_of(step).cut(raw.pixels, which % each)
    mask = step.channel != Channel.ALL
    pixels = plain_or_light(cut, raw.linear or step.plain or mask)
    fitted = _fitted(pixels, size, step.fit, straight=not (mask or step.plain))
    if mask:
        return np.clip(fitted[..., list(Channel).index(step.channel) - 1], 0.0, 1.0), None
    # Without alpha a picture covers by how light it is, if it is one of numbers; else it covers whole.
    return np.clip(fitted[..., 3], 0.0, 1.0), np.clip(fitted[..., :3], 0.0, 65504.0)


def _fitted(pixels: Floats, size: int, fit: PictureFit, straight: bool) -> Floats:
    """Return a picture in a square frame, averaged where it becomes smaller, clear where it doesn't reach."""
    high, wide = pixels.shape[:2]
    if (high, wide) == (size, size):
        return pixels
    scale = {
        PictureFit.WHOLE: (min(size / wide, size / high),) * 2,
        PictureFit.FILL: (max(size / wide, size / high),) * 2,
        PictureFit.STRETCH: (size / wide, size / high),
    }[fit]
    # Colours count by what they cover.
    weighed = pixels.copy()
    if straight:
        weighed[..., :3] *= pixels[..., 3:]
    found = _resized(_resized(weighed, size, scale[1], 0), size, scale[0], 1)
    if straight:
        cover = found[..., 3:]
        found[..., :3] = np.where(cover > 1e-5, found[..., :3] / np.maximum(cover, 1e-5), 0.0)
    return found


def _resized(pixels: Floats, size: int, scale: float, axis: int) -> Floats:
    """Return a picture scaled about its middle along an axis, with so many pixels there; a tent as wide
    as it must be.
    """
    long = pixels.shape[axis]
    at = (np.arange(size) + 0.5 - size / 2) / scale + long / 2 - 0.5
    reach = max(1.0 / scale, 1.0)
    taps = int(np.ceil(reach)) * 2 + 1
    first = np.floor(at - reach).astype(np.int64) + 1
    moved = np.moveaxis(pixels, axis, 0)
    out = np.zeros((size, *moved.shape[1:]), np.float32)
    weights = [np.maximum(1.0 - np.abs(first + k - at) / reach, 0.0) for k in range(taps)]
    # What is beyond the picture is clear; what is inside it is whole up to its border.
    inside = (at > -0.5 - 1e-6) & (at < long - 0.5 + 1e-6)
    total = np.where(inside, 1.0 / np.maximum(sum(weights), 1e-9), 0.0)
    for k, weight in enumerate(weights):
        share = (weight * total).astype(np.float32).reshape(-1, *([1] * (moved.ndim - 1)))
        out += moved[np.clip(first + k, 0, long - 1)] * share
    return np.ascontiguousarray(np.moveaxis(out, 0, axis))

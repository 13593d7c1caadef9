"""Crops the frames of a sheet to what is seen in any of them."""

from __future__ import annotations

import numpy as np

from ..pictures import Pictures
from .canvas import Floats, sampled

_FAINT = 1.0 / 255.0


def seen_square(cover: Floats) -> tuple[float, float, float]:
    """Return the middle, column and row, and the side of the least square round all that is seen in some
    frames, pixels.

    Parameters
    ----------
    cover : (frames, size, size) array
    """
    size = cover.shape[-1]
    seen = cover.max(axis=0) > _FAINT
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if len(rows) == 0:
        return size / 2, size / 2, float(size)
    # A clear pixel all round stays.
    left, right = columns[0] - 1, columns[-1] + 2
    top, low = rows[0] - 1, rows[-1] + 2
    side = float(min(max(right - left, low - top, 4), size))
    keep = lambda middle: min(max(middle, side / 2), size - side / 2)  # noqa: E731
    return keep((left + right) / 2), keep((top + low) / 2), side  # type: ignore[no-untyped-call]


def trimmed(pictures: Pictures, by_cover: bool = False) -> Pictures:
    """Return frames cropped to the least square round what is seen in any of them, as large as they were.

    ``by_cover`` lets colours count by what they cover, so that none comes from under what is clear.
    """
    size = pictures.size[0]
    column, row, side = seen_square(pictures.pixels[..., 3])
    if side >= size:
        return pictures
    scale = side / size
    at = (np.arange(size, dtype=np.float32) + np.float32(0.5)) * np.float32(scale)
    x, y = np.meshgrid(at + np.float32(column - side / 2 - 0.5), at + np.float32(row - side / 2 - 0.5))

    def cropped(frames: Floats) -> Floats:
        return np.stack([sampled(frame, x, y) for frame in frames]).astype(np.float32)

    normals = None if pictures.normals is None else cropped(pictures.normals)
    if normals is not None:
        normals /= np.maximum(np.sqrt((normals * normals).sum(axis=3, keepdims=True)), np.float32(1e-6))
    pixels = pictures.pixels
    if by_cover:
        light = cropped(np.concatenate([pixels[..., :3] * pixels[..., 3:], pixels[..., 3:]], axis=3))
        cover = light[..., 3:]
        whole = np.where(cover > 1e-4, light[..., :3] / np.maximum(cover, 1e-4), cropped(pixels)[..., :3])
        pixels = np.concatenate([whole, cover], axis=3).astype(np.float32)
    else:
        pixels = cropped(pixels)
    return Pictures(
        pixels,
        normals,
        None if pictures.motion is None else cropped(pictures.motion) / np.float32(scale),
        pictures.deep,
        pictures.premultiplied,
    )

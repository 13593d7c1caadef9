"""A texture over a backdrop as it looks there, pixel by pixel: what the bench and its small pictures show."""

from __future__ import annotations

import functools
import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..effect.kinds import Channel
from ..effect.values.colors import BYTE_LIGHT, to_srgb
from .prepared import Prepared

Bytes = NDArray[np.uint8]
_STEPS = 4096


@functools.cache
def _curves() -> tuple[NDArray[np.float32], Bytes]:
    """Return sRGB bytes as linear light, and linear light in steps as sRGB bytes."""
    return BYTE_LIGHT, np.rint(to_srgb(np.linspace(0, 1, _STEPS)) * 255).astype(np.uint8)


@njit(cache=True, nogil=True)
def _light(frame, j, i, k, coded, scale, linear):  # type: ignore[no-untyped-def]
    """Return a part of a pixel as it is filtered: light linear, numbers as they are."""
    return linear[int(frame[j, i, k])] if coded and k < 3 else frame[j, i, k] * scale


@njit(cache=True, nogil=True)
def _show(out, frame, scale, data, channel, box, tiled, smooth, linear, srgb):  # type: ignore[no-untyped-def]
    """Put a frame over a picture. ``box`` is its left, top, width and height there; ``channel`` below 0
    is all of it.
    """
    coded = not data and scale < 1.0
    high, wide = frame.shape[0], frame.shape[1]
    left, top, across, down = box
    for row in range(out.shape[0]):
        v = (row + 0.5 - top) / down
        if not tiled and (v < 0.0 or v >= 1.0):
            continue
        for column in range(out.shape[1]):
            u = (column + 0.5 - left) / across
            if not tiled and (u < 0.0 or u >= 1.0):
                continue
            x, y = (u - math.floor(u)) * wide, (v - math.floor(v)) * high
            r = g = b = a = 0.0
            if smooth:
                fx, fy = x - 0.5, y - 0.5
                x0, y0 = math.floor(fx), math.floor(fy)
                sx, sy = fx - x0, fy - y0
                for k in range(4):
                    i, j = x0 + (k & 1), y0 + (k >> 1)
                    if tiled:
                        i, j = i % wide, j % high
                    else:
                        i, j = min(max(i, 0), wide - 1), min(max(j, 0), high - 1)
                    w = (sx if k & 1 else 1.0 - sx) * (sy if k >> 1 else 1.0 - sy)
                    r += w * _light(frame, j, i, 0, coded, scale, linear)
                    g += w * _light(frame, j, i, 1, coded, scale, linear)
                    b += w * _light(frame, j, i, 2, coded, scale, linear)
                    a += w * _light(frame, j, i, 3, coded, scale, linear)
            else:
                i, j = min(int(x), wide - 1), min(int(y), high - 1)
                r, g = (
                    _light(frame, j, i, 0, coded, scale, linear),
                    _light(frame, j, i, 1, coded, scale, linear),
                )
                b, a = (
                    _light(frame, j, i, 2, coded, scale, linear),
                    _light(frame, j, i, 3, coded, scale, linear),
                )
            if channel >= 0:
                # A mask is numbers, shown as they are; in a picture of colours they are what was painted.
                grey = r if channel == 0 else g if channel == 1 else b if channel == 2 else a
                painted = not data and channel < 3
                level = (
                    srgb[int(min(max(grey, 0.0), 1.0) * (srgb.shape[0] - 1) + 0.5)]
                    if painted
                    else np.uint8(min(max(grey, 0.0), 1.0) * 255.0 + 0.5)
                )
                out[row, column, 0] = level
                out[row, column, 1] = level
                out[row, column, 2] = level
                continue
            if data:
                r, g, b = r * a, g * a, b * a
            rest = 1.0 - min(max(a, 0.0), 1.0)
            for k in range(3):
                light = (r if k == 0 else g if k == 1 else b) + linear[out[row, column, k]] * rest
                out[row, column, k] = srgb[int(min(max(light, 0.0), 1.0) * (srgb.shape[0] - 1) + 0.5)]


def show_over(
    ready: Prepared,
    frame: int,
    ground: Bytes,
    box: tuple[float, float, float, float],
    channel: Channel = Channel.ALL,
    tiled: bool = False,
    smooth: bool = True,
) -> Bytes:
    """Put one frame of a texture over a picture, in linear light.

    Parameters
    ----------
    ground : (height, width, 3) uint8
        sRGB; it is changed and returned.
    box : (float, float, float, float)
        Left, top, width and height of the frame on it, pixels.
    channel : Channel
        All of the texture, or one of its masks as grey.
    tiled : bool
        Whether it goes on at all its sides.
    """
    linear, srgb = _curves()
    pixels = ready.pixels[frame % ready.frames]
    if pixels.dtype != np.uint8:
        pixels = pixels.astype(np.float32)
    which = list(Channel).index(channel) - 1
    scale = 1.0 / 255.0 if pixels.dtype == np.uint8 else 1.0
    _show(ground, pixels, scale, ready.data, which, tuple(map(float, box)), tiled, smooth, linear, srgb)
    return ground


def prepare() -> None:
    """Compile what this needs, so that no window waits for it."""
    pixels = np.zeros((1, 1, 1, 4), np.uint8)
    for one in (pixels, pixels.astype(np.float16)):
        corners = np.zeros((1, 8, 2), np.float32)
        show_over(
            Prepared(one, False, None, None, corners, corners),
            0,
            np.zeros((1, 1, 3), np.uint8),
            (0.0, 0.0, 1.0, 1.0),
        )


def thumbnail(
    ready: Prepared,
    frame: int,
    side: int,
    ground: tuple[int, int, int] = (36, 35, 34),
    channel: Channel = Channel.ALL,
) -> Bytes:
    """Return one frame as a small square picture on a plain ground, (side, side, 3)."""
    # Of large frames every so many pixels are averaged, so that nothing flickers.
    out = np.empty((side * 2, side * 2, 3), np.uint8)
    out[:] = ground
    wide, high = ready.size
    scale = 2 * side / max(wide, high)
    show_over(
        ready,
        frame,
        out,
        (side - wide * scale / 2, side - high * scale / 2, wide * scale, high * scale),
        channel,
    )
    return out.reshape(side, 2, side, 2, 3).mean(axis=(1, 3)).astype(np.uint8)  # type: ignore[no-any-return]

"""Tileable noises: a cloud of gradient noise, and cells.

Gradient noise after K. Perlin, "Improving Noise", SIGGRAPH 2002; gradients that turn with time after K.
Perlin and F. Neyret, "Flow Noise", 2001. Cells after S. Worley, "A Cellular Texture Basis Function", SIGGRAPH
1996.
"""

from __future__ import annotations

import functools
import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float32]
_TAU = 2.0 * math.pi
# Octaves of larger pictures take too much room to be kept.
KEPT_SIZE = 256


@njit(cache=True, nogil=True)
def _hash(x, y, seed):  # type: ignore[no-untyped-def]
    mask = np.uint64(0xFFFFFFFF)
    h = (np.uint64(x) * np.uint64(0x8DA6B343)) & mask
    h ^= (np.uint64(y) * np.uint64(0xD8163841)) & mask
    h ^= (np.uint64(seed) * np.uint64(0xCB1AB31F)) & mask
    h ^= h >> np.uint64(16)
    h = (h * np.uint64(0x7FEB352D)) & mask
    h ^= h >> np.uint64(15)
    h = (h * np.uint64(0x846CA68B)) & mask
    h ^= h >> np.uint64(16)
    return h


@njit(cache=True, nogil=True)
def _unit(x, y, seed):  # type: ignore[no-untyped-def]
    return np.float64(_hash(x, y, seed)) / 4294967296.0


@njit(cache=True, nogil=True)
def _gradient_noise(out, across, seed, turn):  # type: ignore[no-untyped-def]
    """Fill out with noise of about −1…1 whose gradients are turned by a share of a whole turn."""
    high, wide = out.shape
    # Directions of the lattice once, not for each pixel.
    gx, gy = np.empty((across, across)), np.empty((across, across))
    for j in range(across):
        for i in range(across):
            # Each gradient turns its own way round, a whole number of times.
            way = 1.0 if _hash(i, j, seed + 7919) & np.uint64(1) else -1.0
            angle = 2.0 * math.pi * (_unit(i, j, seed) + way * turn)
            gx[j, i], gy[j, i] = math.cos(angle), math.sin(angle)
    for row in range(high):
        y = (row + 0.5) / high * across
        y0 = math.floor(y)
        fy = y - y0
        sy = fy * fy * fy * (fy * (fy * 6.0 - 15.0) + 10.0)
        a, b = y0 % across, (y0 + 1) % across
        for column in range(wide):
            x = (column + 0.5) / wide * across
            x0 = math.floor(x)
            fx = x - x0
            sx = fx * fx * fx * (fx * (fx * 6.0 - 15.0) + 10.0)
            c, d = x0 % across, (x0 + 1) % across
            n00 = gx[a, c] * fx + gy[a, c] * fy
            n10 = gx[a, d] * (fx - 1.0) + gy[a, d] * fy
            n01 = gx[b, c] * fx + gy[b, c] * (fy - 1.0)
            n11 = gx[b, d] * (fx - 1.0) + gy[b, d] * (fy - 1.0)
            top = n00 + (n10 - n00) * sx
            out[row, column] = (top + (n01 + (n11 - n01) * sx - top) * sy) * 1.4142135


@njit(cache=True, nogil=True)
def _cells(out, across, uneven, turn, walls, seed):  # type: ignore[no-untyped-def]
    """Fill a picture with cells around scattered points, or with the walls between them."""
    high, wide = out.shape
    px, py = np.empty((across, across)), np.empty((across, across))
    for j in range(across):
        for i in range(across):
            angle = 2.0 * math.pi * (turn + _unit(i, j, seed + 3))
            ring = 0.5 * uneven * (0.35 if turn != 0.0 else 0.0)
            reach = uneven * (0.65 if turn != 0.0 else 1.0)
            px[j, i] = 0.5 + (_unit(i, j, seed) - 0.5) * reach + ring * math.cos(angle)
            py[j, i] = 0.5 + (_unit(i, j, seed + 1) - 0.5) * reach + ring * math.sin(angle)
    for row in range(high):
        y = (row + 0.5) / high * across
        y0 = math.floor(y)
        for column in range(wide):
            x = (column + 0.5) / wide * across
            x0 = math.floor(x)
            near, second = 9.0, 9.0
            for dj in range(-2, 3):
                for di in range(-2, 3):
                    i, j = (x0 + di) % across, (y0 + dj) % across
                    ex = x0 + di + px[j, i] - x
                    ey = y0 + dj + py[j, i] - y
                    far = math.sqrt(ex * ex + ey * ey)
                    if far < near:
                        second, near = near, far
                    elif far < second:
                        second = far
            dome = max(0.0, 1.0 - near)
            wall = max(0.0, 1.0 - (second - near) * 2.5)
            out[row, column] = dome + (wall - dome) * walls


@functools.lru_cache(maxsize=96)
def _octave(size: int, across: int, seed: int, turn: float) -> Floats:
    """Return one octave, −1…1: while a build is tuned most of them are the same as a moment ago."""
    layer = np.empty((size, size), np.float64)
    _gradient_noise(layer, across, seed, turn)
    found = layer.astype(np.float32)
    found.setflags(write=False)
    return found


def cloud(
    size: int, across: int, octaves: int, roughness: float, ridges: float, evolve: float, seed: int
) -> Floats:
    """Return a tileable cloud of 0…1, shape (size, size).

    Parameters
    ----------
    across : int
        How many of its largest shapes fit across.
    roughness : float
        How strong each octave is beside the one before.
    ridges : float
        0 billows, 1 sharp ridges.
    evolve : float
        Whole numbers come round to 0.
    """
    total = np.zeros((size, size), np.float32)
    weight, weights, sum_of = 1.0, 0.0, 0.0
    for octave in range(octaves):
        cells = across << octave
        if cells > size:
            break
        layer = (_octave if size <= KEPT_SIZE else _octave.__wrapped__)(
            size, cells, (seed * 131 + octave * 17) & 0x7FFFFFFF, float(evolve) * (1 + octave % 2)
        )
        total += np.float32(weight) * layer
        if ridges:
            total += np.float32(weight * ridges) * (1.0 - 2.0 * np.abs(layer) - layer)
        sum_of += weight * weight
        weights += weight
        weight *= roughness
    if sum_of == 0.0:
        return np.full((size, size), 0.5, np.float32)
    # Octaves are about independent, each of a deviation of 0.36; ridges have a mean and a deviation of their
    # own.
    flat = 1.0 - ridges
    middle = ridges * 0.42 * weights
    spread = math.sqrt(sum_of) * math.sqrt((0.36 * flat) ** 2 + (0.42 * ridges) ** 2)
    return np.clip(0.5 + (total - np.float32(middle)) / np.float32(4.4 * spread), 0.0, 1.0).astype(np.float32)  # type: ignore[no-any-return]


def cells(size: int, across: int, uneven: float, walls: float, evolve: float, seed: int) -> Floats:
    """Return tileable cells of 0…1, shape (size, size)."""
    out = np.empty((size, size), np.float64)
    _cells(out, min(across, size), float(uneven), float(evolve), float(walls), seed & 0x7FFFFFFF)
    return np.clip(out, 0.0, 1.0).astype(np.float32)

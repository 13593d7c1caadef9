"""What a build's steps work on: one frame of it, and where on the sheet it stands."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ...effect.kinds import Channel
from ...effect.values.values import Value

Floats = NDArray[np.float32]


@functools.lru_cache(maxsize=8)
def grid(size: int) -> tuple[Floats, Floats]:
    """Return x to the right and y upwards of each pixel, −1…1; row 0 is the top one."""
    at = ((np.arange(size, dtype=np.float32) + 0.5) / np.float32(size / 2) - 1).astype(np.float32)
    x, y = np.meshgrid(at, -at)
    return x, y


def dice(*parts: int) -> float:
    """Return a number in [0, 1) that depends on whole numbers alone."""
    h = 0x9E3779B9
    for part in parts:
        h = (h ^ (part & 0xFFFFFFFF)) * 0x7FEB352D & 0xFFFFFFFF
        h = (h ^ (h >> 15)) * 0x846CA68B & 0xFFFFFFFF
        h ^= h >> 16
    return h / 4294967296.0


class Diced(Protocol):
    """A step that throws dice."""

    @property
    def seed(self) -> int: ...
    @property
    def restless(self) -> bool: ...


@dataclass
class Canvas:
    """One frame as the steps so far have made it.

    Attributes
    ----------
    light : (size, size) float32, 0…1
    color : (size, size, 3) float32 or None
        Linear light.
    heat : (size, size) float32 or None
        Of a flow.
    normals : (size, size, 3) float32 or None
        Unit vectors: right, up, towards the eye.
    motion : (size, size, 2) float32 or None
        Where each point goes until the next frame, in frames, right and up.
    packed : dict
        Channels that were filled.
    premultiplied : bool
        Whether its colours are multiplied by what they cover.
    begins : bool
        Whether no step has given it light yet, since the last that was packed.
    """

    size: int
    frame: int
    frames: int
    seed: int
    light: Floats
    color: Floats | None = None
    heat: Floats | None = None
    normals: Floats | None = None
    motion: Floats | None = None
    packed: dict[Channel, Floats] = field(default_factory=dict)
    premultiplied: bool = False
    begins: bool = True

    @property
    def share(self) -> float:
        """Return where the frame stands on the sheet, 0…1."""
        return self.frame / max(self.frames - 1, 1)

    def dice_of(self, step: Diced) -> int:
        """Return the seed that a step throws its own dice by, in this frame."""
        return step.seed + (1_000_003 * (self.frame + 1) if step.restless else 0)

    def number(self, value: Value) -> float:
        """Return a step's number in this frame; what is drawn is drawn anew for each frame."""
        low, high = (float(end[0]) for end in value.bounds_at([self.share]))
        return low + (high - low) * (dice(self.seed, self.frame, 97) if high != low else 0.0)


def smoothstep(low: float, high: float, x: Floats) -> Floats:
    """Return a soft step from 0 at ``low`` to 1 at ``high``."""
    t = np.clip((x - np.float32(low)) / np.float32(max(high - low, 1e-6)), 0.0, 1.0).astype(np.float32)
    return t * t * (3 - 2 * t)  # type: ignore[no-any-return]


def fall_off(far: Floats, softness: float) -> Floats:
    """Return 1 inside and 0 beyond a distance of 1, softly."""
    inner = 1.0 - max(min(softness, 1.0), 0.0)
    soft = np.clip((1.0 - far) / np.float32(max(1.0 - inner, 0.02)), 0.0, 1.0).astype(np.float32)
    return soft * soft * (3 - 2 * soft)  # type: ignore[no-any-return]


def sampled(picture: Floats, x: Floats, y: Floats) -> Floats:
    """Return a picture's values at pixel places, softly, going around at its borders; (h, w) or (h, w, n)."""
    parts = np.ascontiguousarray(picture if picture.ndim == 3 else picture[..., None], np.float32)
    out = np.empty((*x.shape, parts.shape[2]), np.float32)
    _sample(out, parts, np.asarray(x, np.float32), np.asarray(y, np.float32))
    return out if picture.ndim == 3 else out[..., 0]


@njit(cache=True, nogil=True)
def _sample(out, picture, x, y):  # type: ignore[no-untyped-def]
    """Fill ``out`` with a picture's pixels at places, mixed from four neighbours, around its borders."""
    high, wide, parts = picture.shape
    for row in range(out.shape[0]):
        for column in range(out.shape[1]):
            x0, y0 = math.floor(x[row, column]), math.floor(y[row, column])
            fx, fy = np.float32(x[row, column] - x0), np.float32(y[row, column] - y0)
            a, c = int(x0) % wide, int(y0) % high
            b, d = (a + 1) % wide, (c + 1) % high
            for k in range(parts):
                top = picture[c, a, k] + (picture[c, b, k] - picture[c, a, k]) * fx
                low = picture[d, a, k] + (picture[d, b, k] - picture[d, a, k]) * fx
                out[row, column, k] = top + (low - top) * fy


def blurred(picture: Floats, radius: float) -> Floats:
    """Return a picture softened by a Gaussian of a radius in pixels; borders go around."""
    high, wide = picture.shape
    wave = 2.0 * np.pi * np.fft.fftfreq(high), 2.0 * np.pi * np.fft.rfftfreq(wide)
    keep = np.exp(-0.125 * radius * radius * (wave[0][:, None] ** 2 + wave[1][None, :] ** 2))
    return np.fft.irfft2(np.fft.rfft2(picture.astype(np.float64)) * keep, s=picture.shape).astype(np.float32)


def slopes(height: Floats) -> tuple[Floats, Floats]:
    """Return how a height rises to the right and upwards, over a half size; borders go around."""
    each = np.float32(height.shape[0] / 4)
    right = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * each
    return right, (np.roll(height, 1, 0) - np.roll(height, -1, 0)) * each


def pi_share(degrees: float) -> tuple[float, float]:
    """Return cosine and sine of an angle in degrees."""
    return math.cos(math.radians(degrees)), math.sin(math.radians(degrees))

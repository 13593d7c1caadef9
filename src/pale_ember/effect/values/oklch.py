"""Colours by how light, how strong and of which hue they look (B. Ottosson, "A perceptual color space",
2020).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .colors import hex_to_linear, linear_to_hex

Floats = NDArray[np.float64]

_TO_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB = np.linalg.inv(_TO_LAB)
_FROM_CONES = np.linalg.inv(_TO_CONES)


def to_oklch(linear: ArrayLike) -> tuple[float, float, float]:
    """Return lightness 0…1, chroma and hue in degrees 0…360 of linear red, green and blue; the hue of a
    grey is 0.
    """
    lab = _TO_LAB @ np.cbrt(_TO_CONES @ np.asarray(linear, dtype=np.float64))
    chroma = math.hypot(lab[1], lab[2])
    hue = math.degrees(math.atan2(lab[2], lab[1])) % 360.0 if chroma > 1e-4 else 0.0
    return float(lab[0]), chroma, hue


def from_oklch(lightness: ArrayLike, chroma: ArrayLike, hue: ArrayLike) -> Floats:
    """Return linear red, green and blue, shape (..., 3); outside 0…1 where no screen colour is so strong."""
    l, c, h = np.broadcast_arrays(  # noqa: E741
        np.asarray(lightness, dtype=np.float64), np.asarray(chroma, dtype=np.float64), np.radians(hue)
    )
    lab = np.stack([l, c * np.cos(h), c * np.sin(h)], axis=-1)
    return np.asarray((lab @ _FROM_LAB.T) ** 3 @ _FROM_CONES.T)


def shown_oklch(lightness: float, chroma: float, hue: float) -> str:
    """Return the sRGB hex colour of a lightness, chroma and hue; a chroma that no screen has is lowered
    until one has.
    """
    lightness = min(max(lightness, 0.0), 1.0)
    low, high = 0.0, max(chroma, 0.0)
    if _fits(from_oklch(lightness, high, hue)):
        return linear_to_hex(from_oklch(lightness, high, hue))
    for _ in range(24):
        middle = (low + high) / 2
        low, high = (middle, high) if _fits(from_oklch(lightness, middle, hue)) else (low, middle)
    return linear_to_hex(from_oklch(lightness, low, hue))


def strongest(lightness: ArrayLike, hue: float) -> Floats:
    """Return the largest chroma that a screen has at some lightnesses 0…1 of one hue, by halving."""
    light = np.asarray(lightness, dtype=np.float64)
    low, high = np.zeros_like(light), np.full_like(light, 0.5)
    for _ in range(24):
        middle = (low + high) / 2
        linear = from_oklch(light, middle, hue)
        fits = np.all((linear >= 0.0) & (linear <= 1.0), axis=-1)
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return low


def oklch_of(color: str) -> tuple[float, float, float]:
    """Return lightness, chroma and hue of an sRGB hex colour."""
    return to_oklch(hex_to_linear(color))


def _fits(linear: Floats) -> bool:
    return bool(np.all((linear >= -1e-4) & (linear <= 1.0 + 1e-4)))

"""Arrays of numbers packed one behind the other, as the page of a bundle takes them."""

from __future__ import annotations

import zlib
from typing import Any

import numpy as np
from numpy.typing import NDArray

KINDS = {"f": "f32", "H": "u16", "I": "u32", "i": "i32", "B": "u8", "e": "f16", "h": "i16"}


class Blob:
    """Collects arrays; each is known by where it begins, how many numbers it has, and of which kind."""

    def __init__(self) -> None:
        self._parts: list[bytes] = []
        self._long = 0

    def put(self, values: NDArray[Any]) -> list[Any]:
        """Take an array; return its place, count and kind."""
        values = np.ascontiguousarray(values)
        data = values.tobytes()
        found = [self._long, values.size, KINDS[values.dtype.char]]
        data += bytes(-len(data) % 4)
        self._parts.append(data)
        self._long += len(data)
        return found

    def __len__(self) -> int:
        return self._long

    def packed(self) -> bytes:
        """Return all of them, deflated."""
        return zlib.compress(b"".join(self._parts), 6)


def leveled(values: NDArray[np.float32]) -> tuple[NDArray[np.uint16], float, float]:
    """Return numbers as 65 536 levels between their least and their greatest, and those two."""
    if not values.size:
        return np.zeros(0, np.uint16), 0.0, 0.0
    low, high = float(values.min()), float(values.max())
    if high <= low:
        return np.zeros(len(values), np.uint16), low, low
    return np.rint((values.astype(np.float64) - low) * (65535.0 / (high - low))).astype(np.uint16), low, high


def small(rest: NDArray[np.uint16]) -> NDArray[np.uint8]:
    """Return what is left of a guess, low bytes before high ones, with its sign in the lowest bit: so
    most bytes are 0.
    """
    signed = rest.astype(np.uint16).view(np.int16)
    folded = ((signed.astype(np.int32) << 1) ^ (signed.astype(np.int32) >> 15)).astype(np.uint16)
    return np.concatenate([(folded & 0xFF).astype(np.uint8), (folded >> 8).astype(np.uint8)])


def along_rows(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return pictures, (frames, height, width, parts), as what changes from pixel to pixel in a row."""
    found = pixels.copy()
    found[:, :, 1:] = pixels[:, :, 1:] - pixels[:, :, :-1]
    return found

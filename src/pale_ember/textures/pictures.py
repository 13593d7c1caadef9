"""The pictures of a texture as numbers: what builds make and files hold."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
LARGEST_HALF = 65504.0


@dataclass(frozen=True)
class Pictures:
    """Frames of one texture; row 0 is the top one.

    Attributes
    ----------
    pixels : (frames, height, width, 4) float32
        Red, green, blue and alpha: colours in linear light, or plain numbers.
    normals : (frames, height, width, 3) float32 or None
        Unit vectors: right, up, towards the eye.
    motion : (frames, height, width, 2) float32 or None
        Where each point goes until the next frame, in frames, right and up.
    deep : bool
        Whether eight bits would lose something of it.
    premultiplied : bool
        Whether colours are multiplied by alpha already.
    """

    pixels: Floats
    normals: Floats | None = None
    motion: Floats | None = None
    deep: bool = False
    premultiplied: bool = False

    @property
    def frames(self) -> int:
        return self.pixels.shape[0]  # type: ignore[no-any-return]

    @property
    def size(self) -> tuple[int, int]:
        """Return width and height of a frame, pixels."""
        return self.pixels.shape[2], self.pixels.shape[1]


def as_half_floats_hold(numbers: Floats) -> Floats:
    """Return numbers within what half floats hold; what is no number, or endlessly low, is 0."""
    return np.clip(
        np.nan_to_num(numbers, nan=0.0, posinf=LARGEST_HALF, neginf=0.0), -LARGEST_HALF, LARGEST_HALF
    )

"""Pictures as PNG files."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def png_bytes(pixels: NDArray[np.uint8], effort: int = 6) -> bytes:
    """Return a PNG file of a picture, (height, width, 3 or 4); ``effort`` 0…9 is how long a smaller one
    is looked for.
    """
    data = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels)).save(data, "PNG", compress_level=effort)
    return data.getvalue()

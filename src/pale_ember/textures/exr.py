"""Pictures with light above 1 as OpenEXR files."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from numpy.typing import NDArray


def exr_bytes(pixels: NDArray[np.float32]) -> bytes:
    """Return an OpenEXR file of half floats, zip-compressed.

    Parameters
    ----------
    pixels : (height, width, 3 or 4) float32
        Linear light; of four channels the last is alpha.
    """
    # Some tens of milliseconds that few files need; and it writes to files alone.
    import OpenEXR

    halves = np.clip(pixels, -65504.0, 65504.0).astype(np.float16)
    channels = {
        name: np.ascontiguousarray(halves[..., i]) for i, name in enumerate("RGBA"[: pixels.shape[2]])
    }
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with tempfile.TemporaryDirectory(prefix="pale-ember-") as folder:
        at = Path(folder, "picture.exr")
        with OpenEXR.File(header, channels) as file:
            file.write(str(at))
        return at.read_bytes()

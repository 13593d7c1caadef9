"""Colours of 16 bits from PNG and TIFF files, which Pillow would read as 8: decoded by FFmpeg, in a
process of its own.
"""

from __future__ import annotations

import subprocess

import numpy as np
from numpy.typing import NDArray

# Seconds; of the largest picture that is read it takes two.
_PATIENCE = 60.0
_PIPES = {"PNG": "png_pipe", "TIFF": "tiff_pipe"}


def is_deep(data: bytes, kind: str, tags: object) -> bool:
    """Return whether a file has colours of 16 bits.

    Parameters
    ----------
    kind : str
        Pillow's name of its format.
    tags : mapping or None
        Of a TIFF what its header says, by number.
    """
    if kind == "PNG":
        # Its header's depth, and its kind of colour: true, or true with alpha, or grey with alpha.
        return len(data) > 26 and data[24] == 16 and data[25] in (2, 4, 6)
    bits = tags.get(258) if kind == "TIFF" and hasattr(tags, "get") else None
    return isinstance(bits, tuple) and len(bits) >= 3 and set(bits) == {16}


def read_deep(data: bytes, kind: str, wide: int, high: int) -> NDArray[np.float32] | None:
    """Return a file's colours, (height, width, 4) from 0 to 1; None if they can't be read so."""
    # Some milliseconds that few files need.
    import imageio_ffmpeg

    command = [
        imageio_ffmpeg.get_ffmpeg_exe(),
        "-v",
        "error",
        "-f",
        _PIPES[kind],
        "-i",
        "pipe:0",
        "-frames:v",
        "1",
        "-f",
        "rawvideo",
        "-pix_fmt",
        "rgba64le",
        "pipe:1",
    ]
    try:
        done = subprocess.run(command, input=data, capture_output=True, timeout=_PATIENCE, check=False)
    except (OSError, subprocess.SubprocessError):
        return None
    if done.returncode != 0 or len(done.stdout) != wide * high * 8:
        return None
    return np.frombuffer(done.stdout, "<u2").reshape(high, wide, 4).astype(np.float32) / np.float32(65535.0)

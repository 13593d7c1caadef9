"""Picture files to numbers. Whatever a file claims or holds, there is a picture or a sentence, in bounded
memory.
"""

from __future__ import annotations

import io
import os
import warnings
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..effect.errors import EffectError
from ..effect.kinds import CoverOfFile
from ..effect.storing.whole_files import read_regular
from ..effect.textures import Texture
from ..effect.values.colors import BYTE_LIGHT, to_linear
from .cutting import Grid
from .dds_reading import read_plain, size_of
from .deep_reading import is_deep, read_deep
from .exr_reading import header_sizes, read_exr
from .pictures import Pictures

# Bytes of a file, pixels of a picture, and of a side: about 300 MB of memory at most.
LARGEST, MOST_PIXELS, LONGEST = 256 << 20, 1 << 24, 16_384
FORMATS = ("PNG", "TGA", "DDS", "WEBP", "JPEG", "TIFF", "BMP", "GIF")
ENDINGS = (".png", ".tga", ".dds", ".exr", ".webp", ".jpg", ".jpeg", ".tif", ".tiff", ".bmp", ".gif")
_EXR = b"\x76\x2f\x31\x01"
_ORIENTATION = 274
Floats = NDArray[np.float32]


class Raw:
    """A file's picture as it is: numbers of 0…1 (of EXR, any), and what they mean.

    Attributes
    ----------
    pixels : (height, width, 4) uint8 or float32
    linear : bool
        Whether its colours are linear light already.
    has_alpha : bool
    """

    def __init__(self, pixels: NDArray[np.uint8] | Floats, linear: bool, has_alpha: bool) -> None:
        self.pixels, self.linear, self.has_alpha = pixels, linear, has_alpha


def read_raw(path: str | os.PathLike[str], layer: str = "") -> Raw:
    """Return a file's picture.

    Parameters
    ----------
    layer : str
        Of an EXR, which of its layers; see :func:`~.exr_reading.read_exr`. Other files have none.

    Raises
    ------
    EffectError
        If it is no picture, or one that is broken or too large; nothing else is raised.
    """
    place = str(path)
    data = read_regular(path, LARGEST)
    try:
        if data[:4] == _EXR:
            return _exr(path, data, place, layer)
        if data[:4] == b"DDS ":
            _allowed(*size_of(data), place)
            plain = read_plain(data, place)
            if plain is not None:
                return Raw(*plain)
        return _by_pillow(data, place)
    except EffectError:
        raise
    except MemoryError:
        raise EffectError(place, "there is not enough memory to read this picture.") from None
    except Exception as wrong:
        # A decoder may stumble over a broken file in any way.
        said = str(wrong).strip().splitlines()
        why = f" ({said[0][:80]})" if said and said[0] else ""
        raise EffectError(place, f"this picture is broken or cut off{why}; save it anew.") from None


def _allowed(wide: int, high: int, place: str) -> None:
    if wide < 1 or high < 1:
        raise EffectError(place, "this picture has no pixels; save it anew.")
    if max(wide, high) > LONGEST or wide * high > MOST_PIXELS:
        limit = f"{LONGEST:,} to a side" if max(wide, high) > LONGEST else f"{MOST_PIXELS:,}"
        raise EffectError(
            place, f"this picture is {wide} × {high} pixels; at most {limit} are read. Make it smaller."
        )


def _by_pillow(data: bytes, place: str) -> Raw:
    """Return a picture's pixels by Pillow, or say why it can't be read."""
    with warnings.catch_warnings():
        # The limit is our own, and asked before anything is decoded.
        warnings.simplefilter("ignore")
        try:
            image = Image.open(io.BytesIO(data), formats=FORMATS)
        except EffectError:
            raise
        except Image.DecompressionBombError:
            raise EffectError(
                place, f"this picture claims to be far too large; at most {MOST_PIXELS:,} pixels are read."
            ) from None
        except Exception:
            known = "PNG, TGA, DDS, EXR, WebP, JPEG, TIFF, BMP or GIF"
            raise EffectError(place, f"this is no picture that can be read; it takes {known}.") from None
        with image:
            _allowed(*image.size, place)
            # Of a picture that moves, the first frame.
            if getattr(image, "n_frames", 1) > 1:
                image.seek(0)
            turn = (
                image.getexif().get(_ORIENTATION, 1) if image.format in ("JPEG", "TIFF", "PNG", "WEBP") else 1
            )
            kind = image.format or ""
            if is_deep(data, kind, getattr(image, "tag_v2", None)):
                deep = read_deep(data, kind, *image.size)
                if deep is not None:
                    return Raw(
                        np.ascontiguousarray(_turned(deep, turn)), False, bool((deep[..., 3] < 1.0).any())
                    )
            image.load()
            raw = _raw_of(image)
            return Raw(np.ascontiguousarray(_turned(raw.pixels, turn)), raw.linear, raw.has_alpha)


def _turned(pixels: Any, turn: int) -> Any:
    """Return a picture as its orientation tag says that it is held (Exif 2.3, tag 274)."""
    ways = {
        2: lambda one: one[:, ::-1],
        3: lambda one: one[::-1, ::-1],
        4: lambda one: one[::-1],
        5: lambda one: one.swapaxes(0, 1),
        6: lambda one: one.swapaxes(0, 1)[:, ::-1],
        7: lambda one: one[::-1, ::-1].swapaxes(0, 1),
        8: lambda one: one.swapaxes(0, 1)[::-1],
    }
    return ways[turn](pixels) if turn in ways else pixels


def _raw_of(image: Image.Image) -> Raw:
    """Return an image of any mode as red, green, blue and alpha."""
    mode = image.mode
    if mode.startswith("I") or mode == "F":
        grey = np.asarray(image).astype(np.float32)
        if mode != "F":
            grey = np.clip(grey / np.float32(65535.0), 0.0, 1.0)
        grey = np.nan_to_num(grey, nan=0.0, posinf=65504.0, neginf=0.0)
        out = np.ones((*grey.shape, 4), np.float32)
        out[:, :, :3] = grey[:, :, None]
        return Raw(out, mode == "F", False)
    has_alpha = mode in ("RGBA", "LA", "PA", "La", "RGBa") or "transparency" in image.info
    return Raw(np.asarray(image.convert("RGBA")), False, has_alpha)


def _exr(path: str | os.PathLike[str], data: bytes, place: str, layer: str) -> Raw:
    for wide, high in header_sizes(data, place):
        _allowed(wide, high, place)
    pixels, has_alpha = read_exr(path, place, layer, _allowed)
    return Raw(pixels, True, has_alpha)


def pictures_of(texture: Texture, raw: Raw) -> Pictures:
    """Return the frames of a file's picture, as its entry says that it is meant."""
    grid = Grid(texture.columns, texture.rows, texture.margin, texture.gap)
    wide, high = grid.frame_size(raw.pixels.shape[1], raw.pixels.shape[0])
    # A picture that is too small to be cut so is one frame.
    count = min(texture.count, grid.columns * grid.rows) if min(wide, high) >= 1 else 1
    frames = np.stack([_meant(grid.cut(raw.pixels, i), texture, raw.linear) for i in range(count)])
    deep = raw.pixels.dtype != np.uint8
    return Pictures(
        frames, deep=deep, premultiplied=texture.cover != CoverOfFile.STRAIGHT and not texture.data
    )


def _meant(cut: NDArray[np.uint8] | Floats, texture: Texture, linear: bool) -> Floats:
    if texture.data or linear or texture.cover != CoverOfFile.PREMULTIPLIED_SRGB:
        return plain_or_light(cut, texture.data or linear)
    out = plain_or_light(cut, True)
    alpha = out[:, :, 3:]
    whole = np.where(alpha > 1e-4, alpha, 1.0)
    # What is brighter than its cover adds light.
    out[:, :, :3] = to_linear(np.maximum(out[:, :, :3] / whole, 0.0)) * whole
    return out


def plain_or_light(cut: NDArray[np.uint8] | Floats, plain: bool) -> Floats:
    """Return pixels as numbers: as they are, or their colours as linear light; alpha always as it is."""
    if plain:
        return (cut / np.float32(255.0) if cut.dtype == np.uint8 else cut).astype(np.float32)
    out = np.empty(cut.shape, np.float32)
    out[:, :, 3:] = (
        cut[:, :, 3:].astype(np.float32) / np.float32(255.0) if cut.dtype == np.uint8 else cut[:, :, 3:]
    )
    if cut.dtype == np.uint8:
        out[:, :, :3] = BYTE_LIGHT[cut[:, :, :3]]
    else:
        out[:, :, :3] = to_linear(cut[:, :, :3])
    return out

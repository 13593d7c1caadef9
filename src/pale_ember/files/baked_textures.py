"""The textures of an effect as picture files: sheets, normal maps, motion maps."""

from __future__ import annotations

import io
import math
import os
import re
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..effect.colors import to_srgb
from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.textures import MOST_PIXELS, Texture
from ..effect.whole_files import write_whole
from ..textures.pictures import Pictures
from .built_textures import built

Floats = NDArray[np.float32]


def bake_textures(effect: Effect, folder: str | os.PathLike[str], size: int | None = None) -> list[dict[str, Any]]:
    """Write each build of an effect into a folder as PNG files, whole or not at all.

    Parameters
    ----------
    size : int, optional
        The width and height of a frame instead of the build's own.

    Returns
    -------
    list of dict
        For each file its name, texture, kind (``picture``, ``normals``, ``motion``), columns, rows, frames, size, and of
        motion its reach.

    Raises
    ------
    EffectError
        If the folder or a file can't be written.
    """
    try:
        Path(folder).mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        raise EffectError(str(folder), f"the folder can't be made: {(wrong.strerror or str(wrong)).lower()}.") from None
    rows: list[dict[str, Any]] = []
    taken: set[str] = set()
    inputs = tuple(texture.file for texture in effect.textures if texture.file)
    for texture in effect.textures:
        if texture.build is None or texture.file:
            continue
        build = texture.build if size is None else texture.build.model_copy(update={"size": size})
        if texture.count * build.size**2 > MOST_PIXELS:
            reason = f"{texture.count} frames of {build.size} pixels are too many; together they may have {MOST_PIXELS:,} pixels."
            raise EffectError(f"texture “{texture.name}”", reason)
        made = built(texture.model_copy(update={"build": build}))
        assert made is not None
        stem = _stem(texture.name, taken)
        for kind, pixels, more in _sheets(texture, made):
            name = f"{stem}{'' if kind == 'picture' else '_' + kind}.png"
            columns, high = _grid(made.frames)
            data = io.BytesIO()
            Image.fromarray(pixels).save(data, "PNG")
            write_whole(Path(folder) / name, data.getvalue(), inputs)
            rows.append({
                "file": name, "texture": texture.name, "kind": kind, "columns": columns, "rows": high, "frames": made.frames,
                "size": made.size[0], **more,
            })  # fmt: skip
    return rows


def _stem(name: str, taken: set[str]) -> str:
    plain = re.sub(r"[^\w-]+", "_", name.lower()).strip("_")[:60] or "texture"
    stem, number = plain, 2
    while stem in taken:
        stem, number = f"{plain}_{number}", number + 1
    taken.add(stem)
    return stem


def _grid(frames: int) -> tuple[int, int]:
    columns = math.ceil(math.sqrt(frames))
    return columns, math.ceil(frames / columns)


def laid_out(frames: Floats) -> Floats:
    """Return frames, (n, h, w, c), as one sheet, row by row from the upper left."""
    count, high, wide, parts = frames.shape
    columns, rows = _grid(count)
    sheet = np.zeros((rows * high, columns * wide, parts), frames.dtype)
    for i, frame in enumerate(frames):
        row, column = divmod(i, columns)
        sheet[row * high : (row + 1) * high, column * wide : (column + 1) * wide] = frame
    return sheet


def _sheets(texture: Texture, made: Pictures) -> list[tuple[str, NDArray[np.uint8], dict[str, float]]]:
    pixels = made.pixels if texture.data else np.concatenate([to_srgb(made.pixels[..., :3]), made.pixels[..., 3:]], axis=3)
    found = [("picture", _bytes(laid_out(np.asarray(pixels, np.float32))), dict[str, float]())]
    if made.normals is not None:
        found.append(("normals", _bytes(laid_out(made.normals * 0.5 + 0.5)), {}))
    if made.motion is not None:
        reach = max(float(np.abs(made.motion).max()), 1e-4)
        whole = np.full((*made.motion.shape[:3], 3), 0.5, np.float32)
        whole[..., :2] = made.motion / np.float32(2 * reach) + np.float32(0.5)
        found.append(("motion", _bytes(laid_out(whole)), {"reach": round(reach, 6)}))
    return found


def _bytes(pixels: Floats) -> NDArray[np.uint8]:
    return np.rint(np.clip(pixels, 0.0, 1.0) * 255.0).astype(np.uint8)

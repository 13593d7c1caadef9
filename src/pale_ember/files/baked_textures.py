"""The textures of an effect as picture files: sheets, normal maps, motion maps."""

from __future__ import annotations

import os
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import Cover
from ..effect.storing.whole_files import write_whole
from ..effect.textures import MOST_PIXELS, Build, Texture
from ..effect.values.colors import to_srgb
from ..textures.cutting import grid_for, laid_out
from ..textures.pictures import Pictures
from ..textures.png import png_bytes
from .textures import Trusted, pictures_for

Floats = NDArray[np.float32]


def bake_textures(
    effect: Effect,
    folder: str | os.PathLike[str],
    size: int | None = None,
    trusted: Trusted = lambda path: True,
    wished: Callable[[Texture], bool] = lambda texture: True,
) -> list[dict[str, Any]]:
    """Write builds of an effect into a folder as PNG files, whole or not at all.

    Parameters
    ----------
    trusted : callable
        Says which files steps may bring in.
    wished : callable
        Says which textures are written; by default all that have a build.
    size : int, optional
        The width and height of a frame instead of the build's own.

    Returns
    -------
    list of dict
        For each file its name, texture, kind (``picture``, ``normals``, ``motion``), columns, rows, frames,
        size, padding, and of motion its reach.

    Raises
    ------
    EffectError
        If the folder or a file can't be written, or a file that a build brings in can't be had.
    """
    try:
        Path(folder).mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        raise EffectError(
            str(folder), f"the folder can't be made: {(wrong.strerror or str(wrong)).lower()}."
        ) from None
    rows: list[dict[str, Any]] = []
    taken: set[str] = set()
    inputs = tuple(file for texture in effect.textures for file in texture.files())
    for texture in effect.textures:
        if texture.build is None or texture.file or not wished(texture):
            continue
        build, made = _made(texture, texture.build, size, trusted)
        stem = stem_of(texture.name, taken)
        for kind, pixels, more in sheets_of(texture, made):
            name = f"{stem}{'' if kind == 'picture' else '_' + kind}.png"
            grid = grid_for(made.frames, build.padding)
            write_whole(Path(folder) / name, png_bytes(pixels), inputs)
            rows.append(
                {
                    "file": name,
                    "texture": texture.name,
                    "kind": kind,
                    "columns": grid.columns,
                    "rows": grid.rows,
                    "padding": build.padding,
                    **_about(texture, made, kind),
                    **more,
                }
            )
    return rows


def _made(texture: Texture, build: Build, size: int | None, trusted: Trusted) -> tuple[Build, Pictures]:
    """Return a build in the wished size, and the pictures that it makes."""
    build = build if size is None else build.model_copy(update={"size": size})
    if max(texture.made, texture.count) * build.size**2 > MOST_PIXELS:
        reason = (
            f"{max(texture.made, texture.count)} frames of {build.size} pixels are too many; together "
            f"they may have {MOST_PIXELS:,} pixels."
        )
        raise EffectError(f"texture “{texture.name}”", reason)
    try:
        made = pictures_for(texture.model_copy(update={"build": build}), trusted)
    except EffectError as wrong:
        raise EffectError(f"texture “{texture.name}”", wrong.reason) from None
    assert made is not None
    return build, made


def _about(texture: Texture, made: Pictures, kind: str) -> dict[str, Any]:
    """Return what is said of a file's pixels."""
    return {
        "frames": made.frames,
        "size": made.size[0],
        "encoding": "srgb" if kind == "picture" and not texture.data else "linear",
        "cover": str(Cover.PREMULTIPLIED if made.premultiplied else Cover.STRAIGHT),
    }


def stem_of(name: str, taken: set[str]) -> str:
    """Return a file name made of a texture's name, that no other has taken."""
    plain = re.sub(r"[^\w-]+", "_", name.lower()).strip("_")[:60] or "texture"
    stem, number = plain, 2
    while stem in taken:
        stem, number = f"{plain}_{number}", number + 1
    taken.add(stem)
    return stem


def sheets_of(texture: Texture, made: Pictures) -> list[tuple[str, NDArray[np.uint8], dict[str, float]]]:
    """Return the pictures of a texture laid out as sheets: their kinds, pixels, and of motion its reach."""
    padding = 0 if texture.build is None or texture.file else texture.build.padding
    pixels = made.pixels if texture.data else _as_srgb(made)
    found = [("picture", _bytes(laid_out(np.asarray(pixels, np.float32), padding)), dict[str, float]())]
    if made.normals is not None:
        found.append(("normals", _bytes(laid_out(made.normals * 0.5 + 0.5, padding)), {}))
    if made.motion is not None:
        reach = max(float(np.abs(made.motion).max()), 1e-4)
        whole = np.full((*made.motion.shape[:3], 3), 0.5, np.float32)
        whole[..., :2] = made.motion / np.float32(2 * reach) + np.float32(0.5)
        found.append(("motion", _bytes(laid_out(whole, padding)), {"reach": round(reach, 6)}))
    return found


def _as_srgb(made: Pictures) -> Floats:
    """Return colours as a picture file has them; of premultiplied ones it is the light times cover that
    is encoded.
    """
    return np.concatenate([to_srgb(made.pixels[..., :3]), made.pixels[..., 3:]], axis=3)


def folder_beside(path: Path) -> Path:
    """Return the folder beside an effect's file that its made pictures are written to."""
    return path.with_name(f"{path.stem} textures")


def _bytes(pixels: Floats) -> NDArray[np.uint8]:
    return np.rint(np.clip(pixels, 0.0, 1.0) * 255.0).astype(np.uint8)  # type: ignore[no-any-return]

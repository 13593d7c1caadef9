"""A bundle's textures: each baked as a picture file, or in blocks, with what a reader must know of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import Cover, TextureForm
from ...effect.textures import Texture
from ...textures.compressing import (
    PLAIN_SWIZZLE,
    Blocks,
    Meaning,
    Proposal,
    as_chosen,
    as_four,
    compressed,
    levels_of,
    proposed,
    smaller_copies,
    stored,
)
from ...textures.cutting import grid_for, laid_out
from ...textures.dds import dds_bytes
from ...textures.exr import exr_bytes
from ...textures.pictures import Pictures
from ...textures.png import png_bytes
from ..baked_textures import sheets_of, stem_of
from ..textures import Trusted, pictures_for

Bytes = NDArray[np.uint8]


@dataclass(frozen=True)
class Sheet:
    """One picture of a texture, laid out and ready to be stored.

    Attributes
    ----------
    texture : Texture
    kind : str
        ``picture``, ``normals`` or ``motion``.
    pixels : (height, width, 3 or 4) uint8
    meaning : Meaning
    more : dict
        What is told besides: frames, their size, how they are laid out, of motion its reach.
    deep : (height, width, 4) float32 or None
        The picture itself where eight bits would lose something of it.
    """

    texture: Texture
    kind: str
    pixels: Bytes
    meaning: Meaning
    more: dict[str, Any] = field(default_factory=dict)
    deep: NDArray[np.float32] | None = None

    @property
    def premultiplied(self) -> bool:
        return self.kind == "picture" and self.more["cover"] == Cover.PREMULTIPLIED

    @property
    def key(self) -> str:
        """Return what the choices of a profile call it."""
        return self.texture.name if self.kind == "picture" else f"{self.texture.name}/{self.kind}"


def baked_sheets(texture: Texture, trusted: Trusted) -> list[Sheet]:
    """Return the pictures of a texture, from its file or its build, laid out.

    Raises
    ------
    EffectError
        If they can't be had; the place is the texture.
    """
    try:
        made = pictures_for(texture, trusted)
    except EffectError as wrong:
        raise EffectError(f"texture “{texture.name}”", wrong.reason) from None
    assert made is not None
    return [_sheet(texture, made, kind, pixels, more) for kind, pixels, more in sheets_of(texture, made)]


def _sheet(texture: Texture, made: Pictures, kind: str, pixels: Bytes, more: dict[str, float]) -> Sheet:
    """Return a texture's sheet of one kind, with its smaller copies."""
    padding = texture.build.padding if texture.build is not None and not texture.file else 0
    grid = grid_for(made.frames, padding)
    cover = Cover.PREMULTIPLIED if made.premultiplied else Cover.STRAIGHT
    progress = {
        "frames": made.frames,
        "columns": grid.columns,
        "rows": grid.rows,
        "frame_size": list(made.size),
        "padding": padding,
        "encoding": "srgb" if kind == "picture" and not texture.data else "linear",
        "cover": str(cover),
        "smooth": texture.smooth,
        "wrap": texture.wrap,
        **more,
    }
    meaning = {"normals": Meaning.NORMALS, "motion": Meaning.MOTION}.get(
        kind, Meaning.DATA if texture.data else Meaning.COLOR
    )
    deep = None
    if kind == "picture" and (made.deep or float(made.pixels.max(initial=0.0)) > 1.0):
        deep = laid_out(made.pixels, padding)
    return Sheet(texture, kind, pixels, meaning, progress, deep)


def blocks_of(form: TextureForm) -> Blocks | None:
    """Return how a texture is stored in a form; None for what is proposed."""
    if form == TextureForm.PROPOSED:
        return None
    return Blocks.PLAIN if form == TextureForm.PNG else Blocks(str(form))


def chosen(sheet: Sheet, blocks: Blocks | None) -> Proposal:
    """Return how a picture is stored: as somebody chose, or in what its channels ask for."""
    return (
        proposed(sheet.pixels, sheet.meaning)
        if blocks is None
        else as_chosen(sheet.pixels, blocks, sheet.meaning)
    )


def file_of(sheet: Sheet, how: Proposal) -> tuple[str, bytes, int]:
    """Return the ending and the bytes of a picture's file, and how many sizes it holds."""
    if sheet.deep is not None:
        return ".exr", exr_bytes(sheet.deep), 1
    if how.blocks == Blocks.PLAIN:
        return ".png", png_bytes(sheet.pixels), 1
    four = as_four(sheet.pixels)
    wide, high = sheet.more["frame_size"]
    # Where frames lie side by side, what is smaller than one of them would mix them.
    around = 2 * sheet.more["padding"]
    cells = sheet.more["columns"] * sheet.more["rows"] > 1
    levels = smaller_copies(
        four, sheet.meaning, levels_of(wide + around, high + around, cells), sheet.premultiplied
    )
    packed = [
        (
            one.shape[1],
            one.shape[0],
            how.first if i == 0 and how.first else compressed(stored(one, how.swizzle), how.blocks),
        )
        for i, one in enumerate(levels)
    ]
    srgb = sheet.more["encoding"] == "srgb" and how.swizzle == PLAIN_SWIZZLE
    return ".dds", dds_bytes(packed, how.blocks, srgb), len(packed)


def texture_files(
    effect: Effect, trusted: Trusted, choices: Mapping[str, Blocks | None], default: Blocks | None
) -> tuple[dict[str, bytes], list[dict[str, Any]]]:
    """Return the files of all textures of an effect, and a description of each.

    Parameters
    ----------
    choices : dict
        How a texture, by its name or ``name/normals`` or ``name/motion``, is stored; None for what is
        proposed.
    default : Blocks or None
        How others are.

    Raises
    ------
    EffectError
        If a texture can't be had.
    """
    files: dict[str, bytes] = {}
    rows: list[dict[str, Any]] = []
    taken: set[str] = set()
    for texture in effect.textures:
        stem = _free_stem(texture.name, taken)
        for sheet in baked_sheets(texture, trusted):
            how = chosen(sheet, choices.get(sheet.key, default))
            ending, data, levels = file_of(sheet, how)
            name = f"textures/{stem}{'' if sheet.kind == 'picture' else '_' + sheet.kind}{ending}"
            files[name] = data
            blocks = "half" if ending == ".exr" else str(how.blocks)
            row = {
                "texture": texture.name,
                "kind": sheet.kind,
                "file": name,
                "format": blocks,
                "levels": levels,
                "swizzle": list(how.swizzle),
            }
            if np.isfinite(how.psnr) and ending == ".dds":
                row["psnr"] = round(how.psnr, 2)
            high, wide = sheet.pixels.shape[:2]
            rows.append({**row, "size": [wide, high], **sheet.more, "why": how.why})
    return files, rows


def _free_stem(name: str, taken: set[str]) -> str:
    """Return a file name made of a texture's, that neither another texture nor one of its maps has."""
    while True:
        stem = stem_of(name, taken)
        maps = {f"{stem}_{kind}" for kind in ("normals", "motion")}
        if not maps & taken:
            taken |= maps
            return stem

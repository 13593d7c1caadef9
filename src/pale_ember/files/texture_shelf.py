"""The shelf of textures to start from: the shipped builds, and the artist's own as files beside each
other.
"""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.storing.storage import load_effect, save_effect
from ..effect.textures import Texture
from ..textures.library import shipped_textures
from .library import file_for, free_among


@dataclass(frozen=True)
class Shelved:
    """A texture on the shelf, those that it names beside it, and its file if it is the artist's own."""

    texture: Texture
    beside: tuple[Texture, ...] = ()
    path: Path | None = None

    @property
    def name(self) -> str:
        return self.texture.name

    @property
    def own(self) -> bool:
        return self.path is not None


def own_folder() -> Path:
    """Return where the artist's own textures are kept; ``PALE_EMBER_TEXTURES`` names another place."""
    return Path(
        os.environ.get("PALE_EMBER_TEXTURES") or Path(platformdirs.user_data_dir("pale-ember")) / "textures"
    )


def shelf() -> tuple[list[Shelved], list[str]]:
    """Return all textures on the shelf, the shipped ones first, and a sentence for each file that is
    wrong.
    """
    own: list[Shelved] = []
    wrong: list[str] = []
    for path in sorted(own_folder().glob("*.ember")):
        try:
            effect = load_effect(path)
            if not effect.textures:
                raise EffectError("textures", "there is no texture in it; put one there.")
            own.append(Shelved(effect.textures[0], effect.textures[1:], path))
        except EffectError as problem:
            wrong.append(f"{path.name} is left out of the shelf. {problem}")
    return [*map(Shelved, shipped_textures()), *sorted(own, key=lambda one: one.name)], wrong


def keep_texture(texture: Texture, effect: Effect) -> Path:
    """Save a texture of an effect, and those that it names, as one of the artist's own; a taken name gets a
    number.

    Raises
    ------
    EffectError
        If the file can't be written.
    """
    name = free_among(texture.name, [one.name for one in shelf()[0] if one.own])
    beside = tuple(
        one for field in ("normals", "motion") if (one := effect.texture(getattr(texture, field))) is not None
    )
    path = file_for(own_folder(), name, ".ember", "texture")
    others = tuple(one for one in dict.fromkeys(beside) if one.name != name)
    save_effect(Effect(name=name, textures=(texture.model_copy(update={"name": name}), *others)), path)
    return path

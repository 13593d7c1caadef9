"""Textures that go with layers from effect to effect."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from ..chapters.look import NOISES, texture_names
from ..effect import Effect, Layer
from ..textures import Texture


def worn_by(effect: Effect, layers: Iterable[Layer]) -> tuple[Texture, ...]:
    """Return the textures that layers of an effect wear, and those beside them, in the effect's order."""
    names = {name for layer in layers for name in texture_names(layer.look)}
    beside = {
        name
        for texture in effect.textures
        if texture.name in names
        for name in (texture.normals, texture.motion)
    }
    return tuple(texture for texture in effect.textures if texture.name in names | beside)


def free_texture_name(effect: Effect, wished: str) -> str:
    """Return the name, with a number behind it if a texture has it already."""
    taken = {texture.name for texture in effect.textures}
    wished = wished or "texture"
    base = wished.rstrip("0123456789 ") or wished
    name, number = wished, 2
    while name in taken:
        name, number = f"{base} {number}", number + 1
    return name


def with_textures(
    effect: Effect, layers: Sequence[Layer], textures: Sequence[Texture]
) -> tuple[Effect, tuple[Layer, ...]]:
    """Return an effect that has some textures too, and layers that call them as they are called there.

    One that the effect has already is taken; one whose name means another there gets a name of its own.
    """
    names: dict[str, str] = {}
    for texture in textures:
        known = effect.texture(texture.name)
        if known is None or known == texture:
            names[texture.name] = texture.name
        else:
            names[texture.name] = free_texture_name(effect, texture.name)
        if effect.texture(names[texture.name]) is None:
            beside = {
                field: names.get(getattr(texture, field), getattr(texture, field))
                for field in ("normals", "motion")
            }
            fresh = texture.model_copy(update={"name": names[texture.name], **beside})
            effect = effect.edit("textures", (*effect.textures, fresh))
    return effect, tuple(_renamed(layer, names) for layer in layers)


def renamed_texture(effect: Effect, name: str, new: str) -> Effect:
    """Return the effect with a texture called otherwise, wherever it is named.

    Raises
    ------
    EffectError
        If the name is empty or another texture's.
    """
    textures = tuple(
        texture.model_copy(
            update={field: new for field in ("name", "normals", "motion") if getattr(texture, field) == name}
        )
        for texture in effect.textures
    )
    layers = tuple(_renamed(layer, {name: new}) for layer in effect.layers)
    return effect.edit("textures", textures).edit("layers", layers)


def without_unused_textures(effect: Effect) -> Effect:
    """Return the effect without textures that no layer wears, disabled ones asked too."""
    worn = worn_by(effect, effect.layers)
    return effect if len(worn) == len(effect.textures) else effect.edit("textures", worn)


def _renamed(layer: Layer, names: dict[str, str]) -> Layer:
    look, changed = layer.look, dict[str, Any]()
    if names.get(look.texture, look.texture) != look.texture:
        changed["texture"] = names[look.texture]
    for role in NOISES:
        noise = getattr(look, role)
        if names.get(noise.texture, noise.texture) != noise.texture:
            changed[role] = noise.model_copy(update={"texture": names[noise.texture]})
    return layer.model_copy(update={"look": look.model_copy(update=changed)}) if changed else layer

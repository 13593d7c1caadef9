"""The textures of an effect, read or made and prepared for drawing."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Iterator

import numpy as np

from ..effect.chapters.look import texture_names, used_noises
from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import Backdrop, Channel, PropKind
from ..effect.rules.paths import FieldPath
from ..effect.steps.pictures import Picture
from ..effect.textures import Build, Texture
from ..simulation.meshes.faces import mesh_faces
from ..textures.making.build import Making
from ..textures.making.memory import BuildMemory
from ..textures.pictures import Pictures
from ..textures.prepared import Prepared, prepared
from ..textures.reading import Raw, pictures_of, read_raw
from .built_textures import build_key, built

Trusted = Callable[[str], bool]
Progress = Callable[[float], bool]
Key = tuple[object, ...]
# The name under which the backdrop's picture stands among an effect's textures: no texture can be called so.
BACKDROP = "\0backdrop"
# Pixels of all pictures that one build brings in.
MOST_BROUGHT = 1 << 26


def state_of(path: str) -> tuple[int, int]:
    """Return when a file was changed and its size; zeros if it isn't there."""
    try:
        about = os.stat(path)
        return about.st_mtime_ns, about.st_size
    except (OSError, ValueError):
        return 0, 0


def picture_files(effect: Effect) -> list[str]:
    """Return the picture files that an effect reads, each once."""
    named = [file for texture in effect.textures for file in texture.files()] + [effect.stage.picture]
    return [file for file in dict.fromkeys(named) if file]


def used_textures(effect: Effect) -> list[str]:
    """Return the names of the textures that enabled layers use, each once."""
    names = [name for layer in effect.layers if layer.enabled for name in texture_names(layer.look)]
    return list(dict.fromkeys(names))


def key_of(effect: Effect, texture: Texture, trusted: Trusted) -> Key:
    """Return what a texture's frames depend on: its entry and the state of its files."""
    parts: list[object] = [texture.model_copy(update={"name": ""})]
    for one in (texture, effect.texture(texture.normals), effect.texture(texture.motion)):
        if one is not None and one.file:
            parts += [one.file, state_of(one.file), trusted(one.file)]
        elif one is not None and one.build is not None:
            parts.append(build_key(one, states_of(one, trusted)))
        if one is not None and one is not texture:
            parts.append(one)
    return tuple(parts)


def states_of(texture: Texture, trusted: Trusted) -> tuple[object, ...]:
    """Return what the contents of the files that a texture needs are known by."""
    return tuple((file, state_of(file), trusted(file)) for file in texture.files())


def load_texture(
    effect: Effect,
    texture: Texture,
    trusted: Trusted,
    progress: Progress = lambda share: False,
    memory: BuildMemory | None = None,
) -> Prepared | None:
    """Return a texture made ready; None if its making was given up.

    Parameters
    ----------
    memory : BuildMemory, optional
        Holds what was made of builds before, so that only what changed is made anew.

    Raises
    ------
    EffectError
        If it can't be had; the place is the field of its entry.
    """
    whole = pictures_for(texture, trusted, progress, memory)
    if whole is None:
        return None
    beside = []
    for field in ("normals", "motion"):
        name = getattr(texture, field)
        other = effect.texture(name) if name else None
        if name and other is None:
            raise EffectError(field, f"there is no texture “{name}”; choose one that there is, or none.")
        try:
            beside.append(None if other is None else pictures_for(other, trusted, progress, memory))
        except EffectError as wrong:
            raise EffectError(field, f"“{name}”: {wrong.reason}") from None
    return prepared(texture, whole, *beside)


def pictures_for(
    texture: Texture,
    trusted: Trusted,
    progress: Progress = lambda share: False,
    memory: BuildMemory | None = None,
) -> Pictures | None:
    """Return the pictures of a texture, from its file or its build; None if the making was given up.

    Raises
    ------
    EffectError
        If a file that it needs can't be had; the place is the field of its entry.
    """
    if texture.file:
        return pictures_of(texture, read_trusted(texture.file, "file", trusted, texture.layer))
    if texture.build is None:
        raise EffectError("file", "this texture has neither a file nor a build; browse for a file.")
    return built(
        texture, Making(progress, files_for(texture.build, trusted), states_of(texture, trusted), memory)
    )


def files_for(build: Build, trusted: Trusted) -> dict[str, Raw]:
    """Return the pictures that a build's steps bring in, by what each step calls them.

    Raises
    ------
    EffectError
        If one can't be had; the place is the step's field.
    """
    found: dict[str, Raw] = {}
    pixels = 0
    for i, step in enumerate(build.steps):
        if not (isinstance(step, Picture) and step.on):
            continue
        for file in step.files:
            if step.key_of(file) in found:
                continue
            place = f"build.steps[{i}].files"
            found[step.key_of(file)] = raw = read_trusted(file, place, trusted, step.layer)
            pixels += raw.pixels.shape[0] * raw.pixels.shape[1]
            if pixels > MOST_BROUGHT:
                raise EffectError(
                    place,
                    f"together the pictures of this build have more than {MOST_BROUGHT:,} pixels; make "
                    "them smaller.",
                )
    return found


def read_trusted(file: str, place: str, trusted: Trusted, layer: str = "") -> Raw:
    """Return a file's picture, of an EXR one of its layers, if it may be read.

    Raises
    ------
    EffectError
        If it is not there, not trusted, or broken.
    """
    name = _shown(file)
    missing = EffectError(place, f"“{name}” is not there; browse for it, or put it back.")
    if not _is_there(file):
        raise missing
    if not trusted(file):
        raise EffectError(
            place,
            f"“{name}” lies outside the effect's folder and was not chosen here; browse for it to use it.",
        )
    try:
        return read_raw(file, layer)
    except EffectError as wrong:
        raise (EffectError(place, f"“{name}”: {wrong.reason}") if _is_there(file) else missing) from None


def _is_there(path: str) -> bool:
    try:
        return os.path.lexists(path)
    except ValueError:
        return False


def _shown(path: str) -> str:
    """Return a file's name as it may stand in a sentence."""
    return "".join(c if c.isprintable() else "?" for c in os.path.basename(path))[-120:]


def backdrop_texture(effect: Effect) -> Texture | None:
    """Return the backdrop's picture as a texture; None if it has none."""
    stage = effect.stage
    return (
        Texture(name=BACKDROP, file=stage.picture)
        if stage.backdrop == Backdrop.PICTURE and stage.picture
        else None
    )


def wanted(effect: Effect) -> list[tuple[str, Texture]]:
    """Return all textures of an effect by name, those that layers use first, and the backdrop's picture."""
    behind = backdrop_texture(effect)
    used = used_textures(effect)
    order = sorted(effect.textures, key=lambda texture: texture.name not in used)
    return ([(BACKDROP, behind)] if behind is not None else []) + [
        (texture.name, texture) for texture in order
    ]


def place_of(effect: Effect, name: str, field: str) -> str:
    """Return the path of a field of a texture's entry."""
    if name == BACKDROP:
        return "stage.picture"
    at = next((i for i, texture in enumerate(effect.textures) if texture.name == name), 0)
    return f"textures[{at}].{field}"


def textures_of(effect: Effect, trusted: Trusted) -> tuple[dict[str, Prepared], list[EffectError]]:
    """Return the textures that an effect's layers use, and what is wrong with the others, at once."""
    wrongs: list[EffectError] = []
    used = {*used_textures(effect), BACKDROP}
    found = dict(_loaded(effect, trusted, lambda name, texture: name in used, wrongs))
    return found, wrongs + unknown_names(effect) + read_prop_meshes(effect)


def problems_of(effect: Effect, trusted: Trusted) -> list[EffectError]:
    """Return what is wrong with all textures of an effect, whether they are used or not; builds are not
    made for it.
    """
    wrongs: list[EffectError] = []
    for _ in _loaded(
        effect, trusted, lambda name, texture: bool(texture.files()) or texture.build is None, wrongs
    ):
        pass  # one at a time: all of them together may be too large to hold
    return wrongs + unknown_names(effect) + read_prop_meshes(effect)


def _loaded(
    effect: Effect, trusted: Trusted, wants: Callable[[str, Texture], bool], wrongs: list[EffectError]
) -> Iterator[tuple[str, Prepared]]:
    """Yield an effect's textures as far as they are wanted; what is wrong with others goes to ``wrongs``."""
    for name, texture in wanted(effect):
        try:
            ready = load_texture(effect, texture, trusted) if wants(name, texture) else None
        except EffectError as wrong:
            wrongs.append(EffectError(place_of(effect, name, wrong.place), wrong.reason))
            continue
        if ready is not None:
            yield name, ready


def read_prop_meshes(effect: Effect) -> list[EffectError]:
    """Read the meshes of props, so that they can be drawn; return what is wrong with them."""
    found = []
    for i, prop in enumerate(effect.stage.props):
        if prop.kind == PropKind.MESH:
            try:
                mesh_faces(prop.mesh)
            except EffectError as wrong:
                found.append(EffectError(f"stage.props[{i}].mesh", wrong.reason))
    return found


def unknown_names(effect: Effect) -> list[EffectError]:
    """Return what layers name as their textures and the effect doesn't have."""
    found = []
    known = {texture.name for texture in effect.textures}
    for i, layer in enumerate(effect.layers):
        named = {"look.texture": layer.look.texture}
        named |= {f"look.{role}.texture": noise.texture for role, noise in used_noises(layer.look).items()}
        for path, name in named.items():
            if name and name not in known:
                reason = f"this effect has no texture “{name}”; choose one that it has, or none."
                found.append(EffectError(FieldPath.of_layer(i, path), reason))
    return found


def size_note(texture: Texture, ready: Prepared, widest: float = 0.0, masks: Collection[Channel] = ()) -> str:
    """Return a sentence on a texture that is worth telling; empty if there is none.

    Parameters
    ----------
    widest : float
        How wide its particles are on the screen at most, pixels; 0 if that isn't known.
    masks : collection of Channel
        The channels that are read of it; all of them is one.
    """
    wide, high = ready.size
    colors = [str(one) for one in masks if one not in (Channel.ALL, Channel.ALPHA)]
    if colors and texture.file and not texture.data and not ready.is_opaque:
        return (
            f"its {colors[0]} is read as a mask, but its colours are multiplied by its alpha; switch Data "
            "on if its channels are masks."
        )
    if texture.file and any(side & (side - 1) for side in (wide, high)):
        return (
            f"a frame is {wide} × {high} pixels; games want powers of two, such as {_near(wide)} × "
            f"{_near(high)}."
        )
    if widest and wide > 8 * widest and wide >= 256:
        return (
            f"a frame is {wide} pixels wide for particles of {max(round(widest), 1)} pixels; "
            f"{_near(2 * widest)} would do."
        )
    if not texture.data and texture.file and ready.is_opaque:
        return (
            "its alpha is never used: the whole square covers. If it is a mask, choose one of its channels."
        )
    if ready.covered < 0.2:
        return (
            f"it is mostly empty: {100 * ready.covered:.0f} % of a frame is covered. Crop it to what is seen."
        )
    return ""


def _near(side: float) -> int:
    return 1 << max(round(float(np.log2(max(side, 1.0)))), 0)

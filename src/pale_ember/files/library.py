"""The layer library: ready-made starting layers, and the artist's own as files beside each other."""

from __future__ import annotations

import functools
import os
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ..effect.editing.chains import ancestors
from ..effect.editing.texture_moves import worn_by
from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from ..effect.storing.storage import load_effect, save_effect

# The shipped layers as they are shown: what one looks for together stands together.
FAMILIES = {
    "Fire": ("flame", "ember", "spark", "spark-ribbons", "flash", "scorch"),
    "Smoke": ("smoke", "ink-smoke", "smoke-ribbon", "ring", "steam", "mist", "dust"),
    "Weather": ("rain", "splash", "snow", "hail"),
    "Impacts": (
        "debris",
        "bouncing-debris",
        "stones",
        "dust-ring",
        "shock",
        "glint-on-hit",
        "death-puff",
        "trail-of-motes",
    ),
    "Light": ("bolt", "arc", "column"),
}
_ORDER = {stem: number for number, stem in enumerate(stem for stems in FAMILIES.values() for stem in stems)}


@dataclass(frozen=True)
class Start:
    """A layer to start from: an effect of that one layer, so that it can be seen and rendered by itself.

    Of a follow-up the effect has what it follows as well, first.
    """

    name: str
    effect: Effect
    path: Path
    own: bool

    @property
    def layer(self) -> Layer:
        return self.effect.layers[0]

    @property
    def follow_ups(self) -> tuple[Layer, ...]:
        """Return the layers of it that follow another; none where it emits by itself."""
        return tuple(layer for layer in self.effect.layers if layer.origin.parent)


def own_folder() -> Path:
    """Return where the artist's own layers are kept; ``PALE_EMBER_LAYERS`` names another place."""
    return Path(
        os.environ.get("PALE_EMBER_LAYERS") or Path(platformdirs.user_data_dir("pale-ember")) / "layers"
    )


def starts(shipped: Path) -> tuple[list[Start], list[str]]:
    """Return all layers to start from, the shipped ones by families, then one's own by name, and a
    sentence for each wrong file.
    """
    found, wrong = _starts_in(shipped, False)
    own, wrong_too = _starts_in(own_folder(), True)
    return [*found, *own], [*wrong, *wrong_too]


def _starts_in(folder: Path, own: bool) -> tuple[list[Start], list[str]]:
    """Return the starts in a folder, and a sentence for each file that is wrong."""
    found, wrong = [], []
    for path in sorted(
        folder.glob("*.ember"),
        key=lambda path: (_ORDER.get(path.stem, len(_ORDER)) if not own else 0, path.stem.casefold()),
    ):
        try:
            effect = _loaded(path)
            if not effect.layers:
                raise EffectError("layers", "there is no layer in it; add one.")
            follows = any(layer.origin.parent for layer in effect.layers)
            found.append(Start(effect.name if follows else effect.layers[0].name, effect, path, own))
        except EffectError as problem:
            wrong.append(f"{path.name} is left out of the library. {problem}")
    return found, wrong


def _loaded(path: Path) -> Effect:
    """Return the effect in a file; each window's shelf asks for all of them, so it is read once until it
    changes.
    """
    try:
        state = path.stat()
    except OSError:
        return load_effect(path)  # it says what is wrong
    return _loaded_as_of(path, state.st_mtime_ns, state.st_size)


@functools.lru_cache(maxsize=256)
def _loaded_as_of(path: Path, written_ns: int, size: int) -> Effect:
    return load_effect(path)


def own_of_name(name: str) -> Start | None:
    """Return the artist's own kept layer of a name, if there is one."""
    return next((start for start in _starts_in(own_folder(), True)[0] if start.name == name), None)


def keep_layer(layer: Layer, effect: Effect, instead: Start | None = None) -> Path:
    """Save a layer of an effect as one of the artist's own; one whose name is taken gets a number.

    Parameters
    ----------
    instead : Start, optional
        A kept one whose place it takes, name and file.

    Raises
    ------
    EffectError
        If the file can't be written.
    """
    if instead is None:
        name = free_among(layer.name, [start.name for start in _starts_in(own_folder(), True)[0]])
        path = file_for(own_folder(), name, ".ember", "layer")
    else:
        name, path = instead.name, instead.path
    layers = (*reversed(ancestors(effect, layer)), layer.model_copy(update={"name": name}))
    alone = effect.model_copy(
        update={"name": name, "notes": "", "layers": layers, "textures": worn_by(effect, layers)}
    )
    save_effect(alone, path)
    return path


def free_among(name: str, taken: Iterable[str]) -> str:
    """Return a name, with a number behind it if it is taken."""
    known, number, found = set(taken), 2, name
    while found in known:
        found, number = f"{name} {number}", number + 1
    return found


def file_for(folder: Path, name: str, ending: str, otherwise: str) -> Path:
    """Return a new file for something of a name, in a folder that is made if it isn't there.

    Parameters
    ----------
    otherwise : str
        What the file is called where nothing of the name can stand in a file's name.

    Raises
    ------
    EffectError
        If the folder can't be made.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise EffectError(
            str(folder), f"the folder can't be made: {(problem.strerror or '').lower()}."
        ) from None
    plain = re.sub(r"[^\w-]+", "-", name.lower()).strip("-") or otherwise
    # Names that differ may be the same as a file's; no file of another takes its place.
    short = plain.encode()[:60].decode(errors="ignore")
    path, number = folder / f"{short}{ending}", 2
    while path.exists():
        path, number = folder / f"{short}-{number}{ending}", number + 1
    return path

"""What can be handed over of an effect: each product, what its files are called, and how it is made."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Any

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import BundleForm
from ...effect.rules.part import Part
from ...effect.storing.whole_files import write_whole
from ...textures.prepared import Prepared
from ..bakes.film import write_film
from ..bakes.sequence import sequence_files
from ..bakes.sheet import sheet_files
from ..bundle.tree import MANIFEST, whole_folder
from ..bundle.writing import write_bundle
from ..caches.writing import ENDINGS, write_cache
from ..profile import Profile
from ..stopping import Progress
from ..textures import Trusted, textures_of
from .budget import over_budget

FRAMES_MARKER = "frames.json"
Inputs = tuple[str | os.PathLike[str], ...]


class Product(StrEnum):
    """What is handed over; each is a section of profiles."""

    BUNDLE = "bundle"
    SHEET = "sheet"
    FRAMES = "frames"
    FILM = "film"
    CACHE = "cache"


@dataclass(frozen=True)
class Work:
    """One effect to be handed over.

    ``at`` is where it goes, without an ending; ``inputs`` are never written over, the first is the effect's
    own file, and ``digest`` that of the bytes that the effect was read from.
    """

    product: Product
    effect: Effect
    at: Path
    profile: Profile
    trusted: Trusted
    inputs: Inputs = ()
    digest: str = ""


def wish_of(profile: Profile, product: Product) -> Part:
    """Return what a profile wishes of a product."""
    return getattr(profile, product)  # type: ignore[no-any-return]


def files_of(product: Product, profile: Profile, at: Path) -> list[Path]:
    """Return the files and folders that a work writes; the last is written last."""
    if product == Product.BUNDLE:
        return [_ended(at, ".zip") if profile.bundle.form == BundleForm.ZIP else at]
    if product == Product.SHEET:
        maps = [
            name
            for name, wanted in (("motion", profile.sheet.motion), ("normals", profile.sheet.normals))
            if wanted
        ]
        return [
            _ended(at, ".png"),
            *(at.with_name(f"{at.name}_{name}.png") for name in maps),
            _ended(at, ".json"),
        ]
    if product == Product.FILM:
        return [_ended(at, f".{profile.film.form}")]
    return [_ended(at, ENDINGS[profile.cache.form])] if product == Product.CACHE else [at]


def is_folder(product: Product, profile: Profile) -> bool:
    """Return whether what a work writes is a folder of its own."""
    return product == Product.FRAMES or (product == Product.BUNDLE and profile.bundle.form != BundleForm.ZIP)


def _ended(at: Path, ending: str) -> Path:
    return at.with_name(at.name + ending)


def perform(work: Work, progress: Progress = lambda share: False) -> list[str]:
    """Do a work; return what is over its budget.

    Raises
    ------
    EffectError
        If it can't be done; what was there before stays.
    Stopped
    """
    try:
        work.at.parent.mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        raise EffectError(
            str(work.at.parent), f"the folder can't be made: {(wrong.strerror or str(wrong)).lower()}."
        ) from None
    return _MAKERS[work.product](work, progress)


def _textures(work: Work) -> Mapping[str, Prepared]:
    found, wrongs = textures_of(work.effect, work.trusted)
    if wrongs:
        raise wrongs[0]
    return found


def _bundle(work: Work, progress: Progress) -> list[str]:
    (path,) = files_of(work.product, work.profile, work.at)
    tree = write_bundle(work.effect, path, work.profile, work.trusted, progress, work.inputs)
    return over_budget(work.effect, json.loads(tree[MANIFEST])["figures"], work.profile.budget)


def _sheet(work: Work, progress: Progress) -> list[str]:
    made = sheet_files(work.effect, _textures(work), work.profile.sheet, work.at.name, progress)
    for path in files_of(work.product, work.profile, work.at):
        write_whole(path, made[path.name], work.inputs)
    return []


def _frames(work: Work, progress: Progress) -> list[str]:
    """Bake an effect to a picture for each frame."""
    names = []
    with whole_folder(work.at, FRAMES_MARKER, work.inputs) as put:
        for name, data in sequence_files(work.effect, _textures(work), work.profile.frames, progress):
            put(name, data)
            names.append(name)
        options = work.profile.frames
        about: dict[str, Any] = {
            "effect": work.effect.name,
            "rate": options.rate,
            "size": [options.width, options.height],
            "frames": len(names),
            "first": names[0],
            "last": names[-1],
        }
        put(FRAMES_MARKER, (json.dumps(about, indent=2, ensure_ascii=False) + "\n").encode())
    return []


def _film(work: Work, progress: Progress) -> list[str]:
    (path,) = files_of(work.product, work.profile, work.at)
    write_film(work.effect, _textures(work), work.profile.film, path, progress, work.inputs)
    return []


def _cache(work: Work, progress: Progress) -> list[str]:
    (path,) = files_of(work.product, work.profile, work.at)
    write_cache(work.effect, work.profile.cache, path, progress, work.inputs)
    return []


_MAKERS: dict[Product, Callable[[Work, Progress], list[str]]] = {
    Product.BUNDLE: _bundle,
    Product.SHEET: _sheet,
    Product.FRAMES: _frames,
    Product.FILM: _film,
    Product.CACHE: _cache,
}

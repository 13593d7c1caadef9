"""Bundles to effects."""

from __future__ import annotations

import hashlib
import io
import json
import os
import shutil
import tempfile
import zipfile
from pathlib import Path, PurePosixPath

from pydantic import ValidationError

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.storage import load_effect
from ...effect.whole_files import PART, read_regular, shown_path, sweep, temporary_prefix
from .manifest import FORMAT, VERSION, Manifest
from .tree import MANIFEST

LARGEST, MOST_FILES, MOST_BYTES = 1 << 30, 20_000, 4 << 30
_LARGEST_MANIFEST = 64 << 20


def is_bundle(path: str | os.PathLike[str]) -> bool:
    """Return whether a path is a bundle's folder, its ``bundle.json``, or a .zip."""
    at = Path(path)
    return (at / MANIFEST).is_file() or at.name == MANIFEST or at.suffix.lower() == ".zip"


def unpacked(path: str | os.PathLike[str], keep: str | os.PathLike[str]) -> Path:
    """Return the folder of a bundle; a .zip is unpacked into a folder of its own below ``keep``, once.

    Raises
    ------
    EffectError
        If it is no bundle, or broken; nothing is left half unpacked.
    """
    at = Path(path)
    if at.name == MANIFEST:
        return at.parent
    if at.is_dir():
        return at
    data = read_regular(at, LARGEST)
    root = Path(keep)
    target = root / f"{at.stem[:60]}-{hashlib.sha256(data).hexdigest()[:16]}"
    if (target / MANIFEST).is_file():
        return target
    place = shown_path(path)
    temporary = ""
    try:
        root.mkdir(parents=True, exist_ok=True)
        sweep(root)
        temporary = tempfile.mkdtemp(prefix=temporary_prefix(), suffix=PART, dir=root)
        _unzip(data, Path(temporary), place)
        top = _top(Path(temporary), place)
        os.rename(top, target)
    except (OSError, RuntimeError, NotImplementedError, zipfile.BadZipFile, EOFError, ValueError) as wrong:
        if isinstance(wrong, EffectError):
            raise
        if (target / MANIFEST).is_file():
            return target  # another process was quicker
        said = wrong.strerror if isinstance(wrong, OSError) and wrong.strerror else str(wrong) or "it is cut off"
        raise EffectError(place, f"this .zip can't be unpacked: {said[:1].lower()}{said[1:]}.") from None
    finally:
        if temporary:
            shutil.rmtree(temporary, ignore_errors=True)
    return target


def _unzip(data: bytes, folder: Path, place: str) -> None:
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        rows = [row for row in file.infolist() if not row.is_dir()]
        if len(rows) > MOST_FILES or sum(row.file_size for row in rows) > MOST_BYTES:
            raise EffectError(place, "this .zip holds more than a bundle can; it is left alone.")
        for row in rows:
            name = PurePosixPath(row.filename)
            if name.is_absolute() or ".." in name.parts or "\\" in row.filename or "\0" in row.filename:
                raise EffectError(place, "this .zip holds a file that would lie outside its folder; it is left alone.")
            at = folder / name
            at.parent.mkdir(parents=True, exist_ok=True)
            with file.open(row) as source, at.open("xb") as target:
                shutil.copyfileobj(source, target)


def _top(folder: Path, place: str) -> Path:
    """Return the folder that holds the bundle: the whole, or the only folder in it."""
    for one in (folder, *sorted(folder.iterdir())):
        if (one / MANIFEST).is_file():
            return one
    raise EffectError(place, "this .zip holds no bundle: there is no bundle.json in it.")


def read_manifest(folder: str | os.PathLike[str]) -> Manifest:
    """Return what a bundle's folder says of itself.

    Raises
    ------
    EffectError
        If it is no bundle, or one of a newer version.
    """
    at = Path(folder, MANIFEST)
    try:
        data = json.loads(read_regular(at, _LARGEST_MANIFEST))
    except (ValueError, RecursionError):
        raise EffectError(shown_path(at), "this is not whole JSON; take the bundle anew from where it came from.") from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise EffectError(shown_path(at), f"this is no bundle: its format is not “{FORMAT}”.")
    if isinstance(data.get("version"), int) and data["version"] > VERSION:
        raise EffectError(shown_path(at), "this bundle was written by a newer version of Pale Ember; open it there.")
    try:
        return Manifest.model_validate(data)
    except ValidationError as wrong:
        first = wrong.errors(include_url=False)[0]
        where = ".".join(str(step) for step in first["loc"])
        raise EffectError(shown_path(at), f"{where}: {first['msg'].lower()}.") from None


def load_bundle(folder: str | os.PathLike[str]) -> Effect:
    """Return the effect of a bundle's folder.

    Raises
    ------
    EffectError
        If it is no bundle, or its effect is wrong.
    """
    manifest = read_manifest(folder)
    if PurePosixPath(manifest.effect).is_absolute() or ".." in PurePosixPath(manifest.effect).parts:
        raise EffectError(shown_path(Path(folder, MANIFEST)), "its effect lies outside the bundle; it is left alone.")
    return load_effect(Path(folder, manifest.effect))


def damaged(folder: str | os.PathLike[str]) -> list[str]:
    """Return the files of a bundle that are missing or not as they were written."""
    wrong = []
    for name, row in read_manifest(folder).files.items():
        at = Path(folder, name)
        if not at.is_file() or at.stat().st_size != row.bytes or hashlib.sha256(at.read_bytes()).hexdigest() != row.sha256:
            wrong.append(name)
    return wrong

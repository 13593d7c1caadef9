"""Bundles to effects."""

from __future__ import annotations

import hashlib
import io
import json
import lzma
import os
import shutil
import struct
import tempfile
import zipfile
import zlib
from pathlib import Path, PurePosixPath

from pydantic import ValidationError

from ...effect.effect import Effect
from ...effect.errors import EffectError, shown
from ...effect.storing.storage import load_effect
from ...effect.storing.whole_files import (
    PART,
    hash_regular,
    read_regular,
    shown_path,
    sweep,
    temporary_prefix,
)
from .manifest import FORMAT, VERSION, Manifest
from .tree import MANIFEST

LARGEST, MOST_FILES, MOST_BYTES = 1 << 30, 20_000, 4 << 30
_LARGEST_MANIFEST = 64 << 20
# The longest name that file systems take, bytes.
_LONGEST_NAME = 255


def is_bundle(path: str | os.PathLike[str]) -> bool:
    """Return whether a path is a bundle's folder, its ``bundle.json``, the effect in it, or a .zip."""
    at = Path(path)
    return (
        (at / MANIFEST).is_file() or at.name == MANIFEST or at.suffix.lower() == ".zip" or _is_its_effect(at)
    )


def _is_its_effect(at: Path) -> bool:
    """Return whether a file is the effect that the ``bundle.json`` beside it names."""
    about = at.parent / MANIFEST
    if not about.is_file() or not at.is_file():
        return False
    try:
        return bool(json.loads(read_regular(about, _LARGEST_MANIFEST)).get("effect") == at.name)
    except (EffectError, ValueError, AttributeError, RecursionError):
        # A broken bundle is one all the same.
        return at.name == Manifest.model_fields["effect"].default  # type: ignore[no-any-return]


def unpacked(path: str | os.PathLike[str], keep: str | os.PathLike[str]) -> Path:
    """Return the folder of a bundle; a .zip is unpacked into a folder of its own below ``keep``, once.

    Raises
    ------
    EffectError
        If it is no bundle, or broken; nothing is left half unpacked.
    """
    at = Path(path)
    if at.name == MANIFEST or _is_its_effect(at):
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
        os.rename(temporary, target)
        temporary = ""
    except (
        OSError,
        RuntimeError,
        NotImplementedError,
        zipfile.BadZipFile,
        zlib.error,
        lzma.LZMAError,
        struct.error,
        EOFError,
        ValueError,
        OverflowError,
    ) as wrong:
        if isinstance(wrong, EffectError):
            raise
        if (target / MANIFEST).is_file():
            return target  # another process was quicker
        said = wrong.strerror if isinstance(wrong, OSError) and wrong.strerror else "it is broken or cut off"
        raise EffectError(
            place,
            f"this .zip can't be unpacked: {said[:1].lower()}{said[1:]}. Take the bundle anew from "
            "where it came from.",
        ) from None
    finally:
        if temporary:
            shutil.rmtree(temporary, ignore_errors=True)
    return target


def _unzip(data: bytes, folder: Path, place: str) -> None:
    """Unpack a bundle: the files that its manifest names, each no larger than that says."""
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        rows = _rows(file, place)
        about, top = _manifest_in(rows, place)
        text = _read_at_most(file, about, _LARGEST_MANIFEST)
        (folder / MANIFEST).write_bytes(text)
        known = _bytes_said(text)
        for row in rows:
            name = row.filename[len(top) :]
            if row.filename.startswith(top) and name in known:
                at = folder / name
                at.parent.mkdir(parents=True, exist_ok=True)
                at.write_bytes(_read_at_most(file, row, known[name]))


def _rows(file: zipfile.ZipFile, place: str) -> list[zipfile.ZipInfo]:
    """Return the files of a .zip, if all of them can be in a bundle's folder."""
    every = file.infolist()
    if any(leads_out(row.filename) or "\\" in row.filename for row in every):
        raise EffectError(
            place,
            "this .zip holds a file that would lie outside its folder, or has no name; it is left alone.",
        )
    rows = [row for row in every if not row.is_dir()]
    if any(row.flag_bits & 1 for row in rows):
        raise EffectError(place, "this .zip is encrypted; unpack it, and open the folder.")
    if len(rows) > MOST_FILES or sum(row.file_size for row in rows) > MOST_BYTES:
        raise EffectError(place, "this .zip holds more than a bundle can; it is left alone.")
    for row in rows:
        if any(
            len(part.encode(errors="surrogateescape")) > _LONGEST_NAME
            for part in PurePosixPath(row.filename).parts
        ):
            raise EffectError(
                place,
                f"this .zip holds a file whose name is longer than {_LONGEST_NAME} bytes; it is left alone.",
            )
    return rows


def _manifest_in(rows: list[zipfile.ZipInfo], place: str) -> tuple[zipfile.ZipInfo, str]:
    """Return a .zip's manifest and the folder that it lies in, which is the whole or the only one."""
    for row in sorted(rows, key=lambda row: len(row.filename)):
        above, _, name = row.filename.rpartition("/")
        if name == MANIFEST and "/" not in above:
            return row, f"{above}/" if above else ""
    raise EffectError(place, "this .zip holds no bundle: there is no bundle.json in it.")


def _read_at_most(file: zipfile.ZipFile, row: zipfile.ZipInfo, most: int) -> bytes:
    with file.open(row) as source:
        data = source.read(most + 1)
    if len(data) > most:
        raise EffectError(
            shown_path(row.filename),
            "this file of the .zip is larger than its bundle.json says; it is left alone.",
        )
    return data


def _bytes_said(manifest: bytes) -> dict[str, int]:
    """Return the files that a manifest names with their sizes; none if it is none, which is told when it
    is read.
    """
    try:
        files = json.loads(manifest)["files"]
        return {
            name: row["bytes"]
            for name, row in files.items()
            if isinstance(row["bytes"], int) and 0 <= row["bytes"] <= MOST_BYTES and not leads_out(name)
        }
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        return {}


def added_to_zip(path: str | os.PathLike[str]) -> list[str]:
    """Return the files in a bundle's .zip that its manifest doesn't name, and that are left alone when it
    is opened.
    """
    place = shown_path(path)
    with zipfile.ZipFile(io.BytesIO(read_regular(path, LARGEST))) as file:
        rows = _rows(file, place)
        about, top = _manifest_in(rows, place)
        known = _bytes_said(_read_at_most(file, about, _LARGEST_MANIFEST))
        return [
            row.filename
            for row in rows
            if row is not about
            and (not row.filename.startswith(top) or row.filename[len(top) :] not in known)
        ]


def leads_out(name: str) -> bool:
    """Return whether a file's name in a bundle is none, or leads out of its folder."""
    path = PurePosixPath(name)
    return not path.parts or path.is_absolute() or ".." in path.parts or "\0" in name


def read_manifest(folder: str | os.PathLike[str]) -> Manifest:
    """Return what a bundle's folder says of itself.

    Raises
    ------
    EffectError
        If it is no bundle, or one of a newer version.
    """
    at = Path(folder, MANIFEST)
    if not at.is_file():
        raise EffectError(shown_path(folder), "this is no bundle: there is no bundle.json in it.")
    try:
        data = json.loads(read_regular(at, _LARGEST_MANIFEST))
    except (ValueError, RecursionError):
        raise EffectError(
            shown_path(at), "this is not whole JSON; take the bundle anew from where it came from."
        ) from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise EffectError(shown_path(at), f"this is no bundle: its format is not “{FORMAT}”.")
    version = data.get("version", VERSION)
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise EffectError(
            shown_path(at),
            "its version is no whole number from 1 on; take the bundle anew from where it came from.",
        )
    if version > VERSION:
        raise EffectError(
            shown_path(at), "this bundle was written by a newer version of Pale Ember; open it there."
        )
    try:
        found = Manifest.model_validate(data)
        named = (
            *found.files,
            found.effect,
            found.schema_file,
            found.tables,
            found.page,
            found.player,
            found.runtime,
            found.vectors,
        )
        for name in named:
            if name is not None and leads_out(name):
                raise EffectError(
                    shown_path(at),
                    f"it names a file that lies outside the bundle ({shown(name, 60)}); it is left alone.",
                )
        return found
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
    return load_effect(Path(folder, manifest.effect))


# Said of a file of a bundle that differs from its manifest.
CHANGED = "this file is missing or not as it was written; take the bundle anew from where it came from."
ADDED = "this file is not of the bundle; take it out, or take the bundle anew from where it came from."


def wrong_files(folder: str | os.PathLike[str]) -> dict[str, str]:
    """Return the files of a bundle that are missing, not as they were written, or not of it, and what is
    wrong with each.
    """
    return {**dict.fromkeys(damaged(folder), CHANGED), **dict.fromkeys(added(folder), ADDED)}


def damaged(folder: str | os.PathLike[str]) -> list[str]:
    """Return the files of a bundle that are missing or not as they were written."""
    wrong = []
    for name, row in read_manifest(folder).files.items():
        at = Path(folder, name)
        try:
            if at.stat().st_size != row.bytes or hash_regular(at) != row.sha256:
                wrong.append(name)
        except (OSError, ValueError, EffectError):
            wrong.append(name)
    return wrong


def added(folder: str | os.PathLike[str]) -> list[str]:
    """Return the files in a bundle's folder that it doesn't name."""
    root, known = Path(folder), read_manifest(folder).files
    found = (
        one.relative_to(root).as_posix()
        for one in sorted(root.rglob("*"))
        if one.is_symlink() or not one.is_dir()
    )
    return [name for name in found if name not in known and name != MANIFEST]

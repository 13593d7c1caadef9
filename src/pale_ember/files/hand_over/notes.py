"""What is noted of each work of a batch beside what it wrote: whether it is still as it was, what is
missing, what is left over.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import shutil
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from ... import __version__
from ...effect.errors import EffectError
from ...effect.storing.whole_files import hash_regular, read_regular, write_whole
from ..profile import profile_text
from .batch import STATES, Item
from .works import Product, Work, files_of

# Grows when the same effect and profile give other files with the same version of the program.
_EDITION = 4
_LARGEST_NOTE = 64 << 20
Stamps = dict[str, tuple[int, int, str]]


def key_of(work: Work) -> str:
    """Return what a work's files depend on, as a hash: the effect as it was read, its files as they are,
    wishes, program.
    """
    digest = hashlib.sha256(
        f"{__version__}/{_EDITION}/{work.product}/{profile_text(work.profile)}/{work.digest}".encode()
    )
    for file in work.inputs[1:]:
        try:
            digest.update(hash_regular(file).encode())
        except EffectError:
            digest.update(b"missing")
    return digest.hexdigest()


def done_before(work: Work, key: str, item: Item, out: Path) -> dict[str, Any] | None:
    """Return what is known of a work that was done already and whose files are still as they were
    written; else None.
    """
    known = _known(_note_path(item.name, work.product, out))
    if known is None or known.get("key") != key:
        return None
    return known if are_as_written(known["files"], item.at.parent) else None


def note_done(work: Work, key: str, item: Item, out: Path, said: list[str]) -> None:
    """Note what a work was made of, and what it wrote."""
    _write(item, work.product, out, {"key": key, "files": _stamps(work), "said": said})


def note_failed(item: Item, product: Product, out: Path, reason: str) -> None:
    """Note why a work could not be done; what it wrote before is known no more."""
    with contextlib.suppress(EffectError):
        known = _known(_note_path(item.name, product, out)) or {}
        _write(item, product, out, {"failed": reason, "files": known.get("files", {})})


def report(items: Iterable[Item], product: Product, out: Path) -> list[dict[str, Any]]:
    """Return of each work of a batch what its note says: ``done``, ``changed`` since, ``failed`` or
    ``missing``.
    """
    rows = []
    for item in items:
        known = _known(_note_path(item.name, product, out))
        row: dict[str, Any] = {"file": str(item.file), "at": str(item.at), "state": "missing"}
        if known is not None and "failed" in known:
            row |= {"state": "failed", "reason": known["failed"]}
        elif known is not None:
            row |= {
                "state": "done" if are_as_written(known["files"], item.at.parent) else "changed",
                "budget": known.get("said", []),
            }
        rows.append(row)
    return rows


def left_over(items: Iterable[Item], product: Product, out: Path) -> list[str]:
    """Return the names of works that were noted here and whose effects are no longer in the batch."""
    wanted = {item.name for item in items}
    found = []
    for note in sorted((out / STATES).glob("*.json")):
        known = _known(note)
        if (
            known is not None
            and known.get("product") == str(product)
            and isinstance(known.get("name"), str)
            and known["name"] not in wanted
        ):
            found.append(known["name"])
    return found


def prune(name: str, product: Product, out: Path) -> str:
    """Remove what a work wrote, if it is still as it was written; return why it is kept, empty if it is
    gone.
    """
    note = _note_path(name, product, out)
    known = _known(note)
    parent = (out / name).parent
    if known is None or not Path(os.path.abspath(parent)).is_relative_to(os.path.abspath(out)):
        return "nothing is known of it"
    if not are_as_written(known["files"], parent):
        return "its files are not as they were written here"
    folders = {Path(file).parts[0] for file in known["files"] if len(Path(file).parts) > 1}
    for folder in folders:
        inside = {
            one.relative_to(parent).as_posix() for one in (parent / folder).rglob("*") if not one.is_dir()
        }
        if not inside <= set(known["files"]):
            return "there are other files in its folder"
    try:
        for file in known["files"]:
            (parent / file).unlink(missing_ok=True)
        for folder in folders:
            shutil.rmtree(parent / folder, ignore_errors=True)
        note.unlink(missing_ok=True)
    except OSError as wrong:
        return (wrong.strerror or str(wrong)).lower()
    return ""


def are_as_written(files: Any, parent: Path) -> bool:
    """Return whether files are as their stamps say: size and time tell at once, else the hash, which
    copying keeps.
    """
    try:
        for name, (size, time, digest) in files.items():
            about = (parent / name).stat()
            if about.st_size != size or (about.st_mtime_ns != time and hash_regular(parent / name) != digest):
                return False
        return bool(files)
    except (OSError, ValueError, TypeError, AttributeError, EffectError):
        return False


def _known(note: Path) -> dict[str, Any] | None:
    try:
        known = json.loads(read_regular(note, _LARGEST_NOTE))
        return known if isinstance(known, dict) and isinstance(known.get("files"), dict) else None
    except (EffectError, ValueError, RecursionError):
        return None


def _write(item: Item, product: Product, out: Path, known: dict[str, Any]) -> None:
    note = _note_path(item.name, product, out)
    note.parent.mkdir(parents=True, exist_ok=True)
    write_whole(
        note, (json.dumps({"name": item.name, "product": str(product), **known}, indent=1) + "\n").encode()
    )


def _note_path(name: str, product: Product, out: Path) -> Path:
    plain, digest = (
        re.sub(r"[^\w.-]+", "_", name)[-80:],
        hashlib.sha256(f"{product}/{name}".encode(errors="surrogateescape")).hexdigest(),
    )
    return out / STATES / f"{plain}-{digest[:12]}.json"


def _stamps(work: Work) -> Stamps:
    """Return sizes, times and hashes of a work's files; of folders those of all files in them."""
    found = {}
    for path in files_of(work.product, work.profile, work.at):
        for one in sorted(path.rglob("*")) if path.is_dir() else [path]:
            if not one.is_dir():
                about = one.stat()
                found[one.relative_to(work.at.parent).as_posix()] = (
                    about.st_size,
                    about.st_mtime_ns,
                    hash_regular(one),
                )
    return found

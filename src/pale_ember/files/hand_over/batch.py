"""Many effects at once: which, what they are called, what is still as it was, and a part of them for each machine."""

from __future__ import annotations

import hashlib
import json
import os
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.storage import load_effect, with_files
from ...effect.whole_files import write_whole
from ..chosen_pictures import trusted_from
from ..textures import Trusted
from .profile import Profile, profile_text
from .works import Product, Work, files_of, perform

ENDING = ".ember"
# Beside what is written: of each output what it was made of.
STATES = ".hand-over"
# Grows when the same effect and profile give other files.
_EDITION = 1
_FIELDS = ("name", "folder")
PATTERN = "{folder}/{name}"


@dataclass(frozen=True)
class Item:
    """One effect of a batch: its file, and where it goes, without an ending."""

    file: Path
    at: Path


def found_items(given: Iterable[str], out: str | os.PathLike[str], pattern: str = PATTERN) -> list[Item]:
    """Return the effects in files and folders, in the order of where they go.

    Parameters
    ----------
    given : paths
        Files; of folders all effects below them.
    pattern : str
        What they are called in ``out``: ``{name}`` is the file's without its ending, ``{folder}`` where it lies below
        the folder that was given.

    Raises
    ------
    EffectError
        If there is none, the pattern is wrong, or two would have one name.
    """
    for name in re.findall(r"\{([^{}]*)\}", pattern):
        if name not in _FIELDS:
            raise EffectError("name", f"“{{{name}}}” is not known in names; take {{name}} or {{folder}}.")
    items: dict[Path, Item] = {}
    for one in given:
        at = Path(one)
        for file, folder in _files_in(at):
            known = {"{name}": file.stem, "{folder}": folder}
            called = re.sub(r"\{name\}|\{folder\}", lambda mark: known[mark[0]], pattern)  # noqa: B023
            parts = [part for part in Path(called).parts if part not in ("", "/")]
            if not parts or ".." in parts or "\0" in called:
                raise EffectError("name", f"“{called[:80]}” is no name for what is written; it must lie in the folder that is written to.")
            item = Item(file, Path(out, *parts))
            other = items.get(item.at)
            if other is not None and other.file.resolve() != file.resolve():
                raise EffectError("name", f"{other.file} and {file} would both be called {item.at.name}; give a pattern such as --name \"{{folder}}/{{name}}\".")
            items[item.at] = item
    if not items:
        raise EffectError("file", f"there is no effect (*{ENDING}) in what was given.")
    return [items[at] for at in sorted(items)]


def _files_in(at: Path) -> list[tuple[Path, str]]:
    if not at.is_dir():
        return [(at, "")]
    found = []
    for file in sorted(at.rglob(f"*{ENDING}")):
        inside = file.relative_to(at)
        if file.is_file() and not any(part.startswith(".") for part in inside.parts):
            found.append((file, "" if inside.parent == Path() else inside.parent.as_posix()))
    return found


def shard(items: list[Item], number: int, count: int) -> list[Item]:
    """Return the part of a batch for machine ``number`` of ``count``, counted from 1; all parts together are the batch."""
    return items[number - 1 :: count]


def trusted_of(file: Path, any_picture: bool) -> Trusted:
    """Return which files an effect may read: those in its own folder, or all."""
    return (lambda path: True) if any_picture else trusted_from(Path(os.path.abspath(file)).parent)


def work_of(item: Item, product: Product, profile: Profile, any_picture: bool = False) -> Work:
    """Return an item as a work.

    Raises
    ------
    EffectError
        If its effect can't be read.
    """
    effect = load_effect(item.file)
    return Work(product, effect, item.at, profile, trusted_of(item.file, any_picture), (item.file, *effect_files(effect)))


def effect_files(effect: Effect) -> list[str]:
    """Return the files that an effect names, pictures and meshes, each once."""
    found: dict[str, None] = {}

    def note(file: str) -> str:
        found[file] = None
        return file

    with_files(effect, note)
    return list(found)


def key_of(work: Work) -> str:
    """Return what a work's files depend on, as a hash: effect, files, wishes, program."""
    digest = hashlib.sha256(f"{_EDITION}/{work.product}/{profile_text(work.profile)}".encode())
    for file in work.inputs:
        try:
            digest.update(hashlib.sha256(Path(file).read_bytes()).digest())
        except OSError:
            digest.update(b"missing")
    return digest.hexdigest()


def done_before(work: Work, out: Path) -> dict[str, Any] | None:
    """Return what is known of a work that was done already and whose files are still as they were written; else None."""
    try:
        known = json.loads(_state_path(work, out).read_text(encoding="utf-8"))
        if known["key"] == key_of(work) and known["files"] == _stamps(work):
            return known  # type: ignore[no-any-return]
    except (OSError, ValueError, KeyError, TypeError):
        pass
    return None


def do(work: Work, out: Path, told: Any = lambda share: False) -> list[str]:
    """Do a work and note what it was made of; return what is over its budget."""
    key = key_of(work)
    said = perform(work, told)
    state = _state_path(work, out)
    state.parent.mkdir(parents=True, exist_ok=True)
    write_whole(state, (json.dumps({"key": key, "files": _stamps(work), "said": said}, indent=1) + "\n").encode())
    return said


def _state_path(work: Work, out: Path) -> Path:
    name = work.at.relative_to(out).as_posix()
    plain, digest = re.sub(r"[^\w.-]+", "_", name)[-80:], hashlib.sha256(f"{work.product}/{name}".encode()).hexdigest()
    return out / STATES / f"{plain}-{digest[:12]}.json"


def _stamps(work: Work) -> dict[str, list[int]]:
    """Return sizes and times of a work's files; of folders those of all files in them."""
    found = {}
    for path in files_of(work.product, work.profile, work.at):
        for one in sorted(path.rglob("*")) if path.is_dir() else [path]:
            if not one.is_dir():
                about = one.stat()
                found[one.relative_to(work.at.parent).as_posix()] = [about.st_size, about.st_mtime_ns]
    return found

"""Many effects at once: which, what they are called, where all of it goes, and a part of them for each
machine.
"""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from ...effect.effect import Effect
from ...effect.errors import EffectError, WrongUse
from ...effect.storing.storage import LARGEST, effect_in, with_files
from ...effect.storing.whole_files import PART, read_regular
from ...simulation.meshes.reading import beside
from ..chosen_pictures import trusted_from
from ..profile import Profile
from ..textures import Trusted
from .works import Product, Work, files_of, is_folder

ENDING = ".ember"
# Beside what is written: of each output what it was made of.
STATES = ".hand-over"
_FIELDS = ("name", "folder")
PATTERN = "{folder}/{name}"
_LARGEST_MESH = 256 << 20


@dataclass(frozen=True)
class Item:
    """One effect of a batch: its file, where it goes, without an ending, and what it is called from the
    batch's folder on.
    """

    file: Path
    at: Path
    name: str = ""


def found_items(given: Iterable[str], out: str | os.PathLike[str], pattern: str = PATTERN) -> list[Item]:
    """Return the effects in files and folders, in the order of where they go.

    Parameters
    ----------
    given : paths
        Files; of folders all effects below them.
    pattern : str
        What they are called in ``out``: ``{name}`` is the file's without its ending, ``{folder}`` where it
        lies below the folder that was given.

    Raises
    ------
    EffectError
        If there is none, the pattern is wrong, or two would have one name.
    """
    for name in re.findall(r"\{([^{}]*)\}", pattern):
        if name not in _FIELDS:
            raise WrongUse("name", f"“{{{name}}}” is not known in names; take {{name}} or {{folder}}.")
    items: dict[Path, Item] = {}
    for one in given:
        at = Path(one)
        for file, folder in _files_in(at):
            known = {"{name}": file.stem, "{folder}": folder}
            called = re.sub(r"\{name\}|\{folder\}", lambda mark: known[mark[0]], pattern)  # noqa: B023
            parts = [part for part in Path(called).parts if part not in ("", "/")]
            if (
                not parts
                or ".." in parts
                or "\0" in called
                or parts[0] == STATES
                or any(part.endswith(PART) for part in parts)
            ):
                raise WrongUse(
                    "name",
                    f"“{called[:80]}” is no name for what is written; it must lie in the folder that "
                    "is written to.",
                )
            item = Item(file, Path(out, *parts), "/".join(parts))
            other = items.get(item.at)
            if other is not None and other.file.resolve() != file.resolve():
                raise WrongUse(
                    "name",
                    f"{other.file} and {file} would both be called {item.at.name}; give a pattern such "
                    f'as --name "{{folder}}/{{name}}".',
                )
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


def refuse_overlaps(items: list[Item], product: Product, profile: Profile) -> None:
    """Refuse a batch in which one work's files would stand in the way of another's, or of an effect that is
    read.

    Raises
    ------
    WrongUse
        With the two files and what to do; nothing has been written.
    """
    owner: dict[Path, Item] = {}
    for item in items:
        for path in files_of(product, profile, item.at):
            path = Path(os.path.abspath(path))
            other = owner.setdefault(path, item)
            if other is not item:
                raise WrongUse(
                    "name",
                    f"{other.file} and {item.file} would both write {path.name}; give one of them "
                    "another name.",
                )
    if not is_folder(product, profile):
        return
    mend = 'give a pattern that keeps them apart, such as --name "{folder}-{name}", or another --out.'
    for item in items:
        for path in (*files_of(product, profile, item.at), item.file):
            for above in Path(os.path.abspath(path)).parents:
                holder = owner.get(above)
                if holder is not None and path == item.file:
                    raise WrongUse(
                        "name",
                        f"{item.file} lies where {holder.file} would be written ({above}), and would "
                        f"be lost; {mend}",
                    )
                if holder is not None:
                    raise WrongUse(
                        "name",
                        f"{item.file} would be written into the folder of {holder.file} ({above}), and "
                        f"one of them lost; {mend}",
                    )


def shard(items: list[Item], number: int, count: int) -> list[Item]:
    """Return the part of a batch for machine ``number`` of ``count``, counted from 1; all parts together are
    the batch.

    A name's hash says whose it is, so that one effect more leaves all others where they were.
    """
    return [
        item
        for item in items
        if int.from_bytes(hashlib.sha256(item.name.encode(errors="surrogateescape")).digest()[:8], "big")
        % count
        == number - 1
    ]


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
    data = read_regular(item.file, LARGEST)
    effect = effect_in(data, item.file)
    return Work(
        product,
        effect,
        item.at,
        profile,
        trusted_of(item.file, any_picture),
        (item.file, *effect_files(effect)),
        hashlib.sha256(data).hexdigest(),
    )


def effect_files(effect: Effect) -> list[str]:
    """Return the files that an effect names, pictures and meshes, and those that these are made of, each
    once.
    """
    found: dict[str, None] = {}

    def note(file: str) -> str:
        found[file] = None
        return file

    with_files(effect, note)
    for file in list(found):
        if file.lower().endswith(".gltf"):
            try:
                named = beside(file, read_regular(file, _LARGEST_MESH))
            except EffectError:
                continue  # whoever reads it says what is wrong
            found |= dict.fromkeys(os.path.join(os.path.dirname(file), name) for name in named)
    return list(found)

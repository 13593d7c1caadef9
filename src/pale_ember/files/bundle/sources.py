"""The files that an effect is made of, brought into its bundle, so that nothing outside is needed to open
it again.
"""

from __future__ import annotations

import os
import re
from pathlib import Path

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.storing.storage import with_files
from ...effect.storing.whole_files import read_regular
from ...simulation.meshes.reading import beside
from ..textures import Trusted

LARGEST = 512 << 20
FOLDER = "sources"


def with_sources(effect: Effect, trusted: Trusted) -> tuple[Effect, dict[str, bytes]]:
    """Return an effect that finds its pictures and meshes in its bundle, and those files by their names
    there.

    Raises
    ------
    EffectError
        If one can't be read, or may not be.
    """
    files: dict[str, bytes] = {}
    names: dict[str, str] = {}

    def name(file: str) -> str:
        if file not in names:
            names[file] = _brought(file, files, trusted)
        return names[file]

    return with_files(effect, name), files


def _brought(file: str, files: dict[str, bytes], trusted: Trusted) -> str:
    """Put a file and what belongs to it among a bundle's files; return its name there."""
    if not trusted(file):
        raise EffectError(
            os.path.basename(file),
            "this file lies outside the effect's folder and was not chosen here; put it beside the "
            "effect, or allow it.",
        )
    data = read_regular(file, LARGEST)
    near = _beside(file, data)
    stem, ending = os.path.splitext(os.path.basename(file))
    # Only characters that any file system and any .zip allow in a name.
    stem, ending = (
        re.sub(r"[^\w.() +-]", "_", stem).strip(" .")[:100] or "file",
        re.sub(r"[^\w.]", "_", ending),
    )
    known = {one.casefold() for one in files}
    number = 1
    while True:
        called = f"{stem}{'' if number == 1 else f'-{number}'}"
        # A file that needs others beside it gets a folder of its own with them.
        found = f"{FOLDER}/{called}/{stem}{ending}" if near else f"{FOLDER}/{called}{ending}"
        if found.casefold() not in known:
            break
        number += 1
    files[found] = data
    for relative, more in near.items():
        files[f"{os.path.dirname(found)}/{relative}"] = more
    return found


def _beside(file: str, data: bytes) -> dict[str, bytes]:
    """Return the files that a glTF file names and that lie beside it."""
    places = ((name, Path(file).parent / name) for name in beside(file, data))
    return {name: read_regular(at, LARGEST) for name, at in places if at.is_file()}

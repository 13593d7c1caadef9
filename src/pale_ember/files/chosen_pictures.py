"""Picture files outside an effect's folder that the artist chose: an effect alone can't have others read."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path

from ..effect.errors import EffectError
from ..effect.storing.whole_files import read_regular, write_whole
from .autosave import state_folder

MOST, LARGEST = 2000, 1 << 20
NAME = "chosen-pictures.json"


class ChosenPictures:
    """The list of them, kept from one start to the next."""

    def __init__(self) -> None:
        self._paths: list[str] = self._read()

    def add(self, path: str) -> None:
        """Remember a file that was chosen."""
        whole = os.path.realpath(path)
        if whole in self._paths:
            return
        self._paths = [*self._paths, whole][-MOST:]
        try:
            state_folder().mkdir(parents=True, exist_ok=True)
            write_whole(state_folder() / NAME, json.dumps(self._paths).encode())
        except (OSError, EffectError):
            return  # it is then asked for again

    def __contains__(self, path: str) -> bool:
        return os.path.realpath(path) in self._paths

    def _read(self) -> list[str]:
        try:
            found = json.loads(read_regular(state_folder() / NAME, LARGEST))
        except (EffectError, ValueError):
            return []
        return [one for one in found if isinstance(one, str)][-MOST:] if isinstance(found, list) else []


def trusted_from(folder: Path | None, chosen: ChosenPictures | None = None) -> Callable[[str], bool]:
    """Return the rule that says which files may be read: those in the effect's own folder, and those
    chosen.
    """
    inside = None if folder is None else os.path.realpath(folder)

    def trusted(path: str) -> bool:
        whole = os.path.realpath(path)
        if inside is not None and whole.startswith(inside.rstrip("/") + "/"):
            return True
        return chosen is not None and path in chosen

    return trusted

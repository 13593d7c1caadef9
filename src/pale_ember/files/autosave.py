"""Autosave beside the file, and what a crash left behind."""

from __future__ import annotations

import json
import os
import time
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.storage import effect_text, parse_effect, write_whole

SUFFIX = ".autosave"


def state_folder() -> Path:
    """Return where notes on open files are kept; ``PALE_EMBER_STATE`` names another place."""
    return Path(os.environ.get("PALE_EMBER_STATE") or platformdirs.user_state_dir("pale-ember"))


@dataclass(frozen=True)
class Leftover:
    """Work that was autosaved and never saved: ``path`` is the file that it belongs to, if any."""

    path: Path | None
    autosave: Path
    note: Path | None
    when: float

    def effect(self) -> Effect:
        """Return the effect that was autosaved."""
        return parse_effect(self.autosave.read_bytes())

    def discard(self) -> None:
        """Remove it for good."""
        for file in (self.autosave, self.note):
            if file is not None:
                file.unlink(missing_ok=True)


class Autosave:
    """Keeps one open document's unsaved work on disk.

    The copy lies beside the file as ``.name.ember.autosave``, or in the state folder for an effect without
    a file. A note in the state folder, named after the process, leads to it at the next start.
    """

    def __init__(self) -> None:
        self.folder = state_folder()
        self.note = self.folder / f"open-{os.getpid()}.json"
        self._written: Effect | None = None
        self._copy: Path | None = None

    def copy_of(self, path: Path | None) -> Path:
        """Return where a document's copy goes."""
        if path is not None and os.access(path.parent, os.W_OK):
            return path.with_name(f".{path.name}{SUFFIX}")
        return self.folder / f"untitled-{os.getpid()}.ember{SUFFIX}"

    def keep(self, effect: Effect, path: Path | None) -> bool:
        """Write the work if it changed since the last time; return whether something was written."""
        if effect is self._written:
            return False
        copy = self.copy_of(path)
        self.folder.mkdir(parents=True, exist_ok=True)
        note = {"pid": os.getpid(), "path": str(path) if path else None, "autosave": str(copy), "when": time.time()}
        write_whole(copy, effect_text(effect).encode())
        write_whole(self.note, json.dumps(note).encode())
        if self._copy is not None and self._copy != copy:
            self._copy.unlink(missing_ok=True)
        self._written, self._copy = effect, copy
        return True

    def clear(self) -> None:
        """Remove copy and note: the work is saved, or given up on purpose."""
        for file in (self._copy, self.note):
            if file is not None:
                file.unlink(missing_ok=True)
        self._written = self._copy = None


def leftovers() -> list[Leftover]:
    """Return the unsaved work of sessions that ended without a word, newest first."""
    found = []
    for note in sorted(state_folder().glob("open-*.json")):
        try:
            data = json.loads(note.read_text(encoding="utf-8"))
            autosave = Path(data["autosave"])
            pid, path = int(data["pid"]), data["path"]
        except (OSError, ValueError, KeyError, TypeError):
            continue
        if _runs(pid) or not autosave.exists():
            if not _runs(pid):
                note.unlink(missing_ok=True)
            continue
        left = Leftover(Path(path) if path else None, autosave, note, autosave.stat().st_mtime)
        try:
            left.effect()
        except (EffectError, OSError):
            continue
        found.append(left)
    return sorted(found, key=lambda left: -left.when)


def leftover_of(path: Path) -> Leftover | None:
    """Return the autosave beside a file, if it holds a whole effect other than the file's own."""
    autosave = path.with_name(f".{path.name}{SUFFIX}")
    try:
        left = Leftover(path, autosave, None, autosave.stat().st_mtime)
        same = path.exists() and autosave.read_bytes() == path.read_bytes()
        left.effect()
    except (EffectError, OSError):
        return None
    return None if same else left


def _runs(pid: int) -> bool:
    """Return whether a process is alive and is one of ours."""
    if pid == os.getpid():
        return True
    try:
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False
    return b"pale" in command

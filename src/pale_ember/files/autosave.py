"""Autosave beside the file, and what a crash left behind."""

from __future__ import annotations

import dataclasses
import glob
import hashlib
import json
import os
import time
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.storing.storage import LARGEST, effect_text, parse_effect
from ..effect.storing.whole_files import read_regular, write_whole

SUFFIX = ".autosave"
LARGEST_NOTE = 1 << 16


def state_folder() -> Path:
    """Return where notes on open files are kept; ``PALE_EMBER_STATE`` names another place."""
    return Path(os.environ.get("PALE_EMBER_STATE") or platformdirs.user_state_dir("pale-ember"))


@dataclass(frozen=True)
class Leftover:
    """Work that was autosaved and never saved.

    Attributes
    ----------
    path : Path or None
        The file that it belongs to, if any.
    problem : str
        Why it can't be brought back; empty if it can.
    """

    path: Path | None
    autosave: Path
    note: Path | None
    when: float
    problem: str = ""

    def effect(self) -> Effect:
        """Return the effect that was autosaved."""
        return parse_effect(read_regular(self.autosave, LARGEST))

    def discard(self) -> None:
        """Remove it for good."""
        for file in (self.autosave, self.note):
            if file is not None:
                file.unlink(missing_ok=True)


class Autosave:
    """Keeps one open document's unsaved work on disk.

    The copy lies beside the file as ``.name.ember.PID.autosave``, or in the state folder for an effect
    without a file, so that two windows on one file keep two. A note in the state folder, named after the
    process, leads to it at the next start.
    """

    def __init__(self) -> None:
        self.folder = state_folder()
        self.note = self.folder / f"open-{os.getpid()}.json"
        self._written: Effect | None = None
        self._copy: Path | None = None

    def copy_of(self, path: Path | None) -> Path:
        """Return where a document's copy goes."""
        if path is not None and os.access(path.parent, os.W_OK):
            return path.with_name(f".{_short(path.name)}.{os.getpid()}{SUFFIX}")
        return self.folder / f"untitled-{os.getpid()}.ember{SUFFIX}"

    def keep(self, effect: Effect, path: Path | None) -> bool:
        """Write the work if it changed since the last time; return whether something was written."""
        copy = self.copy_of(path)
        if effect is self._written and copy == self._copy:
            return False
        self.folder.mkdir(parents=True, exist_ok=True)
        note = {
            "pid": os.getpid(),
            "path": str(path) if path else None,
            "autosave": str(copy),
            "when": time.time(),
        }
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
    """Return the unsaved work of sessions that ended without a word, newest first; what can't be read is
    told too.
    """
    found = []
    for note in sorted(state_folder().glob("open-*.json")):
        try:
            data = json.loads(read_regular(note, LARGEST_NOTE))
            autosave, path, pid = data["autosave"], data["path"], data["pid"]
            good = isinstance(autosave, str) and isinstance(path, str | None) and isinstance(pid, int)
            if not good or _runs(pid):
                continue
            left = Leftover(Path(path) if path else None, Path(autosave), note, 0.0)
            when = left.autosave.stat().st_mtime
        except FileNotFoundError:
            note.unlink(missing_ok=True)
            continue
        # A note may hold anything; nothing in it keeps the window from opening.
        except (EffectError, OSError, ValueError, KeyError, TypeError, RecursionError, OverflowError):
            continue
        found.append(_judged(dataclasses.replace(left, when=when)))
    return sorted(found, key=lambda left: -left.when)


def leftover_of(path: Path) -> Leftover | None:
    """Return the newest autosave beside a file that no window is at work on, if it holds anything but the
    file's own.
    """
    found = []
    for autosave in path.parent.glob(f".{glob.escape(_short(path.name))}.*{SUFFIX}"):
        pid = autosave.name[: -len(SUFFIX)].rpartition(".")[2]
        try:
            if not pid.isdecimal() or not pid.isascii() or _runs(int(pid)):
                continue
            left = Leftover(path, autosave, None, autosave.stat().st_mtime)
            if not (path.exists() and read_regular(autosave, LARGEST) == read_regular(path, LARGEST)):
                found.append(_judged(left))
        except (EffectError, OSError):
            continue
    return max(found, key=lambda left: left.when, default=None)


def _judged(left: Leftover) -> Leftover:
    """Return a leftover with what keeps it from being brought back."""
    try:
        left.effect()
    except (EffectError, OSError) as wrong:
        return dataclasses.replace(
            left, problem=wrong.reason if isinstance(wrong, EffectError) else str(wrong)
        )
    return left


def _short(name: str) -> str:
    """Return a file's name with room behind it: file systems take 255 bytes."""
    raw = name.encode(errors="surrogateescape")
    if len(raw) <= 200:
        return name
    return raw[:180].decode(errors="ignore") + "-" + hashlib.blake2s(raw, digest_size=6).hexdigest()


def _runs(pid: int) -> bool:
    """Return whether a process is alive and is one of ours."""
    if pid == os.getpid():
        return True
    try:
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False
    return b"pale" in command

"""What is to be handed over now, and the process that does it beside the window."""

from __future__ import annotations

import json
import subprocess
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import TextureForm
from ...effect.rules.edit import edited, get
from ...effect.storing.storage import effect_text
from ...files.autosave import state_folder
from ...files.hand_over.running import end_workers, start_worker
from ...files.hand_over.telling import command_line
from ...files.hand_over.works import Product, files_of
from ...files.profile import Profile, load_profile, parse_profile, profile_text, save_profile
from ...files.textures import picture_files
from ..session.session import Session

KEPT = "hand over/profile"
KEPT_FILE = "hand over/profile file"
KEPT_FOLDER = "hand over/folder"


class HandOverWork(QObject):
    """One profile, one product, one work at a time."""

    changed = pyqtSignal()  # the profile, the product or where it goes
    heard = pyqtSignal(float)  # how much of the work is done
    ended = pyqtSignal(object)  # what became of it

    def __init__(self, session: Session, settings: Any) -> None:
        super().__init__(session)
        self.session, self.settings = session, settings
        self.product = Product.BUNDLE
        self.profile, self.base, self.base_file = Profile(), Profile(), ""
        self.folder = str(settings.value(KEPT_FOLDER) or "")
        self.name = ""
        self.began = 0.0
        self._process: subprocess.Popen[str] | None = None
        self._thread: threading.Thread | None = None
        self._given_up = False
        self._take_up()

    def _take_up(self) -> None:
        """Go on with the profile of the last time, if it is still right."""
        try:
            kept = self.settings.value(KEPT)
            if isinstance(kept, str) and kept:
                self.profile = parse_profile(kept)
            file = self.settings.value(KEPT_FILE)
            if isinstance(file, str) and file:
                self.base, self.base_file = load_profile(file), file
        except EffectError:
            self.base, self.base_file = Profile(), ""

    # The profile

    def choose(self, product: Product) -> None:
        """Hand another thing over."""
        self.product = product
        self.changed.emit()

    def value(self, path: str) -> Any:
        """Return a field of the profile, such as ``sheet.columns``."""
        return get(self.profile, path)

    def edit(self, path: str, value: Any) -> None:
        """Change a field of the profile.

        Raises
        ------
        EffectError
            If the value doesn't fit there.
        """
        self._take(edited(self.profile, path, value))

    def store(self, texture: str, form: TextureForm | None) -> None:
        """Say how one texture is stored in bundles; None for as all are."""
        forms = {name: one for name, one in self.profile.textures.items() if name != texture}
        self._take(edited(self.profile, "textures", forms if form is None else {**forms, texture: form}))

    def _take(self, profile: Profile) -> None:
        self.profile = profile
        self.settings.setValue(KEPT, profile_text(profile))
        self.changed.emit()

    def open_profile(self, file: str) -> None:
        """Take a profile from a file."""
        self.base, self.base_file = load_profile(file), file
        self.settings.setValue(KEPT_FILE, file)
        self._take(self.base)

    def save_profile(self, file: str) -> None:
        """Write the profile to a file, and go on with that."""
        save_profile(self.profile, file)
        self.base, self.base_file = self.profile, file
        self.settings.setValue(KEPT_FILE, file)
        self.changed.emit()

    def reset_profile(self) -> None:
        """Begin with a plain profile."""
        self.base, self.base_file = Profile(), ""
        self.settings.setValue(KEPT_FILE, "")
        self._take(Profile())

    # Where it goes

    @property
    def title(self) -> str:
        """Return what it is called if nobody says otherwise."""
        document = self.session.document
        name = document.path.stem if document.path is not None else self.session.effect.name
        return (
            "".join("_" if c in '/\\:*?"<>|' or not c.isprintable() else c for c in name).strip(" .")
            or "effect"
        )

    @property
    def at(self) -> Path | None:
        """Return where it goes, without an ending; None if no folder is chosen yet."""
        return Path(self.folder, self.name or self.title) if self.folder else None

    def targets(self) -> list[Path]:
        """Return the files and folders that will be written."""
        return [] if self.at is None else files_of(self.product, self.profile, self.at)

    def go_to(self, folder: str) -> None:
        """Choose the folder that it goes into."""
        self.folder = folder
        self.settings.setValue(KEPT_FOLDER, folder)
        self.changed.emit()

    def call(self, name: str) -> None:
        """Choose what it is called; empty for the effect's own name."""
        clean = name.strip()
        self.name = "" if clean == self.title else clean
        self.changed.emit()

    def line(self) -> str:
        """Return the command line that would do the same."""
        path = self.session.document.path
        file = str(path) if path is not None else f"{self.title}.ember"
        named = {texture.name for texture in self.session.effect.textures}
        line = command_line(
            self.product,
            self.profile,
            file,
            self.folder or ".",
            self.name or self.title,
            self.base,
            self.base_file,
            named,
        )
        return line if path is not None else f"{line}  # once the effect is saved"

    # Doing it

    @property
    def busy(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    def hand_over(self) -> None:
        """Begin; returns at once.

        Raises
        ------
        EffectError
            If it can't even begin.
        """
        at = self.at
        if self.busy or at is None:
            return
        effect, path = self.session.effect, self.session.document.path
        self._refuse_untrusted(effect)
        name = self.name or self.title
        if Path(name).name != name:
            raise EffectError("name", f"“{name[:60]}” is no name for a file; leave slashes out.")
        copy = self._copy(effect)
        order = {
            "file": str(copy),
            "at": str(at),
            "out": self.folder,
            "product": str(self.product),
            "profile": profile_text(self.profile),
            "any_picture": True,
            "unnoted": True,
            "guarded": [str(path)] if path is not None else [],
        }
        self._given_up, self.began = False, time.monotonic()
        self._thread = threading.Thread(
            target=self._work, args=(order, copy, self.targets()), name="hand over", daemon=True
        )
        self._thread.start()
        self.changed.emit()

    def _refuse_untrusted(self, effect: Effect) -> None:
        trusted = self.session.textures.trusted
        for file in picture_files(effect):
            if not trusted(file):
                raise EffectError(
                    Path(file).name,
                    "this picture lies outside the effect's folder and was not chosen here; browse for "
                    "it to use it.",
                )

    def _copy(self, effect: Effect) -> Path:
        """Write the effect as it is now, with whole paths, for the other process."""
        folder = state_folder()
        folder.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(
            "w", encoding="utf-8", dir=folder, prefix="hand-over-", suffix=".ember", delete=False
        ) as file:
            file.write(effect_text(effect))
        return Path(file.name)

    def _work(self, order: dict[str, Any], copy: Path, targets: list[Path]) -> None:
        """Let a process of its own do an order, pass its progress on, and tell how it ended."""
        result: dict[str, Any] = {
            "state": "failed",
            "reason": "the process that worked on it has ended; memory may have run out.",
        }
        process: subprocess.Popen[str] | None = None
        try:
            process = self._process = start_worker()
            assert process.stdin is not None and process.stdout is not None
            process.stdin.write(json.dumps(order) + "\n")
            process.stdin.flush()
            while line := process.stdout.readline():
                told = json.loads(line)
                if "state" in told:
                    result = told
                    break
                self.heard.emit(float(told["share"]))
        except (OSError, ValueError) as wrong:
            result["reason"] = f"it can't be done ({wrong})."
        finally:
            if process is not None:
                end_workers([process])
            self._process = None
            copy.unlink(missing_ok=True)
        if self._given_up:
            result = {"state": "stopped"}
        if result.get("place") == str(copy):
            result["place"] = ""
        self.ended.emit({**result, "targets": targets, "seconds": time.monotonic() - self.began})

    def give_up(self) -> None:
        """Stop; what was there before stays."""
        self._given_up = True
        if (process := self._process) is not None:
            process.terminate()

    def end(self) -> None:
        """Stop, and wait until nothing of it is left."""
        if self.busy:
            self.give_up()
            assert self._thread is not None
            self._thread.join(20.0)

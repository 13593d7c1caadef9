"""Writes made textures as pictures beside the effect's file, in a thread: a save is done before they are."""

from __future__ import annotations

import threading
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...files.baked_textures import bake_textures, folder_beside
from .session import Session


class Beside(QObject):
    """One writing at a time; the next save waits for the one before."""

    done = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self._thread: threading.Thread | None = None
        self.done.connect(session.said)

    def write(self, effect: Effect, path: Path) -> None:
        """Write the pictures of the textures that wish it; returns at once."""
        if not any(
            texture.beside and texture.build is not None and not texture.file for texture in effect.textures
        ):
            return
        before, trusted = self._thread, self.session.textures.trusted

        def work() -> None:
            if before is not None:
                before.join()
            folder = folder_beside(path)
            try:
                rows = bake_textures(effect, folder, None, trusted, lambda texture: texture.beside)
                self.done.emit(
                    f"Saved, and {len(rows)} picture{'' if len(rows) == 1 else 's'} written to {folder.name}."
                )
            except EffectError as wrong:
                self.done.emit(f"Saved, but the pictures beside it are not written. {wrong}")

        self._thread = threading.Thread(target=work, name="beside")
        self._thread.start()

    def end(self) -> None:
        """Wait for what is being written."""
        if self._thread is not None:
            self._thread.join(60.0)

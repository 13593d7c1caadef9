"""Opening, saving, recent files, autosave and recovery for one window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QMessageBox, QWidget

from ..demo import demo
from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.storage import load_effect, save_effect
from ..files.autosave import Autosave, Leftover, leftover_of, leftovers
from .document import Document
from .session import Session

AUTOSAVE_SECONDS = 30
MOST_RECENT = 10
ENDING = ".ember"


class Desk(QObject):
    """What happens between the window and the disk."""

    offered = pyqtSignal(object)  # a Leftover, or None when there is nothing to offer any more

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self.window = session, window
        self.settings = QSettings("pale-ember", "pale-ember")
        self.recent_menu = QMenu("Recent", window)
        self.recent_menu.aboutToShow.connect(self._fill_recent)
        self.autosave = Autosave()
        self.timer = QTimer(self)
        self.timer.timeout.connect(self.keep)
        self.timer.start(AUTOSAVE_SECONDS * 1000)

    # Opening

    def may_leave(self) -> bool:
        """Ask about unsaved changes; return whether the document may be left."""
        if not self.session.document.dirty:
            return True
        box = QMessageBox(self.window)
        box.setWindowTitle("Unsaved changes")
        box.setText(f"“{self.session.document.title}” has changes that aren't saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Don't save", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is drop

    def show(self, effect: Effect, path: Path | None) -> None:
        """Make an effect the open document."""
        self.autosave.clear()
        self.session.open(Document(effect, path))
        if path is not None:
            self._remember(path)

    def new(self) -> None:
        if self.may_leave():
            self.show(Effect(), None)

    def open_demo(self, name: str) -> None:
        if self.may_leave():
            self.show(demo(name), None)

    def open(self) -> None:
        if not self.may_leave():
            return
        name, _ = QFileDialog.getOpenFileName(self.window, "Open an effect", self._folder(), f"Effects (*{ENDING})")
        if name:
            self.load(Path(name))

    def load(self, path: Path) -> bool:
        """Open a file; what is wrong with it is said, and the open document stays."""
        path = path.absolute()
        try:
            effect = load_effect(path)
        except EffectError as wrong:
            self.session.said.emit(f"{path.name} can't be opened. {wrong}")
            return False
        self.show(effect, path)
        left = leftover_of(path)
        if left is not None:
            self.offered.emit(left)
        return True

    # Saving

    def save(self) -> bool:
        path = self.session.document.path
        return self.save_as() if path is None else self._write(path)

    def save_as(self) -> bool:
        document = self.session.document
        start = str(document.path or Path(self._folder()) / f"{document.effect.name}{ENDING}")
        name, _ = QFileDialog.getSaveFileName(self.window, "Save the effect", start, f"Effects (*{ENDING})")
        if not name:
            return False
        path = Path(name)
        return self._write(path if path.suffix else path.with_suffix(ENDING))

    def _write(self, path: Path) -> bool:
        try:
            save_effect(self.session.effect, path)
        except EffectError as wrong:
            self.session.said.emit(f"Not saved. {wrong}")
            return False
        self.session.document.mark_saved(path)
        self.autosave.clear()
        self._remember(path)
        self.session.effect_changed.emit()
        self.session.said.emit(f"Saved to {path}.")
        return True

    # Autosave

    def keep(self) -> None:
        """Autosave, if there is unsaved work."""
        document = self.session.document
        if not document.dirty:
            return
        try:
            self.autosave.keep(document.effect, document.path)
        except (EffectError, OSError) as wrong:
            self.session.said.emit(f"Autosave didn't work: {wrong}")

    def offer(self) -> None:
        """Offer what an earlier session left behind, the newest first."""
        found = leftovers()
        self.offered.emit(found[0] if found else None)

    def restore(self, left: Leftover) -> None:
        """Open a leftover as unsaved work on its file."""
        try:
            effect = left.effect()
        except (EffectError, OSError) as wrong:
            self.session.said.emit(f"That work can't be brought back: {wrong}")
            return
        if not self.may_leave():
            return
        try:
            before = load_effect(left.path) if left.path is not None else Effect()
        except EffectError:
            before = Effect()
        self.autosave.clear()
        document = Document(before, left.path)
        document.apply(effect, "Bring back unsaved work")
        self.session.open(document)
        self.keep()
        copy = self.autosave.copy_of(left.path)
        if left.autosave != copy:
            left.discard()
        elif left.note is not None and left.note != self.autosave.note:
            left.note.unlink(missing_ok=True)
        self.offer()

    def give_up(self, left: Leftover) -> None:
        left.discard()
        self.offer()

    # Recent files

    def _folder(self) -> str:
        path = self.session.document.path
        return str(path.parent if path else self.settings.value("folder", str(Path.home())))

    def recent(self) -> list[str]:
        """Return the files opened or saved lately, newest first."""
        found = self.settings.value("recent", [])
        return [found] if isinstance(found, str) else list(found or [])

    def _remember(self, path: Path) -> None:
        rest = [name for name in self.recent() if name != str(path)]
        self.settings.setValue("recent", [str(path), *rest][:MOST_RECENT])
        self.settings.setValue("folder", str(path.parent))

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        names = [name for name in self.recent() if Path(name).exists()]
        for name in names:
            self.recent_menu.addAction(name, self._opener(Path(name)))
        if not names:
            action = self.recent_menu.addAction("No files yet")
            assert action is not None
            action.setEnabled(False)

    def _opener(self, path: Path) -> Callable[[], None]:
        def go() -> None:
            if self.may_leave():
                self.load(path)

        return go

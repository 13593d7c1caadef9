"""Opening, saving, recent files, autosave and recovery for one window."""

from __future__ import annotations

import functools
from pathlib import Path

from PyQt6.QtCore import QObject, QSettings, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QMenu, QMessageBox, QWidget

from ...demo import demo
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.storing.storage import load_effect, save_effect
from ...files.autosave import Autosave, Leftover, leftover_of, leftovers
from ...files.bundle.keeping import bundles_folder
from ...files.bundle.reading import is_bundle, load_bundle, unpacked
from ...files.textures import picture_files
from .document import Document
from .session import Session

AUTOSAVE_SECONDS = 30
MOST_RECENT = 10
ENDING = ".ember"
Role = QMessageBox.ButtonRole


Stamp = tuple[int, int, int]
WATCH_SECONDS = 2
GONE: Stamp = (0, 0, 0)


def stamp_of(path: Path | None) -> Stamp | None:
    """Return what tells one state of a file from another; None without a path."""
    if path is None:
        return None
    try:
        about = path.stat()
    except OSError:
        return GONE
    return about.st_mtime_ns, about.st_size, about.st_ino


class FileActions(QObject):
    """What happens between the window and the disk."""

    saved = pyqtSignal(object)  # the path that an effect was written to
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
        # The file's stamp when it was last read or written here; None without a file.
        self._stamp: Stamp | None = None
        self._told: Stamp | None = None
        self.watch = QTimer(self)
        self.watch.timeout.connect(self._look)
        self.watch.start(WATCH_SECONDS * 1000)

    # Opening

    def may_leave(self) -> bool:
        """Ask about unsaved changes; return whether the document may be left."""
        if not self.session.document.dirty:
            return True
        words = f"“{self.session.document.title}” has changes that aren't saved."
        answer = self._ask(
            "Unsaved changes", words, {"Save": Role.AcceptRole, "Don't save": Role.DestructiveRole}, "Save"
        )
        return self.save() if answer == "Save" else answer == "Don't save"

    def _ask(self, title: str, words: str, answers: dict[str, Role], usual: str = "Cancel") -> str:
        """Ask a question and return the words of the answer, which may also be Cancel."""
        box = QMessageBox(self.window)
        box.setWindowTitle(title)
        box.setText(words)
        buttons = {
            box.addButton(one, role): one for one, role in {**answers, "Cancel": Role.RejectRole}.items()
        }
        box.setDefaultButton(next(button for button, one in buttons.items() if one == usual))
        box.exec()
        return next((one for button, one in buttons.items() if button is box.clickedButton()), "Cancel")

    def show(self, effect: Effect, path: Path | None, called: str = "") -> None:
        """Make an effect the open document; without a file it may be called something."""
        self.autosave.clear()
        self.session.open(Document(effect, path, called))
        self._stamp = stamp_of(path)
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
        kinds = f"Effects and bundles (*{ENDING} bundle.json *.zip)"
        name, _ = QFileDialog.getOpenFileName(self.window, "Open an effect", self._folder(), kinds)
        if name:
            self.load(Path(name))

    def load(self, path: Path) -> bool:
        """Open a file; what is wrong with it is said, and the open document stays."""
        path = path.absolute()
        if is_bundle(path):
            return self._load_bundle(path)
        try:
            effect = load_effect(path)
        except EffectError as wrong:
            self.session.said.emit(f"{path.name} can't be opened. {wrong}")
            return False
        self.show(effect, path)
        left = leftover_of(path)
        if left is not None and left.problem:
            self._tell_broken(left)
        elif left is not None:
            self.offered.emit(left)
        return True

    def _load_bundle(self, path: Path) -> bool:
        """Open the effect of a bundle as one that isn't saved yet; the bundle itself stays as it is."""
        try:
            effect = self.bundle_effect(path)
        except EffectError as wrong:
            self.session.said.emit(f"{path.name} can't be opened. {wrong}")
            return False
        name = (
            path.name if path.is_dir() else path.stem if path.suffix.lower() == ".zip" else path.parent.name
        )
        self.show(effect, None, name)
        self.session.said.emit(
            f"Opened from the bundle {name}. Saving writes an effect of its own; the bundle stays as it is."
        )
        return True

    def bundle_effect(self, path: Path) -> Effect:
        """Return the effect of a bundle, whose files may be read from now on.

        Raises
        ------
        EffectError
            If it is no bundle, or broken.
        """
        folder = unpacked(path, bundles_folder())
        effect = load_bundle(folder)
        for file in picture_files(effect):
            if Path(file).is_relative_to(folder):
                self.session.choose_picture(file)
        return effect

    # Saving

    def save(self) -> bool:
        path = self.session.document.path
        return self.save_as() if path is None else self._write(path)

    def save_as(self) -> bool:
        """Ask for a file and save to it; return whether it was saved."""
        document = self.session.document
        start = str(document.path or Path(self._folder()) / f"{document.title}{ENDING}")
        # It asks about the name that is really written, ending and all.
        options = QFileDialog.Option.DontConfirmOverwrite
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Save the effect", start, f"Effects (*{ENDING})", options=options
        )
        if not name:
            return False
        path = Path(name)
        path = path if path.suffix.lower() == ENDING else path.with_name(path.name + ENDING)
        if path.exists() and path != document.path and not self._may_replace(path):
            return False
        return self._write(path)

    def _may_replace(self, path: Path) -> bool:
        words = f"{path.name} is there already. Saving replaces what is in it."
        return self._ask("Replace the file?", words, {"Replace": Role.DestructiveRole}) == "Replace"

    def _look(self) -> None:
        """Say, once, what other programs did to the file."""
        document, now = self.session.document, stamp_of(self.session.document.path)
        if self._stamp is None or now == self._stamp or now == self._told or document.path is None:
            return
        self._told = now
        name = document.path.name
        if now == GONE:
            # Without a file on disk it counts as unsaved.
            document.saved = None
            self.session.effect_changed.emit()
            self.session.said.emit(f"{name} isn't there any more. Saving makes it anew.")
        else:
            self.session.said.emit(
                f"Another program changed {name}. Saving will ask which of the two to keep."
            )

    def _may_write(self, path: Path) -> bool:
        """Ask, if another program changed the file since it was read; return whether it may be written
        now.
        """
        now = stamp_of(path)
        if path != self.session.document.path or self._stamp is None or now in (self._stamp, GONE):
            return True
        words = f"Another program changed {path.name} since it was opened here."
        answers = {
            "Keep mine": Role.DestructiveRole,
            "Take theirs": Role.AcceptRole,
            "Save as …": Role.ActionRole,
        }
        answer = self._ask("Changed on disk", words, answers)
        if answer == "Take theirs":
            self.take_theirs(path)
        elif answer == "Save as …":
            self.save_as()
        return answer == "Keep mine"

    def take_theirs(self, path: Path) -> None:
        """Take what is in the file now as the newest state; one's own is the one before."""
        try:
            effect = load_effect(path)
        except EffectError as wrong:
            self.session.said.emit(f"{path.name} can't be read. {wrong}")
            return
        self.session.apply(effect, "Take the file's state")
        self.session.document.mark_saved(path)
        self._stamp = stamp_of(path)
        self.session.effect_changed.emit()

    def _write(self, path: Path) -> bool:
        """Save to a file; return whether it was saved."""
        if not self._may_write(path):
            return False
        try:
            save_effect(self.session.effect, path)
        except EffectError as wrong:
            self.session.said.emit(f"Not saved. {wrong}")
            return False
        self.session.document.mark_saved(path)
        self._stamp = self._told = stamp_of(path)
        self.autosave.clear()
        self._remember(path)
        self.session.effect_changed.emit()
        self.session.said.emit(f"Saved to {path}.")
        self.saved.emit(path)
        return True

    # Autosave

    def keep(self) -> bool:
        """Autosave, if there is unsaved work; return whether all of it is on disk."""
        document = self.session.document
        if not document.dirty:
            return True
        try:
            self.autosave.keep(document.effect, document.path)
        except (EffectError, OSError) as wrong:
            self.session.said.emit(f"Autosave didn't work: {wrong}")
            return False
        return True

    def offer(self) -> None:
        """Offer what an earlier session left behind, the newest first."""
        found = leftovers()
        for left in found:
            if left.problem:
                self._tell_broken(left)
        good = [left for left in found if not left.problem]
        self.offered.emit(good[0] if good else None)

    def _tell_broken(self, left: Leftover) -> None:
        """Say that an autosave can't be read; it stays where it is, and isn't told again."""
        what = left.path.name if left.path else "an effect without a file"
        self.session.said.emit(
            f"Unsaved work on {what} was found, but can't be read: {left.problem} It is {left.autosave}."
        )
        if left.note is not None:
            left.note.unlink(missing_ok=True)

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
        self._stamp = stamp_of(left.path)
        # The recovered file is deleted only after its work was autosaved again.
        if not self.keep():
            return
        if left.autosave != self.autosave.copy_of(left.path):
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
            self.recent_menu.addAction(name, functools.partial(self.open_recent, name))
        if not names:
            action = self.recent_menu.addAction("No files yet")
            assert action is not None
            action.setEnabled(False)

    def open_recent(self, name: str) -> None:
        """Open a file, if the document may be left."""
        if self.may_leave():
            self.load(Path(name))

"""What the artist prefers: keys, undo steps, autosave, scale, decimals; kept for the next time."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QLocale, QSettings, Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QKeySequenceEdit,
    QLabel,
    QTabWidget,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ..session.document import MOST_STEPS
from ..session.file_actions import AUTOSAVE_SECONDS, FileActions
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Button, Combo, Line
from ..widgets.matching import score
from ..widgets.number_box import NumberBox
from .commands import Command, give_keys

SCALES = ("system", "100 %", "125 %", "150 %", "175 %", "200 %")
DECIMALS = ("system", "point")


class Preferences:
    """The kept choices, and putting them to work."""

    def __init__(self, settings: QSettings) -> None:
        self.settings = settings

    def _number(self, name: str, otherwise: int, low: int, high: int) -> int:
        try:
            return min(max(int(self.settings.value(name, otherwise)), low), high)
        except (TypeError, ValueError):
            return otherwise

    @property
    def undo_steps(self) -> int:
        return self._number("undo steps", MOST_STEPS, 10, 100_000)

    @property
    def autosave_seconds(self) -> int:
        return self._number("autosave seconds", AUTOSAVE_SECONDS, 5, 3600)

    @property
    def scale(self) -> str:
        found = str(self.settings.value("scale", "system"))
        return found if found in SCALES else "system"

    @property
    def decimals(self) -> str:
        found = str(self.settings.value("decimals", "system"))
        return found if found in DECIMALS else "system"

    def keys(self, command: Command) -> str:
        """Return a command's keys, parted by spaces: the artist's own, or the usual ones."""
        return str(self.settings.value(f"keys/{command.name}", command.key))

    def set(self, name: str, value: object) -> None:
        self.settings.setValue(name, value)

    def forget(self, name: str) -> None:
        self.settings.remove(name)

    def apply(
        self, session: Session, files: FileActions, actions: dict[str, QAction], rows: Sequence[Command]
    ) -> None:
        """Put all to work that can be without a new start."""
        session.set_undo_steps(self.undo_steps)
        files.timer.setInterval(self.autosave_seconds * 1000)
        QLocale.setDefault(QLocale.c() if self.decimals == "point" else QLocale.system())
        for command in rows:
            give_keys(actions[command.name], command, self.keys(command))


def scale_factor(settings: QSettings) -> str:
    """Return the factor that the interface is drawn at, for Qt's own variable; empty for the system's."""
    scale = Preferences(settings).scale
    return "" if scale == "system" else f"{int(scale.split()[0]) / 100:g}"


class PreferencesDialog(QDialog):
    """What is chosen counts at once."""

    def __init__(
        self,
        preferences: Preferences,
        session: Session,
        files: FileActions,
        actions: dict[str, QAction],
        rows: Sequence[Command],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.preferences, self.session, self.files = preferences, session, files
        self.actions_by_name, self.commands = actions, list(rows)
        self.setWindowTitle("Preferences")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(560, 480)
        column = QVBoxLayout(self)
        tabs = QTabWidget()
        tabs.addTab(self._general(), "General")
        tabs.addTab(self._keys(), "Keys")
        column.addWidget(tabs)
        row = QHBoxLayout()
        row.addStretch(1)
        done = Button("Done")
        done.clicked.connect(self.accept)
        row.addWidget(done)
        column.addLayout(row)

    def _general(self) -> QWidget:
        """Return the page of general preferences."""
        page = QWidget()
        form = QFormLayout(page)
        kept = self.preferences
        self.undo = NumberBox((10, 1000), (10, 100_000), 0)
        self.undo.setAccessibleName("Undo steps")
        self.undo.show_number(kept.undo_steps)
        self.undo.edited.connect(lambda x, _: self._set("undo steps", int(x)))
        form.addRow("Undo steps", self.undo)
        self.autosave = NumberBox((5, 300), (5, 3600), 0, "s")
        self.autosave.setAccessibleName("Autosave interval")
        self.autosave.show_number(kept.autosave_seconds)
        self.autosave.edited.connect(lambda x, _: self._set("autosave seconds", int(x)))
        form.addRow("Autosave every, s", self.autosave)
        self.scale = self._combo("Interface scale", SCALES, kept.scale, "scale")
        form.addRow("Interface scale", self.scale)
        self.decimals = self._combo("Decimals", DECIMALS, kept.decimals, "decimals")
        form.addRow("Decimals", self.decimals)
        said = QLabel(
            "The scale counts from the next start on. Both a comma and a point may always be typed."
        )
        said.setWordWrap(True)
        said.setStyleSheet(f"color: {theme.DIM};")
        form.addRow(said)
        return page

    def _combo(self, name: str, choices: tuple[str, ...], now: str, key: str) -> Combo:
        box = Combo()
        box.addItems(choices)
        box.setAccessibleName(name)
        box.setCurrentText(now)
        box.textActivated.connect(lambda word: self._set(key, word))
        return box

    def _set(self, name: str, value: object) -> None:
        self.preferences.set(name, value)
        self._apply()

    def _apply(self) -> None:
        self.preferences.apply(self.session, self.files, self.actions_by_name, self.commands)
        self.session.effect_changed.emit()

    # Keys

    def _keys(self) -> QWidget:
        """Return the page of commands and their keys."""
        page = QWidget()
        column = QVBoxLayout(page)
        self.search = Line()
        self.search.setPlaceholderText("Find a command")
        self.search.setAccessibleName("Find a command")
        self.search.textChanged.connect(self._fill)
        column.addWidget(self.search)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Commands and their keys")
        self.tree.setHeaderLabels(["Command", "Keys"])
        self.tree.setRootIsDecorated(False)
        self.tree.setColumnWidth(0, 320)
        self.tree.currentItemChanged.connect(lambda *_: self._chosen())
        column.addWidget(self.tree, 1)
        row = QHBoxLayout()
        self.edit = QKeySequenceEdit()
        self.edit.setMaximumSequenceLength(1)
        self.edit.setAccessibleName("New key")
        self.edit.editingFinished.connect(self._take)
        row.addWidget(self.edit, 1)
        self.none = Button("No key")
        self.none.clicked.connect(lambda: self._give(""))
        self.usual = Button("Usual key")
        self.usual.clicked.connect(self._reset)
        row.addWidget(self.none)
        row.addWidget(self.usual)
        column.addLayout(row)
        self.problem = QLabel("Choose a command, then press its new key in the line below the list.")
        self.problem.setWordWrap(True)
        self.problem.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(self.problem)
        self._fill()
        return page

    def _fill(self) -> None:
        chosen = self._command()
        self.tree.clear()
        for command in self.commands:
            if score(self.search.text(), command.title, command.group, "", command.tip):
                keys = ", ".join(self.preferences.keys(command).split())
                item = QTreeWidgetItem([f"{command.group}: {command.title}", keys])
                item.setData(0, Qt.ItemDataRole.UserRole, command.name)
                self.tree.addTopLevelItem(item)
                if chosen is not None and command.name == chosen.name:
                    self.tree.setCurrentItem(item)

    def _command(self) -> Command | None:
        item = self.tree.currentItem()
        name = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else ""
        return next((command for command in self.commands if command.name == name), None)

    def _chosen(self) -> None:
        command = self._command()
        if command is not None:
            first = self.preferences.keys(command).split()
            self.edit.setKeySequence(QKeySequence(first[0] if first else ""))
            self.problem.setText(command.tip + ".")

    def _take(self) -> None:
        self._give(self.edit.keySequence().toString())

    def _give(self, keys: str) -> None:
        """Give the chosen command a key; one that has it already loses it, and that is said."""
        command = self._command()
        if command is None:
            return
        keys = keys.replace(" ", "")
        said = f"{command.title} has {'the key ' + keys if keys else 'no key'} now."
        for other in self.commands:
            theirs = self.preferences.keys(other).split()
            if keys and other is not command and keys.lower() in [one.lower() for one in theirs]:
                rest = " ".join(one for one in theirs if one.lower() != keys.lower())
                self.preferences.set(f"keys/{other.name}", rest)
                said += f" It was that of “{other.title}”, which has {rest or 'none'} now."
        self.preferences.set(f"keys/{command.name}", keys)
        self._apply()
        self._fill()
        self.problem.setText(said)

    def _reset(self) -> None:
        """Give a command its usual key again, and tell who else has it."""
        command = self._command()
        if command is not None:
            self.preferences.forget(f"keys/{command.name}")
            usual = {one.lower() for one in command.key.split()}
            taken = [
                other.title
                for other in self.commands
                if other is not command
                and usual & {one.lower() for one in self.preferences.keys(other).split()}
            ]
            self._apply()
            self._fill()
            clash = f" “{taken[0]}” has it too: give that another." if taken else ""
            self.problem.setText(f"{command.title} has its usual key again.{clash}")

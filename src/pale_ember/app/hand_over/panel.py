"""The panel that hands over: what, how, where, and how far it is."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices, QGuiApplication
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ...effect.descriptions import description_of
from ...effect.errors import EffectError
from ...effect.part import Part
from ...files.hand_over.telling import summary
from ...files.hand_over.works import Product
from ...files.product_options import Budget
from ...files.profile import Profile
from ..widgets import theme
from ..widgets.controls import Button, Line, Notes, ToolButton
from ..widgets.icons import icon
from ..widgets.rail import Rail
from .hand_over_work import HandOverWork
from .wish_row import WishRow

CHAPTERS = ("Bundle", "Sheet", "Frames", "Film", "Cache", "Budget")
PRODUCTS = (Product.BUNDLE, Product.SHEET, Product.FRAMES, Product.FILM, Product.CACHE)
GROUPS = {"sheet": "On the sheet", "camera": "Camera", "time": "Time", "light": "Light"}
PROFILES = "Profiles (*.toml)"


class HandOverPanel(QWidget):
    """A rail of what can be handed over beside its fields; below, where it goes and the command line."""

    textures_wanted = pyqtSignal()
    closed = pyqtSignal()

    def __init__(self, desk: HandOverWork) -> None:
        super().__init__()
        self.desk = desk
        self.setMinimumWidth(338)
        self.setAccessibleName("Hand over")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addLayout(self._head())
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setStyleSheet(f"color: {theme.DIM}; padding: 0 12px 8px 12px;")
        whole.addWidget(self.words)
        body = QHBoxLayout()
        body.setSpacing(0)
        whole.addLayout(body, 1)
        self.rail = Rail(CHAPTERS)
        self.rail.chosen.connect(self.show_chapter)
        self.pages = QStackedWidget()
        body.addWidget(self.rail)
        body.addWidget(self.pages, 1)
        # The fields of all chapters are made when the panel is first seen: a start shall not wait for them.
        self.rows: dict[str, WishRow] = {}
        whole.addWidget(self._foot())
        desk.changed.connect(self.refresh)
        desk.session.effect_changed.connect(self._changed)
        desk.heard.connect(self._hear)
        desk.ended.connect(self._end)

    def make(self) -> None:
        """Make the fields, if they aren't there yet."""
        if not self.rows:
            for product in PRODUCTS:
                self._add_page(str(product), type(getattr(Profile(), product)))
            self._add_page("budget", Budget)
            self.refresh()

    # Building

    def _head(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setContentsMargins(12, 8, 8, 4)
        column.setSpacing(4)
        line = QHBoxLayout()
        self.title = QLabel("Hand over")
        self.title.setStyleSheet(f"font-size: 15px; font-weight: 600; color: {theme.BRIGHT};")
        line.addWidget(self.title, 1)
        done = Button("Back to the recipe")
        done.setToolTip("Show the recipe again (Ctrl+E)")
        done.clicked.connect(self.closed)
        line.addWidget(done)
        column.addLayout(line)
        line = QHBoxLayout()
        line.setSpacing(2)
        self.profile = QLabel()
        self.profile.setStyleSheet(f"color: {theme.DIM};")
        line.addWidget(self.profile, 1)
        for name, tip, act in (
            ("Open", "Take what a game wants from a profile (.toml)", self.open_profile),
            ("Save", "Write this profile to a file, for the command line and for others", self.save_profile),
            ("Plain", "Set all fields back to their defaults", self.desk.reset_profile),
        ):
            button = Button(name)
            button.setToolTip(tip)
            button.setAccessibleName(f"{name} profile")
            button.clicked.connect(act)
            line.addWidget(button)
        column.addLayout(line)
        return column

    def _add_page(self, section: str, model: type[Part]) -> None:
        area, holder = QScrollArea(), QWidget()
        area.setWidgetResizable(True)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(holder)
        column = QVBoxLayout(holder)
        column.setContentsMargins(2, 6, 8, 10)
        column.setSpacing(1)
        rules = model.rules()
        # What a product has of its own stands before what all bakes have.
        own, groups = list(model.__annotations__), ("", *GROUPS)
        order = sorted(
            rules,
            key=lambda name: (groups.index(rules[name].group), own.index(name) if name in own else len(own)),
        )
        group = ""
        for name in order:
            rule = rules[name]
            if rule.group != group:
                group = rule.group
                label = QLabel(GROUPS[group])
                label.setStyleSheet(f"color: {theme.DIM}; padding: 7px 0 0 18px;")
                column.addWidget(label)
            row = self.rows[f"{section}.{name}"] = WishRow(
                self.desk, rule, f"{section}.{name}", model.default_of(name)
            )
            column.addWidget(row)
            if (section, name) == ("bundle", "textures"):
                self.compare = Button("Compare …")
                self.compare.setToolTip(
                    "See each texture beside what becomes of it, and choose how it is stored"
                )
                self.compare.clicked.connect(self.textures_wanted)
                line = QHBoxLayout()
                line.setContentsMargins(114, 2, 4, 4)
                line.addWidget(self.compare)
                column.addLayout(line)
        if section == "budget":
            self.costs = QLabel()
            self.costs.setWordWrap(True)
            self.costs.setStyleSheet(f"color: {theme.DIM}; padding: 8px 4px 4px 18px;")
            column.addWidget(self.costs)
        column.addStretch(1)
        self.pages.addWidget(area)

    def _foot(self) -> QWidget:
        foot = QWidget()
        foot.setObjectName("foot")
        foot.setStyleSheet(f"QWidget#foot {{ border-top: 1px solid {theme.ASH_3}; }}")
        column = QVBoxLayout(foot)
        column.setContentsMargins(12, 8, 10, 10)
        column.setSpacing(6)
        line = QHBoxLayout()
        line.setSpacing(4)
        self.name, self.folder = Line(), Line()
        self.name.setAccessibleName("Name of what is written")
        self.name.setToolTip("What it is called, without an ending")
        self.name.editingFinished.connect(self._named)
        self.folder.setAccessibleName("Folder that it goes into")
        self.folder.setPlaceholderText("choose a folder")
        self.folder.editingFinished.connect(self._placed)
        browse = ToolButton()
        browse.setIcon(icon("open"))
        browse.setAccessibleName("Choose the folder")
        browse.setToolTip("Choose the folder that it goes into")
        browse.clicked.connect(self.browse)
        for widget, stretch in (
            (QLabel("As"), 0),
            (self.name, 2),
            (QLabel("in"), 0),
            (self.folder, 3),
            (browse, 0),
        ):
            line.addWidget(widget, stretch)
        column.addLayout(line)
        line = QHBoxLayout()
        self.command = Notes()
        self.command.setReadOnly(True)
        self.command.setAccessibleName("Command line that does the same")
        self.command.setToolTip(
            "The command line that does the same, for build machines and for many effects at once"
        )
        self.command.setStyleSheet(f"color: {theme.DIM}; font-family: monospace; font-size: 11px;")
        self.command.setFixedHeight(50)
        copy = Button("Copy")
        copy.setToolTip("Copy the command line")
        copy.setAccessibleName("Copy the command line")
        copy.clicked.connect(self._copy)
        line.addWidget(self.command, 1)
        line.addWidget(copy)
        column.addLayout(line)
        self.result = QLabel()
        self.result.setWordWrap(True)
        self.result.hide()
        column.addWidget(self.result)
        line = QHBoxLayout()
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.left = QLabel()
        self.left.setStyleSheet(f"color: {theme.DIM};")
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Give it up; what was there before stays")
        self.stop.clicked.connect(self.desk.give_up)
        self.show_folder = QPushButton("Show folder")
        self.show_folder.setToolTip("Open the folder that it was written to")
        self.show_folder.clicked.connect(
            lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(self.desk.folder))
        )
        self.go = QPushButton("Hand over")
        self.go.setToolTip("Write it (Ctrl+Return)")
        self.go.setStyleSheet(
            f"QPushButton {{ background: {theme.EMBER}; color: {theme.ASH_0}; font-weight: 600; "
            f"padding: 6px 16px; }} "
            f"QPushButton:disabled {{ background: {theme.ASH_3}; color: {theme.DIM}; }} "
            f"QPushButton:focus {{ border: 2px solid {theme.BRIGHT}; }}"
        )
        self.go.clicked.connect(self.hand_over)
        line.addWidget(self.bar, 1)
        line.addWidget(self.left)
        line.addStretch(0)
        for button in (self.show_folder, self.stop, self.go):
            line.addWidget(button)
        column.addLayout(line)
        self.show_folder.hide()
        return foot

    # Showing

    def _changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.make()
        self.refresh()

    def show_chapter(self, index: int) -> None:
        """Show a product, or the budget."""
        self.make()
        self.rail.check(index)
        self.pages.setCurrentIndex(index)
        self.result.hide()
        self.show_folder.hide()
        if index < len(PRODUCTS):
            self.desk.choose(PRODUCTS[index])
        else:
            self.refresh()

    def refresh(self) -> None:
        """Show what the profile has now."""
        if not self.rows:
            return
        desk, effect = self.desk, self.desk.session.effect
        kept = Path(desk.base_file).stem if desk.base_file else ""
        different = desk.profile != desk.base
        self.profile.setText(f"Profile: {kept or 'none'}{', changed' if different else ''}")
        self.words.setText(
            summary(desk.product, desk.profile, effect)
            if self.pages.currentIndex() < len(PRODUCTS)
            else description_of(Budget)
        )
        for path, row in self.rows.items():
            section = path.partition(".")[0]
            needed = row.rule.needs
            row.setVisible(not needed or bool(desk.value(f"{section}.{needed}")))
            row.refresh()
        self.compare.setEnabled(bool(effect.textures))
        self.costs.setText(self._cost())
        if not self.name.hasFocus() or not self.name.isModified():
            self.name.setText(desk.name or desk.title)
        if not self.folder.hasFocus() or not self.folder.isModified():
            self.folder.setText(desk.folder)
        self.command.setPlainText(desk.line())
        busy = desk.busy
        # The focus stays where the work is begun and stopped.
        focused = self.go.hasFocus() or self.stop.hasFocus()
        self.bar.setVisible(busy)
        self.left.setVisible(busy)
        self.stop.setVisible(busy)
        self.go.setVisible(not busy)
        self.go.setEnabled(bool(effect.layers))
        if focused:
            (self.stop if busy else self.go).setFocus(Qt.FocusReason.OtherFocusReason)
        self.go.setText(f"Hand over {desk.product}{'' if desk.folder else ' …'}")

    def _cost(self) -> str:
        session = self.desk.session
        alive = sum(counts["alive"] for counts in session.moment.counts.values())
        memory = sum(ready.memory for ready in session.textures.state.ready.values()) / 2**20
        layers = sum(layer.enabled for layer in session.effect.layers)
        return (
            f"Now: {alive:,} alive, {layers} layer{'' if layers == 1 else 's'}, {memory:.1f} MB of "
            "textures. A bundle is measured over the whole duration, and tells what is above its budget."
        )

    # Doing

    def _named(self) -> None:
        if self.name.isModified():
            self.desk.call(self.name.text())

    def _placed(self) -> None:
        if self.folder.isModified():
            self.desk.go_to(self.folder.text().strip())

    def browse(self) -> bool:
        """Choose the folder that it goes into; return whether one was."""
        found = QFileDialog.getExistingDirectory(self, "Hand over to", self.desk.folder)
        if found:
            self.desk.go_to(found)
        return bool(found)

    def open_profile(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Open a profile", str(Path(self.desk.base_file).parent), PROFILES
        )
        if name:
            self._try(lambda: self.desk.open_profile(name))

    def save_profile(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the profile", self.desk.base_file or "game.toml", PROFILES
        )
        if name:
            self._try(lambda: self.desk.save_profile(name if name.endswith(".toml") else f"{name}.toml"))

    def _try(self, act: Any) -> bool:
        try:
            act()
        except EffectError as wrong:
            self._say(str(wrong), bad=True)
            return False
        return True

    def _copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        assert clipboard is not None
        clipboard.setText(self.command.toPlainText())
        self.desk.session.said.emit("The command line is copied.")

    def hand_over(self) -> None:
        """Write it, after asking for a folder if there is none, and before anything is replaced."""
        if self.desk.busy or not self.desk.session.effect.layers:
            return
        if not self.desk.folder and not self.browse():
            return
        there = [path for path in self.desk.targets() if path.exists()]
        if there and not self._may_replace(there):
            return
        self.result.hide()
        self.show_folder.hide()
        self.bar.setValue(0)
        self.left.setText("begins …")
        self._try(self.desk.hand_over)
        self.refresh()

    def _may_replace(self, there: list[Path]) -> bool:
        box = QMessageBox(self)
        box.setWindowTitle("Replace what is there?")
        names = ", ".join(path.name for path in there)
        box.setText(
            f"{names} {'is' if len(there) == 1 else 'are'} there already. Handing over replaces "
            f"{'it' if len(there) == 1 else 'them'}."
        )
        yes = box.addButton("Replace", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        return box.clickedButton() is yes

    def _hear(self, share: float) -> None:
        self.bar.setValue(round(1000 * share))
        spent = time.monotonic() - self.desk.began
        if share > 0.05 and spent > 1.0:
            rest = spent / share * (1.0 - share)
            self.left.setText("nearly done" if rest < 1.0 else f"about {rest:.0f} s left")

    def _end(self, result: dict[str, Any]) -> None:
        if result["state"] == "stopped":
            self._say("Stopped. What was there before is still there.")
        elif result["state"] == "failed":
            place = f"{result['place']}: " if result.get("place") else ""
            self._say(f"Not written. {place}{result['reason']}", bad=True)
        else:
            first: Path = result["targets"][0]
            size = sum(
                one.stat().st_size
                for path in result["targets"]
                for one in (path.rglob("*") if path.is_dir() else [path])
                if one.is_file()
            )
            over = "".join(f" Over the budget: {words}" for words in result.get("budget") or [])
            self._say(
                f"{first.name} is written, {size / 2**20:.1f} MB in {result['seconds']:.0f} s.{over}",
                bad=bool(over),
            )
            self.show_folder.show()
        self.refresh()

    def _say(self, words: str, bad: bool = False) -> None:
        self.result.setText(words)
        self.result.setStyleSheet(f"color: {theme.WARN if bad else theme.TEXT};")
        self.result.show()
        if not self.isVisible():
            self.desk.session.said.emit(words)

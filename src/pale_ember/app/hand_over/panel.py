"""The panel that hands over: what, how, where, and how far it is."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMessageBox,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ...effect.errors import EffectError
from ...effect.rules.descriptions import description_of
from ...effect.rules.part import Part
from ...effect.rules.paths import FieldPath
from ...files.hand_over.telling import summary
from ...files.hand_over.works import Product
from ...files.product_options import Budget
from ...files.profile import Profile
from ..widgets import theme
from ..widgets.controls import Button
from ..widgets.rail import Rail
from .foot import Foot
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
        self.foot = Foot(desk)
        self.foot.asked.connect(self.hand_over)
        whole.addWidget(self.foot)
        desk.changed.connect(self.refresh)
        desk.session.effect_changed.connect(self._changed)
        desk.heard.connect(self.foot.show_share)
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
        """Return the title and the buttons of profiles."""
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
        """Add the page of a product: its fields by groups, and what belongs beside them."""
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
        # A product's own fields come before those that all bakes share.
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
        self.foot.clear()
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
            section = FieldPath(path).chapter
            needed = row.rule.needs
            row.setVisible(not needed or bool(desk.value(f"{section}.{needed}")))
            row.refresh()
        self.compare.setEnabled(bool(effect.textures))
        self.costs.setText(self._cost())
        self.foot.refresh()

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
            self.foot.say(str(wrong), bad=True)
            return False
        return True

    def hand_over(self) -> None:
        """Write it, after asking for a folder if there is none, and before anything is replaced."""
        if self.desk.busy or not self.desk.session.effect.layers:
            return
        if not self.desk.folder and not self.foot.browse():
            return
        there = [path for path in self.desk.targets() if path.exists()]
        if there and not self._may_replace(there):
            return
        self.foot.begin()
        self._try(self.desk.hand_over)
        self.refresh()

    def _may_replace(self, there: list[Path]) -> bool:
        """Ask whether files that are there may be replaced."""
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

    def _end(self, result: dict[str, Any]) -> None:
        """Tell how a hand over ended."""
        if result["state"] == "stopped":
            self.foot.say("Stopped. What was there before is still there.")
        elif result["state"] == "failed":
            place = f"{result['place']}: " if result.get("place") else ""
            self.foot.say(f"Not written. {place}{result['reason']}", bad=True)
        else:
            first: Path = result["targets"][0]
            size = sum(
                one.stat().st_size
                for path in result["targets"]
                for one in (path.rglob("*") if path.is_dir() else [path])
                if one.is_file()
            )
            over = "".join(f" Over the budget: {words}" for words in result.get("budget") or [])
            self.foot.say(
                f"{first.name} is written, {size / 2**20:.1f} MB in {result['seconds']:.0f} s.{over}",
                bad=bool(over),
            )
            self.foot.show_folder.show()
        self.refresh()

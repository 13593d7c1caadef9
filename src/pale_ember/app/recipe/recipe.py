"""The recipe: the selected layer's chapters and their fields, all made from the model."""

from __future__ import annotations

import html
from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QButtonGroup, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget
from superqt.utils import QSignalThrottler

from ...effect.editing.chains import parent_of
from ...effect.effect import Effect, Layer
from ...effect.rules.paths import FieldPath
from ...effect.textures import Texture
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import ToolButton
from ..widgets.few_lines import FewLines
from ..widgets.find_line import FindLine
from ..widgets.name_label import NameLabel
from ..widgets.rail import rail_button, rail_column
from ..widgets.turned import is_turned_away
from .chapter_pages import ChapterPages
from .chapter_table import CHAPTERS, chapter_of
from .found import Found
from .page import Page
from .part_list import PartList
from .sentence import pieces
from .wishes import Wishes
from .with_rows import WithRows

WHILE_HASTY_MS = 300


class Recipe(WithRows):
    """A rail of chapters beside the fields of the chosen one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.wishes = Wishes()
        self.wishes.place.connect(self.go_to)
        self.setMinimumWidth(338)
        self.setAccessibleName("Recipe")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self.title = NameLabel()
        self.title.setStyleSheet(
            f"font-size: 15px; font-weight: 600; color: {theme.BRIGHT}; padding: 9px 12px 1px 12px;"
        )
        self.summary = FewLines()
        self.summary.linkActivated.connect(self.go_to)
        whole.addWidget(self.title)
        whole.addWidget(self.summary)
        whole.addLayout(self._finding())
        body = QHBoxLayout()
        body.setSpacing(0)
        whole.addLayout(body, 1)
        self.buttons = QButtonGroup(self)
        self.pages = QStackedWidget()
        self.chapters = ChapterPages(session, self.wishes, self.pages)
        body.addWidget(self._rail())
        body.addWidget(self.pages, 1)
        # While a key is dragged the stage and the strip go first; the recipe follows a few times a second.
        self._soon = QSignalThrottler(parent=self)
        self._soon.setTimeout(WHILE_HASTY_MS)
        self._soon.triggered.connect(self.refresh)
        session.effect_changed.connect(self._effect)
        session.selection_changed.connect(self.refresh)
        session.moment_changed.connect(self._problems)
        session.textures_changed.connect(self._soon.throttle)
        self._known_problems: tuple[str, ...] = ()
        self.show_chapter(0)

    def _rail(self) -> QWidget:
        rail = QWidget()
        column = rail_column(rail)
        for i, name in enumerate(CHAPTERS):
            button = rail_button(name, f"{name} ({i + 1})")
            self.buttons.addButton(button, i)
            if name == "Effect":
                column.addStretch(1)
            column.addWidget(button)
        self.buttons.idClicked.connect(self.show_chapter)
        return rail

    def _effect(self) -> None:
        if self.session.hasty:
            self._soon.throttle()
        else:
            self.refresh()

    def _problems(self) -> None:
        """Refresh when what is said to be wrong has changed."""
        moment = self.session.moment
        refused = bool(moment.counts.get(self.session.selected, {}).get("full"))
        layer = self.session.layer
        trouble = self.session.links.trouble_of(layer) if layer is not None else None
        problems = (
            *(str(wrong) for wrong in moment.problems),
            str(refused),
            trouble.reason if trouble is not None else "",
        )
        if problems != self._known_problems:
            self._known_problems = problems
            self.refresh()

    # Finding fields

    def _finding(self) -> QHBoxLayout:
        """Return the line that finds fields in all chapters."""
        row = QHBoxLayout()
        row.setContentsMargins(12, 0, 10, 8)
        row.setSpacing(6)
        self.search = FindLine(
            "Find a field",
            "Finds fields of all chapters by name, help and other words (Ctrl+F); Enter goes to the best",
        )
        self.search.textChanged.connect(self._look)
        self.search.entered.connect(self._enter)
        self.only_changed = ToolButton()
        self.only_changed.setText("Changed")
        self.only_changed.setCheckable(True)
        self.only_changed.setAccessibleName("Changed fields only")
        self.only_changed.setToolTip("Shows only what differs from its default (Ctrl+Shift+C)")
        self.only_changed.toggled.connect(self._look)
        row.addWidget(self.search, 1)
        row.addWidget(self.only_changed)
        self.found: Found | None = None
        return row

    def _enter(self) -> None:
        if self.found is not None and self.pages.currentWidget() is self.found:
            self.found.focus_first()

    def _look(self) -> None:
        """Show what is looked for, or the chapter again."""
        if not self.search.text().strip() and not self.only_changed.isChecked():
            self.pages.setCurrentWidget(self.chapters[self.chapter])
        else:
            if self.found is None:
                self.found = Found(self.session, self.wishes)
                self.pages.addWidget(self.found)
            self.found.typed = self.search.text()
            self.found.only_changed = self.only_changed.isChecked()
            self.pages.setCurrentWidget(self.found)
        self.refresh()

    # Going somewhere

    @property
    def chapter(self) -> str:
        """Return the name of the chapter that is chosen on the rail."""
        return list(CHAPTERS)[max(self.buttons.checkedId(), 0)]

    def go_to(self, path: str, in_layer: bool = True) -> None:
        """Show the field of a path, in the layer or in the effect, and give it the focus."""
        index = chapter_of(path, in_layer)
        if index is None:
            return
        self.show_chapter(index)
        page = self.chapters[self.chapter]
        if path in page.rows:
            row = page.rows[path]
            if row.isHidden():
                page.open_field(path)
            page.bring_into_view(row)
            row.focus()
            return
        parts, item = page.lists[path.partition("[")[0]], FieldPath(path).item
        if item is not None and isinstance(parts, PartList):
            parts.open_part(item)
        page.bring_into_view(parts)

    def show_chapter(self, index: int) -> None:
        """Show a chapter by its number on the rail."""
        for line in (self.search, self.only_changed):
            line.blockSignals(True)
        self.search.clear()
        self.only_changed.setChecked(False)
        for line in (self.search, self.only_changed):
            line.blockSignals(False)
        button = self.buttons.button(index)
        if button is None:
            return
        # The focused widget goes out of view; the focus must not move to some other field by itself.
        focus = QApplication.focusWidget()
        if focus is not None and self.pages.isAncestorOf(focus):
            button.setFocus(Qt.FocusReason.OtherFocusReason)
        button.setChecked(True)
        self.pages.setCurrentWidget(self.chapters[self.chapter])
        if list(CHAPTERS)[index] != "Effect":
            self.session.choose_prop(-1)
        self.refresh()

    # Showing

    def refresh(self) -> None:
        """Show what the effect has now; only the page in view is filled, and none while something else is
        in this place.
        """
        if is_turned_away(self):
            return
        layer, effect = self.session.layer, self.session.effect
        page = self.pages.currentWidget()
        if isinstance(page, Page) and not page.in_layer:
            count = len(effect.layers)
            self.title.show_name(effect.name)
            kind = "in a loop" if effect.loop else "once"
            self.summary.setText(f"{count} layer{'' if count == 1 else 's'}, {effect.duration:g} s {kind}.")
        else:
            many = len(self.session.chosen)
            self.title.show_name(f"{many} layers" if many > 1 else layer.name if layer else effect.name)
            if many > 1:
                self.summary.setText(
                    "What is changed here is changed in all of them. Drags, +0.3, -0.3 and *2 go by "
                    "each one's own; =0.3 sets all."
                )
            else:
                self.summary.setText(
                    _linked(layer, effect.textures, _parent(effect, layer))
                    if layer
                    else "No layer is selected. Add one with Ctrl+L."
                )
        if isinstance(page, Page | Found):
            page.refresh()


def _parent(effect: Effect, layer: Layer) -> str:
    """Return the name of the layer that one follows."""
    parent = parent_of(effect, layer)
    return parent.name if parent is not None else ""


def _linked(layer: Layer, textures: Sequence[Texture], parent: str) -> str:
    """Return a layer's sentences with a link on each piece that speaks of a field."""
    style = f"color: {theme.TEXT}; text-decoration: none;"
    return "".join(
        f'<a href="{piece.path}" style="{style}">{html.escape(piece.words)}</a>'
        if piece.path
        else html.escape(piece.words)
        for piece in pieces(layer, textures, parent)
    )

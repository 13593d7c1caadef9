"""The recipe: the selected layer's chapters and their fields, all made from the model."""

from __future__ import annotations

import functools
import html
from dataclasses import dataclass

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from ...effect.chapters import Flight, Launch, Look
from ...effect.edit import get
from ...effect.effect import Camera, Effect, Layer, Stage
from ...effect.part import Part
from ...effect.source import Birthplace, Burst, Emit, PathKey, Place, Window
from ..session.session import Session
from ..widgets import theme
from .field_row import FieldRow
from .part_list import Bursts, PartList, PathKeys
from .sentence import pieces


@dataclass(frozen=True)
class Section:
    """Fields of one model under a heading; ``at`` is its path, in the layer or in the effect."""

    title: str
    at: str
    model: type[Part]
    in_layer: bool = True
    only: tuple[str, ...] = ()


WHILE_HASTY_MS = 300
CHAPTERS: dict[str, tuple[Section, ...]] = {
    "Emit": (Section("", "emit", Emit), Section("Bursts", "emit.bursts", Burst), Section("Window", "window", Window)),
    "Birthplace": (
        Section("", "birthplace", Birthplace),
        Section("Place", "place", Place),
        Section("Path", "path", PathKey),
    ),
    "Launch": (Section("", "launch", Launch),),
    "Flight": (Section("", "flight", Flight),),
    "Look": (Section("", "look", Look), Section("Layer", "", Layer, only=("name", "group", "enabled"))),
    "Effect": (
        Section("", "", Effect, False, ("name", "duration", "loop", "repeat", "warm_up", "seed", "step_rate", "notes")),
        Section("Stage", "stage", Stage, False),
        Section("Camera", "stage.camera", Camera, False),
    ),
}


LISTS: dict[type[Part], type[PartList]] = {Burst: Bursts, PathKey: PathKeys}


class Recipe(QWidget):
    """A rail of chapters beside the fields of the chosen one."""

    lane_wanted = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumWidth(352)
        self.setAccessibleName("Recipe")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self.title = QLabel()
        self.title.setStyleSheet(
            f"font-size: 15px; font-weight: 600; color: {theme.BRIGHT}; padding: 9px 12px 1px 12px;"
        )
        self.summary = QLabel()
        self.summary.setWordWrap(True)
        self.summary.setStyleSheet(f"color: {theme.DIM}; padding: 0 12px 8px 12px;")
        self.summary.setTextFormat(Qt.TextFormat.RichText)
        self.summary.linkActivated.connect(self.go_to)
        self.summary.setTextInteractionFlags(
            Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard
        )
        whole.addWidget(self.title)
        whole.addWidget(self.summary)
        whole.addLayout(self._finding())
        body = QHBoxLayout()
        body.setSpacing(0)
        whole.addLayout(body, 1)
        self.rail = QWidget()
        self.rail.setFixedWidth(82)
        self.rail.setStyleSheet(f"background: {theme.ASH_0};")
        column = QVBoxLayout(self.rail)
        column.setContentsMargins(0, 4, 0, 4)
        column.setSpacing(1)
        self.buttons = QButtonGroup(self)
        self.pages = QStackedWidget()
        self.chapters: dict[str, Page] = {}
        for i, name in enumerate(CHAPTERS):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setToolTip(f"{name} ({i + 1})")
            button.setStyleSheet(
                f"QPushButton {{ border: none; border-radius: 0; background: transparent; border-left: 2px solid transparent; color: {theme.DIM};"
                f" text-align: left; padding: 7px 4px 7px 9px; }}"
                f"QPushButton:hover {{ color: {theme.BRIGHT}; }}"
                f"QPushButton:focus {{ color: {theme.EMBER}; }}"
                f"QPushButton:checked {{ background: {theme.ASH_1}; color: {theme.BRIGHT}; border-left-color: {theme.EMBER}; }}"
            )
            self.buttons.addButton(button, i)
            if name == "Effect":
                column.addStretch(1)
            column.addWidget(button)
            page = Page(session, CHAPTERS[name])
            page.lane_wanted.connect(self.lane_wanted)
            self.chapters[name] = page
            self.pages.addWidget(page)
        self.buttons.idClicked.connect(self.show_chapter)
        body.addWidget(self.rail)
        body.addWidget(self.pages, 1)
        # While a key is dragged the stage and the strip go first; the recipe follows a few times a second.
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.refresh)
        session.effect_changed.connect(self._effect)
        session.selection_changed.connect(self.refresh)
        session.moment_changed.connect(self._problems)
        self._known_problems: tuple[str, ...] = ()
        self.show_chapter(0)

    def _effect(self) -> None:
        if self.session.hasty:
            if not self._soon.isActive():
                self._soon.start(WHILE_HASTY_MS)
        else:
            self.refresh()

    def _problems(self) -> None:
        problems = tuple(str(wrong) for wrong in self.session.moment.problems)
        if problems != self._known_problems:
            self._known_problems = problems
            self.refresh()

    def _finding(self) -> QHBoxLayout:
        """Return the line that finds fields in all chapters."""
        row = QHBoxLayout()
        row.setContentsMargins(12, 0, 10, 8)
        row.setSpacing(6)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a field")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Find a field")
        self.search.setToolTip("Shows the fields of all chapters that have these words (Ctrl+F)")
        self.search.textChanged.connect(self._look)
        self.only_changed = QToolButton()
        self.only_changed.setText("Changed")
        self.only_changed.setCheckable(True)
        self.only_changed.setToolTip("Shows only what differs from its default (Ctrl+Shift+C)")
        self.only_changed.toggled.connect(self._look)
        row.addWidget(self.search, 1)
        row.addWidget(self.only_changed)
        self.found: Found | None = None
        return row

    def _look(self) -> None:
        """Show what is looked for, or the chapter again."""
        if not self.search.text().strip() and not self.only_changed.isChecked():
            self.pages.setCurrentIndex(max(self.buttons.checkedId(), 0))
        else:
            if self.found is None:
                self.found = Found(self.session)
                self.found.lane_wanted.connect(self.lane_wanted)
                self.pages.addWidget(self.found)
            self.found.words = self.search.text().lower().split()
            self.found.only_changed = self.only_changed.isChecked()
            self.pages.setCurrentWidget(self.found)
        self.refresh()

    def go_to(self, path: str) -> None:
        """Show the field of a path in the layer, and give it the focus."""
        for index, name in enumerate(CHAPTERS):
            page = self.chapters[name]
            if page.in_layer and (path in page.rows or path in page.lists):
                self.show_chapter(index)
                if path in page.lists:
                    page.ensureWidgetVisible(page.lists[path])
                row = page.rows.get(path)
                if row is not None:
                    page.ensureWidgetVisible(row)
                    for part in row._parts[:1]:
                        part.setFocus(Qt.FocusReason.ShortcutFocusReason)
                return

    def show_chapter(self, index: int) -> None:
        """Show a chapter by its number on the rail."""
        for line in (self.search, self.only_changed):
            line.blockSignals(True)
        self.search.clear()
        self.only_changed.setChecked(False)
        for line in (self.search, self.only_changed):
            line.blockSignals(False)
        button = self.buttons.button(index)
        if button is not None:
            button.setChecked(True)
            self.pages.setCurrentIndex(index)
            self.refresh()

    def refresh(self) -> None:
        """Show what the effect has now; only the page in view is filled."""
        layer, effect = self.session.layer, self.session.effect
        page = self.pages.currentWidget()
        if isinstance(page, Page) and not page.in_layer:
            count = len(effect.layers)
            self.title.setText(effect.name)
            kind = "in a loop" if effect.loop else "once"
            self.summary.setText(f"{count} layer{'' if count == 1 else 's'}, {effect.duration:g} s {kind}.")
        else:
            many = len(self.session.chosen)
            self.title.setText(f"{many} layers" if many > 1 else layer.name if layer else effect.name)
            if many > 1:
                self.summary.setText(
                    "What is changed here is changed in all of them. Drags and arithmetic go by each one's own."
                )
                page.refresh()  # type: ignore[union-attr]
                return
            self.summary.setText(_linked(layer) if layer else "No layer is selected. Add one with Ctrl+L.")
        if isinstance(page, Page | Found):
            page.refresh()


class Page(QScrollArea):
    """The fields of one chapter."""

    lane_wanted = pyqtSignal(str)

    def __init__(self, session: Session, sections: tuple[Section, ...]) -> None:
        super().__init__()
        self.session = session
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows: dict[str, FieldRow] = {}
        self.sections = sections
        holder = QWidget()
        self.setWidget(holder)
        column = QVBoxLayout(holder)
        column.setContentsMargins(2, 6, 8, 10)
        column.setSpacing(1)
        self.in_layer = sections[0].in_layer
        self.lists: dict[str, PartList] = {}
        for section in sections:
            if section.title:
                heading = QLabel(section.title)
                heading.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; padding: 10px 0 2px 18px;")
                column.addWidget(heading)
            if section.model in LISTS:
                parts = LISTS[section.model](session)
                parts.lane_wanted.connect(self.lane_wanted)
                self.lists[section.at] = parts
                column.addWidget(parts)
                continue
            for name, rule in section.model.rules().items():
                if name == "id" or (section.only and name not in section.only):
                    continue
                at = f"{section.at}.{name}".lstrip(".")
                where = (lambda at=at: session.layer_path(at)) if section.in_layer else (lambda at=at: at)
                row = FieldRow(session, rule, where, section.model.default_of(name), section.in_layer)
                row.lane_wanted.connect(self.lane_wanted)
                self.rows[at] = row
                column.addWidget(row)
        column.addStretch(1)

    def refresh(self) -> None:
        here = not self.in_layer or self.session.layer is not None
        widget = self.widget()
        assert widget is not None
        widget.setVisible(here)
        if not here:
            return
        for at, row in self.rows.items():
            if row.rule.only:
                row.setVisible(counts(self.session, at, row))
            if not row.isHidden():
                row.refresh()
        for parts in self.lists.values():
            parts.refresh()


class Found(QScrollArea):
    """The fields of all of a layer's chapters that are looked for."""

    lane_wanted = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.words: list[str] = []
        self.only_changed = False
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        holder = QWidget()
        self.setWidget(holder)
        column = QVBoxLayout(holder)
        column.setContentsMargins(2, 6, 8, 10)
        column.setSpacing(1)
        self.groups: list[tuple[QLabel, list[tuple[str, str, FieldRow]]]] = []
        for chapter, sections in CHAPTERS.items():
            for section in sections:
                if not section.in_layer or section.model in LISTS:
                    continue
                heading = QLabel(section.title or chapter)
                heading.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; padding: 8px 0 2px 18px;")
                column.addWidget(heading)
                rows = []
                for name, rule in section.model.rules().items():
                    if name == "id" or (section.only and name not in section.only):
                        continue
                    at = f"{section.at}.{name}".lstrip(".")
                    row = FieldRow(
                        session, rule, functools.partial(session.layer_path, at), section.model.default_of(name), True
                    )
                    row.lane_wanted.connect(self.lane_wanted)
                    column.addWidget(row)
                    rows.append((at, f"{rule.label} {rule.help} {chapter} {section.title}".lower(), row))
                self.groups.append((heading, rows))
        self.none = QLabel("No field is like that.")
        self.none.setStyleSheet(f"color: {theme.DIM}; padding: 12px 18px;")
        column.addWidget(self.none)
        column.addStretch(1)

    def refresh(self) -> None:
        """Show the rows that are looked for and count for this layer."""
        some = False
        for heading, rows in self.groups:
            here = False
            for at, words, row in rows:
                wanted = self.session.layer is not None and all(word in words for word in self.words)
                wanted = wanted and counts(self.session, at, row)
                row.setVisible(wanted and not (self.only_changed and row.value == row.default))
                if not row.isHidden():
                    row.refresh()
                    here = True
            heading.setVisible(here)
            some |= here
        self.none.setVisible(not some)


def counts(session: Session, at: str, row: FieldRow) -> bool:
    """Return whether a layer's field counts, given the field beside it that rules it."""
    if row.rule.only is None:
        return True
    beside, words = row.rule.only
    return get(session.effect, session.layer_path(at.rpartition(".")[0] + "." + beside)) in words


def _linked(layer: Layer) -> str:
    """Return a layer's sentences with a link on each piece that speaks of a field."""
    style = f"color: {theme.TEXT}; text-decoration: none;"
    return "".join(
        f'<a href="{piece.path}" style="{style}">{html.escape(piece.words)}</a>'
        if piece.path
        else html.escape(piece.words)
        for piece in pieces(layer)
    )

"""The fields of all chapters that are looked for, best first."""

from __future__ import annotations

import functools
from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from ...effect.errors import EffectError
from ...effect.rules.edit import get
from ...effect.rules.fields import Rule
from ...effect.textures import Texture
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Button
from ..widgets.matching import score
from .chapter_table import CHAPTERS, FOLLOWERS, Section
from .field_row import FieldRow
from .page import counts
from .wishes import Wishes

MOST_SHOWN = 80
# Lists are led to whose name or other words fit so well.
LEADS_FROM = 50


@dataclass(eq=False)
class Entry:
    """One field that can be found: its path, its rule, where it belongs, and its row once it was shown."""

    at: str
    name: str
    rule: Rule
    section: Section
    where: str
    made: tuple[FieldRow, QLabel] | None = None

    @property
    def row(self) -> FieldRow:
        assert self.made is not None
        return self.made[0]


class Found(QScrollArea):
    """Rows of fields from anywhere, each under the name of its chapter."""

    def __init__(self, session: Session, wishes: Wishes) -> None:
        super().__init__()
        self.session, self.wishes = session, wishes
        self.typed = ""
        self.only_changed = False
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        holder = QWidget()
        self.setWidget(holder)
        self.column = QVBoxLayout(holder)
        self.column.setContentsMargins(2, 6, 8, 10)
        self.column.setSpacing(1)
        self.entries: list[Entry] = []
        self.shown: list[Entry] = []
        self.none = QLabel("No field is like that. Ctrl+K looks among commands and layers too.")
        self.none.setWordWrap(True)
        self.none.setStyleSheet(f"color: {theme.DIM}; padding: 12px 18px;")
        # Lists, such as bursts and the path's keys, are led to; they stand before the fields.
        self.leads = {
            section.at: self._lead(chapter, section)
            for chapter, sections in CHAPTERS.items()
            for section in sections
            if section.is_list
        }
        self.led: list[str] = []
        self._best_lead = 0
        self.column.addWidget(self.none)
        self.column.addStretch(1)
        self._shape: tuple[object, ...] = ()
        self._order: list[Entry] = []

    def _lead(self, chapter: str, section: Section) -> Button:
        lead = Button(f"{section.word} · {chapter}")
        lead.setToolTip(f"Show the list in the chapter {chapter}")
        lead.clicked.connect(lambda: self.wishes.place.emit(section.at, section.in_layer))
        lead.hide()
        self.column.addWidget(lead)
        return lead

    def _build(self) -> None:
        """List each field, those of each burst and path key too; their rows are made when they are first
        shown.
        """
        for entry in self.entries:
            for widget in entry.made or ():
                self.column.removeWidget(widget)
                widget.hide()
                widget.deleteLater()
        self.entries, self._order = [], []
        layer = self.session.layer
        for chapter, sections in CHAPTERS.items():
            for section in sections:
                where = f"{chapter} · {section.title}" if section.title else chapter
                if not section.is_list:
                    for name, at, rule in section.fields():
                        self.entries.append(Entry(at, name, rule, section, where))
                    continue
                if not section.in_layer or section.model is Texture or section.at == FOLLOWERS:
                    continue  # a thing of the stage, or of what the layer wears, is found by its list
                count = (
                    0
                    if layer is None
                    else len(layer.emit.bursts if section.at == "emit.bursts" else layer.path)
                )
                noun = "Burst" if section.at == "emit.bursts" else "Path key"
                for i in range(count):
                    for name, rule in section.model.rules().items():
                        self.entries.append(
                            Entry(f"{section.at}[{i}].{name}", name, rule, section, f"{noun} {i + 1}")
                        )

    def _path(self, entry: Entry) -> str:
        return self.session.layer_path(entry.at) if entry.section.in_layer else entry.at

    def _make(self, entry: Entry) -> tuple[FieldRow, QLabel]:
        default, in_layer = entry.section.model.default_of(entry.name), entry.section.in_layer
        row = FieldRow(
            self.session, self.wishes, entry.rule, functools.partial(self._path, entry), default, in_layer
        )
        heading = QLabel(entry.where)
        heading.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; padding: 8px 0 2px 18px;")
        return row, heading

    def _in_use(self, entry: Entry) -> bool:
        """Return whether one of the selected layers has a field away from its default."""
        default = entry.section.model.default_of(entry.name)
        for layer_id in self.session.chosen_first:
            try:
                if get(self.session.effect, self.session.layer_path(entry.at, layer_id)) != default:
                    return True
            except EffectError:
                continue  # a burst or key that the layer doesn't have
        return False

    def refresh(self) -> None:
        """Show the rows that are looked for and count for this layer."""
        layer = self.session.layer
        shape = (layer.id, len(layer.emit.bursts), len(layer.path)) if layer is not None else ()
        if shape != self._shape or not self.entries:
            self._shape = shape
            self._build()
        wanted = self._wanted()
        if wanted != self._order:
            self._order = wanted
            for entry in self.entries:
                for widget in entry.made or ():
                    self.column.removeWidget(widget)
                    widget.hide()
            where = ""
            for entry in wanted:
                entry.made = entry.made or self._make(entry)
                row, heading = entry.made
                if entry.where != where:
                    self.column.insertWidget(self.column.count() - 2, heading)
                    heading.show()
                where = entry.where
                self.column.insertWidget(self.column.count() - 2, row)
                row.show()
        for entry in wanted:
            entry.row.refresh()
        self.shown = wanted
        led = self._led()
        self.led, self._best_lead = [at for _, at in led], led[0][0] if led else 0
        for at, lead in self.leads.items():
            lead.setVisible(at in self.led)
        self.none.setVisible(not wanted and not self.led)

    def _led(self) -> list[tuple[int, str]]:
        """Return the lists that are looked for and how well they fit, by their own names or other words,
        the best first.
        """
        found = []
        for chapter, sections in CHAPTERS.items():
            for section in sections:
                if (
                    section.is_list
                    and not self.only_changed
                    and self.typed.strip()
                    and (self.session.layer is not None or not section.in_layer)
                ):
                    good = score(self.typed, section.word, section.also, chapter)
                    if good >= LEADS_FROM:
                        found.append((good, section.at))
        return sorted(found, key=lambda one: -one[0])

    def _wanted(self) -> list[Entry]:
        """Return the fields that a search finds, the best first."""
        scored = []
        for number, entry in enumerate(self.entries):
            if entry.section.in_layer:
                if self.session.layer is None:
                    continue
                is_list = entry.section.is_list
                if not is_list and not counts(self.session, entry.at, entry.rule):
                    continue
            elif self.only_changed:
                continue
            good = self._score(entry)
            if good and not (self.only_changed and not self._in_use(entry)):
                scored.append((-good, number, entry))
        # Several words for one place stand together under its name only where they are as good.
        return [entry for _, _, entry in sorted(scored, key=lambda one: one[:2])[:MOST_SHOWN]]

    def _score(self, entry: Entry) -> int:
        rule = entry.rule
        return score(self.typed, rule.label, rule.also, f"{entry.where} {rule.group}", rule.help, rule.words)

    def focus_first(self) -> None:
        """Give the focus to the best of what was found."""
        if self.led and self._best_lead > (self._score(self.shown[0]) if self.shown else 0):
            self.leads[self.led[0]].click()
        elif self.shown:
            self.shown[0].row.focus()

"""The fields of all chapters that are looked for, best first."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from ..session.session import Session
from ..widgets import theme
from ..widgets.matching import score
from .chapter_table import CHAPTERS, Section
from .field_row import FieldRow
from .page import counts
from .wishes import Wishes

MOST_SHOWN = 40


@dataclass
class Entry:
    """One field that can be found: its path, its row, and where it belongs."""

    at: str
    row: FieldRow
    section: Section
    where: str
    heading: QLabel


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
        self.none = QLabel("No field is like that.")
        self.none.setStyleSheet(f"color: {theme.DIM}; padding: 12px 18px;")
        self.column.addWidget(self.none)
        self.column.addStretch(1)
        self._shape: tuple[object, ...] = ()
        self._order: list[Entry] = []

    def _build(self) -> None:
        """Make a row for each field, for those of each burst and path key too."""
        for entry in self.entries:
            for widget in (entry.row, entry.heading):
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
                        self._add(at, section, name, rule, where)
                    continue
                count = 0 if layer is None else len(layer.emit.bursts if section.at == "emit.bursts" else layer.path)
                noun = "Burst" if section.at == "emit.bursts" else "Path key"
                for i in range(count):
                    for name, rule in section.model.rules().items():
                        self._add(f"{section.at}[{i}].{name}", section, name, rule, f"{noun} {i + 1}")

    def _add(self, at: str, section: Section, name: str, rule: object, where: str) -> None:
        session = self.session
        path: Callable[[], str] = (lambda: session.layer_path(at)) if section.in_layer else (lambda: at)
        default = section.model.default_of(name)
        row = FieldRow(session, self.wishes, rule, path, default, section.in_layer)  # type: ignore[arg-type]
        heading = QLabel(where)
        heading.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; padding: 8px 0 2px 18px;")
        row.hide()
        heading.hide()
        self.entries.append(Entry(at, row, section, where, heading))

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
                for widget in (entry.heading, entry.row):
                    self.column.removeWidget(widget)
                    widget.hide()
            where = ""
            for at, entry in enumerate(wanted):
                if entry.where != where:
                    self.column.insertWidget(self.column.count() - 2, entry.heading)
                    entry.heading.show()
                where = entry.where
                self.column.insertWidget(self.column.count() - 2, entry.row)
                entry.row.show()
                assert at < MOST_SHOWN
        for entry in wanted:
            entry.row.refresh()
        self.shown = wanted
        self.none.setVisible(not wanted)

    def _wanted(self) -> list[Entry]:
        scored = []
        for number, entry in enumerate(self.entries):
            if entry.section.in_layer:
                if self.session.layer is None:
                    continue
                is_list = entry.section.is_list
                if not is_list and not counts(self.session, entry.at, entry.row):
                    continue
            elif self.only_changed:
                continue
            rule = entry.row.rule
            good = score(self.typed, rule.label, rule.also, f"{entry.where} {rule.group}", rule.help)
            if good and not (self.only_changed and not entry.row.in_use):
                scored.append((-good, number, entry))
        # Several words for one place stand together under its name only where they are as good.
        return [entry for _, _, entry in sorted(scored, key=lambda one: one[:2])[:MOST_SHOWN]]

    def focus_first(self) -> None:
        """Give the focus to the best of what was found."""
        if self.shown:
            self.shown[0].row.focus()

"""The bench's recipe: the step's fields, and those of the sheet, under a sentence that says what is made."""

from __future__ import annotations

import functools
import html
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QStackedWidget, QVBoxLayout, QWidget
from superqt.utils import QSignalThrottler

from ...effect.editing.build_moves import named
from ...effect.rules.descriptions import description_of
from ...effect.rules.fields import Rule
from ...effect.rules.part import Part
from ...effect.steps import Step
from ...effect.steps.drawn import Strokes
from ...effect.steps.flow import Flow
from ...effect.steps.pictures import Picture
from ...effect.textures import Build, Texture
from ..recipe.field_row import FieldRow
from ..recipe.texture_box import FIELDS, FILE_FIELDS, NameRow
from ..recipe.wishes import Wishes
from ..recipe.with_rows import WithRows
from ..widgets import theme
from ..widgets.controls import Button
from ..widgets.few_lines import FewLines
from ..widgets.find_line import FindLine
from ..widgets.matching import score
from ..widgets.name_label import NameLabel
from ..widgets.rail import Rail
from .bench import Bench
from .said import build_words
from .step_parts import Obstacles, Sources, StrokeLine

WHILE_MADE_MS = 300
CHAPTERS = ("Step", "Sheet")
# The fields of the build and of the texture that are about the sheet.
SHEET = ("build.size", "frames", "build.order", "build.trim", "build.padding", "build.seed", "beside")
LAST = ("strength", "blend", "on")


def fields_of(step: Step) -> list[tuple[str, Rule]]:
    """Return a step's fields, its own before those that all steps have."""
    rules = type(step).rules()
    return [(name, rule) for name, rule in rules.items() if name not in LAST] + [
        (name, rules[name]) for name in LAST if name in rules
    ]


class StepPanel(WithRows):
    """A rail of two chapters beside the fields of the chosen one."""

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self.bench, self.session = bench, bench.session
        self.wishes = Wishes()
        self.setMinimumWidth(338)
        self.setAccessibleName("Recipe of the texture")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self.title = NameLabel()
        self.title.setStyleSheet(
            f"font-size: 15px; font-weight: 600; color: {theme.BRIGHT}; padding: 9px 12px 1px 12px;"
        )
        self.summary = FewLines()
        self.summary.linkActivated.connect(lambda index: self._go_to_step(int(index)))
        self.search = FindLine(
            "Find a field of the texture",
            "Finds fields of all steps by name, help and other words (Ctrl+F); Enter goes to the first",
        )
        self.search.textChanged.connect(self.refresh)
        self.search.entered.connect(self._enter)
        line = QHBoxLayout()
        line.setContentsMargins(12, 0, 10, 8)
        line.addWidget(self.search)
        for part in (self.title, self.summary):
            whole.addWidget(part)
        whole.addLayout(line)
        body = QHBoxLayout()
        body.setSpacing(0)
        whole.addLayout(body, 1)
        self.rail = Rail(CHAPTERS)
        self.rail.chosen.connect(self.show_chapter)
        self.pages = QStackedWidget()
        body.addWidget(self.rail)
        body.addWidget(self.pages, 1)
        self.step_page, self.sheet_page, self.found_page = Rows(), Rows(), Rows()
        for page in (self.step_page, self.sheet_page, self.found_page):
            self.pages.addWidget(page)
        self._make_step_page()
        self._step_kind: tuple[Any, ...] = ()
        self._found: tuple[Any, ...] = ()
        self._make_sheet()
        self.chapter = 0
        bench.changed.connect(self._changed)
        # How the making goes is shown a few times a second; edits at once.
        self._soon = QSignalThrottler(parent=self)
        self._soon.setTimeout(WHILE_MADE_MS)
        self._soon.triggered.connect(self._changed)
        self.session.textures_changed.connect(self._soon.throttle)

    def _make_step_page(self) -> None:
        """Put below a step's fields what only some steps have."""
        self.sources = Sources(self.bench, self.wishes)
        self.obstacles = Obstacles(self.bench, self.wishes)
        self.strokes = StrokeLine(self.bench)
        self.layout_button = Button("Find the layout")
        self.layout_button.setToolTip(
            "Look for columns, rows and gaps of the sheet in the picture, and give each of its frames "
            "one of the build's"
        )
        self.layout_button.clicked.connect(self.bench.find_layout)
        for more in (self.layout_button, self.strokes, self.sources, self.obstacles):
            self.step_page.column.addWidget(more)
        self.step_page.column.addStretch(1)

    def _changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _make_sheet(self) -> None:
        """Make the rows of the texture's entry and of its build."""
        page = self.sheet_page
        for name in ("name",):
            page.add(
                name,
                NameRow(
                    self.session,
                    self.wishes,
                    Texture.rules()[name],
                    functools.partial(self.bench.path, name),
                    "",
                ),
            )
        for name in (*SHEET, *(name for name in FIELDS if name not in ("name", *SHEET))):
            model: type[Part] = Build if name.startswith("build.") else Texture
            page.add(name, self._row(name, model, name.removeprefix("build.")))
        self.size_note = QLabel()
        self.size_note.setWordWrap(True)
        self.size_note.setStyleSheet(f"color: {theme.DIM}; padding: 6px 4px 4px 18px;")
        page.column.addWidget(self.size_note)
        page.column.addStretch(1)

    def _row(self, rest: str, model: type[Part], name: str) -> FieldRow:
        return FieldRow(
            self.session,
            self.wishes,
            model.rules()[name],
            functools.partial(self.bench.path, rest),
            model.default_of(name),
        )

    # Going somewhere

    def show_chapter(self, index: int) -> None:
        """Show the step's fields, or the sheet's."""
        self.chapter = index
        self.search.clear()
        self.rail.check(index)
        self.refresh()

    def _go_to_step(self, index: int) -> None:
        self.bench.select(index)
        self.show_chapter(0)

    def go_to(self, path: str) -> None:
        """Show the field of a path of the effect, if it is this texture's."""
        start = self.bench.path("build.steps[")
        if path.startswith(start):
            index, _, name = path[len(start) :].partition("]")
            self.bench.select(int(index))
            self.show_chapter(0)
            row = self.step_page.rows.get(name.lstrip("."))
        else:
            self.show_chapter(1)
            row = self.sheet_page.rows.get(path.removeprefix(self.bench.path() + "."))
        if row is not None:
            row.focus()

    def _enter(self) -> None:
        first = next(iter(self.found_page.rows.values()), None)
        if first is not None and self.search.text():
            first.focus()

    # Showing

    def refresh(self) -> None:
        """Show what the texture has now."""
        texture = self.bench.texture
        if texture is None:
            return
        self.title.show_name(texture.name)
        style = f"color: {theme.TEXT}; text-decoration: none;"
        self.summary.setText(
            "".join(
                html.escape(words)
                if index < 0
                else f'<a href="{index}" style="{style}">{html.escape(words)}</a>'
                for index, words in build_words(texture)
            )
        )
        typed = self.search.text().strip()
        if typed:
            self._show_found(typed)
        elif self.chapter == 0:
            self._show_step()
        else:
            self._show_sheet(texture)

    def _show_step(self) -> None:
        """Show the fields of a step, and the tools that belong to its kind."""
        step, page = self.bench.step, self.step_page
        kind = (type(step),) if step is not None else ()
        if kind != self._step_kind:
            self._step_kind = kind
            page.clear()
            if step is not None:
                page.head(f"{named(step)}", description_of(type(step)))
                for name, rule in fields_of(step):
                    where = functools.partial(self.bench.step_path, name)
                    page.add(
                        name, FieldRow(self.session, self.wishes, rule, where, type(step).default_of(name))
                    )
        if step is None:
            page.head("No step", "Choose a step in the list below, or add one with Ctrl+L.")
        for row in page.rows.values():
            row.refresh()
        self.layout_button.setVisible(isinstance(step, Picture) and bool(step.files))
        self.strokes.setVisible(isinstance(step, Strokes))
        self.strokes.refresh()
        for parts in (self.sources, self.obstacles):
            parts.setVisible(isinstance(step, Flow))
            if isinstance(step, Flow):
                parts.refresh()
        self.pages.setCurrentWidget(page)

    def _show_sheet(self, texture: Texture) -> None:
        """Show the fields of the texture itself."""
        page = self.sheet_page
        page.head("Sheet", "How large it is, how many frames, and how particles read it.")
        built = not texture.file
        for name, row in page.rows.items():
            shown = (
                (built and texture.build is not None)
                if name.startswith("build.") or name == "beside"
                else not built or name not in (*FILE_FIELDS, "file")
            )
            if name == "motion_reach":
                shown = bool(texture.motion)
            row.setVisible(shown)
            if shown:
                row.refresh()
        self.size_note.setText(self._cost(texture))
        self.pages.setCurrentWidget(page)

    def _show_found(self, typed: str) -> None:
        """Show the fields of all steps and of the sheet that have some words."""
        page = self.found_page
        hits: list[tuple[str, str, Rule, Callable[[], str], Any]] = []
        for i, step in enumerate(self.bench.steps):
            for name, rule in fields_of(step):
                if score(typed, rule.label, rule.also, named(step), rule.help):
                    hits.append(
                        (
                            f"{i + 1} {named(step)}",
                            f"{i}.{name}",
                            rule,
                            functools.partial(self.bench.step_path, name, i),
                            type(step).default_of(name),
                        )
                    )
        for name, row in self.sheet_page.rows.items():
            if row.isVisibleTo(self.sheet_page) and score(
                typed, row.rule.label, row.rule.also, "sheet", row.rule.help
            ):
                hits.append(("Sheet", name, row.rule, row.path, row.default))
        shape = tuple((head, key, rule.label) for head, key, rule, _, _ in hits)
        if shape != self._found:
            self._found = shape
            page.clear()
            page.head(
                "Found" if hits else "Nothing found",
                "" if hits else "No field of this texture has these words.",
            )
            last = ""
            for head, key, rule, where, default in hits:
                if head != last:
                    page.under(head)
                    last = head
                page.add(key, FieldRow(self.session, self.wishes, rule, where, default))
            page.column.addStretch(1)
        for row in page.rows.values():
            row.refresh()
        self.pages.setCurrentWidget(page)

    def _cost(self, texture: Texture) -> str:
        """Return what the sheet takes, and what a smaller one would."""
        build, now = self.bench.build, self.bench.memory / 2**20
        if build is None or now == 0.0:
            return ""
        frames = (
            f"{texture.count} frame{'' if texture.count == 1 else 's'} of {build.size} × {build.size} pixels"
        )
        return (
            f"{frames} take {now:.2g} MB, normals and smaller copies with it; at half the size "
            f"{now / 4:.2g} MB (Ctrl+Alt+H)."
        )


class Rows(QScrollArea):
    """Rows of fields under a head."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows: dict[str, FieldRow] = {}
        holder = QWidget()
        self.setWidget(holder)
        self.column = QVBoxLayout(holder)
        self.column.setContentsMargins(2, 6, 8, 10)
        self.column.setSpacing(1)
        self._head, self._help = QLabel(), QLabel()
        self._head.setStyleSheet(f"color: {theme.BRIGHT}; font-weight: 600; padding: 2px 0 0 18px;")
        self._help.setStyleSheet(f"color: {theme.DIM}; padding: 0 4px 6px 18px;")
        self._help.setWordWrap(True)
        self.column.addWidget(self._head)
        self.column.addWidget(self._help)
        self.body = QVBoxLayout()
        self.body.setSpacing(1)
        self.column.addLayout(self.body)

    def head(self, title: str, help: str) -> None:
        self._head.setText(title)
        self._help.setText(help)
        self._help.setVisible(bool(help))

    def under(self, title: str) -> None:
        """Add a small heading."""
        label = QLabel(title)
        label.setStyleSheet(f"color: {theme.DIM}; padding: 7px 0 0 18px;")
        self.body.addWidget(label)

    def add(self, key: str, row: FieldRow) -> None:
        self.rows[key] = row
        self.body.addWidget(row)

    def clear(self) -> None:
        self.rows = {}
        while (item := self.body.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()

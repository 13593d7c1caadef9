"""The fields of one chapter: what is in use as rows, what isn't as a quiet line of words for each group."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from ...effect.chapters.place import PathKey
from ...effect.chapters.source import Burst
from ...effect.chapters.stage import Prop
from ...effect.editing.chains import parent_of
from ...effect.rules.edit import get
from ...effect.rules.fields import Rule
from ...effect.rules.part import Part
from ...effect.rules.paths import FieldPath
from ...effect.textures import Texture
from ..session.session import Session
from ..widgets import theme
from .chapter_table import FOLLOWERS, Section
from .field_row import FieldRow
from .followers import Followers
from .part_list import Bursts, PartList
from .path_keys import PathKeys
from .props import Props
from .quiet_line import QuietLine
from .texture_box import TextureBox
from .wishes import Wishes


def beside(at: str, name: str) -> str:
    """Return the path of the field of a name that stands beside another."""
    return f"{at.rpartition('.')[0]}.{name}".lstrip(".")


def counts(session: Session, at: str, rule: Rule, in_layer: bool = True) -> bool:
    """Return whether a field counts, given the field beside it that rules it; ``at`` is its path, in the
    layer or whole.
    """
    if rule.draws and (session.layer is None or session.layer.look.draw not in rule.draws):
        return False
    if rule.only is None:
        return True
    where = FieldPath(at).owner
    path = session.layer_path(where) if in_layer else where
    return rule.counts_in(get(session.effect, path) if path else session.effect)


LISTS: dict[type[Part], type[PartList] | type[TextureBox]] = {
    Burst: Bursts,
    PathKey: PathKeys,
    Prop: Props,
    Texture: TextureBox,
}


# Fields that don't count in a layer that follows another.
RESTING = (
    "emit.rate",
    "emit.per_metre",
    "emit.bursts",
    "place.position",
    "birthplace.start_on",
    "birthplace.end_on",
)


class Group:
    """The fields of a section that are put away together: heading, rows, and the words of those at rest."""

    def __init__(self, name: str, column: QVBoxLayout, opened: Callable[[str], None]) -> None:
        self.name = name
        self.rows: dict[str, FieldRow] = {}
        self.heading = QLabel(name.capitalize())
        self.heading.setStyleSheet(f"color: {theme.DIM}; padding: 7px 0 0 18px;")
        self.line = QuietLine(name)
        self.line.opened.connect(opened)
        self.body = QVBoxLayout()
        self.body.setSpacing(1)
        self.body.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.heading)
        column.addLayout(self.body)
        column.addWidget(self.line)

    def add(self, at: str, row: FieldRow) -> None:
        self.rows[at] = row
        self.body.addWidget(row)


class Page(QScrollArea):
    """The fields of one chapter."""

    def __init__(
        self, session: Session, wishes: Wishes, sections: tuple[Section, ...], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.session = session
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows: dict[str, FieldRow] = {}
        self.sections = sections
        self.in_layer = sections[0].in_layer
        self.lists: dict[str, PartList | TextureBox | Followers] = {}
        self._headings: dict[str, QLabel] = {}
        self.groups: list[Group] = []
        self._by_name: dict[tuple[str, str], Group] = {}
        # Fields that the artist opened stay in view until another layer is selected.
        self._open: set[str] = set()
        self._open_for = ""
        self._note: QLabel | None = None
        holder = QWidget()
        self.setWidget(holder)
        self._column = column = QVBoxLayout(holder)
        column.setContentsMargins(2, 6, 8, 10)
        column.setSpacing(1)
        for section in sections:
            if section.title:
                heading = QLabel(section.title)
                heading.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; padding: 10px 0 2px 18px;")
                column.addWidget(heading)
                self._headings[section.at] = heading
            if section.is_list:
                self.lists[section.at] = (
                    Followers(session) if section.at == FOLLOWERS else LISTS[section.model](session, wishes)
                )
                column.addWidget(self.lists[section.at])
            else:
                self._add_fields(section, wishes, column)
        column.addStretch(1)

    def _add_fields(self, section: Section, wishes: Wishes, column: QVBoxLayout) -> None:
        """Add a section's fields to their groups."""
        session = self.session
        for name, at, rule in section.fields():
            where = (lambda at=at: session.layer_path(at)) if section.in_layer else (lambda at=at: at)
            row = FieldRow(session, wishes, rule, where, section.model.default_of(name), section.in_layer)
            self.rows[at] = row
            if not rule.group:
                column.addWidget(row)
        for _, at, rule in section.fields():
            if rule.group:
                # Sections without a heading between them share their groups.
                key = (section.title, rule.group)
                if key not in self._by_name:
                    self._by_name[key] = Group(rule.group, column, self.open_field)
                    self.groups.append(self._by_name[key])
                self._by_name[key].add(at, self.rows[at])

    def open_field(self, at: str) -> None:
        """Show the row of a field that was put away, and give it the focus."""
        self._open.add(at)
        needs = self.rows[at].rule.needs
        if needs:
            self._open.add(beside(at, needs))
        self.refresh()
        self.rows[at].focus()

    def bring_into_view(self, widget: QWidget) -> None:
        """Scroll to a row, once it has its place."""
        holder = self.widget()
        layout = holder.layout() if holder is not None else None
        if holder is not None and layout is not None:
            layout.activate()
            holder.adjustSize()
        self.ensureWidgetVisible(widget)

    def refresh(self) -> None:
        """Show what the effect has now."""
        here = not self.in_layer or self.session.layer is not None
        widget = self.widget()
        assert widget is not None
        widget.setVisible(here)
        if not here:
            return
        if self._open_for != self.session.selected:
            self._open, self._open_for = set(), self.session.selected
        grouped = {at for group in self.groups for at in group.rows}
        for at, row in self.rows.items():
            if at not in grouped:
                needs = row.rule.needs and self.rows.get(beside(at, row.rule.needs))
                able = not needs or needs.in_use or row.in_use
                rests = at in RESTING and self._follows
                self._show(
                    row, bool(able and not rests and counts(self.session, at, row.rule, self.in_layer))
                )
        for group in self.groups:
            self._refresh_group(group)
        for at, parts in self.lists.items():
            # A path of its own moves no follow-up to another place.
            unused = at == "path" and self.session.layer is not None and not self.session.layer.path
            shown = not ((at in RESTING or unused) and self._follows)
            parts.setVisible(shown)
            if at in self._headings:
                self._headings[at].setVisible(shown)
            parts.refresh()
        self._say_follows()

    @property
    def _follows(self) -> bool:
        """Return whether the layer's births are those of another layer's events."""
        return self.in_layer and self.session.layer is not None and bool(self.session.layer.origin.parent)

    def _say_follows(self) -> None:
        """Say where births come from where the layer's own rate rests."""
        shown = self._follows and "emit.rate" in self.rows
        if self._note is None and not shown:
            return
        if self._note is None:
            self._note = QLabel()
            self._note.setWordWrap(True)
            self._note.setStyleSheet(f"color: {theme.DIM}; padding: 2px 8px 6px 18px;")
            self._column.insertWidget(0, self._note)
        self._note.setVisible(shown)
        if shown and self.session.layer is not None:
            parent = parent_of(self.session.effect, self.session.layer)
            name = f"“{parent.name}”" if parent is not None else "a layer that is gone"
            self._note.setText(
                f"These follow {name}: how many are born, and when, stands in Follow-ups. The layer's "
                "own rate and bursts rest."
            )

    def _refresh_group(self, group: Group) -> None:
        """Show what is in use of a group as rows, and the rest as a line of words."""
        words, some = [], False
        for at, row in group.rows.items():
            counted = counts(self.session, at, row.rule, self.in_layer) and not (
                at in RESTING and self._follows
            )
            needs = row.rule.needs and self.rows[beside(at, row.rule.needs)]
            able = not needs or needs.in_use or row.in_use
            shown = counted and (row.in_use or at in self._open or bool(needs and needs.in_use))
            self._show(row, shown)
            some |= shown
            if counted and able and not shown:
                words.append((at, row.rule.label, row.rule.help))
        group.heading.setVisible(some)
        group.line.show_words(words, some)

    def _show(self, row: FieldRow, shown: bool) -> None:
        row.setVisible(shown)
        if shown:
            row.refresh()

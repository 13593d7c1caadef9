"""A list of parts of a layer, such as its bursts: a head for each, and the fields of the one that is open."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ...effect.chapters.source import Burst
from ...effect.rules.edit import get
from ...effect.rules.part import Part
from ..session.session import Session
from ..widgets import theme
from ..widgets.arithmetic import shown
from ..widgets.controls import Button, ToolButton
from ..widgets.icons import icon
from .field_row import FieldRow
from .pieces import amount
from .wishes import Wishes


class PartList(QWidget):
    """The parts of one list in the selected layer.

    Subclasses say what is in it: ``at`` its path, ``model``, ``noun``, and how a further one begins.
    """

    at = ""
    in_layer = True
    model: type[Part] = Part
    noun = ""

    opened = pyqtSignal(int)

    def __init__(self, session: Session, wishes: Wishes) -> None:
        super().__init__()
        self.session, self.wishes = session, wishes
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(1)
        self.open = 0
        self.rows: list[FieldRow] = []
        self.heads: list[Button] = []
        self._shape: tuple[Any, ...] = ()
        self.add = Button(f"Add a {self.noun}")
        self.add.clicked.connect(self.add_part)
        line = QHBoxLayout()
        line.setContentsMargins(18, 2, 0, 2)
        line.addWidget(self.add)
        for button in self.more():
            line.addWidget(button)
        line.addStretch(1)
        self.column.addLayout(line)
        # How many things stand behind the parts: the line that adds, and whatever a subclass puts there.
        self.behind = 1

    def more(self) -> list[Button]:
        """Return further buttons beside the one that adds."""
        return []

    def next_part(self, parts: tuple[Any, ...]) -> Part:
        """Return what is added behind the parts."""
        raise NotImplementedError

    def said(self, part: Any) -> str:
        """Return a part in a few words, for its head."""
        raise NotImplementedError

    @property
    def parts(self) -> tuple[Any, ...]:
        if not self.in_layer:
            return tuple(get(self.session.effect, self.at))
        return self.parts_of(self.session.selected) if self.session.layer else ()

    def parts_of(self, layer_id: str) -> tuple[Any, ...]:
        """Return the parts that a layer has."""
        return tuple(get(self.session.effect, self.session.layer_path(self.at, layer_id)))

    def give_each(self, new: Callable[[tuple[Any, ...]], tuple[Any, ...]], said: str) -> None:
        """Give each selected layer what ``new`` makes of its parts, as one step."""
        if not self.in_layer:
            self.session.edit(self.at, new(self.parts), said)
            return
        path = self.session.layer_path
        edits = [
            (path(self.at, layer_id), new(self.parts_of(layer_id))) for layer_id in self.session.chosen_first
        ]
        self.session.edit_many(edits, said)

    def add_part(self) -> None:
        """Add one more part to each selected layer, and open it."""
        if self.session.layer is not None or not self.in_layer:
            before = self.parts
            self.give_each(lambda parts: (*parts, self.next_part(parts)), f"Add a {self.noun}")
            fresh = [i for i, part in enumerate(self.parts) if part not in before]
            self.open_part(fresh[0] if fresh else len(self.parts) - 1)

    def open_part(self, index: int) -> None:
        self.open = index
        self.refresh()
        self.opened.emit(index)

    def refresh(self) -> None:
        """Show what the layer has now."""
        layer, parts = self.session.layer, self.parts
        if layer is None and self.in_layer:
            return
        self.open = min(self.open, max(len(parts) - 1, 0))
        shape = (layer.id if layer is not None and self.in_layer else "", len(parts), self.open)
        if shape != self._shape:
            self._shape = shape
            self._build(len(parts))
        for head, part in zip(self.heads, parts):
            head.setText(self.said(part))
        for row in self.rows:
            needs = row.rule.needs and next(
                (one for one in self.rows if one.path().endswith("." + row.rule.needs)), None
            )
            only = row.rule.only
            counts = only is None or self._beside(row, only[0]) in only[1]
            row.setVisible(bool(counts and (not needs or needs.in_use or row.in_use)))
            row.refresh()

    def _beside(self, row: FieldRow, name: str) -> Any:
        return next((one.value for one in self.rows if one.path().endswith("." + name)), None)

    def _build(self, count: int) -> None:
        """Make the rows of the list anew: a head for each part, and the fields of the open one."""
        self.rows, self.heads = [], []
        while self.column.count() > self.behind:
            item = self.column.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        at = 0
        for i in range(count):
            self.column.insertWidget(at, self._head(i))
            at += 1
            if i != self.open:
                continue
            for name, rule in self.model.rules().items():
                where = functools.partial(self._path, i, name)
                row = FieldRow(
                    self.session, self.wishes, rule, where, self.model.default_of(name), self.in_layer
                )
                self.rows.append(row)
                self.column.insertWidget(at, row)
                at += 1

    def _path(self, index: int, name: str) -> str:
        path = f"{self.at}[{index}].{name}"
        return self.session.layer_path(path) if self.in_layer else path

    def _head(self, index: int) -> QWidget:
        """Return the head of a part: its name, and a button that deletes it."""
        head = QWidget()
        line = QHBoxLayout(head)
        line.setContentsMargins(14, 1, 0, 1)
        line.setSpacing(2)
        name = Button()
        here = index == self.open
        name.setStyleSheet(
            f"QPushButton {{ text-align: left; border: none; padding: 3px 4px; background: transparent;"
            f" color: {theme.BRIGHT if here else theme.DIM}; }}"
            f"QPushButton:hover {{ color: {theme.BRIGHT}; }} QPushButton:focus {{ color: {theme.EMBER}; }}"
        )
        name.setToolTip(f"Show the fields of this {self.noun}")
        name.clicked.connect(lambda: self.open_part(index))
        self.heads.append(name)
        gone = ToolButton()
        gone.setIcon(icon("bin"))
        gone.setToolTip(f"Delete this {self.noun}")
        gone.setAccessibleName(f"Delete {self.noun} {index + 1}")
        gone.clicked.connect(lambda: self.delete(index))
        line.addWidget(name, 1)
        line.addWidget(gone)
        return head

    def delete(self, index: int) -> None:
        """Delete the part of a number in each selected layer that has it."""
        self.give_each(lambda parts: (*parts[:index], *parts[index + 1 :]), f"Delete a {self.noun}")


class Bursts(PartList):
    """The bursts of a layer."""

    at, model, noun = "emit.bursts", Burst, "burst"

    def __init__(self, session: Session, wishes: Wishes) -> None:
        super().__init__(session, wishes)
        self.add.setIcon(icon("burst"))
        self.add.setToolTip("Particles that are all born at one moment (Ctrl+B)")

    def next_part(self, parts: tuple[Any, ...]) -> Burst:
        return Burst(at=round(parts[-1].at + 0.5, 3) if parts else 0.0)

    def said(self, part: Burst) -> str:
        often = f", {part.repeat} times" if part.repeat > 1 else ""
        return f"{amount(part.count, digits=0)} at {shown(part.at, 2)} s{often}"

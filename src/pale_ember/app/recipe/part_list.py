"""A list of parts of a layer, such as its bursts: a head for each, and the fields of the one that is open."""

from __future__ import annotations

import functools
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QToolButton, QVBoxLayout, QWidget

from ...effect.edit import get
from ...effect.part import Part
from ...effect.path import MOTIONS, evaluate_path, ready_motion
from ...effect.source import Burst, PathKey
from ..session.session import Session
from ..widgets import theme
from ..widgets.arithmetic import shown
from ..widgets.icons import icon
from .field_row import FieldRow
from .sentence import amount


class PartList(QWidget):
    """The parts of one list in the selected layer.

    Subclasses say what is in it: ``at`` its path, ``model``, ``noun``, and how a further one begins.
    """

    at = ""
    model: type[Part] = Part
    noun = ""

    opened = pyqtSignal(int)
    lane_wanted = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(1)
        self.open = 0
        self.rows: list[FieldRow] = []
        self.heads: list[QPushButton] = []
        self._shape: tuple[Any, ...] = ()
        self.add = QPushButton(f"Add a {self.noun}")
        self.add.clicked.connect(self.add_part)
        line = QHBoxLayout()
        line.setContentsMargins(18, 2, 0, 2)
        line.addWidget(self.add)
        for button in self.more():
            line.addWidget(button)
        line.addStretch(1)
        self.column.addLayout(line)

    def more(self) -> list[QPushButton]:
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
        return tuple(get(self.session.effect, self.session.layer_path(self.at))) if self.session.layer else ()

    def give(self, parts: tuple[Any, ...], said: str) -> None:
        self.session.edit(self.session.layer_path(self.at), parts, said)

    def add_part(self) -> None:
        """Add one more part and open it."""
        if self.session.layer is not None:
            fresh = self.next_part(self.parts)
            self.give((*self.parts, fresh), f"Add a {self.noun}")
            self.open_part(next((i for i, part in enumerate(self.parts) if part == fresh), 0))

    def open_part(self, index: int) -> None:
        self.open = index
        self.refresh()
        self.opened.emit(index)

    def refresh(self) -> None:
        """Show what the layer has now."""
        layer, parts = self.session.layer, self.parts
        if layer is None:
            return
        self.open = min(self.open, max(len(parts) - 1, 0))
        shape = (layer.id, len(parts), self.open)
        if shape != self._shape:
            self._shape = shape
            self._build(len(parts))
        for head, part in zip(self.heads, parts):
            head.setText(self.said(part))
        for row in self.rows:
            row.refresh()

    def _build(self, count: int) -> None:
        self.rows, self.heads = [], []
        while self.column.count() > 1:
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
                row = FieldRow(self.session, rule, where, self.model.default_of(name), in_layer=True)
                row.lane_wanted.connect(self.lane_wanted)
                self.rows.append(row)
                self.column.insertWidget(at, row)
                at += 1

    def _path(self, index: int, name: str) -> str:
        return self.session.layer_path(f"{self.at}[{index}].{name}")

    def _head(self, index: int) -> QWidget:
        head = QWidget()
        line = QHBoxLayout(head)
        line.setContentsMargins(14, 1, 0, 1)
        line.setSpacing(2)
        name = QPushButton()
        here = index == self.open
        name.setStyleSheet(
            f"QPushButton {{ text-align: left; border: none; padding: 3px 4px; background: transparent;"
            f" color: {theme.BRIGHT if here else theme.DIM}; }}"
            f"QPushButton:hover {{ color: {theme.BRIGHT}; }} QPushButton:focus {{ color: {theme.EMBER}; }}"
        )
        name.setToolTip(f"Show the fields of this {self.noun}")
        name.clicked.connect(lambda: self.open_part(index))
        self.heads.append(name)
        gone = QToolButton()
        gone.setIcon(icon("bin"))
        gone.setToolTip(f"Delete this {self.noun}")
        gone.setAccessibleName(f"Delete {self.noun} {index + 1}")
        gone.clicked.connect(lambda: self.delete(index))
        line.addWidget(name, 1)
        line.addWidget(gone)
        return head

    def delete(self, index: int) -> None:
        parts = self.parts
        self.give((*parts[:index], *parts[index + 1 :]), f"Delete a {self.noun}")


class Bursts(PartList):
    """The bursts of a layer."""

    at, model, noun = "emit.bursts", Burst, "burst"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.add.setIcon(icon("burst"))
        self.add.setToolTip("Particles that are all born at one moment (Ctrl+B)")

    def next_part(self, parts: tuple[Any, ...]) -> Burst:
        return Burst(at=round(parts[-1].at + 0.5, 3) if parts else 0.0)

    def said(self, part: Burst) -> str:
        often = f", {part.repeat} times" if part.repeat > 1 else ""
        return f"{amount(part.count, digits=0)} at {shown(part.at, 2)} s{often}"


class PathKeys(PartList):
    """The keys of a layer's path."""

    at, model, noun = "path", PathKey, "key"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.add.setToolTip("A pose that the layer passes; it can be dragged in the stage (Ctrl+Shift+M)")
        self.opened.connect(session.choose_path_key)
        session.shown_changed.connect(self._follow)

    def _follow(self) -> None:
        if self.session.path_key != self.open and self.isVisible():
            self.open = self.session.path_key
            self.refresh()

    def more(self) -> list[QPushButton]:
        self.ready = QPushButton("Ready motion")
        self.ready.setToolTip("Take a ready motion for the path, to judge the layer as it moves")
        menu = QMenu(self.ready)
        for name in MOTIONS:
            action = menu.addAction(name.capitalize())
            assert action is not None
            action.triggered.connect(functools.partial(self.take_motion, name))
        menu.addSeparator()
        none = menu.addAction("No path")
        assert none is not None
        none.triggered.connect(lambda: self.give((), "Delete the path"))
        self.ready.setMenu(menu)
        return [self.ready]

    def take_motion(self, name: str, *_: object) -> None:
        """Give the layer a ready motion, about as wide as the stage shows."""
        reach = float(f"{self.session.camera.distance / 4:.1g}")
        self.give(ready_motion(name, reach), f"Path: {name}")

    def next_part(self, parts: tuple[Any, ...]) -> PathKey:
        """A key where the path is now; at first one at each end would be the same, so the second goes aside."""
        if not parts:
            return PathKey()
        clock = self.session.clock_of_layer()
        if any(abs(part.at - clock) < 0.005 for part in parts):
            last = parts[-1]
            x, y, z = last.position
            return PathKey(at=1.0 if last.at < 1.0 else 0.5, position=(round(x + 1.0, 3), y, z))
        pose = [round(float(x), 3) for x in evaluate_path(parts, clock)[0]]
        return PathKey(at=round(clock, 3), position=tuple(pose[:3]), rotation=tuple(pose[3:6]), scale=pose[6])

    def said(self, part: PathKey) -> str:
        place = ", ".join(shown(x, 2) for x in part.position)
        return f"At {shown(part.at * 100, 0)} %: {place} m".replace("-", "−")

    def keyPressEvent(self, event: Any) -> None:
        if event.key() == Qt.Key.Key_Delete and self.parts:
            self.delete(self.open)
            return
        super().keyPressEvent(event)

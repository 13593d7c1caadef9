"""What follows a layer: a line for each follow-up, and a button for each event that may start another."""

from __future__ import annotations

import functools

from PyQt6.QtWidgets import QGridLayout, QSizePolicy, QVBoxLayout, QWidget

from ...effect.editing.chains import follow_ups
from ...effect.effect import Layer
from ...effect.kinds import When
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Button
from ..widgets.icons import icon

WORDS = {
    When.BIRTH: "At its birth",
    When.ALIVE: "Along its flight",
    When.HIT: "On its hits",
    When.DEATH: "At its death",
}


class Followers(QWidget):
    """The follow-ups of the selected layer."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(18, 2, 2, 2)
        self._column.setSpacing(2)
        self.heads: list[Button] = []
        self._ids: list[str] = []
        grid = QGridLayout()
        grid.setSpacing(4)
        self.buttons: dict[When, Button] = {}
        for i, (when, words) in enumerate(WORDS.items()):
            button = self.buttons[when] = Button(words)
            button.setIcon(icon(f"port-{when}"))
            button.setToolTip(
                f"Add a layer that starts {words[0].lower()}{words[1:]} of this layer's particles"
            )
            button.clicked.connect(functools.partial(session.links.add_follow_up, when))
            # Two beside each other in the narrowest recipe.
            button.setStyleSheet("QPushButton { padding: 3px 2px; }")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            grid.addWidget(button, i // 2, i % 2)
        self.ribbon = Button("A ribbon behind each")
        self.ribbon.setIcon(icon("ribbon"))
        self.ribbon.setToolTip("Add a ribbon that trails behind each of this layer's particles")
        self.ribbon.clicked.connect(functools.partial(session.links.add_ribbon, ""))
        self.ribbon.setStyleSheet("QPushButton { padding: 3px 2px; }")
        grid.addWidget(self.ribbon, 2, 0, 1, 2)
        self._column.addLayout(grid)

    def refresh(self) -> None:
        """Show the layers that follow the selected one now."""
        layer = self.session.layer
        found = follow_ups(self.session.effect, layer.id) if layer is not None else []
        while len(self.heads) > len(found):
            head = self.heads.pop()
            head.hide()
            head.deleteLater()
        while len(self.heads) < len(found):
            head = Button()
            head.setStyleSheet(f"QPushButton {{ text-align: left; padding: 3px 6px; color: {theme.TEXT}; }}")
            head.clicked.connect(functools.partial(self._select, len(self.heads)))
            self._column.insertWidget(len(self.heads), head)
            self.heads.append(head)
        self._ids = [child.id for child in found]
        for head, child in zip(self.heads, found, strict=True):
            self._show(head, child)

    def _show(self, head: Button, child: Layer) -> None:
        head.setText(f"{child.name}, {WORDS[child.origin.when][0].lower()}{WORDS[child.origin.when][1:]}")
        head.setIcon(icon(f"port-{child.origin.when}"))
        head.setToolTip("Select this follow-up")

    def _select(self, index: int, *_: object) -> None:
        if index < len(self._ids):
            self.session.select(self._ids[index])

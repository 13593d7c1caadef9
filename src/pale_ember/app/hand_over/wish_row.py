"""A row of the hand-over panel: one field of the profile, made from the field's rule."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ...effect.errors import EffectError
from ...effect.rules.fields import Rule
from ..recipe.default_words import label_tip
from ..recipe.field_parts import FieldParts
from ..recipe.wishes import Wishes
from ..widgets import theme
from ..widgets.controls import Check, LabelOf, ToolButton
from .hand_over_work import HandOverWork

LABEL_WIDTH = 92


class WishRow(QWidget):
    """Mark and label, what the field holds, its unit, and what is wrong with it."""

    def __init__(self, desk: HandOverWork, rule: Rule, path: str, default: Any) -> None:
        super().__init__()
        self.desk, self.session, self.rule, self._path, self.default = desk, desk.session, rule, path, default
        self.wishes = Wishes()
        self.setAccessibleName(rule.label)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 1, 0, 1)
        outer.setSpacing(2)
        row = QHBoxLayout()
        row.setSpacing(4)
        outer.addLayout(row)
        self.mark = ToolButton()
        self.mark.setFixedSize(14, 22)
        self.mark.clicked.connect(lambda: self.edit(self.default))
        self.mark.setStyleSheet(f"QToolButton {{ color: {theme.EMBER}; padding: 0; font-size: 16px; }}")
        self.mark.setAccessibleName(f"Reset {rule.label.lower()}")
        row.addWidget(self.mark, 0, Qt.AlignmentFlag.AlignTop)
        self.label = LabelOf(rule.label)
        self.label.setFixedSize(LABEL_WIDTH, 22)
        self.label.setToolTip(label_tip(default, rule))
        row.addWidget(self.label, 0, Qt.AlignmentFlag.AlignTop)
        self.parts = FieldParts(self)
        row.addLayout(self.parts, 1)
        self.problem = QLabel()
        self.problem.setWordWrap(True)
        self.problem.setStyleSheet(f"color: {theme.WARN};")
        self.problem.setContentsMargins(18, 0, 4, 3)
        self.problem.hide()
        outer.addWidget(self.problem)

    def path(self) -> str:
        return self._path

    def paths(self) -> list[str]:
        return [self._path]

    @property
    def value(self) -> Any:
        return self.desk.value(self._path)

    def edit(self, value: Any, merge: str = "", part: str = "", said: str = "") -> bool:
        """Give the field another value; what doesn't fit is said beside it."""
        try:
            self.desk.edit(self._path, value)
        except EffectError as wrong:
            self.say_refused(wrong.reason)
            self.refresh()
            return False
        return True

    def edit_each(self, new: Callable[[Any], Any], merge: str = "", part: str = "", said: str = "") -> bool:
        return self.edit(new(self.value))

    def turn_each(self, turn: Callable[[Any], Any], form: str, part: str) -> bool:
        return False  # nothing here has forms

    def pick_color(self, side: int, name: str) -> None:
        return  # nothing here has colours

    def say_refused(self, words: str) -> None:
        """Say beside the field why what was typed counts for nothing, or for less."""
        self.problem.setText(words[:1].upper() + words[1:])
        self.problem.setVisible(bool(words))

    def each(self, part: str = "") -> list[Any]:
        return [self.value]

    def say_foretold(self, words: str) -> None:
        return  # it is one field alone

    def refresh(self) -> None:
        """Show what the profile has now."""
        if self.parts.show([self.value]):
            checks = [part for part in self.parts.controls if isinstance(part, Check)]
            self.label.check = checks[0] if checks else None
        changed = self.value != self.default
        self.mark.setText("•" if changed else "")
        self.mark.setEnabled(changed)
        self.mark.setToolTip("Set back to its default" if changed else "")
        self.mark.setFocusPolicy(Qt.FocusPolicy.TabFocus if changed else Qt.FocusPolicy.NoFocus)
        self.label.setStyleSheet(f"color: {theme.BRIGHT if changed else theme.TEXT};")

"""A row of the recipe: one field of the model, made from the field's rule."""

from __future__ import annotations

import contextlib
import functools
import html
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from ...checks.moot import moot_field
from ...effect.errors import EffectError
from ...effect.rules.edit import get
from ...effect.rules.fields import FieldKind, Rule
from ...effect.rules.paths import FieldPath
from ...simulation.time.weight import needed_cap
from ..session.clipboard import copy_field, pasted_field
from ..session.color_picking import ColorPlace
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Check, LabelOf, ToolButton
from .default_words import label_tip
from .field_parts import FieldParts
from .wishes import Wishes

LABEL_WIDTH = 78
PathOf = Callable[[], str]


class FieldRow(QWidget):
    """One field: mark and label, what it holds, unit, the switch between forms, and what is wrong with it.

    Parameters
    ----------
    path : callable
        Gives the field's path now; the selected layer is part of it.
    in_layer : bool
        Whether an edit goes to all selected layers.
    default : Any
        The field's default, for the mark and its reset.
    """

    def __init__(
        self, session: Session, wishes: Wishes, rule: Rule, path: PathOf, default: Any, in_layer: bool = False
    ) -> None:
        super().__init__()
        self.session, self.wishes, self.rule, self.path, self.default = session, wishes, rule, path, default
        self.in_layer = in_layer
        self.setAccessibleName(rule.label)
        self.outer = QVBoxLayout(self)
        self.outer.setContentsMargins(0, 1, 0, 1)
        self.outer.setSpacing(2)
        self.problem: QLabel | None = None
        self._refused = self._foretold = ""
        # The field's values when something was refused.
        self._refused_of: list[Any] = []
        self._bright: bool | None = None
        self._mend: Callable[[], None] = self.reset
        row = QHBoxLayout()
        self.outer.addLayout(row)
        row.setSpacing(4)
        self.mark = ToolButton()
        self.mark.setFixedSize(14, 22)
        # Tab leads to what is edited; Ctrl+R resets the field that has the focus.
        self.mark.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.mark.clicked.connect(self.reset)
        self.mark.setStyleSheet(f"QToolButton {{ color: {theme.EMBER}; padding: 0; font-size: 16px; }}")
        self.mark.setAccessibleName(f"Reset {rule.label.lower()}")
        row.addWidget(self.mark, 0, Qt.AlignmentFlag.AlignTop)
        self.label = LabelOf(rule.label)
        self.label.setFixedSize(LABEL_WIDTH, 22)
        # Beside the first of several lines.
        row.addWidget(self.label, 0, Qt.AlignmentFlag.AlignTop)
        self.parts = FieldParts(self)
        row.addLayout(self.parts, 1)
        self.label.setToolTip(label_tip(default, rule))

    @property
    def controls(self) -> list[Any]:
        """Return the controls that take the focus."""
        return self.parts.controls

    @property
    def value(self) -> Any:
        return get(self.session.effect, self.path())

    @property
    def in_use(self) -> bool:
        """Return whether one of the selected layers has it away from its default."""
        return any(value != self.default for value in self.values())

    def paths(self) -> list[str]:
        """Return the field's path in the selected layer, then those in the others that are selected."""
        path = self.path()
        if not self.in_layer or not self.session.others:
            return [path]
        rest = FieldPath(path).in_layer
        return [path] + [self.session.layer_path(rest, other) for other in self.session.chosen_others]

    def values(self) -> list[Any]:
        """Return what the field holds in each selected layer; the same object is given once."""
        found: list[Any] = []
        for now in self.each():
            if not any(now is one for one in found):
                found.append(now)
        return found

    def each(self, part: str = "") -> list[Any]:
        """Return what each selected layer has there, in their order."""
        found = []
        for path in self.paths():
            with contextlib.suppress(EffectError):
                found.append(get(self.session.effect, path + part))
        return found

    def refresh(self) -> None:
        """Show what the effect has now."""
        values = self.values()
        new = self.parts.show(values)
        if new or values != self._refused_of:
            self._refused = ""
        if new:
            checks = [part for part in self.parts.controls if isinstance(part, Check)]
            self.label.check = checks[0] if checks else None
        changed = any(one != self.default for one in values)
        self._say_problem()
        self.mark.setText("•" if changed else "")
        self.mark.setEnabled(changed)
        self.mark.setToolTip("Set back to its default (Ctrl+R)" if changed else "")
        if changed != self._bright:
            self._bright = changed
            self.label.setStyleSheet(f"color: {theme.BRIGHT if changed else theme.TEXT};")

    def focus(self) -> None:
        """Give the focus to what the field holds."""
        for part in self.parts.controls[:1]:
            part.setFocus(Qt.FocusReason.ShortcutFocusReason)

    # What is wrong

    def say_refused(self, words: str) -> None:
        """Say beside the field why what was typed counts for nothing, or for less.

        The words go when the field holds something else; nothing takes them back at once.
        """
        self._refused, self._refused_of = words, self.values()
        self._say_problem()

    def say_foretold(self, words: str) -> None:
        """Say beside the field what is typed there would make of each selected layer's number."""
        self._foretold = words
        self._say_problem()

    def _problem(self) -> tuple[str, str, Callable[[], None]]:
        """Return what is wrong, the words of its mend, and the mend."""
        path = self.path()
        wrong = next((one.reason for one in self.session.moment.problems if one.place == path), "")
        if wrong:
            return wrong, f"Set it back to {self.default}", self.reset
        if self._refused:
            return self._refused, "", self.reset
        texture = self._texture_problem(path)
        if texture:
            return (
                texture,
                "Browse for it"
                if self.rule.kind in (FieldKind.TEXTURE, FieldKind.PICTURE, FieldKind.PICTURES)
                else "",
                self.parts.browse,
            )
        layer = self.session.layer
        if ".origin." in path and layer is not None and not self.session.others:
            session = self.session
            trouble = session.links.trouble_of(layer)
            if trouble is not None and trouble.place == path:
                return trouble.reason, trouble.mend, lambda: session.links.mend_link(session.selected)
        if path.endswith("].emit.cap") and layer is not None:
            refused = self.session.moment.counts.get(layer.id, {}).get("full", 0)
            answer = self.session.moment.answers.get(layer.id)
            asked = answer.each_second if answer is not None else None
            needed = (
                needed_cap(self.session.effect, self.session.effect.index(layer.id), asked) if refused else 0
            )
            if needed > layer.emit.cap:
                words = (
                    f"births are refused: {'about' if answer else 'up to'} {needed:,} particles would be "
                    "alive at once."
                )
                if self.session.effect.loop and self.session.effect.repeat:
                    words += " Loops differ for that, though “repeat” is on."
                return words, f"Raise it to {needed:,}", lambda: self._raise_cap(needed)
        nothing = (
            moot_field(self.session.effect, layer, FieldPath(path).in_layer)
            if layer is not None and self.in_layer
            else None
        )
        if nothing is not None:
            return (
                nothing.reason,
                nothing.mend,
                functools.partial(self._do, list(nothing.edits), nothing.mend),
            )
        return "", "", self.reset

    def _texture_problem(self, path: str) -> str:
        """Return what is wrong with a picture that the field names."""
        problems = {wrong.place: wrong.reason for wrong in self.session.textures.state.problems}
        if path in problems or self.rule.kind != FieldKind.TEXTURE:
            return problems.get(path, "")
        for i, texture in enumerate(self.session.effect.textures):
            if texture.name == self.value:
                return next(
                    (words for place, words in problems.items() if place.startswith(f"textures[{i}].")), ""
                )
        return ""

    def _do(self, edits: list[tuple[str, Any]], said: str) -> None:
        self.session.edit_many(edits, said)

    def _raise_cap(self, needed: int) -> None:
        self.edit(needed, said="Raise {}")

    def _say_problem(self) -> None:
        """Show what is wrong with the field under its controls, or nothing."""
        words, mend, self._mend = self._problem()
        tint = theme.DIM if self._foretold else theme.WARN
        if self._foretold:
            words, mend = self._foretold, ""
        if not words and self.problem is None:
            return
        if self.problem is None:
            self.problem = QLabel()
            self.problem.setWordWrap(True)
            self.problem.setTextFormat(Qt.TextFormat.RichText)
            self.problem.setContentsMargins(18, 0, 4, 3)
            self.problem.linkActivated.connect(lambda _: self._mend())
            self.outer.addWidget(self.problem)
        link = f' <a href="mend" style="color: {theme.EMBER}">{html.escape(mend)}</a>' if mend else ""
        self.problem.setText(
            f'<span style="color: {tint}">{html.escape(words[:1].upper() + words[1:])}</span>{link}'
        )
        self.problem.setVisible(bool(words))

    # Editing

    def edit(self, value: Any, merge: str = "", part: str = "", said: str = "Change {}") -> bool:
        """Give the field of each selected layer a value, as one step."""
        return self.edit_each(lambda old: value, merge, part, said)

    def edit_each(
        self, new: Callable[[Any], Any], merge: str = "", part: str = "", said: str = "Change {}"
    ) -> bool:
        """Replace the value in each selected layer by what ``new`` returns for it, as one step."""
        edits = []
        for path in self.paths():
            try:
                edits.append((path + part, new(get(self.session.effect, path + part))))
            except EffectError:
                continue  # a burst or key that the other layer doesn't have
        label = self.rule.label.lower()
        done = self.session.edit_many(edits, said.format(label), merge and f"{self.path()}{part} {merge}")
        if not done:
            self.refresh()
        return done

    def turn_each(self, turn: Callable[[Any], Any], form: str, part: str) -> bool:
        """Give the field another form in each selected layer; each form remembers what it held."""
        edits = []
        for path in self.paths():
            try:
                now = get(self.session.effect, path + part)
            except EffectError:
                continue
            layer_id = self.session.layer_of(path)
            place = (layer_id, FieldPath(path).in_owner + part)
            edits.append(
                (path + part, self.session.forms.turned(place, now, form, functools.partial(turn, now)))
            )
        return self.session.edit_many(edits, f"{self.rule.label} to {form}")

    def pick_color(self, side: int, name: str) -> None:
        """Ask for another colour of the field, in all selected layers."""
        rest = FieldPath(self.path()).in_layer
        if not rest:
            self.wishes.color.emit((ColorPlace("", self.path(), side),), f"{self.rule.label} of the stage")
            return
        places = tuple(ColorPlace(layer_id, rest, side) for layer_id in self.session.chosen_first)
        layer = self.session.layer
        many = len(places)
        owner = f"{many} layers" if many > 1 else layer.name if layer is not None else ""
        self.wishes.color.emit(places, f"{self.rule.label}{f', {name},' if name else ''} of {owner}")

    def reset(self) -> None:
        """Set the field back to its default in all selected layers."""
        self.edit(self.default, said="Reset {}")

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for words, act in (
            ("Copy field", self.copy),
            ("Paste field", self.paste),
            ("Reset field", self.reset),
        ):
            action = menu.addAction(words)
            assert action is not None
            action.triggered.connect(act)
        menu.popup(event.globalPos())

    def copy(self) -> None:
        """Put the field's value on the clipboard."""
        values = self.values()
        if not values:
            return  # the layer went while the menu was open
        copy_field(self.rule, values[0])
        self.session.said.emit(f"{self.rule.label} is copied.")

    def paste(self) -> None:
        """Give the field of all selected layers the value on the clipboard, if it is of its kind."""
        try:
            value = pasted_field(self.rule)
        except EffectError as wrong:
            self.session.said.emit(wrong.sentence)
            return
        self.edit(value, said="Paste {}")

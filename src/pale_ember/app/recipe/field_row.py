"""Rows of the recipe: one for each field of the model, made from the field's rule."""

from __future__ import annotations

import dataclasses
import html
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QToolButton,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from ...effect.colors import ColorSpread, ColorValue, Flat
from ...effect.edit import get
from ...effect.errors import EffectError
from ...effect.fields import Rule
from ...effect.forms import FORMS, form_of, to_color_form, to_form
from ...effect.source import SHIPPED_MESHES
from ...effect.storage import _data as field_data
from ...effect.values import Fixed, Spread, Value, Vec3Value
from ...simulation.meshes import ENDINGS
from ..session.field_clip import copy_field, pasted_field
from ..session.session import Session
from ..widgets import theme
from ..widgets.icons import icon
from ..widgets.number_box import NumberBox
from ..widgets.swatch import Preview, Swatch

LABEL_WIDTH = 78
UNIT_WIDTH = 32
FORM_WIDTH = 24
PathOf = Callable[[], str]


class FieldRow(QWidget):
    """One field: mark and label, what it holds, unit, and the switch between forms.

    Parameters
    ----------
    path : callable
        Gives the field's path now; the selected layer is part of it.
    in_layer : bool
        Whether an edit goes to all selected layers.
    default : Any
        The field's default, for the mark and its reset.
    """

    lane_wanted = pyqtSignal(str)

    def __init__(self, session: Session, rule: Rule, path: PathOf, default: Any, in_layer: bool = False) -> None:
        super().__init__()
        self.session, self.rule, self.path, self.default = session, rule, path, default
        self.in_layer = in_layer
        self.setAccessibleName(rule.label)
        self.outer = QVBoxLayout(self)
        self.outer.setContentsMargins(0, 1, 0, 1)
        self.outer.setSpacing(2)
        self.problem: QLabel | None = None
        row = QHBoxLayout()
        self.outer.addLayout(row)
        row.setSpacing(4)
        self.mark = QToolButton()
        self.mark.setFixedSize(14, 22)
        self.mark.clicked.connect(self._reset)
        row.addWidget(self.mark)
        self.label = QLabel(rule.label)
        self.label.setFixedWidth(LABEL_WIDTH)
        row.addWidget(self.label)
        self.holder = QVBoxLayout()
        self.holder.setContentsMargins(0, 0, 0, 0)
        self.holder.setSpacing(2)
        row.addLayout(self.holder, 1)
        default_text = field_data(default, rule)
        tip = f"<b>{rule.label}</b><br>{rule.help}<br><span style='color:{theme.DIM}'>Default {default_text} {rule.unit}</span>"
        self.label.setToolTip(tip)
        self._shape: tuple[str, ...] = ()
        self._parts: list[Any] = []

    @property
    def value(self) -> Any:
        return get(self.session.effect, self.path())

    def paths(self) -> list[str]:
        """Return the field's path in the selected layer, then those in the others that are selected."""
        path = self.path()
        if not self.in_layer or not self.session.others:
            return [path]
        rest = path.partition("].")[2]
        return [path] + [self.session.layer_path(rest, other) for other in self.session.chosen_others]

    def values(self) -> list[Any]:
        """Return what the field holds in each selected layer; the same object is given once."""
        found: list[Any] = []
        for path in self.paths():
            try:
                now = get(self.session.effect, path)
            except EffectError:
                continue
            if not any(now is one for one in found):
                found.append(now)
        return found

    def refresh(self) -> None:
        """Show what the effect has now."""
        values = self.values()
        value = values[0]
        shapes = {self._shape_of(one) for one in values}
        shape = shapes.pop() if len(shapes) == 1 else ("mixed",)
        if shape != self._shape:
            self._shape = shape
            if shape == ("mixed",):
                self._build_mixed()
            else:
                self._build(value)
        self._fill(values)
        changed = any(one != self.default for one in values)
        self._say_problem()
        self.mark.setText("•" if changed else "")
        self.mark.setStyleSheet(f"QToolButton {{ color: {theme.EMBER}; padding: 0; font-size: 16px; }}")
        self.mark.setEnabled(changed)
        self.mark.setToolTip("Set back to its default" if changed else "")
        self.mark.setFocusPolicy(Qt.FocusPolicy.TabFocus if changed else Qt.FocusPolicy.NoFocus)
        self.label.setStyleSheet(f"color: {theme.BRIGHT if changed else theme.TEXT};")

    def _say_problem(self) -> None:
        """Say beside the field what keeps it from being simulated, with a mend."""
        path = self.path()
        words = next((wrong.reason for wrong in self.session.moment.problems if wrong.place == path), "")
        if not words and self.problem is None:
            return
        if self.problem is None:
            self.problem = QLabel()
            self.problem.setWordWrap(True)
            self.problem.setTextFormat(Qt.TextFormat.RichText)
            self.problem.linkActivated.connect(lambda _: self._reset())
            self.outer.addWidget(self.problem)
        mend = f'<a href="mend" style="color: {theme.EMBER}">Set it back to {self.default}</a>'
        self.problem.setText(
            f'<span style="color: {theme.WARN}">{html.escape(words[:1].upper() + words[1:])}</span> {mend}'
        )
        self.problem.setVisible(bool(words))

    def _shape_of(self, value: Any) -> tuple[str, ...]:
        if isinstance(value, Vec3Value):
            return tuple(form_of(part) + part.along for part in value)
        return (form_of(value) + value.along,) if isinstance(value, Value | ColorValue) else (self.rule.kind,)

    def _edit(self, value: Any, merge: str = "", part: str = "", said: str = "Change {}") -> bool:
        return self._edit_each(lambda old: value, merge, part, said)

    def _edit_each(self, new: Callable[[Any], Any], merge: str = "", part: str = "", said: str = "Change {}") -> bool:
        """Give each selected layer what ``new`` makes of what it has, as one step."""
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

    def _reset(self) -> None:
        self._edit(self.default, said="Reset {}")

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        menu = QMenu(self)
        for words, act in (("Copy field", self.copy), ("Paste field", self.paste), ("Reset field", self._reset)):
            action = menu.addAction(words)
            assert action is not None
            action.triggered.connect(act)
        menu.exec(event.globalPos())

    def copy(self) -> None:
        """Put the field's value on the clipboard."""
        copy_field(self.rule, self.value)
        self.session.said.emit(f"{self.rule.label} is copied.")

    def paste(self) -> None:
        """Give the field of all selected layers the value on the clipboard, if it is of its kind."""
        try:
            value = pasted_field(self.rule)
        except EffectError as wrong:
            self.session.said.emit(wrong.reason[:1].upper() + wrong.reason[1:])
            return
        self._edit(value, said="Paste {}")

    # Building

    def _clear(self) -> None:
        self._parts = []
        while (item := self.holder.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()

    def _build(self, value: Any) -> None:
        self._clear()
        kind = self.rule.kind
        if isinstance(value, Vec3Value):
            for axis, part in enumerate(value):
                self.holder.addWidget(
                    self._line(self._value_parts(part, f"[{axis}]"), "XYZ"[axis], self._form_button(f"[{axis}]"))
                )
        elif isinstance(value, Value | ColorValue):
            parts = self._value_parts(value, "") if isinstance(value, Value) else self._color_parts(value, "")
            self.holder.addWidget(self._line(parts, "", self._form_button("")))
        else:
            self.holder.addWidget(self._line(getattr(self, f"_{kind}_parts")(), "", None))

    def _build_mixed(self) -> None:
        """Build a line for layers that hold values of different forms: what is set there is set for all."""
        self._clear()
        if self.rule.kind == "vec3_value":
            word = QLabel("mixed")
            word.setStyleSheet(f"color: {theme.DIM};")
            self.holder.addWidget(self._line([word], "", None))
        elif self.rule.kind == "color_value":
            self.holder.addWidget(self._line([self._swatch("", self._edit)], "", self._form_button("")))
        else:
            box = self._number("", lambda old, x: Fixed(x), _middle)
            self.holder.addWidget(self._line([box], "", self._form_button("")))

    def _line(self, parts: list[QWidget], axis: str, forms: QWidget | None) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        if axis:
            letter = QLabel(axis)
            letter.setStyleSheet(f"color: {theme.DIM};")
            letter.setFixedWidth(9)
            row.addWidget(letter)
        for part in parts:
            row.addWidget(part, 1)
        unit = QLabel(self.rule.unit)
        unit.setFixedWidth(UNIT_WIDTH)
        unit.setStyleSheet(f"color: {theme.DIM};")
        row.addWidget(unit)
        if forms is not None:
            row.addWidget(forms)
        elif len(parts) == 1:
            row.addSpacing(FORM_WIDTH + 3)
        return holder

    def _number(
        self, name: str, put: Callable[[Any, float], Any], take: Callable[[Any], float], part: str = ""
    ) -> NumberBox:
        """Return a box for a number in a value: ``take`` gets it from there, ``put`` gives the value with another."""
        box = NumberBox(self.rule.soft, self.rule.hard, self.rule.digits)
        box.setAccessibleName(f"{self.rule.label} {name}".strip())
        box.setToolTip(f"{self.rule.help}\nDrag sideways, click to type, or nudge with the arrow keys.")
        box.edited.connect(lambda _, merge: self._edit_each(lambda old: put(old, box.change(take(old))), merge, part))
        self._parts.append(box)
        return box

    def _value_parts(self, value: Value, part: str) -> list[QWidget]:
        if isinstance(value, Fixed):
            return [self._number("", lambda old, x: Fixed(x), _middle, part)]
        if isinstance(value, Spread):
            # The other end gives way, so that low stays before high.
            return [
                self._number("low", lambda old, x: Spread(x, max(x, old.high)), lambda old: old.low, part),
                self._number("high", lambda old, x: Spread(min(old.low, x), x), lambda old: old.high, part),
            ]
        return [self._preview(part)]

    def _color_parts(self, value: ColorValue, part: str) -> list[QWidget]:
        if isinstance(value, Flat):
            return [self._swatch("", self._edit)]
        if isinstance(value, ColorSpread):
            return [
                self._swatch("low", lambda c, merge: self._edit_each(lambda old: ColorSpread(c, old.high), merge)),
                self._swatch("high", lambda c, merge: self._edit_each(lambda old: ColorSpread(old.low, c), merge)),
            ]
        return [self._preview(part)]

    def _swatch(self, name: str, give: Callable[[str, str], Any]) -> Swatch:
        swatch = Swatch(f"{self.rule.label} {name}".strip())
        swatch.picked.connect(give)
        self._parts.append(swatch)
        return swatch

    def _preview(self, part: str) -> Preview:
        preview = Preview()
        preview.clicked.connect(lambda: self.lane_wanted.emit(self.path() + part))
        self._parts.append(preview)
        return preview

    def _form_button(self, part: str) -> QToolButton:
        button = QToolButton()
        button.setFixedSize(FORM_WIDTH, 22)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setAccessibleName(f"{self.rule.label} form")
        menu = QMenu(button)
        for form in FORMS:
            action = menu.addAction(icon(form), form.capitalize())
            assert action is not None
            action.triggered.connect(lambda _, form=form: self._to_form(form, part))
        button.setMenu(menu)
        now = self.value
        now = list(now)[int(part[1])] if part else now
        if now.along and len(self.rule.along) > 1 and self._shape != ("mixed",):
            menu.addSeparator()
            for along in self.rule.along:
                action = menu.addAction(f"Along {along}")
                assert action is not None
                action.setCheckable(True)
                action.setChecked(along == now.along)
                action.triggered.connect(lambda _, along=along: self._to_along(along, part))
        button.setIcon(icon(form_of(now)))
        button.setToolTip(f"{form_of(now).capitalize()}: choose fixed, spread, curve or band")
        return button

    def _to_form(self, form: str, part: str) -> None:
        def changed(now: Any) -> Any:
            along = self.rule.along[0]
            return to_form(now, form, along) if isinstance(now, Value) else to_color_form(now, form, along)

        if self._edit_each(changed, "", part, f"{{}} to {form}") and form in ("curve", "band"):
            self.lane_wanted.emit(self.path() + part)

    def _to_along(self, along: str, part: str) -> None:
        self._edit_each(lambda now: dataclasses.replace(now, along=along), "", part, f"{{}} along {along}")

    def _number_parts(self) -> list[QWidget]:
        start = self.rule.soft[0]
        box = self._number("", lambda old, x: x, lambda old: start if old is None else old)
        if self.rule.optional:
            box.cleared.connect(lambda: self._edit(None))
            box.setPlaceholderText("to the end")
        return [box]

    def _integer_parts(self) -> list[QWidget]:
        if self.rule.label == "Step rate":
            return [self._combo(("30", "60", "120"), int)]
        return [self._number("", lambda old, x: int(x), float)]

    def _vec3_parts(self) -> list[QWidget]:
        def box(axis: int) -> NumberBox:
            return self._number(
                "xyz"[axis],
                lambda old, x: [x if i == axis else one for i, one in enumerate(old)],
                lambda old: float(old[axis]),
            )

        return [box(axis) for axis in range(3)]

    def _flag_parts(self) -> list[QWidget]:
        box = QCheckBox()
        box.setAccessibleName(self.rule.label)
        box.setToolTip(self.rule.help)
        box.clicked.connect(lambda on: self._edit(bool(on)))
        self._parts.append(box)
        return [box]

    def _choice_parts(self) -> list[QWidget]:
        return [self._combo(self.rule.choices, str)]

    def _combo(self, words: tuple[str, ...], kind: Callable[[str], Any]) -> QComboBox:
        box = QComboBox()
        box.addItems(words)
        box.setAccessibleName(self.rule.label)
        box.setToolTip(self.rule.help)
        box.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        box.textActivated.connect(lambda word: self._edit(kind(box.currentData() or word)))
        self._parts.append(box)
        return box

    def _mesh_parts(self) -> list[QWidget]:
        box = self._combo(SHIPPED_MESHES, str)
        browse = QToolButton()
        browse.setIcon(icon("open"))
        browse.setFixedSize(FORM_WIDTH, 22)
        browse.setAccessibleName("Open a mesh")
        browse.setToolTip("Choose a mesh file: OBJ, glTF, GLB, STL or PLY; one may also be dropped on the stage")
        browse.clicked.connect(self._browse_mesh)
        return [box, browse]

    def _browse_mesh(self) -> None:
        endings = " ".join(f"*{ending}" for ending in ENDINGS)
        name, _ = QFileDialog.getOpenFileName(self, "Choose a mesh", "", f"Meshes ({endings})")
        if name:
            self._edit(name)

    def _text_parts(self) -> list[QWidget]:
        box = QLineEdit()
        box.setAccessibleName(self.rule.label)
        box.setToolTip(self.rule.help)
        box.editingFinished.connect(lambda: box.isModified() and self._edit(box.text()))
        self._parts.append(box)
        return [box]

    # Filling

    def _fill(self, values: list[Any]) -> None:
        if self._shape == ("mixed",):
            contents, mixed = [_any_content(values[0])], [True]
        else:
            all_contents = [self._contents(value) for value in values]
            contents = all_contents[0]
            mixed = [any(other[i] != content for other in all_contents) for i, content in enumerate(contents)]
        for part, number, differs in zip(self._parts, contents, mixed, strict=False):
            if isinstance(part, NumberBox):
                part.show_number(float(number), differs and len(values) > 1)
            elif isinstance(part, Swatch):
                part.show_color(number, differs)
            elif isinstance(part, Preview):
                part.show_value(number, differs)
            elif isinstance(part, QCheckBox):
                part.setTristate(differs)
                part.setCheckState(_check_state(bool(number), differs))
            elif isinstance(part, QComboBox):
                self._fill_combo(part, str(number), differs)
            elif isinstance(part, QLineEdit) and not part.hasFocus():
                part.setPlaceholderText("mixed" if differs else "")
                part.setText("" if differs else str(number))
                part.setModified(False)
                part.setCursorPosition(0)

    def _fill_combo(self, box: QComboBox, word: str, differs: bool) -> None:
        box.setPlaceholderText("mixed")
        if differs:
            box.setCurrentIndex(-1)
            return
        if self.rule.kind == "mesh":
            # A file is called by its name; the whole path is in the tooltip.
            while box.count() > len(SHIPPED_MESHES):
                box.removeItem(len(SHIPPED_MESHES))
            box.setToolTip(self.rule.help if word in SHIPPED_MESHES else word)
            if word not in SHIPPED_MESHES:
                box.addItem(Path(word).name or "none", word)
                box.setCurrentIndex(len(SHIPPED_MESHES))
                return
        box.setCurrentText(word)

    def _contents(self, value: Any) -> list[Any]:
        if isinstance(value, Vec3Value):
            return [content for part in value for content in self._contents(part)]
        if isinstance(value, Fixed):
            return [value.number]
        if isinstance(value, Flat):
            return [value.color]
        if isinstance(value, Spread | ColorSpread):
            return [value.low, value.high]
        if isinstance(value, tuple):
            return list(value)
        return [float("nan") if value is None else value]


def _middle(value: Value) -> float:
    """Return a number that stands for a value of any form: the middle of what it takes at the start."""
    low, high = value.bounds_at([0.0])
    return float(low[0] + high[0]) / 2


def _any_content(value: Any) -> Any:
    return _middle(value) if isinstance(value, Value) else "#ffffff"


def _check_state(on: bool, mixed: bool) -> Qt.CheckState:
    if mixed:
        return Qt.CheckState.PartiallyChecked
    return Qt.CheckState.Checked if on else Qt.CheckState.Unchecked

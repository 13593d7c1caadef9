"""The controls of one field: made for the form that its value has, and filled with what the effect has
now.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.rules.fields import FieldKind
from ...effect.values.colors import ColorSpread, ColorValue, Flat, OneOf
from ...effect.values.forms import COLOR_FORMS, FORMS, form_of, to_color_form, to_form
from ...effect.values.values import Fixed, Spread, Value, Vec3Value
from ..widgets import theme
from ..widgets.controls import Check, Combo, Line, Notes, ToolButton
from ..widgets.icons import icon
from ..widgets.number_box import NumberBox
from ..widgets.swatch import Preview, Swatch
from .anchor_choice import AnchorChoice
from .asking import ask_for_file
from .color_parts import one_of_lines
from .contents import middle_of
from .filling import fill
from .frames_line import FramesLine
from .layer_choice import LayerChoice
from .row import Row
from .texture_choice import TextureChoice

UNIT_WIDTH, FORM_WIDTH = 32, 24
MIXED = ("mixed",)
PICTURES_TIP = "Choose a picture file; one may also be dropped here, or pasted"


class FieldParts(QVBoxLayout):
    """The lines of controls of one field; ``controls`` are those that take the focus, in order."""

    def __init__(self, row: Row) -> None:
        super().__init__()
        self.row = row
        self.setContentsMargins(0, 0, 0, 0)
        self.setSpacing(2)
        self.controls: list[Any] = []
        self._shape: tuple[str, ...] = ()

    def show(self, values: list[Any]) -> bool:
        """Show what the field holds in each selected layer; return whether other controls were needed for
        it.
        """
        shapes = {self._shape_of(one) for one in values}
        shape = shapes.pop() if len(shapes) == 1 else MIXED
        new = shape != self._shape
        if new:
            self._shape = shape
            self._clear()
            if shape == MIXED:
                self._build_mixed()
            else:
                self._build(values[0])
        fields = [part for part in self.controls if not isinstance(part, ToolButton)]
        fill(fields, values, self.row.rule, self.row.session, shape == MIXED)
        return new

    def _shape_of(self, value: Any) -> tuple[str, ...]:
        if isinstance(value, Vec3Value):
            return tuple(form_of(part) + part.along for part in value)
        if isinstance(value, OneOf):
            return form_of(value), str(len(value.colors))
        return (
            (form_of(value) + value.along,)
            if isinstance(value, Value | ColorValue)
            else (self.row.rule.kind,)
        )

    def _fits(self, shape: tuple[str, ...]) -> bool:
        """Return whether controls that were made for a form are those of the value in each selected layer.

        Replaced ones may still get a key before they are deleted; while a key is dragged, or the recipe is
        out of view, all may be older than the effect.
        """
        if shape != self._shape:
            return False
        return shape == MIXED or {self._shape_of(now) for now in self.row.each()} == {shape}

    # Building

    def _clear(self) -> None:
        self.controls = []
        while (item := self.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()

    def _build(self, value: Any) -> None:
        """Put the controls of a value in lines, one for each axis or colour."""
        if isinstance(value, Vec3Value):
            for axis, part in enumerate(value):
                at = f"[{axis}]"
                self._line(self._value_parts(part, at, "XYZ"[axis]), "XYZ"[axis], self._form_button(at))
        elif isinstance(value, Value):
            self._line(self._value_parts(value, "", ""), "", self._form_button(""))
        elif isinstance(value, OneOf):
            for number, parts in enumerate(one_of_lines(self.row, self.controls, value)):
                self._line(parts, "", None if number else self._form_button(""))
        elif isinstance(value, ColorValue):
            self._line(self._color_value_parts(value), "", self._form_button(""))
        else:
            self._line(PLAIN_CONTROLS[self.row.rule.kind](self), "", None)

    def _build_mixed(self) -> None:
        """Build a line for layers that hold values of different forms: what is set there is set for all."""
        kind = self.row.rule.kind
        if kind == FieldKind.VEC3_VALUE:
            word = QLabel("mixed")
            word.setStyleSheet(f"color: {theme.DIM};")
            self._line([word], "", None)
        elif kind == FieldKind.COLOR_VALUE:
            self._line([self._swatch("", 0)], "", self._form_button(""))
        else:
            box = self._number("", lambda old, x: Fixed(x), middle_of)
            self._line([box], "", self._form_button(""))

    def _line(self, parts: list[QWidget], axis: str, forms: QWidget | None) -> None:
        """Add a line of controls, with its axis, its unit and the button of its forms."""
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        if axis:
            letter = QLabel(axis)
            letter.setStyleSheet(f"color: {theme.DIM};")
            letter.setFixedWidth(9)
            line.addWidget(letter)
        for part in parts:
            line.addWidget(part, 1)
        if self.row.rule.kind != FieldKind.TEXT:
            unit = QLabel(self.row.rule.unit)
            unit.setFixedWidth(UNIT_WIDTH)
            unit.setStyleSheet(f"color: {theme.DIM};")
            line.addWidget(unit)
        if forms is not None:
            line.addWidget(forms)
        elif (
            len(parts) == 1 and self.row.rule.kind != FieldKind.TEXT
        ) or self.row.rule.kind == FieldKind.COLOR_VALUE:
            line.addSpacing(FORM_WIDTH + 2)
        self.addWidget(holder)

    def _number(
        self, name: str, put: Callable[[Any, float], Any], take: Callable[[Any], float], part: str = ""
    ) -> NumberBox:
        """Return a box for a number in a value: ``take`` gets it from there, ``put`` gives the value with
        another.
        """
        row, rule = self.row, self.row.rule
        box = NumberBox(rule.soft, rule.hard, rule.digits, rule.unit)
        box.setAccessibleName(" ".join([rule.label, *name.split()]))
        box.setToolTip(f"{rule.help}\nDrag sideways, click to type, or nudge with the arrow keys.")

        made_for = self._shape

        def edited(_: float, merge: str) -> None:
            # A field that is rebuilt loses the focus; text that is half typed in it belongs to the old value.
            if self._fits(made_for):
                row.edit_each(lambda old: put(old, box.change(take(old))), merge, part)

        box.olds = lambda: [float(take(old)) for old in row.each(part)] if self._fits(made_for) else []
        box.edited.connect(edited)
        box.refused.connect(row.say_refused)
        box.foretold.connect(row.say_foretold)
        self.controls.append(box)
        return box

    def _value_parts(self, value: Value, part: str, axis: str) -> list[QWidget]:
        """Return the controls of a Value: its numbers, or a small picture of its curve."""
        if isinstance(value, Fixed):
            return [self._number(axis, lambda old, x: Fixed(x), middle_of, part)]
        if isinstance(value, Spread):
            # The other end gives way, so that low stays before high.
            return [
                self._number(
                    f"{axis} low", lambda old, x: Spread(x, max(x, old.high)), lambda old: old.low, part
                ),
                self._number(
                    f"{axis} high", lambda old, x: Spread(min(old.low, x), x), lambda old: old.high, part
                ),
            ]
        return [self._preview(part, axis)]

    def _color_value_parts(self, value: ColorValue) -> list[QWidget]:
        if isinstance(value, Flat):
            return [self._swatch("", 0)]
        if isinstance(value, ColorSpread):
            return [self._swatch("low", 0), self._swatch("high", 1)]
        return [self._preview("", "")]

    def _swatch(self, name: str, side: int) -> Swatch:
        swatch = Swatch(f"{self.row.rule.label} {name}".strip())
        swatch.clicked.connect(lambda: self.row.pick_color(side, name))
        self.controls.append(swatch)
        return swatch

    def _preview(self, part: str, axis: str) -> Preview:
        preview = Preview(f"{self.row.rule.label} {axis}".strip())
        preview.clicked.connect(lambda: self.row.wishes.lane.emit(self.row.path() + part))
        self.controls.append(preview)
        return preview

    def _form_button(self, part: str) -> ToolButton:
        """Return the button whose menu changes the form of a value and the axis of its curve."""
        row, rule = self.row, self.row.rule
        button = ToolButton()
        button.setFixedSize(FORM_WIDTH, 22)
        button.setPopupMode(ToolButton.ToolButtonPopupMode.InstantPopup)
        axis = f" {'XYZ'[int(part[1])]}" if part else ""
        button.setAccessibleName(f"{rule.label}{axis} form")
        menu = QMenu(button)
        forms = COLOR_FORMS if rule.kind == FieldKind.COLOR_VALUE else FORMS
        for form in forms:
            action = menu.addAction(icon(form), form.capitalize())
            assert action is not None
            action.triggered.connect(lambda _, form=form: self._to_form(form, part))
        button.setMenu(menu)
        now = row.value
        now = list(now)[int(part[1])] if part else now
        if now.along and len(rule.along) > 1 and self._shape != MIXED:
            menu.addSeparator()
            for along in rule.along:
                action = menu.addAction(f"Along {along}")
                assert action is not None
                action.setCheckable(True)
                action.setChecked(along == now.along)
                action.triggered.connect(lambda _, along=along: self._to_along(along, part))
        button.setIcon(icon(form_of(now)))
        button.setToolTip(f"{form_of(now).capitalize()}: choose {', '.join(forms[:-1])} or {forms[-1]}")
        self.controls.append(button)
        return button

    def _to_form(self, form: str, part: str) -> None:
        along = self.row.rule.along[0]

        def turn(now: Any) -> Any:
            return to_form(now, form, along) if isinstance(now, Value) else to_color_form(now, form, along)

        if self.row.turn_each(turn, form, part) and form in ("curve", "band"):
            self.row.wishes.lane.emit(self.row.path() + part)

    def _to_along(self, along: str, part: str) -> None:
        said = f"{self.row.rule.label} along {along}"
        self.row.edit_each(lambda now: dataclasses.replace(now, along=along), "", part, said)

    # One of these for each kind of rule that is no Value

    def _number_parts(self) -> list[QWidget]:
        start = self.row.rule.soft[0]
        box = self._number("", lambda old, x: x, lambda old: start if old is None else old)
        if self.row.rule.optional:
            box.cleared.connect(lambda: self.row.edit(None))
            box.setPlaceholderText("to the end")
        return [box]

    def _integer_parts(self) -> list[QWidget]:
        if self.row.rule.label == "Step rate":
            return [self._combo(("30", "60", "120"), int)]
        return [self._number("", lambda old, x: int(x), float)]

    def _texture_parts(self) -> list[QWidget]:
        box = TextureChoice(self.row)
        self.controls.append(box)
        return [box, self._browse_button("Open a picture", PICTURES_TIP)]

    def _picture_parts(self) -> list[QWidget]:
        (line,) = self._text_parts()
        return [line, self._browse_button("Open a picture", PICTURES_TIP)]

    def _stops_parts(self) -> list[QWidget]:
        return [self._preview("", "")]

    def _pictures_parts(self) -> list[QWidget]:
        """Return the controls of a list of picture files."""
        line = Line()
        line.setReadOnly(True)
        line.setAccessibleName(self.row.rule.label)
        self.controls.append(line)
        clear = ToolButton()
        clear.setIcon(icon("bin"))
        clear.setFixedSize(FORM_WIDTH, 22)
        clear.setToolTip("Take all pictures out")
        clear.setAccessibleName("Take all pictures out")
        clear.clicked.connect(lambda: self.row.edit([]))
        browse = self._browse_button(
            "Open pictures",
            "Choose one picture, or several for a sequence; they may also be dropped here, or pasted",
        )
        self.controls.append(clear)
        return [line, browse, clear]

    def _frames_parts(self) -> list[QWidget]:
        line = FramesLine(self.row)
        self.controls.append(line)
        return [line]

    def _browse_button(self, name: str, tip: str) -> ToolButton:
        button = ToolButton()
        button.setIcon(icon("open"))
        button.setFixedSize(FORM_WIDTH, 22)
        button.setAccessibleName(name)
        button.setToolTip(tip)
        button.clicked.connect(self.browse)
        self.controls.append(button)
        return button

    def browse(self) -> None:
        """Ask for a file of the field's kind, and take it."""
        ask_for_file(self.row, self.controls[-1])

    def _vector_parts(self, axes: int) -> list[QWidget]:
        def box(axis: int) -> NumberBox:
            return self._number(
                "xyz"[axis],
                lambda old, x: [x if i == axis else one for i, one in enumerate(old)],
                lambda old: float(old[axis]),
            )

        return [box(axis) for axis in range(axes)]

    def _flag_parts(self) -> list[QWidget]:
        box = Check()
        box.setAccessibleName(self.row.rule.label)
        box.setToolTip(self.row.rule.help)
        box.clicked.connect(lambda on: self.row.edit(bool(on)))
        self.controls.append(box)
        return [box]

    def _choice_parts(self) -> list[QWidget]:
        return [self._combo(tuple(str(one) for one in self.row.rule.choices), str)]

    def _combo(self, words: tuple[str, ...], kind: Callable[[str], Any]) -> Combo:
        box = Combo()
        box.addItems(words)
        box.setAccessibleName(self.row.rule.label)
        box.setToolTip(self.row.rule.help)
        box.textActivated.connect(lambda word: self.row.edit(kind(box.currentData() or word)))
        self.controls.append(box)
        return box

    def _choice_of_layer(self, kind: type[LayerChoice]) -> list[QWidget]:
        box = kind(self.row.rule.label, self.row.rule.help, self.row.edit)
        self.controls.append(box)
        return [box]

    def _mesh_parts(self) -> list[QWidget]:
        box = self._combo(SHIPPED_MESHES, str)
        browse = self._browse_button(
            "Open a mesh",
            "Choose a mesh file: OBJ, glTF, GLB, STL or PLY; one may also be dropped on the window",
        )
        return [box, browse]

    def _text_parts(self) -> list[QWidget]:
        """Return the controls of a text, of one line or several."""
        rule = self.row.rule
        box: Line | Notes
        if rule.lines > 1:
            box = notes = Notes()
            notes.setFixedHeight(notes.fontMetrics().lineSpacing() * rule.lines + 14)
            notes.left.connect(lambda: notes.half_typed and self.row.edit(notes.toPlainText()))
        else:
            box = line = Line()
            line.editingFinished.connect(lambda: line.isModified() and self.row.edit(line.text()))
        box.setAccessibleName(rule.label)
        box.setToolTip(rule.help)
        self.controls.append(box)
        return [box]


# Makes the controls of each kind of field that holds no Value.
PLAIN_CONTROLS: dict[FieldKind, Callable[[FieldParts], list[QWidget]]] = {
    FieldKind.NUMBER: FieldParts._number_parts,
    FieldKind.INTEGER: FieldParts._integer_parts,
    FieldKind.VEC2: lambda parts: parts._vector_parts(2),
    FieldKind.VEC3: lambda parts: parts._vector_parts(3),
    FieldKind.COLOR: lambda parts: [parts._swatch("", 0)],
    FieldKind.TEXTURE: FieldParts._texture_parts,
    FieldKind.PICTURE: FieldParts._picture_parts,
    FieldKind.STOPS: FieldParts._stops_parts,
    FieldKind.PICTURES: FieldParts._pictures_parts,
    FieldKind.FRAMES: FieldParts._frames_parts,
    FieldKind.FLAG: FieldParts._flag_parts,
    FieldKind.CHOICE: FieldParts._choice_parts,
    FieldKind.LAYER: lambda parts: parts._choice_of_layer(LayerChoice),
    FieldKind.ANCHOR: lambda parts: parts._choice_of_layer(AnchorChoice),
    FieldKind.MESH: FieldParts._mesh_parts,
    FieldKind.TEXT: FieldParts._text_parts,
}

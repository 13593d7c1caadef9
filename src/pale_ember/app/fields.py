"""Rows of the recipe: one for each field of the model, made from the field's rule."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QColorDialog,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from ..effect.colors import ColorSpread, ColorValue, Flat
from ..effect.edit import get
from ..effect.fields import Rule
from ..effect.forms import FORMS, form_of, to_color_form, to_form
from ..effect.storage import _data as field_data
from ..effect.values import Fixed, Spread, Value, Vec3Value
from . import theme
from .curve_paint import paint_gradient, paint_value
from .icons import icon
from .number_box import NumberBox
from .session import Session

LABEL_WIDTH = 78
UNIT_WIDTH = 32
FORM_WIDTH = 24
PathOf = Callable[[], str]


class Preview(QPushButton):
    """A small picture of a curve or gradient; a click opens its lane."""

    def __init__(self) -> None:
        super().__init__()
        self.value: Any = None
        self.rule: Rule | None = None
        self.setMinimumWidth(40)
        self.setFixedHeight(22)
        self.setToolTip("Open its lane in the life strip")
        self.setAccessibleName("Open lane")

    def sizeHint(self) -> QSize:
        return QSize(80, 22)

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(theme.color(theme.EMBER if self.hasFocus() else theme.ASH_3)))
        painter.setBrush(theme.color(theme.ASH_0))
        painter.drawRoundedRect(box, 3, 3)
        inner = box.adjusted(3, 3, -3, -3)
        if isinstance(self.value, ColorValue):
            paint_gradient(painter, inner, self.value)
        elif isinstance(self.value, Value):
            paint_value(painter, inner, self.value)
        painter.end()


class Swatch(QPushButton):
    """A colour; a click opens the picker."""

    picked = pyqtSignal(str, str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.color = "#ffffff"
        self.setFixedHeight(22)
        self.setMinimumWidth(30)
        self.setAccessibleName(name)
        self.clicked.connect(self._pick)

    def show_color(self, color: str) -> None:
        self.color = color
        self.setToolTip(f"{color}: click to choose another")
        self.update()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.color(theme.EMBER if self.hasFocus() else theme.ASH_4)))
        painter.setBrush(QColor(self.color))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        painter.end()

    def _pick(self) -> None:
        pick_color(self, self.color, self.picked.emit)


def pick_color(parent: QWidget, color: str, give: Callable[[str, str], None]) -> QColorDialog:
    """Open a colour picker beside the work; colours are given while they are chosen, as one step."""
    dialog = QColorDialog(QColor(color), parent.window())
    dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
    dialog.setWindowTitle("Colour")
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    merge = f"color {id(dialog)}"
    dialog.currentColorChanged.connect(lambda chosen: give(chosen.name(), merge))
    dialog.rejected.connect(lambda: give(color, merge))
    dialog.open()
    return dialog


class FieldRow(QWidget):
    """One field: mark and label, what it holds, unit, and the switch between forms.

    Parameters
    ----------
    path : callable
        Gives the field's path now; the selected layer is part of it.
    default : Any
        The field's default, for the mark and its reset.
    """

    lane_wanted = pyqtSignal(str)

    def __init__(self, session: Session, rule: Rule, path: PathOf, default: Any) -> None:
        super().__init__()
        self.session, self.rule, self.path, self.default = session, rule, path, default
        self.setAccessibleName(rule.label)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 1, 0, 1)
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

    def refresh(self) -> None:
        """Show what the effect has now."""
        value = self.value
        shape = self._shape_of(value)
        if shape != self._shape:
            self._shape = shape
            self._build(value)
        self._fill(value)
        changed = value != self.default
        self.mark.setText("•" if changed else "")
        self.mark.setStyleSheet(f"QToolButton {{ color: {theme.EMBER}; padding: 0; font-size: 16px; }}")
        self.mark.setEnabled(changed)
        self.mark.setToolTip("Set back to its default" if changed else "")
        self.mark.setFocusPolicy(Qt.FocusPolicy.TabFocus if changed else Qt.FocusPolicy.NoFocus)
        self.label.setStyleSheet(f"color: {theme.BRIGHT if changed else theme.TEXT};")

    def _shape_of(self, value: Any) -> tuple[str, ...]:
        if isinstance(value, Vec3Value):
            return tuple(form_of(part) + part.along for part in value)
        return (form_of(value) + value.along,) if isinstance(value, Value | ColorValue) else (self.rule.kind,)

    def _edit(self, value: Any, merge: str = "", part: str = "") -> None:
        path = self.path() + part
        if not self.session.edit(path, value, f"Change {self.rule.label.lower()}", merge and f"{path} {merge}"):
            self.refresh()

    def _reset(self) -> None:
        self.session.edit(self.path(), self.default, f"Reset {self.rule.label.lower()}")

    # Building

    def _build(self, value: Any) -> None:
        self._parts = []
        while (item := self.holder.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
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

    def _number(self, name: str, give: Callable[[float, str], None]) -> NumberBox:
        box = NumberBox(self.rule.soft, self.rule.hard, self.rule.digits)
        box.setAccessibleName(f"{self.rule.label} {name}".strip())
        box.setToolTip(f"{self.rule.help}\nDrag sideways, click to type, or nudge with the arrow keys.")
        box.edited.connect(give)
        self._parts.append(box)
        return box

    def _value_parts(self, value: Value, part: str) -> list[QWidget]:
        if isinstance(value, Fixed):
            return [self._number("", lambda x, merge: self._edit(x, merge, part))]
        if isinstance(value, Spread):
            return [
                self._number("low", lambda x, merge: self._edit(self._spread(part, x, None), merge, part)),
                self._number("high", lambda x, merge: self._edit(self._spread(part, None, x), merge, part)),
            ]
        return [self._preview(part)]

    def _spread(self, part: str, low: float | None, high: float | None) -> Spread:
        """Return the spread with one end moved; the other gives way, so that low stays before high."""
        now = get(self.session.effect, self.path())
        now = list(now)[int(part[1])] if part else now
        if low is not None:
            return Spread(low, max(low, now.high))
        assert high is not None
        return Spread(min(now.low, high), high)

    def _color_parts(self, value: ColorValue, part: str) -> list[QWidget]:
        if isinstance(value, Flat):
            return [self._swatch("", self._edit)]
        if isinstance(value, ColorSpread):
            return [
                self._swatch("low", lambda c, merge: self._edit(ColorSpread(c, self.value.high), merge)),
                self._swatch("high", lambda c, merge: self._edit(ColorSpread(self.value.low, c), merge)),
            ]
        return [self._preview(part)]

    def _swatch(self, name: str, give: Callable[[str, str], None]) -> Swatch:
        swatch = Swatch(f"{self.rule.label} {name}".strip())
        swatch.picked.connect(give)
        self._parts.append(swatch)
        return swatch

    def _preview(self, part: str) -> Preview:
        preview = Preview()
        preview.rule = self.rule
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
        if now.along and len(self.rule.along) > 1:
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
        now = get(self.session.effect, self.path())
        now = list(now)[int(part[1])] if part else now
        change = to_form if isinstance(now, Value) else to_color_form
        new = change(now, form, self.rule.along[0])  # type: ignore[operator]
        self.session.edit(self.path() + part, new, f"{self.rule.label} to {form}")
        if form in ("curve", "band"):
            self.lane_wanted.emit(self.path() + part)

    def _to_along(self, along: str, part: str) -> None:
        now = get(self.session.effect, self.path())
        now = list(now)[int(part[1])] if part else now
        self.session.edit(self.path() + part, dataclasses.replace(now, along=along), f"{self.rule.label} along {along}")

    def _number_parts(self) -> list[QWidget]:
        box = self._number("", self._edit)
        if self.rule.optional:
            box.cleared.connect(lambda: self._edit(None))
            box.setPlaceholderText("to the end")
        return [box]

    def _integer_parts(self) -> list[QWidget]:
        if self.rule.label == "Step rate":
            return [self._combo(("30", "60", "120"), int)]
        return [self._number("", lambda x, merge: self._edit(int(x), merge))]

    def _vec3_parts(self) -> list[QWidget]:
        def give(axis: int) -> Callable[[float, str], None]:
            return lambda x, merge: self._edit([x if i == axis else old for i, old in enumerate(self.value)], merge)

        return [self._number("xyz"[axis], give(axis)) for axis in range(3)]

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
        box.textActivated.connect(lambda word: self._edit(kind(word)))
        self._parts.append(box)
        return box

    def _text_parts(self) -> list[QWidget]:
        box = QLineEdit()
        box.setAccessibleName(self.rule.label)
        box.setToolTip(self.rule.help)
        box.editingFinished.connect(lambda: self._edit(box.text()))
        self._parts.append(box)
        return [box]

    # Filling

    def _fill(self, value: Any) -> None:
        for part, number in zip(self._parts, self._contents(value), strict=False):
            if isinstance(part, NumberBox):
                part.show_number(float(number))
            elif isinstance(part, Swatch):
                part.show_color(number)
            elif isinstance(part, Preview):
                part.value = number
                part.update()
            elif isinstance(part, QCheckBox):
                part.setChecked(bool(number))
            elif isinstance(part, QComboBox):
                part.setCurrentText(str(number))
            elif isinstance(part, QLineEdit) and not part.hasFocus():
                part.setText(str(number))
                part.setCursorPosition(0)

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

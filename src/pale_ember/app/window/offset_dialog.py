"""Asks how copies of layers stand to each other: how many, and the step from each to the next."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from ...effect.editing.layers import Step
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Combo
from ..widgets.number_box import NumberBox

AXES = ("world", "layer")
SAID = {
    "world": "All is turned about the centre, place and facing: "
    "six with a turn of 60° about Y stand in a ring.",
    "layer": "Each copy goes on from where the last one faces.",
}


class OffsetDialog(QDialog):
    """Shown beside the work: the copies are there while numbers change, and are taken back by Cancel."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Duplicate with an offset")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self._before, self._selected, self._others = session.effect, session.selected, set(session.others)
        column = QVBoxLayout(self)
        form = QFormLayout()
        column.addLayout(form)
        self.count = self._box("Copies", (1, 20), (1, 100), 0, "")
        self.count.show_number(5)
        form.addRow("Copies", self.count)
        self.move_boxes = [self._box(f"Move {axis}", (-5, 5), (-1e5, 1e5), 2, "m") for axis in "XYZ"]
        self.turn_boxes = [
            self._box(f"Turn {axis}", (-180, 180), (-36_000, 36_000), 1, "°") for axis in "XYZ"
        ]
        self.centre_boxes = [self._box(f"Centre {axis}", (-5, 5), (-1e5, 1e5), 2, "m") for axis in "XYZ"]
        form.addRow("Step in place, m", _row(self.move_boxes))
        form.addRow("Step in turn, °", _row(self.turn_boxes))
        self.later = self._box("Later", (-1, 1), (-3600, 3600), 2, "s")
        form.addRow("Step in time, s", self.later)
        self.axes = Combo()
        self.axes.addItems(["In the world's axes", "In the layer's axes"])
        self.axes.setAccessibleName("Axes")
        self.axes.currentIndexChanged.connect(self._show)
        form.addRow("Axes", self.axes)
        form.addRow("About, m", _row(self.centre_boxes))
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(self.words)
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        ok = buttons.button(QDialogButtonBox.StandardButton.Ok)
        assert ok is not None
        ok.setText("Duplicate")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        for box in (*self.move_boxes, *self.turn_boxes, *self.centre_boxes, self.later):
            box.show_number(0.0)
        # A ring about the middle is what is wanted most; it shows what the numbers do.
        self.turn_boxes[1].show_number(60)
        self.rejected.connect(self._take_back)
        self._show()

    def _box(
        self, name: str, soft: tuple[float, float], hard: tuple[float, float], digits: int, unit: str
    ) -> NumberBox:
        box = NumberBox(soft, hard, digits, unit)
        box.setAccessibleName(name)
        box.edited.connect(lambda *_: self._show())
        return box

    def step(self) -> Step:
        """Return the step that is set."""
        move, turn, centre = (
            tuple(box.number for box in boxes)
            for boxes in (self.move_boxes, self.turn_boxes, self.centre_boxes)
        )
        return Step(move, turn, AXES[self.axes.currentIndex()], centre, self.later.number)  # type: ignore[arg-type]

    def _show(self) -> None:
        """Show the copies as they would be."""
        step = self.step()
        for box in self.centre_boxes:
            box.setEnabled(step.axes == "world")
        self._take_back()
        self.session.layers.repeat_stepped(int(self.count.number), step)
        effect = self.session.effect
        before = {layer.id for layer in self._before.layers}
        over = sum(layer.window.begin >= effect.duration for layer in effect.layers if layer.id not in before)
        late = (
            f" {over} of them would begin after the effect's {effect.duration:g} s are over." if over else ""
        )
        self.words.setText(SAID[step.axes] + late)

    def _take_back(self) -> None:
        session = self.session
        if session.document.give_up(self._before):
            session.selected, session.others = self._selected, set(self._others)
            session.effect_is_another()
            session.selection_changed.emit()


def _row(boxes: list[NumberBox]) -> QWidget:
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    for box in boxes:
        row.addWidget(box)
    return holder

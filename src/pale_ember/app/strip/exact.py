"""The held keys' numbers and eases, to be typed."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QWidget

from ...effect.kinds import Along
from ...effect.values.colors import Stop
from ...effect.values.curves import EASES, Key
from ..widgets import theme
from ..widgets.arithmetic import shown
from ..widgets.controls import Button, Combo
from ..widgets.number_box import NumberBox
from .host import Host

IDLE = "Click a line for a key; drag a box over keys to hold several. M opens the lane's menu."


# The meaning of 0 and 1 on each axis.
ENDS_OF: dict[str, str] = {
    Along.LIFE: "0 at birth, 1 at death",
    Along.CLOCK: "0 where the layer's window begins, 1 where it ends",
    Along.SPEED: "0 at rest, 1 at the field Speed range",
}


class Exact(QWidget):
    """Numbers of one key, or of several: what is typed goes to all; +3, -3 and *2 go by each one's own."""

    def __init__(self, strip: Host) -> None:
        super().__init__()
        self.strip, self.selection = strip, strip.selection
        self.words: dict[QWidget, QLabel] = {}
        self.setFixedHeight(30)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 3, 10, 3)
        row.setSpacing(6)
        self.said = QLabel()
        self.said.setStyleSheet(f"color: {theme.DIM};")
        # It gives way to the fields instead of widening the panel.
        self.said.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.said, 1)
        self.age = NumberBox((0, 1), (0, 1), 3)
        self.age.setAccessibleName("Key age")
        self.level = NumberBox()
        self.level.setAccessibleName("Key value")
        self.ease = Combo()
        self.ease.addItems(EASES)
        self.ease.setAccessibleName("Key ease")
        self.ease.setToolTip("How the curve goes on from this key")
        self.color = Button("Colour …")
        self.color.setToolTip("Choose the stop's colour")
        for label, widget in (("at", self.age), ("value", self.level), ("", self.ease), ("", self.color)):
            if label:
                widget.setFixedWidth(62)
                text = QLabel(label)
                text.setStyleSheet(f"color: {theme.DIM};")
                row.addWidget(text)
                self.words[widget] = text
            row.addWidget(widget)
        self.age.edited.connect(lambda _, merge: self.selection.set_numbers(x=self.age.change, merge=merge))
        self.level.edited.connect(
            lambda _, merge: self.selection.set_numbers(y=self.level.change, merge=merge)
        )
        self.age.olds = lambda: [float(point.x) for _, point in self.selection.points()]
        self.level.olds = lambda: [
            float(point.y) for _, point in self.selection.points() if isinstance(point, Key)
        ]
        for box in (self.age, self.level):
            box.refused.connect(self._refused)
            box.foretold.connect(lambda words: self.said.setText(words) if words else self.refresh())
        self.ease.textActivated.connect(self.selection.set_ease)
        self.color.clicked.connect(self._pick)
        self.selection.changed.connect(self.refresh)
        self.refresh()

    def _refused(self, words: str) -> None:
        if words:
            self.strip.session.said.emit(words)

    def _idle(self) -> None:
        """Say what can be done; as much of it as there is room for."""
        room = self.width() - 24
        self.said.setText(self.said.fontMetrics().elidedText(IDLE, Qt.TextElideMode.ElideRight, room))
        self.said.setToolTip(IDLE)

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show the numbers of the held keys."""
        points = [point for _, point in self.selection.points()]
        keys = [point for point in points if isinstance(point, Key)]
        stops = [point for point in points if isinstance(point, Stop)]
        for widget, here in (
            (self.age, bool(points)),
            (self.level, bool(keys)),
            (self.ease, bool(keys)),
            (self.color, bool(stops)),
        ):
            widget.setVisible(here)
            if widget in self.words:
                self.words[widget].setVisible(here)
        if not points or self.selection.main is None:
            self._idle()
            return
        lane = self.selection.lane_of(self.selection.main[0])
        label = lane.rule.label if lane is not None else ""
        lanes = len({held[0] for held in self.selection.held})
        self.said.setText(
            f"{len(points)} keys in {lanes} lanes"
            if lanes > 1
            else f"{len(points)} keys of {label.lower()}"
            if len(points) > 1
            else label
        )
        # The main key gives the number that is shown first.
        known = dict(self.selection.points())
        main = known.get(self.selection.main, points[0])
        self.age.setToolTip(
            "The key's place on the axis: "
            f"{ENDS_OF.get(self.strip.axis_name, '0 at its begin, 1 at its end')}"
        )
        self.age.show_number(main.x, len({point.x for point in points}) > 1)
        if keys:
            key = main if isinstance(main, Key) else keys[0]
            if lane is not None:
                rule = lane.rule
                self.level.soft, self.level.hard, self.level.digits = (
                    rule.soft,
                    rule.hard,
                    max(rule.digits, 2) + 1,
                )
                self.level.unit = rule.unit
                self.level.setToolTip(
                    f"The key's value {rule.unit}, now {shown(key.y, 5)}; it may be any number"
                )
            self.level.show_number(key.y, len({k.y for k in keys}) > 1)
            eases = {k.ease for k in keys}
            self.ease.setCurrentIndex(EASES.index(key.ease) if len(eases) == 1 else -1)

    def _pick(self) -> None:
        self.strip.pick_stops()

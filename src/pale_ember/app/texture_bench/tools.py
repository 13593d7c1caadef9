"""The row over the picture: back to the stage, channels, size, tiles, and the brush while there is
something to draw on.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QWidget

from ...effect.kinds import Channel
from ...effect.steps.drawn import Strokes
from ..widgets import theme
from ..widgets.controls import Button, Check, Combo, ToolButton
from ..widgets.number_box import NumberBox
from .bench import Bench
from .brush import Brush
from .on_the_bench import Look

HIGH = 34
LETTERS = {Channel.ALL: "All", Channel.RED: "R", Channel.GREEN: "G", Channel.BLUE: "B", Channel.ALPHA: "A"}


class Tools(QWidget):
    """Shows and changes how the picture is looked at."""

    def __init__(self, bench: Bench, brush: Brush) -> None:
        super().__init__()
        self.bench, self.brush = bench, brush
        self.setFixedHeight(HIGH)
        self.setAutoFillBackground(True)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 4, 8, 4)
        row.setSpacing(3)
        self.back = Button("Back")
        self.back.setToolTip("Leave the bench, back to the stage (N)")
        self.back.clicked.connect(bench.close)
        row.addWidget(self.back)
        row.addSpacing(6)
        self.channels: dict[Channel, ToolButton] = {}
        group = QButtonGroup(self)
        for channel, letter in LETTERS.items():
            button = ToolButton()
            button.setText(letter)
            button.setCheckable(True)
            button.setFixedSize(30 if channel == Channel.ALL else 24, 24)
            button.setToolTip(
                "All of the picture" if channel == Channel.ALL else f"Only its {channel} channel"
            )
            button.setAccessibleName(f"Show {channel}")
            button.clicked.connect(lambda _, channel=channel: bench.look_at(channel=channel))
            group.addButton(button)
            self.channels[channel] = button
            row.addWidget(button)
        row.addSpacing(6)
        self.look = Combo()
        self.look.addItems(list(Look))
        self.look.setAccessibleName("Size of the picture")
        self.look.setToolTip(
            "As large as there is room for, a pixel for a pixel, or as wide as its widest particle is "
            "on the stage"
        )
        self.look.setFixedWidth(90)
        self.look.textActivated.connect(lambda word: bench.look_at(look=Look(word)))
        row.addWidget(self.look)
        self.tiled = ToolButton()
        self.tiled.setText("Tiled")
        self.tiled.setCheckable(True)
        self.tiled.setFixedHeight(24)
        self.tiled.setAccessibleName("Tiled")
        self.tiled.setToolTip("Let the picture go on at all its sides")
        self.tiled.clicked.connect(lambda on: bench.look_at(tiled=bool(on)))
        row.addWidget(self.tiled)
        row.addStretch(1)
        self.brush_row = self._brush()
        row.addWidget(self.brush_row)
        bench.changed.connect(self.refresh)
        bench.looked.connect(self.refresh)
        brush.changed.connect(self.refresh)
        self.refresh()

    def _brush(self) -> QWidget:
        """Return the brush's numbers and its switch."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        rules = Strokes.model_fields["strokes"].annotation.__args__[0].rules()  # type: ignore[union-attr]
        self.numbers: dict[str, NumberBox] = {}
        for name in ("size", "softness", "strength"):
            rule = rules[name]
            label = QLabel(rule.label.lower())
            label.setStyleSheet(f"color: {theme.DIM};")
            box = NumberBox(rule.soft, rule.hard, 3 if name == "size" else 2)
            box.setFixedWidth(44)
            box.setAccessibleName(f"Brush {name}")
            box.setToolTip(f"{rule.help}{' Ctrl and the wheel change it too.' if name == 'size' else ''}")
            box.edited.connect(lambda number, _, name=name: self.brush.set(**{name: number}))
            row.addWidget(label)
            row.addWidget(box)
            self.numbers[name] = box
        self.erase = Check()
        self.erase.setText("erase")
        self.erase.setAccessibleName("Erase")
        self.erase.setToolTip("What is drawn takes away instead")
        self.erase.clicked.connect(lambda on: self.brush.set(erase=bool(on)))
        row.addWidget(self.erase)
        return holder

    def refresh(self) -> None:
        """Show how the picture is looked at now."""
        bench, brush = self.bench, self.brush
        for channel, button in self.channels.items():
            button.setChecked(channel == bench.channel)
        self.look.setCurrentText(bench.look)
        self.tiled.setChecked(bench.tiled)
        self.brush_row.setVisible(brush.ready)
        for name, box in self.numbers.items():
            box.show_number(float(getattr(brush, name)))
        self.erase.setCheckState(Qt.CheckState.Checked if brush.erase else Qt.CheckState.Unchecked)

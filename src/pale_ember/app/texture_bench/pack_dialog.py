"""Choosing which masks go into which channel of a new texture."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...effect.editing.build_moves import CHANNELS, MaskSource, named, packed, seeds_differ
from ...effect.errors import EffectError
from ...effect.kinds import Channel
from ...effect.steps import Finisher
from ...effect.textures import Texture
from ...files.texture_shelf import shelf
from ...textures.reading import ENDINGS
from ..widgets import theme
from ..widgets.controls import Combo, Line, ToolButton
from ..widgets.icons import icon
from .bench import Bench

NOTHING = "nothing"


def _after_steps(bench: Bench) -> list[Texture]:
    """Return what is on the bench as it is after each of its steps but the last."""
    texture, build = bench.texture, bench.build
    if texture is None or build is None:
        return []
    return [
        texture.model_copy(
            update={
                "name": f"{texture.name}, after {i + 1} {named(step).lower()}",
                "build": build.model_copy(update={"steps": build.steps[: i + 1]}),
            }
        )
        for i, step in enumerate(build.steps[:-1])
        if step.on and not isinstance(step, Finisher)
    ]


class PackDialog(QDialog):
    """A line for each channel: which texture, and which part of it."""

    def __init__(self, bench: Bench, parent: QWidget) -> None:
        super().__init__(parent)
        self.bench, self.session = bench, bench.session
        self.setWindowTitle("Pack masks")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setMinimumWidth(520)
        column = QVBoxLayout(self)
        said = QLabel(
            "Each channel of the new texture takes a mask: of a texture of this effect (or of one of "
            "its steps), of the shelf, or of a file."
        )
        said.setWordWrap(True)
        said.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(said)
        self.sources: list[Texture] = [*self.session.effect.textures]
        self.sources += _after_steps(bench)
        names = {texture.name for texture in self.sources}
        self.sources += [one.texture for one in shelf()[0] if one.name not in names]
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        self.choices: dict[Channel, Combo] = {}
        self.parts: dict[Channel, Combo] = {}
        for row, channel in enumerate(CHANNELS):
            label = QLabel(channel.capitalize())
            choice, part = Combo(), Combo()
            choice.setAccessibleName(f"Mask for {channel}")
            choice.setToolTip("Where the mask comes from")
            choice.addItem(NOTHING)
            for texture in self.sources:
                choice.addItem(texture.name)
            part.addItems(["cover" if one == Channel.ALL else str(one) for one in Channel])
            part.setAccessibleName(f"Part for {channel}")
            part.setToolTip("How much it covers, or one of its channels")
            browse = ToolButton()
            browse.setIcon(icon("open"))
            browse.setToolTip("Take the mask from a picture file")
            browse.setAccessibleName(f"Open a picture for {channel}")
            browse.clicked.connect(lambda _, channel=channel: self._browse(channel))
            for at, widget in enumerate((label, choice, part, browse)):
                grid.addWidget(widget, row, at)
            choice.currentIndexChanged.connect(self._enable)
            self.choices[channel], self.parts[channel] = choice, part
        self.name = Line()
        self.name.setText("masks")
        self.name.setAccessibleName("Name of the packed texture")
        grid.addWidget(QLabel("Name"), 4, 0)
        grid.addWidget(self.name, 4, 1, 1, 3)
        row_of_buttons = QHBoxLayout()
        row_of_buttons.addStretch(1)
        cancel, self.pack_button = QPushButton("Cancel"), QPushButton("Pack")
        cancel.clicked.connect(self.reject)
        self.pack_button.setDefault(True)
        self.pack_button.setToolTip("Make the texture and put it on the bench")
        self.pack_button.clicked.connect(self.pack)
        row_of_buttons.addWidget(cancel)
        row_of_buttons.addWidget(self.pack_button)
        column.addLayout(row_of_buttons)
        self._enable()
        self.choices[Channel.RED].setFocus(Qt.FocusReason.OtherFocusReason)

    def _browse(self, channel: Channel) -> None:
        endings = " ".join(f"*{ending}" for ending in ENDINGS)
        file, _ = QFileDialog.getOpenFileName(
            self, f"Choose a picture for {channel}", "", f"Pictures ({endings})"
        )
        if file:
            self.take_file(channel, file)

    def take_file(self, channel: Channel, file: str) -> None:
        """Let a channel take its mask from a picture file."""
        self.session.choose_picture(file)
        self.sources.append(Texture(name=Path(file).name, file=file))
        for choice in self.choices.values():
            choice.addItem(Path(file).name)
        self.choices[channel].setCurrentIndex(len(self.sources))
        # A picture file is most often grey: its red channel is its light.
        self.parts[channel].setCurrentText("red")

    def _enable(self) -> None:
        self.pack_button.setEnabled(any(choice.currentIndex() > 0 for choice in self.choices.values()))

    def chosen(self) -> dict[Channel, MaskSource]:
        """Return what is chosen for each channel."""
        found = {}
        for channel, choice in self.choices.items():
            if choice.currentIndex() > 0:
                part = list(Channel)[self.parts[channel].currentIndex()]
                found[channel] = MaskSource(self.sources[choice.currentIndex() - 1], part)
        return found

    def pack(self) -> None:
        """Make the texture and put it on the bench."""
        sources = self.chosen()
        try:
            texture = packed(self.name.text().strip() or "masks", sources)
        except EffectError as wrong:
            self.session.said.emit(wrong.sentence)
            return
        self.accept()
        self.bench.add_texture(texture, "Pack masks")
        if seeds_differ(sources.values()):
            self.session.said.emit(
                "The masks' builds had different seeds. In one build they have one, so some look "
                "otherwise; their steps' own seeds help."
            )

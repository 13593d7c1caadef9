"""The texture that the selected layer wears: what it is, its channels, its layout, and the usual ways to
play it.
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QIcon, QImage, QPixmap
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from ...effect.chapters.look import used_noises
from ...effect.editing.texture_moves import renamed_texture
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import Channel
from ...effect.textures import Texture
from ...files.textures import size_note
from ...textures.prepared import Prepared
from ...textures.reading import read_raw
from ...textures.sheets import find_layout
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Button, ToolButton
from .field_row import FieldRow
from .plays import PLAYS, first_play
from .texture_pictures import channel_image
from .wishes import Wishes

SIDE = 38
FIELDS = (
    "name",
    "file",
    "data",
    "cover",
    "layer",
    "columns",
    "rows",
    "frames",
    "margin",
    "gap",
    "beside",
    "smooth",
    "wrap",
    "normals",
    "motion",
    "motion_reach",
)
FILE_FIELDS = ("cover", "layer", "columns", "rows", "margin", "gap")
BUILD_FIELDS = ("beside",)


class NameRow(FieldRow):
    """The name of a texture; a new one is written into the layers that wear it too."""

    def edit(self, value: Any, merge: str = "", part: str = "", said: str = "Change {}") -> bool:
        """Call the texture otherwise, everywhere; a name that is taken or empty is refused in a sentence."""
        effect, old = self.session.effect, self.value
        if value == old:
            return True
        try:
            renamed = renamed_texture(effect, old, str(value))
        except EffectError as wrong:
            self.say_refused(wrong.reason)
            self.refresh()
            return False
        self.session.apply(renamed, f"Rename {old}")
        return True


class TextureBox(QWidget):
    """Fields of the effect's texture of that name; hidden while the layer wears a soft dot."""

    def __init__(self, session: Session, wishes: Wishes) -> None:
        super().__init__()
        self.session, self.wishes = session, wishes
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 4)
        column.setSpacing(1)
        self.title = QLabel()
        self.title.setStyleSheet(f"color: {theme.DIM}; padding: 6px 0 0 18px; font-weight: 600;")
        column.addWidget(self.title)
        column.addLayout(self._channels())
        self.note = QLabel()
        self.note.setWordWrap(True)
        self.note.setStyleSheet(f"color: {theme.DIM}; padding: 2px 4px 4px 18px;")
        column.addWidget(self.note)
        column.addLayout(self._deeds())
        self.rows: dict[str, FieldRow] = {}
        for name in FIELDS:
            kind = NameRow if name == "name" else FieldRow
            row = kind(
                session,
                wishes,
                Texture.rules()[name],
                functools.partial(self._path, name),
                Texture.default_of(name),
            )
            self.rows[name] = row
            column.addWidget(row)
        # The texture that the small pictures show.
        self._pictured: Prepared | None = None
        session.textures_changed.connect(self._changed)

    def _channels(self) -> QHBoxLayout:
        """Return a line of small pictures: all of it, and each channel; a click takes that one."""
        line = QHBoxLayout()
        line.setContentsMargins(18, 3, 0, 2)
        line.setSpacing(4)
        self.channels: dict[Channel, ToolButton] = {}
        for channel in Channel:
            button = ToolButton()
            button.setIcon(_icon(None, channel))
            button.setCheckable(True)
            button.setIconSize(QSize(SIDE, SIDE))
            button.setFixedSize(SIDE + 4, SIDE + 4)
            button.setStyleSheet(
                f"QToolButton {{ padding: 0; border: 1px solid transparent; }} QToolButton:checked {{ "
                f"border-color: {theme.EMBER}; }}"
                f"QToolButton:focus {{ border-color: {theme.BRIGHT}; }}"
            )
            button.setAccessibleName(f"Channel {channel}")
            button.setToolTip(
                "All of the picture" if channel == Channel.ALL else f"Only its {channel} channel, as a mask"
            )
            button.clicked.connect(lambda _, channel=channel: self._take_channel(channel))
            button.installEventFilter(self)
            self.channels[channel] = button
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _deeds(self) -> QHBoxLayout:
        """Return the line of buttons for a sheet and the bench."""
        line = QHBoxLayout()
        line.setContentsMargins(18, 0, 0, 4)
        self.play = Button("Play")
        self.play.setToolTip("The usual ways to play a sheet")
        menu = QMenu(self.play)
        for words, tip, values in PLAYS:
            action = menu.addAction(words)
            assert action is not None
            action.setToolTip(tip)
            action.triggered.connect(lambda _, words=words, values=values: self._play(words, values))
        self.play.setMenu(menu)
        self.finder = Button("Find the layout")
        self.finder.setToolTip("Look for the columns, rows and frames of the sheet in the picture")
        self.finder.clicked.connect(self.find_layout)
        self.on_bench = Button("To the bench")
        self.on_bench.setToolTip("Change how it is made (N); a double-click on its picture does the same")
        self.on_bench.clicked.connect(self.open_bench)
        line.addWidget(self.on_bench)
        line.addWidget(self.play)
        line.addWidget(self.finder)
        line.addStretch(1)
        return line

    def open_bench(self) -> None:
        """Put the texture on the bench."""
        texture = self.texture
        if texture is not None:
            self.wishes.bench.emit(texture.name)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """A double-click on a picture puts the texture on the bench."""
        if (
            event is not None
            and event.type() == QEvent.Type.MouseButtonDblClick
            and watched in self.channels.values()
        ):
            self.open_bench()
            return True
        return super().eventFilter(watched, event)

    @property
    def texture(self) -> Texture | None:
        """Return the texture that the selected layer wears."""
        layer = self.session.layer
        return None if layer is None else self.session.effect.texture(layer.look.texture)

    @property
    def ready(self) -> Prepared | None:
        texture = self.texture
        return None if texture is None else self.session.textures.state.ready.get(texture.name)

    def _path(self, name: str) -> str:
        texture = self.texture
        at = 0 if texture is None else self.session.effect.textures.index(texture)
        return f"textures[{at}].{name}"

    def _changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show what the effect has now."""
        texture = self.texture
        self.setVisible(texture is not None)
        if texture is None or self.session.layer is None:
            return
        self.title.setText(f"Texture “{texture.name}”")
        self.note.setText(self._said(texture))
        ready = self.ready
        for channel, button in self.channels.items():
            if ready is not self._pictured:
                button.setIcon(_icon(ready, channel))
            button.setChecked(self.session.layer.look.channel == channel)
        self._pictured = ready
        self.play.setVisible(texture.count > 1)
        self.finder.setVisible(bool(texture.file))
        for name, row in self.rows.items():
            shown = name not in (BUILD_FIELDS if texture.file else FILE_FIELDS)
            if name == "motion_reach":
                shown = bool(texture.motion)
            if name == "layer":
                shown = texture.file.lower().endswith(".exr")
            row.setVisible(shown)
            if shown:
                row.refresh()

    def _said(self, texture: Texture) -> str:
        """Return what is known of a texture, or how far it is made, in a sentence."""
        ready, state = self.ready, self.session.textures.state
        if state.working == texture.name:
            return f"Being made, {100 * state.share:.0f} % …"
        if ready is None:
            return "Being read …" if not self._is_wrong(texture) else "A soft dot stands in for it."
        wide, high = ready.size
        frames = f"{ready.frames} frames of " if ready.frames > 1 else ""
        more = [
            word for word, part in (("normals", ready.normals), ("motion", ready.motion)) if part is not None
        ]
        made = "" if texture.file else f", made by {len(texture.build.steps) if texture.build else 0} steps"
        said = (
            f"{frames}{wide} × {high} pixels, {ready.memory / 2**20:.1f} MB, covers "
            f"{100 * ready.covered:.0f} %{made}"
        )
        said += f"; with {' and '.join(more)}." if more else "."
        note = size_note(texture, ready, self._widest(), _masks_of(self.session.effect, texture.name))
        return said + (f" {note[:1].upper()}{note[1:]}" if note else "")

    def _is_wrong(self, texture: Texture) -> bool:
        start = self._path("")
        return any(wrong.place.startswith(start) for wrong in self.session.textures.state.problems)

    def _widest(self) -> float:
        """Return how wide the layer's particles are on the screen at most, pixels."""
        session = self.session
        drawn = next((one for one in session.moment.layers if one.id == session.selected), None)
        if drawn is None or not len(drawn.instances):
            return 0.0
        metre = 700.0 / (2.0 * np.tan(np.radians(session.camera.view) / 2) * session.camera.distance)
        return float(drawn.instances["size"].max()) * float(metre)

    # Deeds

    def _take_channel(self, channel: Channel) -> None:
        self.session.edit_chosen(
            [(self.session.layer_path("look.channel"), str(channel))], f"Channel {channel}"
        )
        self.refresh()

    def _play(self, words: str, values: Callable[[int], dict[str, Any]]) -> None:
        texture = self.texture
        if texture is not None:
            edits = [
                (self.session.layer_path(f"look.{name}"), value)
                for name, value in values(texture.count).items()
            ]
            self.session.edit_chosen(edits, f"Play: {words.lower()}")

    def find_layout(self) -> None:
        """Give the texture the layout that its picture seems to have."""
        texture = self.texture
        if texture is None or not texture.file:
            return
        try:
            found = find_layout(read_raw(texture.file, texture.layer).pixels)
        except EffectError as wrong:
            self.session.said.emit(wrong.sentence)
            return
        frames = 0 if found.frames == found.columns * found.rows else found.frames
        layout = {
            "columns": found.columns,
            "rows": found.rows,
            "frames": frames,
            "margin": found.margin,
            "gap": found.gap,
        }
        edits: list[tuple[str, Any]] = [(self._path(name), value) for name, value in layout.items()]
        if all(getattr(texture, name) == value for name, value in layout.items()):
            self.session.said.emit(f"It is laid out so already: {found.columns} × {found.rows}.")
        else:
            layer = self.session.layer
            assert layer is not None
            laid = texture.model_copy(update=layout)
            edits += [
                (self.session.layer_path(f"look.{name}"), value)
                for name, value in first_play(laid, layer.look).items()
            ]
            if self.session.edit_many(edits, "Find the layout"):
                self.session.said.emit(f"{found.columns} × {found.rows}, {found.frames} frames.")


def _icon(ready: Prepared | None, channel: Channel) -> QIcon:
    if ready is None:
        blank = QPixmap(SIDE, SIDE)
        blank.fill(theme.color(theme.ASH_0))
        return QIcon(blank)
    pixels = channel_image(ready, channel, SIDE)
    image = QImage(pixels.data, SIDE, SIDE, SIDE * 4, QImage.Format.Format_RGBA8888).copy()  # type: ignore[call-overload]
    return QIcon(QPixmap.fromImage(image).scaled(SIDE, SIDE, Qt.AspectRatioMode.KeepAspectRatio))


def _masks_of(effect: Effect, name: str) -> list[Channel]:
    """Return which channels layers read of a texture; all of them is one."""
    found = [layer.look.channel for layer in effect.layers if layer.look.texture == name]
    return found + [
        noise.channel
        for layer in effect.layers
        for noise in used_noises(layer.look).values()
        if noise.texture == name
    ]

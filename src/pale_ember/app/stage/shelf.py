"""What an empty effect offers on the stage: moving starts, recent files and the demos; one click and it
burns.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPainter
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from ...demo import layers_folder
from ...effect.effect import Effect
from ...files.library import Start, starts
from ..session.new_layer import new_layer
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Button, ToolButton
from .moving_pictures import MovingPictures, blank_icon
from .stage import Stage

PICTURE = QSize(190, 116)
MOST_RECENT = 5
PLAIN = "Plain layer"
SAID = "A click adds it to the empty effect. Everything in it can be changed, and taken back."


class Shelf(QWidget):
    """Covers the stage while the effect has no layers."""

    chosen = pyqtSignal(object)  # a Start to begin with
    blank_wanted = pyqtSignal()  # a new plain layer
    file_wanted = pyqtSignal(str)
    demo_wanted = pyqtSignal(str)

    def __init__(self, session: Session, stage: Stage, demos: dict[str, str]) -> None:
        super().__init__(stage)
        self.session, self.stage = session, stage
        self.found: list[Start] = []
        self.tiles: list[ToolButton] = []
        self.setAccessibleName("Shelf")
        self.moving = MovingPictures(stage, PICTURE, self)
        self.moving.turned.connect(self._picture)
        self.moving.preparing.connect(self._prepare)
        self.area = QScrollArea(self)
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        holder = QWidget()
        self.area.setWidget(holder)
        column = QVBoxLayout(holder)
        column.setContentsMargins(28, 22, 28, 22)
        column.setSpacing(6)
        title = QLabel("Start with something that moves")
        title.setStyleSheet(f"font-size: 17px; font-weight: 600; color: {theme.BRIGHT};")
        column.addWidget(title)
        self.said = QLabel(SAID)
        self.said.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(self.said)
        column.addSpacing(6)
        self.grid = QGridLayout()
        self.grid.setSpacing(8)
        column.addLayout(self.grid)
        column.addSpacing(10)
        self.demos = self._row("Demos", column)
        for name, words in demos.items():
            button = Button(words)
            button.setToolTip(f"Open the demo “{words}”")
            button.clicked.connect(lambda _, name=name: self.demo_wanted.emit(name))
            self.demos.insertWidget(self.demos.count() - 1, button)
        self.recent = self._row("Recent files", column)
        self.recent_title = self._titles[-1]
        column.addStretch(1)
        stage.installEventFilter(self)
        self.paths: tuple[str, ...] = ()
        self.recent_title.hide()
        self.hide()

    def _prepare(self, done: int, total: int, what: str) -> None:
        """Say what keeps the pictures at the first start on a machine."""
        words = (
            f"Compiling {what} for this machine, {done + 1} of {total}: once, about half a minute. Then "
            "they move."
        )
        self.said.setText(words if what else SAID)

    _titles: list[QLabel]

    def _row(self, title: str, column: QVBoxLayout) -> QHBoxLayout:
        label = QLabel(title)
        label.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; padding-top: 4px;")
        column.addWidget(label)
        self._titles = [*getattr(self, "_titles", []), label]
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addStretch(1)
        column.addLayout(row)
        return row

    def show_recent(self, paths: list[str]) -> None:
        """Show the files that were open lately."""
        paths = [path for path in paths if Path(path).exists()][:MOST_RECENT]
        if tuple(paths) == self.paths:
            return
        self.paths = tuple(paths)
        while self.recent.count() > 1:
            item = self.recent.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.deleteLater()
        for path in paths:
            button = Button(self.fontMetrics().elidedText(Path(path).stem, Qt.TextElideMode.ElideMiddle, 150))
            button.setToolTip(path)
            button.clicked.connect(lambda _, path=path: self.file_wanted.emit(path))
            self.recent.insertWidget(self.recent.count() - 1, button)
        self.recent_title.setVisible(bool(paths))

    def refresh(self) -> None:
        """Be there as long as the effect is empty."""
        empty = not self.session.effect.layers
        if empty and self.isHidden():
            self._fill()
            self.show()
            self.raise_()
        elif not empty and not self.isHidden():
            self.moving.rest()
            self.hide()

    def _fill(self) -> None:
        """Make the tiles of all starts anew."""
        self.found, wrong = starts(layers_folder())
        plain = Effect(layers=(new_layer(Effect()).model_copy(update={"id": "plain"}),))
        self.found.append(Start(PLAIN, plain, Path(PLAIN), False))
        for tile in self.tiles:
            tile.deleteLater()
        self.tiles = []
        for start in self.found:
            is_plain = start.name == PLAIN
            tip = "Soft dots that rise: a layer to build from (Ctrl+L)" if is_plain else f"Add {start.name}"
            tile = self._tile(start.name, blank_icon(PICTURE), tip)
            if is_plain:
                tile.clicked.connect(self.blank_wanted)
            else:
                tile.clicked.connect(lambda _, start=start: self.chosen.emit(start))
        self._lay_out()
        self.moving.show(self.found)
        for words in wrong[:1]:
            self.session.said.emit(words)

    def _tile(self, words: str, icon: QIcon, tip: str) -> ToolButton:
        tile = ToolButton()
        tile.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        tile.setIconSize(PICTURE)
        tile.setIcon(icon)
        tile.setText(words)
        tile.setAccessibleName(words)
        tile.setToolTip(tip)
        tile.setFixedSize(PICTURE.width() + 10, PICTURE.height() + 30)
        self.tiles.append(tile)
        return tile

    def _lay_out(self) -> None:
        across = max((self.width() - 56) // (PICTURE.width() + 18), 1)
        for i, tile in enumerate(self.tiles):
            self.grid.addWidget(tile, i // across, i % across)
        self.grid.setColumnStretch(across, 1)

    def _picture(self, number: int, icon: QIcon) -> None:
        if number < len(self.tiles):
            self.tiles[number].setIcon(icon)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Cover the whole stage, whatever gives it another size."""
        if watched is self.stage and event is not None and event.type() == QEvent.Type.Resize:
            self.setGeometry(self.stage.rect())
        return False

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.area.setGeometry(self.rect())
        self._lay_out()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        painter.end()

"""The layer library as a grid of pictures: a click adds the layer."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QKeyEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QWidget,
)

from ...demo import layers_folder
from ...effect.editing.texture_moves import worn_by
from ...files.library import starts
from ..session.session import Session
from ..widgets import theme
from ..widgets.controls import Check
from ..widgets.sheet import Sheet
from .moving_pictures import MovingPictures
from .picture_grid import add_item, picture_grid
from .stage import Stage

PICTURE = QSize(150, 96)


class LibraryView(Sheet):
    """All layers to start from. The pictures move: each is a simulated second of its layer."""

    def __init__(self, session: Session, stage: Stage, parent: QWidget) -> None:
        super().__init__(parent, "Layer library", QSize(700, 520))
        self.session, self.stage = session, stage
        column = self.column
        said = QLabel("Choose what to start from. It is added behind the selected layer.")
        said.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(said)
        self.list = picture_grid(PICTURE, "Layers to start from")
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.forget = QPushButton("Delete from library")
        self.forget.setToolTip("Delete the chosen layer's file; only layers of your own can be deleted")
        self.forget.clicked.connect(self._forget)
        add = QPushButton("Add")
        add.setDefault(True)
        add.setToolTip("Add the chosen layer (Enter)")
        add.clicked.connect(self.add_chosen)
        row.addWidget(self.forget)
        self.follow = Check()
        layer = session.layer
        self.follow.setText(f"Let it follow {layer.name}" if layer is not None else "")
        self.follow.setChecked(layer is not None)
        self.follow.setToolTip(
            "It starts at events of the selected layer's particles; else what it follows is added too"
        )
        row.addWidget(self.follow)
        row.addStretch(1)
        row.addWidget(add)
        column.addLayout(row)
        self.list.itemDoubleClicked.connect(lambda _: self.add_chosen())
        self.list.currentItemChanged.connect(lambda *_: self._enable())
        self.moving = MovingPictures(stage, PICTURE, self)
        self.moving.turned.connect(self._show_picture)
        self._fill()
        self.list.setFocus()

    def _fill(self) -> None:
        self.found, wrong = starts(layers_folder())
        self.list.clear()
        for start in self.found:
            add_item(self.list, start.name, start.own, f"Add {start.name}")
        self.moving.show(self.found)
        self.list.setCurrentRow(0)
        for words in wrong[:1]:
            self.session.said.emit(words)
        self._enable()

    def _enable(self) -> None:
        row = self.list.currentRow()
        follows = 0 <= row < len(self.found) and bool(self.found[row].follow_ups)
        self.follow.setVisible(follows and self.session.layer is not None)
        self.forget.setEnabled(0 <= row < len(self.found) and self.found[row].own)

    def _show_picture(self, row: int, picture: QIcon) -> None:
        item = self.list.item(row)
        if item is not None:
            item.setIcon(picture)

    def add_chosen(self) -> None:
        """Add the chosen layer and close."""
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            start = self.found[row]
            if start.follow_ups and self.follow.isChecked():
                self.session.links.add_to_follow(start.effect, start.name)
            else:
                self.session.layers.add_many(
                    start.effect.layers, f"Add {start.name}", worn_by(start.effect, start.effect.layers)
                )
            self.accept()

    def _forget(self) -> None:
        start = self.found[self.list.currentRow()]
        if start.own:
            start.path.unlink(missing_ok=True)
            self._fill()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.add_chosen()
            return
        super().keyPressEvent(event)

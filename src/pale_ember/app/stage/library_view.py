"""The layer library as a grid of pictures: a click adds the layer."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtGui import QIcon, QKeyEvent, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...demo import layers_folder
from ...drawing import moment_of
from ...drawing.camera import framed
from ...drawing.moment import bounds
from ...files.library import Start, starts
from ...simulation import Simulation
from ..session.session import Session
from ..widgets import theme
from .stage import Stage

PICTURE = QSize(150, 96)
FRAMES = 12
FRAME_MS = 90


class LibraryView(QDialog):
    """All layers to start from. The pictures move: each is a simulated second of its layer."""

    def __init__(self, session: Session, stage: Stage, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.stage = session, stage
        self.setWindowTitle("Layer library")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(700, 520)
        column = QVBoxLayout(self)
        said = QLabel("Choose what to start from. It is added behind the selected layer.")
        said.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(said)
        self.list = QListWidget()
        self.list.setViewMode(QListWidget.ViewMode.IconMode)
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setMovement(QListWidget.Movement.Static)
        self.list.setIconSize(PICTURE)
        self.list.setGridSize(QSize(PICTURE.width() + 12, PICTURE.height() + 30))
        self.list.setAccessibleName("Layers to start from")
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
        row.addStretch(1)
        row.addWidget(add)
        column.addLayout(row)
        self.list.itemDoubleClicked.connect(lambda _: self.add_chosen())
        self.list.currentItemChanged.connect(lambda *_: self._enable())
        self.pictures: dict[int, list[QIcon]] = {}
        self._frame = 0
        self._fill()
        self.work = QTimer(self)
        self.work.timeout.connect(self._make_next)
        self.work.start(1)
        self.motion = QTimer(self)
        self.motion.timeout.connect(self._turn_over)
        self.motion.start(FRAME_MS)

    def _fill(self) -> None:
        self.found, wrong = starts(layers_folder())
        self.pictures = {}
        self.list.clear()
        for start in self.found:
            item = QListWidgetItem(start.name + ("  (own)" if start.own else ""))
            item.setToolTip(f"Add {start.name}")
            blank = QPixmap(PICTURE)
            blank.fill(theme.color(theme.ASH_0))
            item.setIcon(_plain(blank))
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        for words in wrong[:1]:
            self.session.said.emit(words)
        self._enable()

    def _enable(self) -> None:
        row = self.list.currentRow()
        self.forget.setEnabled(0 <= row < len(self.found) and self.found[row].own)

    def _make_next(self) -> None:
        """Draw the pictures of one more layer; one at a time, so that the window stays awake."""
        row = next((i for i in range(len(self.found)) if i not in self.pictures), None)
        if row is None:
            self.work.stop()
        else:
            self.pictures[row] = self._pictures_of(self.found[row])
            self.list.item(row).setIcon(self.pictures[row][0])  # type: ignore[union-attr]

    def _pictures_of(self, start: Start) -> list[QIcon]:
        sim = Simulation(start.effect)
        begin = 0.05 if start.layer.emit.bursts else 1.5
        sim.seek(begin + 0.5)
        camera, box = start.effect.stage.camera, bounds(moment_of(sim))
        # Weather is seen from inside, all else as a whole.
        if box is not None and not start.layer.birthplace.around_camera:
            camera = framed(camera, *box)
            camera = camera.model_copy(update={"distance": camera.distance * 0.6})
        found = []
        for frame in range(FRAMES):
            sim.seek(begin + frame / FRAMES)
            image = self.stage.picture_of(moment_of(sim), (PICTURE.width(), PICTURE.height()), camera)
            found.append(_plain(QPixmap.fromImage(image)))
        return found

    def _turn_over(self) -> None:
        self._frame += 1
        for row, icons in self.pictures.items():
            item = self.list.item(row)
            if item is not None:
                item.setIcon(icons[self._frame % len(icons)])

    def add_chosen(self) -> None:
        """Add the chosen layer and close."""
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            self.session.add(self.found[row].layer)
            self.accept()

    def _forget(self) -> None:
        start = self.found[self.list.currentRow()]
        if start.own:
            start.path.unlink(missing_ok=True)
            self._fill()
            self.work.start(1)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.add_chosen()
            return
        super().keyPressEvent(event)


def _plain(picture: QPixmap) -> QIcon:
    """Return an icon that looks the same when it is selected."""
    found = QIcon(picture)
    found.addPixmap(picture, QIcon.Mode.Selected)
    return found

"""The shelf as a grid of pictures: a double-click takes one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from queue import SimpleQueue

from PyQt6.QtCore import QObject, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QIcon, QImage, QKeyEvent, QPixmap
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QWidget,
)

from ...effect.chapters.look import Look as LayerLook
from ...effect.editing.texture_moves import free_texture_name, with_textures
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.textures import MOST_STEPS
from ...files.chosen_pictures import trusted_from
from ...files.texture_shelf import Shelved, shelf
from ...files.textures import load_texture
from ...newest import Newest
from ...textures.coarse import shrunk
from ...textures.showing import thumbnail
from ..recipe.plays import first_play
from ..stage.moving_pictures import plain_icon
from ..stage.picture_grid import add_item, picture_grid
from ..widgets import theme
from ..widgets.controls import Line
from ..widgets.sheet import Sheet
from .bench import Bench
from .step_pictures import as_rgb

SIDE = 104
FRAME_MS = 90
MOST_FRAMES = 16
# Light enough for dark ones, dark enough for light ones.
GROUND = (66, 63, 61)


# The textures that pictures are wanted of, and the queue that each picture goes to with its index.
Wanted = tuple[list[Shelved], SimpleQueue[tuple[int, list[QImage]]]]


class ShelfPictures(QObject):
    """Makes small pictures of textures in a thread, and turns those of sheets over."""

    turned = pyqtSignal(int, QIcon)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._queue: SimpleQueue[tuple[int, list[QImage]]] = SimpleQueue()
        # It outlives this object now and then, so it knows nothing of it.
        self._newest: Newest[Wanted] = Newest("shelf", _make)
        self._newest.end_with(self)
        self._icons: dict[int, list[QIcon]] = {}
        self._frame = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._turn_over)

    def show(self, found: Sequence[Shelved]) -> None:
        """Show pictures of these."""
        self._queue, self._icons = SimpleQueue(), {}
        self._newest.ask((list(found), self._queue))
        self._timer.start(FRAME_MS)

    def end(self) -> None:
        """Make no more."""
        self._newest.end(0.0)

    def _turn_over(self) -> None:
        while not self._queue.empty():
            row, images = self._queue.get()
            self._icons[row] = [plain_icon(QPixmap.fromImage(image)) for image in images]
            self.turned.emit(row, self._icons[row][0])
        self._frame += 1
        for row, icons in self._icons.items():
            if len(icons) > 1:
                self.turned.emit(row, icons[self._frame % len(icons)])


def _make(wanted: Wanted, overtaken: Callable[[], bool]) -> None:
    """Put small pictures of textures into a queue, each with its place among those wanted."""
    found, queue = wanted
    for row, one in enumerate(found):
        if overtaken():
            return
        try:
            small = shrunk(one.texture, SIDE, MOST_FRAMES)
            folder = None if one.path is None else one.path.parent
            ready = load_texture(
                Effect(textures=(small, *one.beside)),
                small,
                trusted_from(folder),
                lambda share: overtaken(),
            )
        except EffectError:
            continue  # it can't be made; its picture stays dark
        if ready is not None:
            queue.put((row, [as_rgb(thumbnail(ready, frame, SIDE, GROUND)) for frame in range(ready.frames)]))


class ShelfView(Sheet):
    """All textures to start from."""

    def __init__(self, bench: Bench, parent: QWidget) -> None:
        super().__init__(parent, "Textures to start from", QSize(780, 600))
        self.bench, self.session = bench, bench.session
        column = self.column
        said = QLabel(
            "Choose what to start from. All of it is made by steps, and can be changed on the bench."
        )
        said.setStyleSheet(f"color: {theme.DIM};")
        column.addWidget(said)
        self.search = Line()
        self.search.setPlaceholderText("Find a texture")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Find a texture")
        self.search.textChanged.connect(self._look)
        column.addWidget(self.search)
        self.list = picture_grid(QSize(SIDE, SIDE), "Textures to start from")
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.forget = QPushButton("Delete from shelf")
        self.forget.setToolTip("Delete the chosen texture's file; only textures of your own can be deleted")
        self.forget.clicked.connect(self._forget)
        self.add_steps = QPushButton("Add its steps")
        self.add_steps.setToolTip("Put its steps behind the one in view on the bench")
        self.add_steps.clicked.connect(self.take_steps)
        self.take_button = QPushButton("Take it" if bench.is_open else "Wear it")
        self.take_button.setDefault(True)
        words = (
            "Let it stand in the place of what is on the bench"
            if bench.is_open
            else "Let the selected layers wear it, and put it on the bench"
        )
        self.take_button.setToolTip(f"{words} (Enter)")
        self.take_button.clicked.connect(self.take)
        row.addWidget(self.forget)
        row.addStretch(1)
        row.addWidget(self.add_steps)
        row.addWidget(self.take_button)
        column.addLayout(row)
        self.list.itemDoubleClicked.connect(lambda _: self.take())
        self.list.currentItemChanged.connect(lambda *_: self._enable())
        self.pictures = ShelfPictures(self)
        self.pictures.turned.connect(self._show_picture)
        self.finished.connect(self.pictures.end)
        self._fill()
        self.list.setFocus()

    def _fill(self) -> None:
        """Make the tiles of all starts of textures anew."""
        self.found, wrong = shelf()
        self.list.clear()
        for one in self.found:
            frames = one.texture.count
            steps = len(one.texture.build.steps) if one.texture.build is not None else 0
            add_item(
                self.list,
                one.name,
                one.own,
                f"{one.name}: {f'{frames} frames, ' if frames > 1 else ''}{steps} steps",
            )
        self.pictures.show(self.found)
        self.list.setCurrentRow(0)
        for words in wrong[:1]:
            self.session.said.emit(words)
        self._enable()

    def _look(self) -> None:
        typed = self.search.text().strip().lower()
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None:
                item.setHidden(typed not in item.text().lower())
        if self.chosen is None:
            # Enter takes the first that is found.
            rows = range(self.list.count())
            self.list.setCurrentRow(next((row for row in rows if not self.list.isRowHidden(row)), -1))
        self._enable()

    @property
    def chosen(self) -> Shelved | None:
        row = self.list.currentRow()
        item = self.list.item(row)
        return self.found[row] if item is not None and not item.isHidden() and row < len(self.found) else None

    def _enable(self) -> None:
        chosen = self.chosen
        self.forget.setEnabled(chosen is not None and chosen.own)
        self.add_steps.setEnabled(
            chosen is not None and self.bench.build is not None and chosen.texture.build is not None
        )
        self.take_button.setEnabled(chosen is not None)

    def _show_picture(self, row: int, picture: QIcon) -> None:
        item = self.list.item(row)
        if item is not None:
            item.setIcon(picture)

    # Deeds

    def take(self) -> None:
        """Take the chosen texture: onto the bench, or on the selected layers."""
        chosen = self.chosen
        if chosen is None:
            return
        self.accept()
        if self.bench.is_open:
            self.bench.replace(chosen.texture, f"Take {chosen.name}", chosen.beside)
        else:
            self._wear(chosen)

    def _wear(self, chosen: Shelved) -> None:
        """Let the selected layer wear a start of the shelf."""
        session = self.session
        try:
            effect, _ = with_textures(session.effect, (), (*chosen.beside, chosen.texture))
            known = session.effect.texture(chosen.name)
            name = (
                chosen.name
                if known is None or known == chosen.texture
                else free_texture_name(session.effect, chosen.name)
            )
            texture = effect.texture(name)
            assert texture is not None
            for layer_id in session.chosen_first:
                at = session.layer_path("look", layer_id)
                look = effect.layer(layer_id).look
                assert isinstance(look, LayerLook)
                for field, value in {"texture": name, **first_play(texture, look)}.items():
                    effect = effect.edit(f"{at}.{field}", value)
        except EffectError as wrong:
            session.said.emit(f"{chosen.name} is not taken. {wrong.sentence}")
            return
        session.apply(effect, f"Wear {chosen.name}")
        self.bench.open(name)

    def take_steps(self) -> None:
        """Put the chosen texture's steps behind the one in view."""
        chosen, bench = self.chosen, self.bench
        if chosen is None or chosen.texture.build is None or bench.build is None:
            return
        fresh = chosen.texture.build.steps
        if len(bench.steps) + len(fresh) > MOST_STEPS:
            self.session.said.emit(
                f"A build has at most {MOST_STEPS} steps; these would be {len(bench.steps) + len(fresh)}."
            )
            return
        self.accept()
        at = bench.index + 1
        bench.give(
            (*bench.steps[:at], *fresh, *bench.steps[at:]),
            f"Add the steps of {chosen.name}",
            at + len(fresh) - 1,
        )

    def _forget(self) -> None:
        chosen = self.chosen
        if chosen is not None and chosen.path is not None:
            chosen.path.unlink(missing_ok=True)
            self._fill()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
            return
        super().keyPressEvent(event)

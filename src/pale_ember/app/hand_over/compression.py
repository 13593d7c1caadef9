"""Textures beside what compression makes of them, and how each is stored."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QListWidget, QSplitter, QVBoxLayout, QWidget

from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import TextureForm
from ...files.bundle.baking import Sheet, baked_sheets, blocks_of, chosen, file_of
from ...newest import Newest
from ...textures.compressing import Blocks, Proposal, as_four, decompressed, unstored
from ..widgets import theme
from ..widgets.controls import Button, Combo
from .hand_over_work import HandOverWork

VIEWS = ("Colour", "Alpha", "Difference × 8")
AS_ALL = "as all"


@dataclass(frozen=True)
class Compared:
    """A picture before and after: both (height, width, 4), how it is stored, and the bytes of both files."""

    sheet: Sheet
    before: NDArray[np.uint8]
    after: NDArray[np.uint8]
    how: Proposal
    plain: int
    packed: int


def compare(sheet: Sheet, blocks: Blocks | None) -> Compared:
    """Return a picture beside what becomes of it in a form; in the one that it asks for without."""
    how = chosen(sheet, blocks)
    before = as_four(sheet.pixels)
    after = before
    if how.blocks != Blocks.PLAIN:
        after = unstored(decompressed(how.first, before.shape[1], before.shape[0], how.blocks), how.swizzle)
    packed = len(file_of(sheet, how)[1])
    return Compared(sheet, before, after, how, before.nbytes * 4 // 3, packed)


class Pair(QWidget):
    """Two pictures side by side, moved and enlarged together."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(520, 300)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The texture before and after")
        self.setToolTip("Wheel to come nearer, drag to move, double-click to see all")
        self._images: tuple[QImage, QImage] | None = None
        self._words = ("", "")
        self._scale, self._middle = 0.0, QPointF()
        self._press: QPointF | None = None

    def show_pair(self, before: QImage, after: QImage, words: tuple[str, str], anew: bool) -> None:
        """Show two pictures; ``anew`` all of them."""
        self._images, self._words = (before, after), words
        if anew or self._scale == 0.0:
            self.see_all()
        self.update()

    def clear(self, words: str) -> None:
        """Show words in place of pictures."""
        self._images, self._words = None, (words, "")
        self.update()

    def see_all(self) -> None:
        """Show the pictures whole."""
        if self._images is not None:
            image = self._images[0]
            self._scale = min((self.width() / 2 - 12) / image.width(), (self.height() - 34) / image.height())
            self._middle = QPointF(image.width() / 2, image.height() / 2)
            self.update()

    def _half(self, side: int) -> QRectF:
        wide = self.width() / 2
        return QRectF(side * wide + (2 if side else 0), 26, wide - 2, self.height() - 26)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        painter.setPen(theme.color(theme.TEXT))
        if self._images is None:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._words[0])
            painter.end()
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._scale < 1.0)
        for side, image in enumerate(self._images):
            half = self._half(side)
            painter.drawText(
                QRectF(half.left() + 8, 0, half.width() - 12, 26),
                Qt.AlignmentFlag.AlignVCenter,
                self._words[side],
            )
            painter.save()
            painter.setClipRect(half)
            size = QPointF(image.width(), image.height()) * self._scale
            corner = half.center() - self._middle * self._scale
            painter.drawImage(QRectF(corner.x(), corner.y(), size.x(), size.y()), image)
            painter.restore()
        painter.end()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if self._images is None:
            return
        half = self._half(int(event.position().x() > self.width() / 2))
        off = event.position() - half.center()
        under = self._middle + off / self._scale
        self._scale = min(max(self._scale * 1.0015 ** event.angleDelta().y(), 0.05), 32.0)
        self._middle = under - off / self._scale
        self.update()
        event.accept()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._press = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._press is not None and self._scale > 0:
            self._middle -= (event.position() - self._press) / self._scale
            self._press = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._press = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.see_all()


class CompressionView(QDialog):
    """A list of the effect's textures beside the chosen one, before and after."""

    compared = pyqtSignal(int, object)
    read = pyqtSignal(int, object, str)

    def __init__(self, desk: HandOverWork, parent: QWidget) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setWindowTitle("Compression")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(980, 620)
        self._sheets: list[Sheet] = []
        self._number = 0
        self._now: Compared | None = None
        self._shown: str = ""
        whole = QVBoxLayout(self)
        split = QSplitter()
        whole.addWidget(split, 1)
        self.list = QListWidget()
        self.list.setAccessibleName("Textures")
        self.list.setMinimumWidth(120)
        self.list.currentRowChanged.connect(lambda _: self._ask())
        split.addWidget(self.list)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(8, 0, 0, 0)
        line = QHBoxLayout()
        self.form = Combo()
        self.form.addItems([AS_ALL, *(str(one) for one in TextureForm)])
        self.form.setAccessibleName("How it is stored")
        self.form.setToolTip("How this texture is stored; “as all” leaves it to the field Textures")
        self.form.textActivated.connect(self._choose)
        self.view = Combo()
        self.view.addItems(VIEWS)
        self.view.setAccessibleName("What is shown")
        self.view.setToolTip("Colours, how much they cover, or where the two differ")
        self.view.currentIndexChanged.connect(lambda _: self._paint(False))
        whole_button = Button("See all")
        whole_button.setToolTip("Show both pictures whole")
        for label, widget in (("Stored as", self.form), ("Show", self.view)):
            line.addWidget(QLabel(label))
            line.addWidget(widget)
        line.addStretch(1)
        line.addWidget(whole_button)
        column.addLayout(line)
        self.pair = Pair()
        whole_button.clicked.connect(self.pair.see_all)
        column.addWidget(self.pair, 1)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setMinimumHeight(40)
        column.addWidget(self.words)
        split.addWidget(right)
        split.setStretchFactor(1, 1)
        split.setSizes([190, 780])
        self.compared.connect(self._take)
        self.read.connect(self._list)
        self.pair.clear("Reading textures …")
        self._newest: Newest[Callable[[], None]] = Newest("compression", _do)
        self._newest.end_with(self)
        self._newest.ask(functools.partial(self._read, desk.session.effect))

    # In a thread of its own

    def _read(self, effect: Effect) -> None:
        wrong = ""
        sheets: list[Sheet] = []
        for texture in effect.textures:
            try:
                sheets += baked_sheets(texture, self.desk.session.textures.trusted)
            except EffectError as problem:
                wrong = str(problem)
        _if_open(lambda: self.read.emit(0, sheets, wrong))

    def _compare(self, number: int, sheet: Sheet, blocks: Blocks | None) -> None:
        found = compare(sheet, blocks)
        _if_open(lambda: self.compared.emit(number, found))

    # In the window's

    def _list(self, _: int, sheets: list[Sheet], wrong: str) -> None:
        self._sheets = sheets
        for sheet in sheets:
            self.list.addItem(sheet.key.replace("/", ", "))
        if sheets:
            self.list.setCurrentRow(0)
        else:
            self.pair.clear(wrong or "This effect has no textures.")
        self.words.setText(wrong)

    def _ask(self) -> None:
        row = self.list.currentRow()
        if not 0 <= row < len(self._sheets):
            return
        sheet = self._sheets[row]
        form = self.desk.profile.textures.get(sheet.key)
        self.form.setCurrentText(str(form) if form is not None else AS_ALL)
        wanted = form if form is not None else self.desk.profile.bundle.textures
        self._number += 1
        self.words.setText("Compressing …")
        self._newest.ask(functools.partial(self._compare, self._number, sheet, blocks_of(wanted)))

    def _choose(self, word: str) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._sheets):
            self.desk.store(self._sheets[row].key, None if word == AS_ALL else TextureForm(word))
            self._ask()

    def _take(self, number: int, found: Compared) -> None:
        """Show a comparison that was asked for last, and tell its figures."""
        if number != self._number:
            return  # another was asked for since
        self._now = found
        anew = found.sheet.key != self._shown
        self._shown = found.sheet.key
        self._paint(anew)
        how = found.how
        lost = f"keeps {how.psnr:.1f} dB" if np.isfinite(how.psnr) else "loses nothing"
        high, wide = found.before.shape[:2]
        size = f"{wide} × {high} pixels, {found.packed / 1024:,.0f} kB on disk"
        memory = found.packed if how.blocks != Blocks.PLAIN else found.plain
        self.words.setText(
            f"{how.why} It {lost}. {size}; {memory / 1024:,.0f} kB on the graphics card, "
            f"{found.plain / 1024:,.0f} kB without compression."
        )

    def _paint(self, anew: bool) -> None:
        """Show the pair of pictures, as colour, as cover or as difference; ``anew`` for another texture."""
        found = self._now
        if found is None:
            return
        name = "PNG" if found.how.blocks == Blocks.PLAIN else found.how.blocks.upper()
        view, words = self.view.currentIndex(), ("Before", f"After: {name}")
        before, after = found.before, found.after
        if view == 1:
            before, after = (np.repeat(one[..., 3:], 3, axis=2) for one in (before, after))
        elif view == 2:
            apart = np.abs(before.astype(np.int16) - after) * 8
            after = np.minimum(apart, 255).astype(np.uint8)[..., :3]
            before, words = before[..., :3], ("Before", f"Difference × 8: {name}")
        else:
            before, after = _on_grey(before, found.sheet), _on_grey(after, found.sheet)
        self.pair.show_pair(_image(before), _image(after), words, anew)


def _on_grey(pixels: NDArray[np.uint8], sheet: Sheet) -> NDArray[np.uint8]:
    """Return colours over a middle grey; data as it is."""
    if sheet.kind != "picture" or sheet.texture.data:
        return pixels[..., :3]
    cover = pixels[..., 3:].astype(np.float32) / 255.0
    light = pixels[..., :3] * (1.0 if sheet.premultiplied else cover) + 70.0 * (1.0 - cover)
    return np.minimum(np.rint(light), 255).astype(np.uint8)  # type: ignore[no-any-return]


def _image(pixels: NDArray[np.uint8]) -> QImage:
    pixels = np.ascontiguousarray(pixels)
    high, wide = pixels.shape[:2]
    return QImage(pixels.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()


def _do(work: Callable[[], None], overtaken: Callable[[], bool]) -> None:
    work()


def _if_open(tell: Callable[[], None]) -> None:
    """Let a thread tell a view something, unless that has been closed meanwhile: Qt's half of it is gone
    then.
    """
    try:
        tell()
    except RuntimeError:
        return

"""The bench's timeline: the steps of the build as lanes, first to last from top to bottom."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from ...effect.editing.build_moves import named
from ...effect.rules.descriptions import description_of
from ...effect.rules.edit import get
from ...effect.steps import Step
from ...effect.values.forms import sides_of
from ...effect.values.values import Fixed
from ..widgets import theme
from ..widgets.curve_paint import line_of
from ..widgets.icons import paint
from .bench import Bench
from .said import step_words
from .step_pictures import StepPictures

ROW, PICTURE, HEAD = 44, 36, 158
STRENGTH = 84
REST_MS = 150


class StepRows(QWidget):
    """A row for each step: the picture after it, its name, a switch, a summary, and its strength."""

    menu_wanted = pyqtSignal(object)  # where

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self.bench = bench
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Steps")
        self.pictures = StepPictures(PICTURE * 2, bench.session.textures.trusted, self)
        self.pictures.made.connect(self._take)
        self._images: list[QImage] = []
        self._press: tuple[QPointF, int] | None = None
        self._drop = -1
        bench.changed.connect(self.refresh)
        bench.looked.connect(self._look)
        # The texture itself goes first: these wait until edits rest.
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.timeout.connect(self._ask)
        self._asked: tuple[Any, ...] = ()

    def refresh(self) -> None:
        """Show the steps that there are now."""
        self.setMinimumHeight(max(len(self.bench.steps), 1) * ROW)
        self._look()
        self.update()

    def _look(self) -> None:
        texture = self.bench.texture
        if texture is None or self.bench.build is None or not self.isVisible():
            return
        share = self.bench.session.cursor
        if (texture, share) != self._asked:
            self._asked = (texture, share)
            self._later.start(REST_MS)

    def _ask(self) -> None:
        if self._asked:
            self.pictures.ask(*self._asked)

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _take(self, texture: Any, images: list[QImage]) -> None:
        self._images = images
        self.update()

    # Where things are

    def row_at(self, y: float) -> int:
        """Return the step at a height; -1 for none."""
        row = int(y // ROW)
        return row if 0 <= row < len(self.bench.steps) else -1

    def eye_box(self, row: int) -> QRectF:
        """Return where a step is switched off and on."""
        return QRectF(HEAD - 26, row * ROW + ROW / 2 - 8, 16, 16)

    def strength_box(self, row: int) -> QRectF:
        """Return where a step's strength is drawn."""
        wide = STRENGTH if self.width() > 460 else STRENGTH // 2
        return QRectF(self.width() - wide - 12, row * ROW + 8, wide, ROW - 16)

    # Painting

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.color(theme.ASH_1))
        steps = self.bench.steps
        if not steps:
            painter.setPen(theme.color(theme.DIM))
            words = (
                "No steps yet. Add one with Ctrl+L: something that makes a shape first."
                if self.bench.build is not None
                else "This texture is a picture file. Add a step (Ctrl+L) and it becomes a build that "
                "begins with the file."
            )
            painter.drawText(
                QRectF(self.rect()).adjusted(16, 0, -16, 0),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                words,
            )
        for row, step in enumerate(steps):
            self._paint_row(painter, row, step)
        if self._drop >= 0:
            painter.setPen(QPen(theme.color(theme.EMBER), 2))
            painter.drawLine(QPointF(0, self._drop * ROW), QPointF(self.width(), self._drop * ROW))
        painter.end()

    def _paint_row(self, painter: QPainter, row: int, step: Step) -> None:
        """Draw one step: its picture, name, words, switch and strength."""
        box = QRectF(0, row * ROW, self.width(), ROW)
        chosen = row == self.bench.index
        if chosen:
            painter.fillRect(box, theme.color(theme.ASH_2))
            painter.fillRect(
                QRectF(0, box.top(), 2, ROW), theme.color(theme.EMBER, 255 if self.hasFocus() else 180)
            )
        painter.setPen(QPen(theme.color(theme.ASH_0)))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.setOpacity(1.0 if step.on else 0.4)
        picture = QRectF(8, box.top() + (ROW - PICTURE) / 2, PICTURE, PICTURE)
        if row < len(self._images):
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(picture, self._images[row])
        else:
            painter.fillRect(picture, theme.color(theme.ASH_0))
        painter.setFont(theme.font(12))
        painter.setPen(theme.color(theme.BRIGHT if chosen else theme.TEXT))
        painter.drawText(QRectF(54, box.top(), HEAD - 84, ROW), Qt.AlignmentFlag.AlignVCenter, named(step))
        painter.setOpacity(1.0)
        paint(
            painter,
            "eye" if step.on else "hidden",
            self.eye_box(row),
            theme.color(theme.TEXT if step.on else theme.DIM),
        )
        strength = self.strength_box(row)
        painter.setOpacity(1.0 if step.on else 0.4)
        painter.setFont(theme.font(11))
        painter.setPen(theme.color(theme.DIM))
        room = QRectF(HEAD + 4, box.top(), strength.left() - HEAD - 16, ROW)
        words = painter.fontMetrics().elidedText(
            step_words(step) or description_of(type(step)), Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, words)
        self._paint_strength(painter, strength, step)
        painter.setOpacity(1.0)

    def _paint_strength(self, painter: QPainter, box: QRectF, step: Step) -> None:
        """Draw the step's strength along the frames, 0 below and 1 above."""
        painter.fillRect(box, theme.color(theme.ASH_0))
        sides = sides_of(step.strength)
        painter.setPen(QPen(theme.color(theme.EMBER if sides else theme.ASH_4), 1.4))
        if sides:
            for keys in sides:
                painter.drawPolyline(line_of(keys, box.adjusted(1, 1, -1, -1), 0.0, 1.0))
            return
        low, high = (float(end[0]) for end in step.strength.bounds_at([0.0]))
        painter.fillRect(
            QRectF(
                box.left(),
                box.bottom() - high * box.height(),
                box.width(),
                max(high - low, 0.03) * box.height(),
            ),
            theme.color(theme.ASH_4),
        )
        painter.setFont(theme.font(10))
        painter.setPen(theme.color(theme.TEXT))
        said = f"{high:.2g}" if low == high else f"{low:.2g}–{high:.2g}"
        painter.drawText(
            box.adjusted(4, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, said
        )

    # Mouse and keys

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        row = self.row_at(at.y())
        if row < 0 or event.button() != Qt.MouseButton.LeftButton:
            return
        if self.eye_box(row).adjusted(-4, -6, 4, 6).contains(at):
            self.bench.toggle(row)
            return
        self.bench.select(row)
        box = self.strength_box(row)
        drags_strength = box.adjusted(0, -4, 0, 4).contains(at) and isinstance(
            self.bench.steps[row].strength, Fixed
        )
        self._press = (at, row)
        if drags_strength:
            self.bench.session.begin_drag(self._given_up)
            self._press = (at, -1 - row)
            self._set_strength(row, at)

    def _set_strength(self, row: int, at: QPointF) -> None:
        box = self.strength_box(row)
        share = min(max((box.bottom() - at.y()) / box.height(), 0.0), 1.0)
        self.bench.session.edit(
            self.bench.step_path("strength", row),
            round(share, 2),
            "Change strength",
            f"strength of step {row}",
        )

    def _given_up(self) -> None:
        self._press, self._drop = None, -1
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._press is None:
            row = self.row_at(at.y())
            self.setToolTip(
                ""
                if row < 0
                else f"{named(self.bench.steps[row])}: "
                f"{description_of(type(self.bench.steps[row]))}\n{step_words(self.bench.steps[row])}"
            )
            return
        start, row = self._press
        if row < 0:
            self._set_strength(-1 - row, at)
        elif abs(at.y() - start.y()) > 6:
            self._drop = min(max(round(at.y() / ROW), 0), len(self.bench.steps))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        press, self._press = self._press, None
        drop, self._drop = self._drop, -1
        if press is None:
            return
        if press[1] < 0:
            self.bench.session.end_drag()
        elif drop >= 0 and drop not in (press[1], press[1] + 1):
            self.bench.move(press[1], drop)
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        row = self.row_at(event.pos().y())
        if row >= 0:
            self.bench.select(row)
        self.menu_wanted.emit(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and plain:
            self.bench.select(max(self.bench.index + (1 if key == Qt.Key.Key_Down else -1), 0))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and plain:
            self.bench.remove()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and plain and self.bench.step is not None:
            strength = get(self.bench.session.effect, self.bench.step_path("strength"))
            if isinstance(strength, Fixed):
                new = min(max(strength.number + (0.05 if key == Qt.Key.Key_Right else -0.05), 0.0), 1.0)
                self.bench.session.edit(
                    self.bench.step_path("strength"),
                    round(new, 2),
                    "Change strength",
                    f"strength of step {self.bench.index}",
                )
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: Any) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: Any) -> None:
        super().focusOutEvent(event)
        self.bench.session.document.end_merge()
        self.update()


class StepList(QWidget):
    """The rows, scrolling; it keeps the step in view in sight."""

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self.setAccessibleName("Steps of the build")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.rows = StepRows(bench)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.rows)
        column.addWidget(self.area)
        self.setMinimumSize(HEAD + 120, 2 * ROW)
        bench.changed.connect(
            lambda: self.area.ensureVisible(0, max(bench.index, 0) * ROW + ROW // 2, 0, ROW)
        )

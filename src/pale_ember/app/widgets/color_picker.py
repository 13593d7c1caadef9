"""The colour picker: lightness, strength and hue as they look; sRGB, HSV and hex; any colour of the screen."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from ...effect.colors import HEX, to_srgb
from ...effect.oklch import from_oklch, oklch_of, shown_oklch
from . import theme
from .number_box import NumberBox
from .screen_eye import ScreenEye

MOST_CHROMA = 0.37
FIELD = QSize(320, 170)
Give = Callable[[str, str], None]


class Picker(QDialog):
    """Beside the work, not over it: colours are given while they are chosen, as one step; Esc gives the first again."""

    def __init__(self, parent: QWidget, color: str, give: Give) -> None:
        super().__init__(parent.window())
        self.setWindowTitle("Colour")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.first, self.color, self._give = color, color, give
        self._merge = f"color {id(self)}"
        # CachedPixmap apart from the colour: a grey has no hue of its own, but the artist's hue should stay.
        self.lightness, self.chroma, self.hue = oklch_of(color)
        column = QVBoxLayout(self)
        self.plane = Plane(self)
        self.hues = Hues(self)
        top = QHBoxLayout()
        top.addWidget(self.plane)
        top.addWidget(self.hues)
        column.addLayout(top)
        self.shown = Compared(self)
        column.addWidget(self.shown)
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        self.boxes: dict[str, NumberBox] = {}
        rows = (
            ("OKLCH", (("lightness", 1.0, 3), ("chroma", 0.4, 3), ("hue", 360.0, 1))),
            ("HSV", (("HSV hue", 360.0, 0), ("saturation", 100.0, 0), ("HSV value", 100.0, 0))),
            ("sRGB", (("red", 255.0, 0), ("green", 255.0, 0), ("blue", 255.0, 0))),
        )
        for row, (words, parts) in enumerate(rows):
            label = QLabel(words)
            label.setStyleSheet(f"color: {theme.DIM};")
            grid.addWidget(label, row, 0)
            for at, (name, most, digits) in enumerate(parts):
                box = NumberBox((0.0, most), (0.0, most), digits)
                box.setAccessibleName(name.capitalize())
                box.setToolTip(f"{name.capitalize()}, 0 to {most:g}")
                box.edited.connect(functools.partial(self._typed, words))
                grid.addWidget(box, row, at + 1)
                self.boxes[name] = box
        column.addLayout(grid)
        last = QHBoxLayout()
        self.hex = QLineEdit()
        self.hex.setAccessibleName("Hex")
        self.hex.setToolTip("The colour as #rrggbb")
        self.hex.setMaximumWidth(90)
        self.hex.returnPressed.connect(self._hex_typed)
        last.addWidget(self.hex)
        screen = QPushButton("From screen")
        screen.setToolTip("Click anywhere on the screen to take the colour there; Esc takes none")
        screen.setAutoDefault(False)
        screen.clicked.connect(self.take_from_screen)
        last.addWidget(screen)
        last.addStretch(1)
        done = QPushButton("Done")
        done.setToolTip("Keep the colour (Enter)")
        done.setDefault(True)
        done.clicked.connect(self.accept)
        last.addWidget(done)
        column.addLayout(last)
        self.rejected.connect(lambda: give(self.first, self._merge))
        self._show()

    # Choosing

    def set_color(self, color: str) -> None:
        """Choose a colour; its hue and strength stay as they were where it has none."""
        lightness, chroma, hue = oklch_of(color)
        self.lightness = lightness
        if chroma > 2e-3:
            self.chroma, self.hue = chroma, hue
        else:
            self.chroma = 0.0
        self._take(color)

    def set_oklch(self, lightness: float, chroma: float, hue: float) -> None:
        """Choose by lightness, chroma and hue; the nearest colour that a screen has is given."""
        self.lightness, self.chroma, self.hue = lightness, chroma, hue
        self._take(shown_oklch(lightness, chroma, hue))

    def _take(self, color: str) -> None:
        changed = color != self.color
        self.color = color
        self._show()
        if changed:
            self._give(color, self._merge)

    def _typed(self, kind: str, number: float, merge: str) -> None:
        value = {name: box.number for name, box in self.boxes.items()}
        if kind == "OKLCH":
            self.set_oklch(value["lightness"], value["chroma"], value["hue"])
        elif kind == "HSV":
            chosen = QColor.fromHsvF(
                value["HSV hue"] % 360 / 360, value["saturation"] / 100, value["HSV value"] / 100
            )  # fmt: skip
            self.set_color(chosen.name())
        else:
            self.set_color(QColor(int(value["red"]), int(value["green"]), int(value["blue"])).name())

    def _hex_typed(self) -> None:
        typed = self.hex.text().strip()
        typed = typed if typed.startswith("#") else f"#{typed}"
        if HEX.fullmatch(typed):
            self.set_color(QColor(typed).name())
        else:
            self.hex.setText(self.color)
            self.hex.selectAll()

    def take_from_screen(self) -> None:
        """Let the artist click on a pixel of the screen."""
        self._eye = ScreenEye.over_all(self.set_color)
        if self._eye is None:
            self.setWindowTitle("Colour: this desktop doesn't let programs see the screen")

    def _show(self) -> None:
        chosen = QColor(self.color)
        hue = chosen.hsvHueF()
        numbers = {
            "lightness": self.lightness, "chroma": self.chroma, "hue": self.hue,
            "HSV hue": max(hue, 0.0) * 360, "saturation": chosen.hsvSaturationF() * 100,
            "HSV value": chosen.valueF() * 100,
            "red": chosen.red(), "green": chosen.green(), "blue": chosen.blue(),
        }  # fmt: skip
        for name, number in numbers.items():
            self.boxes[name].show_number(float(number))
        if not self.hex.isModified() or not self.hex.hasFocus():
            self.hex.setText(self.color)
        for part in (self.plane, self.hues, self.shown):
            part.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        # Enter in a field takes what is typed; it does not close the picker.
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(self.focusWidget(), QLineEdit):
            return
        super().keyPressEvent(event)


class Plane(QWidget):
    """All lightnesses and strengths of one hue that a screen has."""

    def __init__(self, picker: Picker) -> None:
        super().__init__()
        self.picker = picker
        self.most = MOST_CHROMA
        self._image: tuple[float, QImage] | None = None
        self.setFixedSize(FIELD)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lightness and chroma")
        self.setToolTip("Lightness upward, strength of the colour to the right; arrow keys move in it")

    def image(self) -> QImage:
        """Return the plane of the picker's hue, as wide as its strongest colour; what no screen has is left dark."""
        hue = self.picker.hue
        if self._image is None or self._image[0] != hue:
            width, height = FIELD.width() // 2, FIELD.height() // 2
            self.most = MOST_CHROMA
            _, fits = self._colors(width, height, hue)
            self.most = MOST_CHROMA * (int(np.max(np.flatnonzero(fits.any(axis=0)))) + 1.5) / width
            linear, fits = self._colors(width, height, hue)
            pixels = np.zeros((height, width, 4), np.uint8)
            pixels[:, :, :3] = np.rint(np.clip(to_srgb(np.clip(linear, 0, 1)), 0, 1) * 255)[:, :, ::-1]
            pixels[:, :, 3] = 255
            pixels[~fits] = 0
            image = QImage(pixels.tobytes(), width, height, width * 4, QImage.Format.Format_ARGB32)
            self._image = (hue, image.copy())
        return self._image[1]

    def _colors(self, width: int, height: int, hue: float) -> tuple[np.ndarray, np.ndarray]:
        linear = from_oklch(np.linspace(1, 0, height)[:, None], np.linspace(0, self.most, width)[None], hue)
        return linear, np.asarray(((linear >= -1e-3) & (linear <= 1.001)).all(axis=2))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x, y = event.position().x() / self.width(), event.position().y() / self.height()
        chroma, lightness = min(max(x, 0.0), 1.0) * self.most, 1 - min(max(y, 0.0), 1.0)
        self.picker.set_oklch(lightness, chroma, self.picker.hue)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        steps = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (1, 0), Qt.Key.Key_Down: (-1, 0)}
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        p = self.picker
        p.set_oklch(min(max(p.lightness + step[0] * 0.01, 0), 1), min(max(p.chroma + step[1] * 0.005, 0), 0.4), p.hue)

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        painter.drawImage(QRectF(self.rect()), self.image())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        _, chroma, _ = oklch_of(self.picker.color)
        at = QPointF(chroma / self.most * self.width(), (1 - self.picker.lightness) * self.height())
        for ink, radius in ((theme.ASH_0, 6.5), (theme.BRIGHT, 5.0)):
            painter.setPen(QPen(QColor(ink), 1.6))
            painter.drawEllipse(at, radius, radius)
        if self.hasFocus():
            painter.setPen(QPen(QColor(theme.EMBER), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()


class Hues(QWidget):
    """All hues, at one lightness and strength."""

    def __init__(self, picker: Picker) -> None:
        super().__init__()
        self.picker = picker
        self.setFixedSize(22, FIELD.height())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Hue")
        self.setToolTip("Hue; arrow keys turn it")
        rows = [QColor(shown_oklch(0.74, 0.13, 360 * i / 63)) for i in range(64)]
        self._image = QImage(1, 64, QImage.Format.Format_RGB32)
        for i, row in enumerate(rows):
            self._image.setPixelColor(0, i, row)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        share = min(max(event.position().y() / self.height(), 0.0), 1.0)
        self.picker.set_oklch(self.picker.lightness, self.picker.chroma, share * 360)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        turn = {Qt.Key.Key_Up: -2, Qt.Key.Key_Down: 2}.get(Qt.Key(event.key()))
        if turn is None:
            super().keyPressEvent(event)
        else:
            self.picker.set_oklch(self.picker.lightness, self.picker.chroma, (self.picker.hue + turn) % 360)

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(self.rect()), self._image)
        y = self.picker.hue / 360 * (self.height() - 1)
        painter.setPen(QPen(QColor(theme.BRIGHT if self.hasFocus() else theme.ASH_0), 2))
        painter.drawRect(QRectF(1, y - 2.5, self.width() - 2, 5))
        painter.end()


class Compared(QWidget):
    """The colour as it was and as it is, side by side."""

    def __init__(self, picker: Picker) -> None:
        super().__init__()
        self.picker = picker
        self.setFixedHeight(26)
        self.setToolTip("Before, and now")

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        half = self.width() // 2
        painter.fillRect(0, 0, half, self.height(), QColor(self.picker.first))
        painter.fillRect(half, 0, self.width() - half, self.height(), QColor(self.picker.color))
        painter.end()


def pick_color(parent: QWidget, color: str, give: Give) -> Picker:
    """Open a colour picker beside the work; colours are given while they are chosen, as one step."""
    picker = Picker(parent, color, give)
    picker.show()
    return picker

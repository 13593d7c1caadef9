"""The colour picker: lightness, strength and hue as they look; sRGB, HSV and hex; any colour of the
screen.
"""

from __future__ import annotations

import functools
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QGuiApplication, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QWindow
from PyQt6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...effect.values.colors import HEX, to_srgb
from ...effect.values.oklch import from_oklch, oklch_of, shown_oklch, strongest
from . import theme
from .compared import Compared
from .controls import Line
from .number_box import NumberBox
from .screen_eye import ScreenEye

FIELD = QSize(320, 170)

# How long after a look at the screen the keyboard may be anywhere, ms.
BACK_MS = 600


class Picker(QDialog):
    """Beside the work, not over it. It gives colours while they are chosen, and knows nothing of what
    they are for.
    """

    chosen = pyqtSignal(str)
    ended = pyqtSignal(bool)  # whether the colour is kept; else what was before counts again
    left = pyqtSignal()  # the keyboard went to another window

    def __init__(self, parent: QWidget, color: str, words: str) -> None:
        super().__init__(parent.window())
        self.setWindowTitle("Colour")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.first, self.color = color, color
        self._eye: ScreenEye | None = None
        self._looks_elsewhere = self._is_ending = False
        self._comes_back = QTimer(self)
        self._comes_back.setSingleShot(True)
        self._comes_back.timeout.connect(self._be_back)
        # Kept apart from the colour: a grey has no hue of its own, but the artist's hue should stay.
        self.lightness, self.chroma, self.hue = oklch_of(color)
        column = QVBoxLayout(self)
        self.what = QLabel(words)
        self.what.setStyleSheet(f"color: {theme.BRIGHT}; font-weight: 600;")
        column.addWidget(self.what)
        self.plane = Plane(self)
        self.hues = Hues(self)
        top = QHBoxLayout()
        top.addWidget(self.plane)
        top.addWidget(self.hues)
        column.addLayout(top)
        self.shown = Compared(lambda: (self.first, self.color))
        column.addWidget(self.shown)
        self.boxes: dict[str, NumberBox] = {}
        column.addLayout(self._numbers())
        column.addLayout(self._foot())
        self.problem = QLabel()
        self.problem.setWordWrap(True)
        self.problem.setStyleSheet(f"color: {theme.WARN};")
        self.problem.hide()
        column.addWidget(self.problem)
        self.accepted.connect(lambda: self.ended.emit(True))
        self.rejected.connect(lambda: self.ended.emit(False))
        app = QGuiApplication.instance()
        assert isinstance(app, QGuiApplication)
        app.focusWindowChanged.connect(self._follow_keyboard)
        self._show()

    def _numbers(self) -> QGridLayout:
        """Return the number boxes of all ways to say a colour."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
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
        return grid

    def _foot(self) -> QHBoxLayout:
        """Return the line of the hex code and the buttons."""
        line = QHBoxLayout()
        self.hex = Line()
        self.hex.setAccessibleName("Hex")
        self.hex.setToolTip("The colour as #rrggbb")
        self.hex.setMaximumWidth(90)
        self.hex.returnPressed.connect(self._hex_typed)
        line.addWidget(self.hex)
        screen = QPushButton("From screen")
        screen.setToolTip("Click anywhere on the screen to take the colour there; Esc takes none")
        screen.setAutoDefault(False)
        screen.clicked.connect(self.take_from_screen)
        line.addWidget(screen)
        line.addStretch(1)
        done = QPushButton("Done")
        done.setToolTip("Keep the colour (Enter)")
        done.setDefault(True)
        done.clicked.connect(self.accept)
        line.addWidget(done)
        return line

    def turn_to(self, color: str, words: str) -> None:
        """Go on with another colour than the one so far."""
        self.begin_with(color)
        self.what.setText(words)
        self.follow(color)

    def begin_with(self, color: str) -> None:
        """Show what is chosen beside another colour than so far."""
        self.first = color
        self.shown.update()

    def follow(self, color: str) -> None:
        """Show a colour that was changed elsewhere."""
        if color != self.color:
            self._hold(color)
            self.color = color
            self._show()

    def accept(self) -> None:
        """Keep the colour; what is typed as hex counts, or says why not."""
        if self.hex.isModified() and not self._hex_typed():
            return
        super().accept()

    # Choosing

    def set_color(self, color: str) -> None:
        """Choose a colour; its hue stays as it was where it has none."""
        self._hold(color)
        self._take(color)

    def _hold(self, color: str) -> None:
        self.lightness, chroma, hue = oklch_of(color)
        self.chroma = chroma if chroma > 2e-3 else 0.0
        self.hue = hue if chroma > 2e-3 else self.hue

    def set_oklch(self, lightness: float, chroma: float, hue: float) -> None:
        """Choose by lightness, chroma and hue; the nearest colour that a screen has is given."""
        self.lightness, self.chroma, self.hue = lightness, chroma, hue
        self._take(shown_oklch(lightness, chroma, hue))

    def _take(self, color: str) -> None:
        changed = color != self.color
        self.color = color
        self._show()
        if changed:
            self.chosen.emit(color)

    def _typed(self, kind: str, number: float, merge: str) -> None:
        value = {name: box.number for name, box in self.boxes.items()}
        if kind == "OKLCH":
            self.set_oklch(value["lightness"], value["chroma"], value["hue"])
        elif kind == "HSV":
            chosen = QColor.fromHsvF(
                value["HSV hue"] % 360 / 360, value["saturation"] / 100, value["HSV value"] / 100
            )
            self.set_color(chosen.name())
        else:
            self.set_color(QColor(int(value["red"]), int(value["green"]), int(value["blue"])).name())

    def _hex_typed(self) -> bool:
        """Take what is typed as hex; return whether it is a colour."""
        typed = self.hex.text().strip()
        whole = typed if typed.startswith("#") else f"#{typed}"
        fits = bool(HEX.fullmatch(whole))
        self._say("" if fits else f"“{typed[:20]}” is not a colour; type six hex digits, such as #f2b48c.")
        if fits:
            self.hex.setModified(False)
            self.set_color(QColor(whole).name())
            self.hex.setText(self.color)
        self.hex.selectAll()
        return fits

    def _say(self, words: str) -> None:
        self.problem.setText(words)
        self.problem.setVisible(bool(words))

    def take_from_screen(self) -> None:
        """Let the artist click on a pixel of the screen."""
        # Until the keyboard is here again: whoever hands it on may do so late, and to another window first.
        self._looks_elsewhere = True
        self._eye = ScreenEye.over_all(self.set_color)
        if self._eye is None:
            self._looks_elsewhere = False
            self._say("This desktop doesn't let programs see the screen.")
        else:
            self._eye.destroyed.connect(self._look_back)

    def _look_back(self) -> None:
        self._eye = None
        # The desktop may still be handing the keyboard on, to the picture that is gone and then to anyone.
        self._comes_back.start(BACK_MS)
        self.activateWindow()

    def _be_back(self) -> None:
        self._looks_elsewhere = not self.isActiveWindow()

    def _show(self) -> None:
        """Show the colour in all boxes."""
        chosen = QColor(self.color)
        hue = chosen.hsvHueF()
        numbers = {
            "lightness": self.lightness,
            "chroma": self.chroma,
            "hue": self.hue,
            "HSV hue": max(hue, 0.0) * 360,
            "saturation": chosen.hsvSaturationF() * 100,
            "HSV value": chosen.valueF() * 100,
            "red": chosen.red(),
            "green": chosen.green(),
            "blue": chosen.blue(),
        }
        for name, number in numbers.items():
            # A grey has a trace of chroma from rounding, which is none.
            self.boxes[name].show_number(round(float(number), self.boxes[name].digits))
        if not self.hex.isModified() or not self.hex.hasFocus():
            self.hex.setText(self.color)
        for part in (self.plane, self.hues, self.shown):
            part.update()

    def _follow_keyboard(self, window: QWindow | None) -> None:
        """Tell when the keyboard goes to another window of the program; not to nowhere, nor to the
        picture of the screen.
        """
        if window is self.windowHandle():
            # It may come here late, when the picture of the screen is on its way already.
            self._looks_elsewhere = self._eye is not None or self._comes_back.isActive()
        elif window is not None and not self._looks_elsewhere and not self._is_ending and self.isVisible():
            self.left.emit()

    def done(self, result: int) -> None:
        # The keyboard goes as it closes; that takes nothing.
        self._is_ending = True
        super().done(result)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        # Enter in a field takes what is typed; it does not close the picker.
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(self.focusWidget(), QLineEdit):
            return
        super().keyPressEvent(event)


class Plane(QWidget):
    """All colours of one hue: lightness upward, and to the right their strength, as a share of what a
    screen has.
    """

    def __init__(self, picker: Picker) -> None:
        super().__init__()
        self.picker = picker
        self._image: tuple[float, float, QImage] | None = None
        self.setFixedSize(FIELD)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lightness and strength")
        self.setToolTip("Lightness upward, strength of the colour to the right; arrow keys move in it")

    def image(self) -> QImage:
        """Return the plane of the picker's hue, at the screen's own pixels."""
        hue, ratio = self.picker.hue, self.devicePixelRatioF()
        if self._image is None or self._image[:2] != (hue, ratio):
            width, height = round(FIELD.width() * ratio), round(FIELD.height() * ratio)
            light = (1 - (np.arange(height) + 0.5) / height)[:, None]
            share = ((np.arange(width) + 0.5) / width)[None]
            linear = from_oklch(light, share * strongest(light, hue), hue)
            pixels = np.full((height, width, 4), 255, np.uint8)
            pixels[:, :, :3] = np.rint(np.clip(to_srgb(np.clip(linear, 0, 1)), 0, 1) * 255)[:, :, ::-1]
            image = QImage(pixels.tobytes(), width, height, width * 4, QImage.Format.Format_RGB32)
            image.setDevicePixelRatio(ratio)
            self._image = (hue, ratio, image.copy())
        return self._image[2]

    @property
    def most(self) -> float:
        """Return the strongest chroma of the picker's lightness and hue."""
        return max(float(strongest(self.picker.lightness, self.picker.hue)), 1e-6)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x, y = event.position().x() / self.width(), event.position().y() / self.height()
        lightness, hue = 1 - min(max(y, 0.0), 1.0), self.picker.hue
        self.picker.set_oklch(lightness, min(max(x, 0.0), 1.0) * float(strongest(lightness, hue)), hue)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        steps = {
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_Up: (1, 0),
            Qt.Key.Key_Down: (-1, 0),
        }
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        p = self.picker
        share = min(max(p.chroma / self.most + step[1] * 0.01, 0.0), 1.0)
        lightness = min(max(p.lightness + step[0] * 0.01, 0.0), 1.0)
        p.set_oklch(lightness, share * float(strongest(lightness, p.hue)), p.hue)

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.drawImage(QPointF(0, 0), self.image())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        share = min(self.picker.chroma / self.most, 1.0)
        at = QPointF(share * self.width(), (1 - self.picker.lightness) * self.height())
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
        self._image: QImage | None = None

    def image(self) -> QImage:
        """Return all hues from top to bottom, a row for each of the screen's."""
        high = round(self.height() * self.devicePixelRatioF())
        if self._image is None or self._image.height() != high:
            hues = (np.arange(high) + 0.5) / high * 360
            chroma = np.array([float(strongest(0.74, hue)) for hue in hues[:: max(high // 60, 1)]])
            linear = from_oklch(0.74, min(0.13, float(chroma.min())), hues)
            pixels = np.full((high, 1, 4), 255, np.uint8)
            pixels[:, 0, :3] = np.rint(np.clip(to_srgb(np.clip(linear, 0, 1)), 0, 1) * 255)[:, ::-1]
            self._image = QImage(pixels.tobytes(), 1, high, 4, QImage.Format.Format_RGB32).copy()
        return self._image

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
        painter.drawImage(QRectF(self.rect()), self.image())
        y = self.picker.hue / 360 * (self.height() - 1)
        painter.setPen(QPen(QColor(theme.BRIGHT if self.hasFocus() else theme.ASH_0), 2))
        painter.drawRect(QRectF(1, y - 2.5, self.width() - 2, 5))
        painter.end()

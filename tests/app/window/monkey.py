"""Random clicks, drags, keys and wheels over the whole window, its menus and dialogs.

python -m tests.app.window.monkey SEED COUNT [bench]    says what broke, if anything, and how memory grew
"""

from __future__ import annotations

import os
import random
import sys
import tempfile
import traceback
from unittest import mock

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QContextMenuEvent, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QMenu, QWidget

from pale_ember.app.widgets.sheet import open_sheet
from pale_ember.app.window.main_window import MainWindow
from pale_ember.effect import effect_text

from ..case import turn_wheel

KEYS = [getattr(Qt.Key, f"Key_{letter}") for letter in "ABCDEFGHILMNRSTWXYZ0123456789"] + [
    getattr(Qt.Key, f"Key_{name}")
    for name in (
        "Up",
        "Down",
        "Left",
        "Right",
        "Return",
        "Space",
        "Escape",
        "Tab",
        "Backtab",
        "Delete",
        "Backspace",
        "Home",
        "End",
        "PageUp",
        "PageDown",
        "Insert",
        "Comma",
        "Period",
        "BracketLeft",
        "BracketRight",
        "F2",
        "Minus",
    )
]
NONE, SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
TEXTS = ("5", "1/2", "*2", "-3", "abc", "20 cm", "+10%", "1e9", "0", "#a0b0c0", "speed", "x y")
# These would end the window or leave the test's own folder.
NEVER = {(Qt.Key.Key_Q, CTRL), (Qt.Key.Key_Tab, ALT)}


class Monkey:
    """Does one random thing at a time, from a timer, so that menus and questions are met as well."""

    def __init__(self, window: MainWindow, seed: int, bench: bool = False) -> None:
        self.window, self.roll, self.bench = window, random.Random(seed), bench
        self.errors: list[str] = []
        self.done = 0
        self.last = ""
        # By document: its text as it was opened. Which is open changes on the way.
        self.opened: dict[int, str] = {}
        window.session.set_undo_steps(1_000_000)

    def note(self) -> None:
        document = self.window.session.document
        if id(document) not in self.opened:
            self.opened[id(document)] = effect_text(document.history[0].effect)
            self.kept = [*getattr(self, "kept", []), document]

    def run(self, count: int) -> None:
        hook = sys.excepthook

        def failed(kind, wrong, trace):
            self.errors.append(
                f"after {self.last}: " + "".join(traceback.format_exception(kind, wrong, trace)[-6:])
            )

        sys.excepthook = failed
        self._count = count
        with (
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", "")),
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")),
            mock.patch.object(QFileDialog, "getOpenFileNames", return_value=([], "")),
            mock.patch.object(QFileDialog, "getExistingDirectory", return_value=""),
            mock.patch("pale_ember.app.window.bench_rows.keep_texture", lambda *_: "nowhere"),
            mock.patch("pale_ember.app.texture_bench.shelf_view.ShelfView._forget", lambda *_: None),
            mock.patch.object(MainWindow, "close", lambda window: True),
            mock.patch("pale_ember.app.window.keeping.keep_layer", lambda *_: "nowhere"),
            mock.patch("pale_ember.app.strip.lane_menu.keep_shape", lambda *_: "nowhere"),
            mock.patch("pale_ember.app.stage.library_view.LibraryView._forget", lambda *_: None),
        ):
            QTimer.singleShot(0, self._act)
            while self.done < count:
                QApplication.processEvents()
            self._close_all()
        sys.excepthook = hook

    def _close_all(self) -> None:
        widget = (
            QApplication.activePopupWidget() or QApplication.activeModalWidget() or open_sheet(self.window)
        )
        if widget is not None:
            widget.close()
            QTimer.singleShot(20, self._close_all)

    def undo_all(self) -> bool:
        """Undo to the beginning of the open document; return whether it is that to the byte."""
        session = self.window.session
        while session.document.undo_name:
            session.undo()
        return effect_text(session.effect) == self.opened[id(session.document)]

    def _top(self) -> QWidget:
        popup = QApplication.activePopupWidget()
        modal = QApplication.activeModalWidget() or open_sheet(self.window)
        others = [
            w
            for w in QApplication.topLevelWidgets()
            if w.isVisible() and w.parent() is self.window and w.isWindow()
        ]
        if popup is not None:
            return popup
        if modal is not None:
            return modal
        return self.roll.choice(others) if others and self.roll.random() < 0.4 else self.window

    def _act(self) -> None:
        # The next one first: what is done now may open a menu that waits for it.
        self.done += 1
        QTimer.singleShot(0, self._act if self.done < self._count else self._close_all)
        self.note()
        top = self._top()
        what = self.roll.random()
        if top is not self.window and self.roll.random() < 0.06:
            self.last = f"closing {type(top).__name__}"
            top.close()
        elif what < 0.42:
            self._mouse(top)
        elif what < 0.82:
            self._key(top)
        elif what < 0.88:
            self._wheel(top)
        elif what < 0.95 and not isinstance(top, QMenu):
            self._type(top)
        else:
            self._tidy()

    def _tidy(self) -> None:
        """Keep the effect small enough to be quick, and time within its first seconds."""
        session = self.window.session
        self.last = "tidying"
        if len(session.effect.layers) > 9:
            session.select_all()
            session.layers.remove()
        if session.time > 30:
            session.seek(0.0)
        for i, texture in enumerate(session.effect.textures):
            if (
                texture.build is not None
                and max(texture.made, texture.count) * texture.build.size**2 > 1 << 17
            ):
                session.edit(f"textures[{i}].build.size", 64, "Smaller")
                session.edit(f"textures[{i}].frames", 2, "Fewer")
        if self.bench and session.effect.textures and not self.window.bench.is_open:
            self.window.bench.open(self.roll.choice(session.effect.textures).name)
        for layer in session.effect.layers:
            path = session.layer_path("emit.cap", layer.id)
            if layer.emit.cap > 3000:
                session.edit(path, 3000, "Fewer")
        if session.effect.duration > 20 or session.effect.warm_up > 2:
            session.edit("duration", 4, "Shorter")
            session.edit("warm_up", 0, "Shorter")

    def _widget(self, top: QWidget) -> QWidget:
        seen = [
            widget
            for widget in top.findChildren(QWidget)
            if widget.isVisible() and widget.width() > 2 and widget.window() is top
        ]
        return self.roll.choice(seen) if seen else top

    def _place(self, widget: QWidget) -> QPoint:
        return QPoint(
            self.roll.randrange(max(widget.width(), 1)), self.roll.randrange(max(widget.height(), 1))
        )

    def _held(self) -> Qt.KeyboardModifier:
        return self.roll.choice([NONE, NONE, NONE, SHIFT, CTRL, ALT, CTRL | SHIFT])

    def _mouse(self, top: QWidget) -> None:
        widget = self._widget(top) if not isinstance(top, QMenu) else top
        at, held = self._place(widget), self._held()
        way = self.roll.random()
        self.last = f"mouse {way:.2f} at {at} of {type(widget).__name__} “{widget.accessibleName()}”"
        left = Qt.MouseButton.LeftButton
        if way < 0.55:
            QTest.mouseClick(widget, left, held, at)
        elif way < 0.62:
            QTest.mouseDClick(widget, left, held, at)
        elif way < 0.7:
            event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, widget.mapToGlobal(at))
            QApplication.postEvent(widget, event)
        else:
            QTest.mousePress(widget, left, held, at)
            for _ in range(self.roll.randrange(1, 6)):
                at += QPoint(self.roll.randrange(-60, 61), self.roll.randrange(-40, 41))
                move = QMouseEvent(
                    QEvent.Type.MouseMove,
                    QPointF(at),
                    QPointF(widget.mapToGlobal(at)),
                    Qt.MouseButton.NoButton,
                    left,
                    held,
                )
                QApplication.sendEvent(widget, move)
            if self.roll.random() < 0.15:
                QTest.keyClick(self.window, Qt.Key.Key_Escape)
            QTest.mouseRelease(widget, left, held, at)

    def _key(self, top: QWidget) -> None:
        key, held = self.roll.choice(KEYS), self._held()
        if (key, held) in NEVER:
            return
        widget = top.focusWidget() or top
        self.last = f"key {key.name} {held} to {type(widget).__name__} “{widget.accessibleName()}”"
        QTest.keyClick(widget, key, held)

    def _type(self, top: QWidget) -> None:
        widget, text = top.focusWidget() or top, self.roll.choice(TEXTS)
        self.last = f"typing {text} into {type(widget).__name__} “{widget.accessibleName()}”"
        QTest.keyClicks(widget, text)

    def _wheel(self, top: QWidget) -> None:
        widget = self._widget(top)
        at = QPointF(self._place(widget))
        turn = QPoint(0, self.roll.choice([-120, 120]))
        self.last = f"wheel over {type(widget).__name__}"
        turn_wheel(widget, at, turn, self._held())


def memory() -> float:
    """Return the memory that the process takes, MB."""
    with open("/proc/self/statm", encoding="ascii") as file:
        return int(file.read().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def main() -> int:
    seed, count = int(sys.argv[1]), int(sys.argv[2])
    home = tempfile.mkdtemp()
    os.environ |= {
        "PALE_EMBER_STATE": f"{home}/state",
        "XDG_CONFIG_HOME": f"{home}/config",
        "PALE_EMBER_LAYERS": f"{home}/layers",
    }
    from pale_ember.demo import NAMES, demo

    from ..case import application

    application()
    window = MainWindow(demo(NAMES[seed % len(NAMES)]))
    window.resize(1280, 800)
    window.show()
    window.arrange()
    QTest.qWaitForWindowExposed(window)
    while window.session.moment_number == 0:
        QTest.qWait(20)
    monkey = Monkey(window, seed, "bench" in sys.argv[3:])
    if monkey.bench:
        window.toggle_bench()
    grown = [memory()]
    for _ in range(10):
        monkey.run(monkey.done + count // 10)
        grown.append(memory())
    undone = monkey.undo_all()
    print(
        f"seed {seed}: {monkey.done} events, {len(monkey.errors)} errors, undone {undone}, MB "
        f"{[round(one) for one in grown]}, widgets {len(QApplication.allWidgets())}"
    )
    for one in dict.fromkeys(monkey.errors):
        print(one)
    sys.stdout.flush()
    os._exit(0 if undone and not monkey.errors else 1)


if __name__ == "__main__":
    main()

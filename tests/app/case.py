"""The real window, driven with mouse and keys."""

from __future__ import annotations

import os
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from typing import Any
from unittest import mock

from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QWidget

from pale_ember.app.recipe import chapter_pages
from pale_ember.app.recipe.chapter_table import CHAPTERS
from pale_ember.app.recipe.field_row import FieldRow
from pale_ember.app.widgets import theme
from pale_ember.app.widgets.number_box import NumberBox
from pale_ember.app.widgets.sheet import open_sheet
from pale_ember.app.window.main_window import MainWindow
from pale_ember.app.window.tidying import Tidying
from pale_ember.effect import Effect

LEFT = Qt.MouseButton.LeftButton
# Pages of the recipe are made as tests ask for them, not ahead; see test_recipe for that.
chapter_pages.PAUSE_MS = 1_000_000
# How often it is looked whether somebody is asked what nobody expects, ms; how long a question may stand for
# a test to answer it, s.
LOOKS_MS, PATIENCE = 500, 6.0
_app: list[QApplication] = []


def application() -> QApplication:
    if not _app:
        app = QApplication(sys.argv[:1])
        theme.dress(app)
        Tidying(app)
        _app.append(app)
    return _app[0]


def turn_wheel(widget: QWidget, at: QPointF, turn: QPoint, keys: Qt.KeyboardModifier) -> None:
    """Turn the wheel over a place of a widget, by eighths of a degree to the side and up."""
    event = QWheelEvent(
        at,
        QPointF(widget.mapToGlobal(at.toPoint())),
        QPoint(),
        turn,
        Qt.MouseButton.NoButton,
        keys,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(widget, event)


class WindowCase(unittest.TestCase):
    """Each test gets a window of its own, and a place of its own for what it leaves behind."""

    def setUp(self) -> None:
        # A thread that is late may still put a file there.
        self.folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(self.folder.cleanup)
        # What the artist at this machine has kept is not seen, unless a test brings something of its own.
        kept = {name: f"PALE_EMBER_{name.upper()}" for name in ("layers", "textures", "shapes", "bundles")}
        own = {word: f"{self.folder.name}/{name}" for name, word in kept.items() if word not in os.environ}
        patch = mock.patch.dict(os.environ, {"PALE_EMBER_STATE": f"{self.folder.name}/state", **own})
        patch.start()
        self.addCleanup(patch.stop)
        self.errors: list[BaseException] = []
        self._hook, sys.excepthook = sys.excepthook, lambda kind, wrong, trace: self.errors.append(wrong)
        self._asked: tuple[QWidget | None, float] = (None, 0.0)
        # Timers need the application: without it the first test of a process would go unguarded.
        application()
        self._guard = QTimer()
        self._guard.timeout.connect(self._refuse_questions)
        self._guard.start(LOOKS_MS)
        self.window = self.open_window(self.first_effect())

    def _refuse_questions(self) -> None:
        """Close a question that the test doesn't answer, and let the test fail by it."""
        asked = QApplication.activeModalWidget()
        if not isinstance(asked, QMessageBox | QFileDialog | QInputDialog):
            self._asked = (None, 0.0)
        elif asked is not self._asked[0]:
            self._asked = (asked, time.monotonic())
        elif time.monotonic() - self._asked[1] > PATIENCE:
            words = asked.text() if isinstance(asked, QMessageBox) else asked.windowTitle()
            self.errors.append(AssertionError(f"nobody answered: {words}"))
            asked.reject()

    def on_top(self) -> Any:
        """Return what the keyboard is for: a dialog, what is open over the window, or the window."""
        QApplication.processEvents()
        return QApplication.activeModalWidget() or open_sheet(self.window) or self.window

    def first_effect(self) -> Effect:
        return Effect()

    def open_window(self, effect: Effect, size: tuple[int, int] = (1280, 800)) -> MainWindow:
        application()
        window = MainWindow(effect)
        window.resize(*size)
        window.show()
        window.arrange()
        self.assertTrue(QTest.qWaitForWindowExposed(window, 10_000))
        self.activate(window)
        return window

    def activate(self, window: QWidget) -> None:
        """Wait until a window has the keyboard: its shortcuts pass over what comes before."""
        # Without a window manager nobody hands the keyboard on when another window or a dialog closes.
        end = time.monotonic() + 10.0
        while QApplication.activeWindow() is not window and time.monotonic() < end:
            window.activateWindow()
            QTest.qWait(20)
        self.assertIs(QApplication.activeWindow(), window, "the window was not given the keyboard")
        QApplication.processEvents()

    def tearDown(self) -> None:
        self._guard.stop()
        drags = self.session.is_dragging
        self.window.shut()
        # On a busy machine closing waits less long than a texture may take.
        for thread in threading.enumerate():
            if thread.name in ("textures", "steps"):
                thread.join(60.0)
        self.window.hide()
        self.window.deleteLater()
        QApplication.processEvents()
        sys.excepthook = self._hook
        self.assertEqual(self.errors, [], "an exception went through the event loop")
        self.assertFalse(drags, "a drag goes on, and would take Esc from the next test")

    @property
    def session(self):
        return self.window.session

    def wait(self, holds: Callable[[], bool], seconds: float = 60.0) -> None:
        end = time.monotonic() + seconds
        while not holds():
            self.assertLess(time.monotonic(), end, "waited in vain")
            QTest.qWait(10)

    def settled(self, read: Callable[[], Any], still: float = 0.2, most: float = 20.0) -> Any:
        """Return what is read once it is the same for a while, s, with nothing on its way."""
        begun = since = time.monotonic()
        found = read()
        while time.monotonic() - since < still and time.monotonic() - begun < most:
            QTest.qWait(40)
            now = read()
            if now != found or self.session.is_late or self.session.textures.busy:
                since, found = time.monotonic(), now
        return found

    def wait_for_moment(self) -> None:
        self.wait(lambda: self.session.moment_number == self.session.asked_number)

    def row(self, at: str) -> FieldRow:
        """Show the chapter of a field and return its row."""
        for index, name in enumerate(CHAPTERS):
            if at in self.window.recipe.chapters[name].rows:
                self.window.recipe.show_chapter(index)
                page = self.window.recipe.chapters[name]
                row = page.rows[at]
                if row.isHidden() and row.rule.group:
                    page.open_field(at)
                page.ensureWidgetVisible(page.rows[at])
                QApplication.processEvents()
                return page.rows[at]
        raise AssertionError(at)

    def type_into(self, box: NumberBox, text: str) -> None:
        QTest.mouseClick(box, LEFT)
        box.selectAll()
        QTest.keyClicks(box, text)
        QTest.keyClick(box, Qt.Key.Key_Return)

    def set_field(self, at: str, *texts: str) -> None:
        row = self.row(at)
        boxes = [part for part in row.controls if isinstance(part, NumberBox)]
        for box, text in zip(boxes, texts, strict=True):
            self.type_into(box, text)

    def drag(
        self, widget: QWidget, start: QPointF, *stops: QPointF, keys=Qt.KeyboardModifier.NoModifier
    ) -> None:
        def pixel(at: QPointF) -> QPoint:
            return at.toPoint()

        QTest.mousePress(widget, LEFT, keys, pixel(start))
        for stop in stops:
            for share in (0.34, 0.67, 1.0):
                QTest.mouseMove(widget, pixel(start + (stop - start) * share))
                QApplication.processEvents()
            start = stop
        QTest.mouseRelease(widget, LEFT, keys, pixel(stops[-1]))
        QApplication.processEvents()

    def drop(self, file: object, widget: QWidget | None = None, at: QPoint | None = None) -> None:
        """Drop a file on the middle of a widget of the window, as the desktop does."""
        widget = widget or self.window.stage
        place = QPointF(widget.mapTo(self.window, at or widget.rect().center()))
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(file))])
        copy, none = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
        QApplication.sendEvent(self.window, QDragEnterEvent(place.toPoint(), copy, mime, LEFT, none))
        self.hinted = self.window.drops.hint.words if self.window.drops.hint.isVisible() else ""
        QApplication.sendEvent(self.window, QDropEvent(place, copy, mime, LEFT, none))
        QApplication.processEvents()

    def answer(self, button: str) -> None:
        """Click a button of the next message box."""

        def click() -> None:
            box = QApplication.activeModalWidget()
            if isinstance(box, QMessageBox):
                next(b for b in box.buttons() if b.text() == button).click()
            else:
                QTimer.singleShot(50, click)

        QTimer.singleShot(50, click)

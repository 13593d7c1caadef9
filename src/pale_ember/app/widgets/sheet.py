"""A dialog inside of its window, which has the keyboard from the moment it opens.

A window of its own gets the keyboard when the desktop gives it, which may take half a second; what is typed
meanwhile would go elsewhere, or nowhere.
"""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QFrame, QPushButton, QVBoxLayout, QWidget

from . import theme
from .tab_order import go_on, stops

# How far it stays from the window's edges, pixels.
_EDGE = 24


class Sheet(QFrame):
    """What opens over a window and is done with by an answer, by Esc, or by a click elsewhere.

    Parameters
    ----------
    parent : QWidget
        Stands in the window that it opens over.
    wanted : QSize
        Its size where the window has the room.
    """

    finished = pyqtSignal(bool)  # whether it was accepted

    def __init__(self, parent: QWidget, title: str, wanted: QSize) -> None:
        window = parent.window()
        super().__init__(window)
        self.wanted = wanted
        self.setObjectName("sheet")
        self.setAccessibleName(title)
        self.setAutoFillBackground(True)
        self.setStyleSheet(
            f"#sheet {{ background: {theme.ASH_1}; border: 1px solid {theme.ASH_4}; border-radius: 4px; }}"
        )
        self.column = QVBoxLayout(self)
        # The widget that had the focus before the sheet took it.
        self._before: QWidget | None = window.focusWidget() if window is not None else None
        self.hide()

    def open(self) -> None:
        """Show it in the middle of its window, with the keyboard on its first control."""
        window = self._window()
        window.installEventFilter(self)
        self._place()
        self.show()
        self.raise_()
        for button in self.findChildren(QPushButton):
            button.setAutoDefault(True)  # Enter is theirs while they have the focus
        first = self.focusWidget() or next(iter(stops(self)), self)
        first.setFocus(Qt.FocusReason.OtherFocusReason)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._follow_focus)

    def accept(self) -> None:
        self._end(True)

    def reject(self) -> None:
        self._end(False)

    def _end(self, accepted: bool) -> None:
        if self.isHidden():
            return
        had = self.isAncestorOf(self._window().focusWidget())
        self.hide()
        if had:
            gone = self._before is None or sip.isdeleted(self._before) or not self._before.isVisible()
            back = self._window() if gone or self._before is None else self._before
            back.setFocus(Qt.FocusReason.OtherFocusReason)
        self.finished.emit(accepted)
        self.deleteLater()

    def closeEvent(self, event: object) -> None:
        self._end(False)

    def _window(self) -> QWidget:
        window = self.parentWidget()
        assert window is not None
        return window

    def _place(self) -> None:
        window = self._window()
        room = window.size() - QSize(2 * _EDGE, 2 * _EDGE)
        size = self.wanted.boundedTo(room).expandedTo(self.minimumSizeHint())
        self.setGeometry(
            (window.width() - size.width()) // 2,
            max((window.height() - size.height()) // 3, 0),
            size.width(),
            size.height(),
        )

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Let Tab go round inside."""
        return (not self.isHidden() and go_on(self, forward)) or super().focusNextPrevChild(forward)

    def _follow_focus(self, old: QWidget | None, new: QWidget | None) -> None:
        # A menu or a question of its own may take the keyboard; a click elsewhere in the window ends it.
        if sip.isdeleted(self) or self.isHidden() or new is None or new is self or self.isAncestorOf(new):
            return
        if new.window() is self._window():
            self._end(False)

    def event(self, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.ShortcutOverride:
            # Keys are for what is typed here, not for the window's commands.
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Escape:
            self.reject()
        event.accept()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if (
            event is not None
            and event.type() == QEvent.Type.Resize
            and watched is self.parentWidget()
            and self.isVisible()
        ):
            self._place()
        return super().eventFilter(watched, event)


def open_sheet(window: QWidget) -> Sheet | None:
    """Return the sheet that is open over a window."""
    return next((one for one in window.findChildren(Sheet) if not one.isHidden()), None)

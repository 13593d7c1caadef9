"""Buttons, boxes and lines that keep to one rule: Space, Enter and the wheel are theirs while they have
the focus.
"""

from __future__ import annotations

from typing import Protocol, runtime_checkable

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QToolButton,
)

OWN = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)
_HELD = (
    Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
)


def is_own_key(event: QEvent | None) -> bool:
    """Return whether an event asks who a plain Space or Enter belongs to."""
    return (
        isinstance(event, QKeyEvent)
        and event.type() == QEvent.Type.ShortcutOverride
        and event.key() in OWN
        and not event.modifiers() & _HELD
    )


class _Own:
    """Takes Space and Enter for the control that has the focus, before the window's commands."""

    def event(self, event: QEvent | None) -> bool:
        if is_own_key(event):
            assert event is not None
            event.accept()
            return True
        return super().event(event)  # type: ignore[misc, no-any-return]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in OWN[1:] and not event.modifiers() & _HELD:
            self.enter()
        else:
            super().keyPressEvent(event)  # type: ignore[misc]

    def enter(self) -> None:
        """Do what a click does."""
        assert isinstance(self, QAbstractButton)
        self.click()


class Button(_Own, QPushButton):
    """A button with words. A click leaves the focus where it is."""

    def __init__(self, words: str = "") -> None:
        super().__init__(words)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAutoDefault(False)

    def enter(self) -> None:
        if self.menu() is not None:
            self.showMenu()
        else:
            self.click()


class ToolButton(_Own, QToolButton):
    """A button with an icon, or a short word. A click leaves the focus where it is."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def enter(self) -> None:
        if self.menu() is not None:
            self.showMenu()
        else:
            self.click()


class Check(_Own, QCheckBox):
    """A yes or no."""

    def __init__(self, words: str = "") -> None:
        super().__init__(words)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)


class LabelOf(QLabel):
    """A label that a click on passes on to its check box."""

    def __init__(self, words: str) -> None:
        super().__init__(words)
        self.check: Check | None = None

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if (
            self.check is not None
            and event.button() == Qt.MouseButton.LeftButton
            and self.rect().contains(event.pos())
        ):
            self.check.click()


class Combo(_Own, QComboBox):
    """A choice of one. The wheel turns it only while it has the focus."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def enter(self) -> None:
        self.showPopup()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if self.hasFocus():
            super().wheelEvent(event)
        else:
            event.ignore()


# Keys with Ctrl that a line of text handles itself, half typed or not.
_EDITING = (
    Qt.Key.Key_Backspace,
    Qt.Key.Key_Delete,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Home,
    Qt.Key.Key_End,
)
_CLIPBOARD = (Qt.Key.Key_C, Qt.Key.Key_X, Qt.Key.Key_V, Qt.Key.Key_A)


def is_typing(event: QKeyEvent, half_typed: bool) -> bool:
    """Return whether a key belongs to a line of text that has the focus rather than to the window's commands.

    Undo and redo are the line's own only while something half-typed is in it.
    """
    key, held = event.key(), event.modifiers()
    if held & (Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier):
        return False
    if held & Qt.KeyboardModifier.ControlModifier:
        if key in (Qt.Key.Key_Z, Qt.Key.Key_Y):
            return half_typed
        plain = not held & Qt.KeyboardModifier.ShiftModifier
        return key in _EDITING or (plain and key in _CLIPBOARD)
    return bool(event.text().isprintable() and event.text()) or key in (
        *_EDITING,
        Qt.Key.Key_Up,
        Qt.Key.Key_Down,
        Qt.Key.Key_PageUp,
        Qt.Key.Key_PageDown,
        *OWN,
        Qt.Key.Key_Escape,
    )


class Typing:
    """Takes the keys that belong to its text, and leaves all others to the window's commands."""

    @property
    def half_typed(self) -> bool:
        """Return whether something is typed that doesn't count yet."""
        return bool(self.isModified())  # type: ignore[attr-defined]

    def keeps(self, event: QKeyEvent) -> bool:
        """Return whether a key is the text's own."""
        return is_typing(event, self.half_typed)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            kept = self.keeps(event)
            event.setAccepted(kept)
            return kept
        return super().event(event)  # type: ignore[misc, no-any-return]


class Line(Typing, QLineEdit):
    """A line of text. Esc gives back what it held; files that are dropped on it go to the window."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setAcceptDrops(False)
        self._before = text

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._before = self.text()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.give_up()
        else:
            super().keyPressEvent(event)

    def give_up(self) -> None:
        """Take back what is half typed and leave the line."""
        self.setText(self._before)
        self.setModified(False)
        self.clearFocus()


def settle() -> None:
    """Let what is half typed in the control that has the focus count, before something else is done."""
    focus = QApplication.focusWidget()
    if isinstance(focus, Line) and focus.isModified():
        focus.editingFinished.emit()
    elif isinstance(focus, Notes):
        focus.left.emit()
    elif isinstance(focus, Settles):
        focus.settle()


@runtime_checkable
class Settles(Protocol):
    """A control that can be told to take what is half typed in it."""

    def settle(self) -> None: ...


class Notes(Typing, QPlainTextEdit):
    """Several lines of text. Tab goes on to the next field; Esc gives back what it held."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(False)
        self.setTabChangesFocus(True)
        self._before = ""

    @property
    def half_typed(self) -> bool:
        document = self.document()
        return document is not None and document.isModified()

    def set_typed(self, typed: bool) -> None:
        document = self.document()
        assert document is not None
        document.setModified(typed)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._before = self.toPlainText()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.left.emit()
        super().focusOutEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.setPlainText(self._before)
            self.set_typed(False)
            self.clearFocus()
        else:
            super().keyPressEvent(event)

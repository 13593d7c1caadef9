"""A number that can be dragged, typed and nudged."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QWidget

from .arithmetic import becoming, evaluate, shown, why_not
from .controls import Typing
from .escape import EscapeGuard

DRAG_FROM = 3
_strokes = itertools.count(1)


class NumberBox(Typing, QLineEdit):
    """Drag sideways to change, click to type, arrow keys to nudge (Shift tenfold, Ctrl a tenth); Esc gives
    up.

    ``edited`` gives the new number and a merge key, which stays the same through one drag or one run of
    nudges.

    Attributes
    ----------
    change : callable
        The last edit as a function: takes a number, returns what the edit makes of it. Where several layers
        are edited, it is applied to the number of each.
    olds : callable
        Returns the numbers that an edit changes. If there are several, a sign in front of what is typed means
        that it is added to each: ``+2``.
    """

    edited = pyqtSignal(float, str)
    cleared = pyqtSignal()  # emptied and left, where a field may be empty
    foretold = pyqtSignal(
        str
    )  # what several numbers would become by what is typed so far; empty when that is over
    refused = pyqtSignal(
        str
    )  # why what was typed counts for nothing, or less than it said; empty when that is over

    def __init__(
        self,
        soft: tuple[float, float] = (0.0, 1.0),
        hard: tuple[float, float] = (-1e9, 1e9),
        digits: int = 2,
        unit: str = "",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.soft, self.hard, self.digits, self.unit = soft, hard, digits, unit
        self.number = 0.0
        self.mixed = False
        self.olds: Callable[[], list[float]] = lambda: [self.number]
        self.change: Callable[[float], float] = lambda old: old
        self._press: tuple[QPointF, float] | None = None
        self._stroke = ""
        self._guard = EscapeGuard()
        self._told = False
        self.setMinimumWidth(38)
        self.setTextMargins(-2, 0, -3, 0)
        self.setAcceptDrops(False)
        self.setDragEnabled(False)
        # A press must not take the focus by itself: it may become a drag.
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        # After Enter nothing is being typed any more, and letters are the window's again.
        self._done = False
        self.returnPressed.connect(self._finish)
        self.textEdited.connect(self._begin)

    def show_number(self, number: float, mixed: bool = False) -> None:
        """Show a number, unless one is being typed; mixed ones are only said to be that."""
        self.number = number
        if self.mixed != mixed:
            self.mixed = mixed
            self.setPlaceholderText("mixed" if mixed else "")
        if not (self.hasFocus() and self.isModified()):
            text = self._text(number)
            if text != self.text():
                self.setText(text)
                self.setCursorPosition(0)
                if self.hasFocus():
                    # Typing replaces the whole number.
                    self.selectAll()

    def _text(self, number: float) -> str:
        return shown(number, self.digits) if math.isfinite(number) and not self.mixed else ""

    def _held(self, number: float) -> float:
        number = min(max(number, self.hard[0]), self.hard[1])
        return float(round(number)) if self.digits == 0 else float(f"{number:.7g}")

    @property
    def _start(self) -> float:
        """Return what a drag or a nudge begins at: where there is no number, the least that is usual."""
        return self.number if math.isfinite(self.number) else self.soft[0]

    @property
    def unit_step(self) -> float:
        """Return what one nudge changes: a hundredth of the soft range, made round; 1 for whole numbers."""
        if self.digits == 0:
            return 1.0
        span = abs(self.soft[1] - self.soft[0]) / 100
        step = 10.0 ** round(math.log10(max(span, 1e-6)))
        return max(step, 10.0**-self.digits)

    def _give(self, number: float, merge: str, change: Callable[[float], float] | None = None) -> None:
        """Take a number. Without ``change`` the other numbers change by the same difference."""
        number, before = self._held(number), self._start
        if number != self.number or (self.mixed and change is not None):
            by = number - before
            self.change = lambda old: self._held((change or (lambda x: x + by))(old))
            self.number = number
            self.setText(self._text(number))
            self.edited.emit(number, merge)

    def _say(self, words: str) -> None:
        if words or self._told:
            self._told = bool(words)
            self.refused.emit(words)

    # Typing

    def _finish(self) -> None:
        self._commit()
        self._done = True
        # The next nudge is a step of its own.
        self._stroke = f"focus {next(_strokes)}"

    def _begin(self) -> None:
        self._done = False
        self._say("")
        self._foretell()

    def _foretell(self) -> None:
        """Tell what each of several numbers would become."""
        olds = self.olds()
        if len(olds) > 1 and self.isModified():
            news = [evaluate(self.text(), old, self.unit, of_several=True) for old in olds]
            known = [self._held(new) for new in news if new is not None]
            self.foretold.emit(becoming(olds, known, self.digits) if len(known) == len(olds) else "")

    def settle(self) -> None:
        """Take what is half typed."""
        self._commit()

    def _commit(self) -> None:
        """Take what was typed; arithmetic counts for each of several numbers."""
        if not self.isModified():
            return
        if not self.text().strip():
            self.cleared.emit()
        typed, several = self.text(), len(self.olds()) > 1
        found = evaluate(typed, self.number, self.unit, several)
        self.setModified(False)
        self.foretold.emit("")
        if found is not None:

            def change(old: float) -> float:
                again = evaluate(typed, old, self.unit, several)
                return old if again is None else again

            self._give(found, "", change)
            self._say(self._limit(found))
        elif typed.strip():
            self._say(why_not(typed, self.unit))
        self.setText(self._text(self.number))
        self.selectAll()

    def _limit(self, number: float) -> str:
        """Return a sentence if a number is beyond what the field takes."""
        low, high = self.hard
        if number > high or number < low:
            least = number < low
            limit = f"{shown(low if least else high, 6)} {self.unit}".strip()
            return f"Held at {limit}: that is the {'least' if least else 'most'} there can be."
        return ""

    def _give_up(self) -> None:
        """Take back what is half typed."""
        self.setModified(False)
        self.setText(self._text(self.number))
        self._say("")
        self.foretold.emit("")

    # The mouse: a click takes the whole number, a drag drags it, in the field that has the focus too

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._press = (event.position(), self._start)
            self._stroke = ""

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._press is None:
            return
        start, number = self._press
        moved = event.position().x() - start.x()
        if not self._stroke:
            if abs(moved) < DRAG_FROM:
                return
            self._give_up()
            self._stroke = f"drag {next(_strokes)}"
            self._guard.begin(self._cancel_drag)
        pace = self.unit_step / (4 if self.digits == 0 else 1)
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            pace *= 10
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            pace /= 10
        self._give(number + round(moved) * pace, self._stroke)

    def _cancel_drag(self) -> None:
        if self._press is not None:
            number = self._press[1]
            self._press = None
            self._give(number, self._stroke)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        pressed, self._press = self._press, None
        self._guard.end()
        if pressed is not None and not self._stroke:
            self.setFocus(Qt.FocusReason.MouseFocusReason)
            self._stroke = f"focus {next(_strokes)}"
            self._done = False
            self.selectAll()

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self._press = None
        self._guard.end()

    # The keyboard

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._commit()
            pace = self.unit_step * (1 if key == Qt.Key.Key_Up else -1)
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                pace *= 10
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier and self.digits > 0:
                pace /= 10
            self._give(self._start + pace, f"nudge {self._stroke}")
            self.selectAll()
        elif key == Qt.Key.Key_Escape:
            self._give_up()
            self.clearFocus()
        else:
            super().keyPressEvent(event)

    def keeps(self, event: QKeyEvent) -> bool:
        """Return whether a key is the number's own: what types it, and what nudges it."""
        letter = event.text().isalpha() or event.key() == Qt.Key.Key_Space
        nudge = event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
        pastes = event.key() == Qt.Key.Key_V and not self.half_typed and _holds_more_than_text()
        if nudge and not event.modifiers() & Qt.KeyboardModifier.AltModifier:
            return True
        return not pastes and super().keeps(event) and not (self._done and letter)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._stroke = f"focus {next(_strokes)}"
        self._done = False
        self.setCursor(Qt.CursorShape.IBeamCursor)
        self.selectAll()

    def focusOutEvent(self, event: Any) -> None:
        self._commit()
        self.deselect()
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        super().focusOutEvent(event)


def _holds_more_than_text() -> bool:
    """Return whether what is on the clipboard is a field or more, which is not for a number's text."""
    clipboard = QApplication.clipboard()
    return clipboard is not None and '"pale-ember/' in clipboard.text()[:200]

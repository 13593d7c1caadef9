"""Tab goes from control to control as one sees them, whenever they were made."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractButton, QApplication, QScrollArea, QScrollBar, QWidget

# Tops that are no farther apart than this, pixels, stand in one row.
_SAME_ROW = 9


def stops(root: QWidget) -> list[QWidget]:
    """Return the controls below a widget that Tab goes to: row by row, and what lies in a container
    without leaving it.
    """
    found: list[QWidget] = []
    for child in _by_sight(root):
        if _takes_tab(child):
            found.append(child)
        found += stops(child)
    return found


def go_on(root: QWidget, forward: bool) -> bool:
    """Give the focus to the next control below a widget, or the one before; return whether there is one."""
    order = stops(root)
    if not order:
        return False
    now = QApplication.focusWidget()
    while now is not None and now is not root and now not in order:
        now = now.parentWidget()
    at = order.index(now) if now in order else (-1 if forward else 0)
    target = order[(at + (1 if forward else -1)) % len(order)]
    target.setFocus(Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason)
    _bring_into_view(target)
    return True


def _by_sight(widget: QWidget) -> list[QWidget]:
    """Return the visible children of a widget, row by row from above, each from the left."""
    children = [
        child
        for child in widget.children()
        if isinstance(child, QWidget) and child.isVisible() and not child.isWindow()
    ]
    children.sort(key=lambda child: (child.y(), child.x()))
    rows: list[list[QWidget]] = []
    for child in children:
        if rows and child.y() - rows[-1][0].y() <= _SAME_ROW:
            rows[-1].append(child)
        else:
            rows.append([child])
    return [child for row in rows for child in sorted(row, key=lambda child: child.x())]


def _takes_tab(widget: QWidget) -> bool:
    """Return whether the Tab key stops at a widget."""
    taken = Qt.FocusPolicy.TabFocus
    if (
        not widget.isEnabled()
        or widget.focusPolicy() & taken != taken
        or isinstance(widget, QScrollBar)
        or widget.focusProxy() is not None
    ):
        return False
    group = widget.group() if isinstance(widget, QAbstractButton) else None
    if group is not None and group.exclusive():
        # Of several of which one counts, arrow keys choose.
        return group.checkedButton() in (widget, None)
    return True


def _bring_into_view(widget: QWidget) -> None:
    """Scroll whatever a control lies in until it is seen."""
    above = widget.parentWidget()
    while above is not None:
        if isinstance(above, QScrollArea) and above.widget() is not None:
            above.ensureWidgetVisible(widget)
        above = above.parentWidget()

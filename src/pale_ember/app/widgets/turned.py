"""Widgets that share a place with others: only the one in front has work to do."""

from __future__ import annotations

from PyQt6.QtWidgets import QStackedWidget, QWidget


def is_turned_away(widget: QWidget) -> bool:
    """Return whether another widget stands in the place of this one."""
    holder = widget.parentWidget()
    return isinstance(holder, QStackedWidget) and holder.currentWidget() is not widget

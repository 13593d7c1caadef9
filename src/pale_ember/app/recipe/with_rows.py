"""What panels of fields have in common."""

from __future__ import annotations

from PyQt6.QtWidgets import QApplication, QWidget

from .field_row import FieldRow


class WithRows(QWidget):
    """A panel that knows its rows."""

    def row_of(self, widget: QWidget | None) -> FieldRow | None:
        """Return the row of the field that a widget belongs to; None if it is in none of this panel's."""
        while widget is not None and not isinstance(widget, FieldRow):
            widget = widget.parentWidget()
        return widget if widget is not None and self.isAncestorOf(widget) else None

    def row_in_focus(self) -> FieldRow | None:
        """Return the row of the field that has the focus."""
        return self.row_of(QApplication.focusWidget())

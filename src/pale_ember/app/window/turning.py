"""Places in the window that show one of two things: the effect's, or the bench's."""

from __future__ import annotations

from PyQt6.QtWidgets import QSizePolicy, QStackedWidget, QVBoxLayout, QWidget


class Turning(QStackedWidget):
    """Two widgets in one place; the one that is away asks for no room."""

    def __init__(self, usual: QWidget, bench: QWidget) -> None:
        super().__init__()
        self.addWidget(usual)
        self.addWidget(bench)
        self.turn(False)

    def turn(self, bench: bool) -> None:
        """Show the bench's, or the usual one."""
        for index in range(self.count()):
            widget = self.widget(index)
            if widget is not None:
                here = index == int(bench)
                policy = QSizePolicy.Policy.Preferred if here else QSizePolicy.Policy.Ignored
                widget.setSizePolicy(policy, policy)
        self.setCurrentIndex(int(bench))


def over(*widgets: QWidget) -> QWidget:
    """Return widgets one over the other; the last has the room."""
    holder = QWidget()
    column = QVBoxLayout(holder)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    for widget in widgets:
        column.addWidget(widget, int(widget is widgets[-1]))
    return holder

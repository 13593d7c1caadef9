"""What is left over the stage when it is alone: time, play, and the way back."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from ..session.session import Session
from ..widgets import theme
from .panels import tool_button

TOOLS = ("restart", "step_back", "play", "step", "loop", "tracks", "frame")


class SlimBar(QWidget):
    """One low row."""

    def __init__(self, session: Session, actions: dict[str, QAction]) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(26)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 2, 6, 2)
        row.setSpacing(1)
        self.name = QLabel()
        self.name.setStyleSheet(f"color: {theme.DIM};")
        row.addWidget(self.name)
        row.addStretch(1)
        for name in TOOLS:
            row.addWidget(tool_button(actions[name], (24, 22)))
        self.time = QLabel()
        self.time.setFixedWidth(110)
        self.time.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.time.setStyleSheet(f"color: {theme.EMBER};")
        row.addWidget(self.time)
        row.addStretch(1)
        row.addWidget(tool_button(actions["stage_alone"], (24, 22)))
        session.clock_changed.connect(self.refresh)
        session.effect_changed.connect(self.refresh)

    def refresh(self) -> None:
        if self.isVisible():
            session = self.session
            self.name.setText(session.layer.name if session.layer is not None else session.effect.name)
            self.time.setText(f"{session.phase:.2f} / {session.effect.duration:.2f} s")

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

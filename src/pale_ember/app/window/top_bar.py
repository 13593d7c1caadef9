"""The top bar: name and state of saving, transport, time, backdrop, cost."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QSizePolicy, QWidget

from ...drawing.backdrops import BACKDROPS
from ..session.session import SPEEDS, Session
from ..stage.stage import Stage
from ..widgets import theme
from ..widgets.controls import Combo, ToolButton
from ..widgets.icons import icon
from .commands import Command
from .panels import tool_button

SPEED_WORDS = ("¼×", "½×", "1×", "2×")


MOST_NAME = 230


class TopBar(QWidget):
    """One row over the whole window."""

    def __init__(
        self,
        session: Session,
        stage: Stage,
        actions: dict[str, QAction],
        rows: Sequence[Command],
        recent: QMenu,
    ) -> None:
        super().__init__()
        self.session, self.stage, self.actions_by_name, self.rows = session, stage, actions, rows
        self.setFixedHeight(40)
        self.setAutoFillBackground(True)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 4, 10, 4)
        row.setSpacing(2)
        row.addWidget(self._menu_button(recent))
        self.name = QLabel()
        self.name.setStyleSheet(
            f"font-size: 14px; font-weight: 600; color: {theme.BRIGHT}; padding-left: 6px;"
        )
        self.name.setMaximumWidth(MOST_NAME)
        self.state = QLabel()
        self.state.setStyleSheet(f"color: {theme.DIM}; padding: 0 8px 0 6px;")
        row.addWidget(self.name)
        row.addWidget(self.state)
        for name in ("undo", "redo"):
            row.addWidget(tool_button(actions[name], (28, 28)))
        row.addStretch(1)
        for name in ("restart", "step_back", "play", "step", "loop"):
            row.addWidget(tool_button(actions[name], (28, 28)))
        self.speed = self._speed_choice()
        row.addSpacing(6)
        row.addWidget(self.speed)
        self.time = self._time_label()
        row.addWidget(self.time)
        row.addSpacing(6)
        self.backdrop = self._backdrop_choice()
        row.addWidget(self.backdrop)
        row.addSpacing(8)
        self.cost = self._cost_label()
        row.addWidget(self.cost, 2)
        session.effect_changed.connect(self.refresh)
        session.clock_changed.connect(self.refresh_clock)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.refresh_cost)
        self._timer.start(250)
        self.refresh()
        self.refresh_clock()
        self.refresh_cost()

    def _menu_button(self, recent: QMenu) -> ToolButton:
        button = ToolButton()
        button.setIcon(icon("menu"))
        button.setToolTip("All commands (Alt+M)")
        button.setShortcut("Alt+M")
        button.setAccessibleName("Menu")
        button.setPopupMode(ToolButton.ToolButtonPopupMode.InstantPopup)
        button.setMenu(self._menu(recent))
        return button

    def _speed_choice(self) -> Combo:
        speed = Combo()
        speed.addItems(SPEED_WORDS)
        speed.setToolTip("How fast time passes ([ slower, ] faster)")
        speed.setAccessibleName("Speed")
        speed.setFixedWidth(52)
        speed.activated.connect(lambda i: self.session.set_speed(SPEEDS[i]))
        return speed

    def _time_label(self) -> QLabel:
        time = QLabel()
        time.setFont(theme.font(14))
        time.setStyleSheet(f"color: {theme.EMBER}; font-size: 14px;")
        time.setFixedWidth(134)
        time.setAlignment(Qt.AlignmentFlag.AlignCenter)
        time.setToolTip("The time in this loop, and the effect's duration")
        return time

    def _backdrop_choice(self) -> Combo:
        backdrop = Combo()
        backdrop.addItems(list(BACKDROPS))
        backdrop.setToolTip("What stands behind the effect (B)")
        backdrop.setAccessibleName("Backdrop")
        backdrop.textActivated.connect(
            lambda word: self.session.edit("stage.backdrop", word, "Change backdrop")
        )
        return backdrop

    def _cost_label(self) -> QLabel:
        cost = QLabel()
        cost.setStyleSheet(f"color: {theme.DIM};")
        # Where there is little room it says less.
        cost.setMinimumWidth(60)
        cost.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        cost.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        cost.setToolTip(
            "Particles alive; births refused by caps; simulation of the last step; pictures a second"
        )
        return cost

    def _menu(self, recent: QMenu) -> QMenu:
        """Return the menu of all commands by groups."""
        menu = QMenu(self)
        menu.setToolTipsVisible(True)
        groups: dict[str, QMenu] = {}
        for command in self.rows:
            if command.group not in groups:
                group = menu.addMenu(command.group)
                assert group is not None
                group.setToolTipsVisible(True)
                groups[command.group] = group
            groups[command.group].addAction(self.actions_by_name[command.name])
            if command.name == "open":
                groups[command.group].addMenu(recent)
        return menu

    def refresh(self) -> None:
        """Show the effect's name and whether it is saved."""
        document = self.session.document
        metrics = self.name.fontMetrics()
        self.name.setText(metrics.elidedText(document.title, Qt.TextElideMode.ElideRight, MOST_NAME - 10))
        self.state.setText(
            "changed"
            if document.dirty
            else "saved"
            if document.path
            else "not saved yet"
            if document.index
            else ""
        )
        self.state.setToolTip(
            str(document.path) if document.path else "This effect has no file yet; Ctrl+S gives it one"
        )
        for name, said in (("undo", document.undo_name), ("redo", document.redo_name)):
            action = self.actions_by_name[name]
            word = name.capitalize()
            action.setText(f"{word} {said[:1].lower()}{said[1:]}" if said else word)
            keys = action.shortcut().toString()
            action.setToolTip(f"{action.text()} ({keys})")
        self.backdrop.setCurrentText(self.session.effect.stage.backdrop)

    def refresh_clock(self) -> None:
        session = self.session
        self.time.setText(f"{session.phase:5.2f} / {session.effect.duration:.2f} s")
        play = self.actions_by_name["play"]
        play.setIcon(icon("pause" if session.playing else "play"))
        if session.speed in SPEEDS:
            self.speed.setCurrentIndex(SPEEDS.index(session.speed))

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.refresh_cost()

    def refresh_cost(self) -> None:
        """Show how many particles are alive and refused, and how long a moment takes."""
        moment = self.session.moment
        refused = sum(count["refused"] for count in moment.counts.values())
        parts = [f"{moment.alive:,} alive"]
        if refused:
            parts.append(f"{refused:,} refused")
        parts.append(f"{self.session.milliseconds:.1f} ms")
        if self.session.playing and self.stage.isVisible():
            parts.append(f"{self.stage.frames_per_second:.0f} pictures/s")
        while (
            len(parts) > 1
            and self.cost.fontMetrics().horizontalAdvance("   ".join(parts)) > self.cost.width()
        ):
            parts.pop()
        self.cost.setText("   ".join(parts))

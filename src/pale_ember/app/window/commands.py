"""What a command is, and how it becomes an action with a key."""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget

from ..widgets.controls import settle
from ..widgets.icons import icon
from .workplace import Workplace

Do = Callable[[Workplace], Any]
Asked = Callable[[Workplace], bool]


@dataclass(frozen=True)
class Command:
    """One thing that can be done.

    Attributes
    ----------
    group : str
        Its menu.
    key : str
        Its keys, the usual one first, several parted by spaces; empty for none.
    do : callable
        Does it, given the window.
    enabled : callable or None
        Says whether it can be done now; None for always.
    checked : callable or None
        Says whether what it switches is on; None for what is no switch.
    """

    name: str
    group: str
    title: str
    key: str
    tip: str
    do: Do
    enabled: Asked | None = None
    checked: Asked | None = None
    icon: str = ""


def make_actions(window: QWidget, place: Workplace, commands: Sequence[Command]) -> dict[str, QAction]:
    """Return an action for each command, with its key at work in the whole window."""
    found = {}
    for command in commands:
        action = QAction(command.title, window)
        action.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
        action.setCheckable(command.checked is not None)
        if command.icon:
            action.setIcon(icon(command.icon))
        action.triggered.connect(functools.partial(_do, command, place))
        window.addAction(action)
        found[command.name] = action
        give_keys(action, command, command.key)
    return found


def _do(command: Command, place: Workplace, checked: bool = False) -> None:
    # What is half typed counts before anything else is done, and for what was selected then.
    settle()
    command.do(place)


def give_keys(action: QAction, command: Command, keys: str) -> None:
    """Let a command be reached by some keys, parted by spaces."""
    action.setShortcuts([QKeySequence(one) for one in keys.split()])
    first = keys.split()[0] if keys else ""
    action.setToolTip(f"{command.tip} ({first})" if first else command.tip)


def refresh_actions(actions: dict[str, QAction], place: Workplace, commands: Sequence[Command]) -> None:
    """Enable what can be done now, and check what is on."""
    for command in commands:
        action = actions[command.name]
        if command.enabled is not None:
            action.setEnabled(command.enabled(place))
        if command.checked is not None:
            action.setChecked(command.checked(place))

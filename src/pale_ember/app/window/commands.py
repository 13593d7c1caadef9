"""What a command is, and how it becomes an action with a key."""

from __future__ import annotations

import functools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

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


class Turned(Protocol):
    """What a command means on the bench."""

    @property
    def title(self) -> str: ...
    @property
    def tip(self) -> str: ...
    @property
    def do(self) -> Do: ...
    @property
    def enabled(self) -> Asked: ...


@dataclass(frozen=True)
class OnBench:
    """The commands that mean something else on the bench, by name, and those that can't be done there."""

    turned: Mapping[str, Turned]
    away: frozenset[str]


def make_actions(
    window: QWidget, place: Workplace, commands: Sequence[Command], bench: OnBench
) -> dict[str, QAction]:
    """Return an action for each command, with its key at work in the whole window."""
    found = {}
    for command in commands:
        action = QAction(command.title, window)
        action.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
        action.setCheckable(command.checked is not None)
        if command.icon:
            action.setIcon(icon(command.icon))
        action.triggered.connect(functools.partial(_do, command, place, bench))
        window.addAction(action)
        found[command.name] = action
        give_keys(action, command, command.key)
    return found


def _do(command: Command, place: Workplace, bench: OnBench, checked: bool = False) -> None:
    # Text that is half typed is taken first, for the layers that are selected now.
    settle()
    other = bench.turned.get(command.name) if place.bench.is_open else None
    (other or command).do(place)


def give_keys(action: QAction, command: Command, keys: str) -> None:
    """Let a command be reached by some keys, parted by spaces."""
    action.setShortcuts([QKeySequence(one) for one in keys.split()])
    first = keys.split()[0] if keys else ""
    action.setToolTip(f"{command.tip} ({first})" if first else command.tip)


def refresh_actions(
    actions: dict[str, QAction], place: Workplace, commands: Sequence[Command], bench: OnBench
) -> None:
    """Enable what can be done now, check what is on, and say what each means now."""
    for command in commands:
        action = actions[command.name]
        other = bench.turned.get(command.name)
        if other is not None:
            shown: Command | Turned = other if place.bench.is_open else command
            if action.text() != shown.title:
                action.setText(shown.title)
                keys = action.shortcut().toString()
                action.setToolTip(f"{shown.tip} ({keys})" if keys else shown.tip)
        if place.bench.is_open and (other is not None or command.name in bench.away):
            action.setEnabled(command.name not in bench.away and (other is None or other.enabled(place)))
        elif command.enabled is not None:
            action.setEnabled(command.enabled(place))
        elif not action.isEnabled():
            action.setEnabled(True)
        if command.checked is not None:
            action.setChecked(command.checked(place))

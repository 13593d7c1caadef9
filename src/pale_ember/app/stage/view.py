"""What the things on the stage need to know of it."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import Qt

from ...drawing.passes.overdraw import Overdraw
from ..session.session import Session


class StageView(Protocol):
    """The stage as its overlay and its handles see it."""

    session: Session
    show_wire: bool
    show_overdraw: bool
    overdraw: tuple[Overdraw, Overdraw]
    cost: tuple[int, int]

    def width(self) -> int: ...
    def height(self) -> int: ...
    def hasFocus(self) -> bool: ...
    def setCursor(self, shape: Qt.CursorShape) -> None: ...
    def touch_up(self) -> None: ...

"""What opens over the window."""

from __future__ import annotations

from typing import Protocol, TypeVar


class Openable(Protocol):
    """A dialog, or what opens over the window like one."""

    def open(self) -> None: ...


AnyOpenable = TypeVar("AnyOpenable", bound=Openable)


def opened(dialog: AnyOpenable) -> AnyOpenable:
    """Open a dialog and return it."""
    dialog.open()
    return dialog

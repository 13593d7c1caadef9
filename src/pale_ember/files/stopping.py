"""Long work: how it tells how far it is, and how it is given up."""

from __future__ import annotations

from collections.abc import Callable

# Told how much is done, 0…1; returns whether to give up.
Progress = Callable[[float], bool]


class Stopped(Exception):
    """Somebody gave the work up."""


def go_on(progress: Progress, share: float) -> None:
    """Tell how much is done.

    Raises
    ------
    Stopped
        If the work was given up.
    """
    if progress(share):
        raise Stopped

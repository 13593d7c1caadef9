"""The command line: the window, and what works without one.

A command is a row of its group's file; :mod:`.command_line` reads a line and runs the command that it names.
"""

from __future__ import annotations

from collections.abc import Sequence

# First: a stop while the rest is being read ends the program in a sentence.
from .. import early_stop


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command line; return its exit status: 0 good, 1 problems found, 2 wrong use.

    Parameters
    ----------
    arguments : sequence of str, optional
        The process's own by default.
    """
    from .command_line import run

    return early_stop.leave(run(arguments))

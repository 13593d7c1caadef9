"""What a command of the command line is."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from typing import NamedTuple


class Command(NamedTuple):
    """One command.

    Attributes
    ----------
    name, help : str
        What is typed, and what ``--help`` says of it.
    add_arguments : callable
        Adds its arguments to its parser.
    run : callable
        Does it with what was given; returns the exit status.
    """

    name: str
    help: str
    add_arguments: Callable[[argparse.ArgumentParser], None]
    run: Callable[[argparse.Namespace], int]


def no_arguments(parser: argparse.ArgumentParser) -> None:
    """Add nothing."""

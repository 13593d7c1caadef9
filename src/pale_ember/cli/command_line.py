"""Reads a command line and runs the command that it names; what is wrong is said in a sentence."""

from __future__ import annotations

import argparse
import io
import logging
import signal
import sys
import threading
import warnings
from collections.abc import Sequence

from .. import __version__, early_stop
from . import figures, hand_over, pictures, window
from .output import PROBLEMS, WRONG_USE, end, silence

COMMANDS = {
    command.name: command
    for group in (window.COMMANDS, pictures.COMMANDS, figures.COMMANDS, hand_over.COMMANDS)
    for command in group
}


def parser() -> argparse.ArgumentParser:
    """Return the command line's parser."""
    top = argparse.ArgumentParser(
        prog="pale-ember",
        description="Build and tune layered 3D particle effects. Without a command it opens FILE, or a blank "
        "effect.",
    )
    top.add_argument("--version", action="version", version=f"pale-ember {__version__}")
    commands = top.add_subparsers(dest="command", metavar="COMMAND")
    for command in COMMANDS.values():
        command.add_arguments(commands.add_parser(command.name, help=command.help))
    return top


def run(arguments: Sequence[str] | None = None) -> int:
    """Run the command line; return the exit status: 0 good, 1 problems found, 2 wrong use."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if not given or (given[0] not in COMMANDS and not given[0].startswith("-")):
        given.insert(0, "open")
    try:
        # From here on a stop is an exception; nothing is imported before.
        _speak_safely()
        return _run(given)
    except KeyboardInterrupt:
        return end("stopped.", 128 + signal.SIGINT)
    except early_stop.Terminated:
        return end("stopped.", 128 + signal.SIGTERM)


def _run(given: list[str]) -> int:
    """Run a command line; return the exit status. What is wrong is said."""
    chosen = parser().parse_args(given)
    from ..effect.errors import EffectError, WrongUse

    try:
        early_stop.over()
        status = COMMANDS[chosen.command].run(chosen)
        sys.stdout.flush()
        return status
    except WrongUse as wrong:
        return end(str(wrong), WRONG_USE)
    except EffectError as wrong:
        return end(str(wrong), PROBLEMS)
    except MemoryError:
        return end(
            "there is not enough memory for this; lower the caps of the layers, or take a smaller picture.",
            PROBLEMS,
        )
    except BrokenPipeError:
        # The reader of the pipe has gone; there is nobody to report to.
        silence()
        return PROBLEMS
    except OSError as wrong:
        silence()
        return end(f"what was found can't be written: {(wrong.strerror or str(wrong)).lower()}.", PROBLEMS)


def _speak_safely() -> None:
    """Let what a terminal can't show be written as escapes, and SIGTERM end a command by a sentence.

    What libraries warn of is for programmers; what matters here is in sentences.
    """
    warnings.simplefilter("ignore")
    logging.disable(logging.WARNING)
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    if threading.current_thread() is threading.main_thread():
        early_stop.heed()

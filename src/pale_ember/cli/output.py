"""What commands print: sentences on the error stream, figures as JSON."""

from __future__ import annotations

import contextlib
import json
import os
import sys
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..effect import Effect

GOOD, PROBLEMS, WRONG_USE = 0, 1, 2


def printable(said: str) -> str:
    """Return a text without what could steer a terminal."""
    return "".join(c if c.isprintable() or c == "\n" else "?" for c in said)


def say(said: str) -> None:
    """Print a sentence on the error stream."""
    with contextlib.suppress(OSError):
        print(f"pale-ember: {printable(said)}", file=sys.stderr)


def end(said: str, status: int) -> int:
    """Print a sentence on the error stream; return an exit status."""
    say(said)
    return status


def silence() -> None:
    """Point standard output at nothing, so that the interpreter's end doesn't stumble over it again."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def print_json(data: Any, in_a_line: bool = False) -> None:
    """Print data as JSON, indented or in one line."""
    # Names may hold what steers a terminal; in JSON all but plain letters are escapes where need be.
    unicode = (sys.stdout.encoding or "").lower().replace("-", "") == "utf8"
    text = json.dumps(data, indent=None if in_a_line else 2, ensure_ascii=not unicode)
    print("".join(c if c.isprintable() or c == "\n" else f"\\u{ord(c):04x}" for c in text), flush=in_a_line)


def say_findings(effect: Effect, file: str) -> int:
    """Say what keeps an effect from being simulated as it is meant; return the exit status."""
    from ..checks import find_problems

    found = find_problems(effect)
    for wrong in found:
        say(f"{file}: {wrong}")
    return PROBLEMS if any("heavy" not in wrong.reason for wrong in found) else GOOD

"""Ctrl+C while the program is still being read: a sentence, as later, and not the program's insides."""

from __future__ import annotations

import os
import signal
import sys
import threading

_NAMES = ("cli.py", "pale-ember")


def _stop(number: int, frame: object) -> None:
    os.write(2, b"pale-ember: stopped.\n")
    # Nothing has been begun that could be left half done.
    os._exit(128 + number)


def over() -> None:
    """Let Ctrl+C be an exception again: from now on somebody catches it."""
    if signal.getsignal(signal.SIGINT) is _stop:
        signal.signal(signal.SIGINT, signal.default_int_handler)


# Only where this is the program that was started, and where whoever started it lets it be stopped.
if (
    threading.current_thread() is threading.main_thread()
    and os.path.basename(sys.argv[0] if sys.argv else "") in _NAMES
    and signal.getsignal(signal.SIGINT) is signal.default_int_handler
):
    signal.signal(signal.SIGINT, _stop)

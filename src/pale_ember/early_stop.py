"""Stops at awkward moments: while the program is still being read, and where nothing can be raised."""

from __future__ import annotations

import os
import signal
import sys
import threading

_NAME = "pale-ember"
_MODULE = ["-m", "pale_ember.cli"]
# When a stop that was lost is sent again, s.
_AGAIN = 0.05


def _is_started() -> bool:
    """Return whether this process was started as the program, by its name or by ``python -m``."""
    return os.path.basename(sys.argv[0] if sys.argv else "") == _NAME or any(
        sys.orig_argv[at : at + 2] == _MODULE for at in range(1, len(sys.orig_argv) - 1)
    )


def _stop(number: int, frame: object) -> None:
    os.write(2, b"pale-ember: stopped.\n")
    # Nothing has been begun that could be left half done.
    os._exit(128 + number)


class Interrupted(KeyboardInterrupt):
    """Ctrl+C, as this program raises it.

    Where a plain KeyboardInterrupt passes code that was run from a string, as class makers of the standard
    library do, Python kills itself by SIGINT at its end, though the exception was caught long before.
    """


def _interrupt(number: int, frame: object) -> None:
    raise Interrupted


def over() -> None:
    """Let Ctrl+C be an exception again: from now on somebody catches it."""
    if signal.getsignal(signal.SIGINT) is _stop:
        signal.signal(signal.SIGINT, _interrupt)


def keep(numbers: dict[type[BaseException], int]) -> None:
    """Send a stop again that came where Python can't raise it, such as while an object ends: there it would
    be lost.

    Parameters
    ----------
    numbers : dict
        The exceptions that stops are raised as, and their signals.
    """

    def lost(what: sys.UnraisableHookArgs) -> None:
        number = numbers.get(what.exc_type)
        if number is None:
            sys.__unraisablehook__(what)
            return
        again = threading.Timer(_AGAIN, os.kill, (os.getpid(), number))
        again.daemon = True
        again.start()

    sys.unraisablehook = lost


# Only where this is the program that was started, and where whoever started it lets it be stopped.
if (
    threading.current_thread() is threading.main_thread()
    and _is_started()
    and signal.getsignal(signal.SIGINT) is signal.default_int_handler
):
    signal.signal(signal.SIGINT, _stop)

"""Stops at awkward moments: while the program is still being read, and where nothing can be raised."""

from __future__ import annotations

import contextlib
import os
import signal
import sys
import threading
import time
from types import FrameType

_NAME = "pale-ember"
_MODULE = ["-m", "pale_ember.cli"]
# When a stop that was lost is sent again, s.
_AGAIN = 0.05
# Seconds to wait for the compiler; after that the program ends wherever it is.
_PATIENCE = 2.0
# Modules in whose midst nothing is raised.
_UNSAFE = ("llvmlite.", "numba.")
# And the function that compiles a kernel: it holds a lock that others wait for.
_COMPILES = ("pale_ember.simulation.kernels.compiling", "address")


def _is_started() -> bool:
    """Return whether this process was started as the program, by its name or by ``python -m``."""
    return os.path.basename(sys.argv[0] if sys.argv else "") == _NAME or any(
        sys.orig_argv[at : at + 2] == _MODULE for at in range(1, len(sys.orig_argv) - 1)
    )


def _stop(number: int, frame: FrameType | None) -> None:
    os.write(2, b"pale-ember: stopped.\n")
    # Nothing has been begun that could be left half done.
    os._exit(128 + number)


class Interrupted(KeyboardInterrupt):
    """Ctrl+C, as this program raises it.

    Where a plain KeyboardInterrupt passes code that was run from a string, as class makers of the standard
    library do, Python kills itself by SIGINT at its end, though the exception was caught long before.
    """


class Terminated(BaseException):
    """SIGTERM, where no window has its own answer to it."""


_RAISED: dict[int, type[BaseException]] = {signal.SIGINT: Interrupted, signal.SIGTERM: Terminated}
# The signal that is to be raised once that can be; when each was asked for first.
_waiting: list[int] = []
_asked: dict[int, float] = {}


def _is_safe(frame: FrameType | None) -> bool:
    """Return whether an exception may be raised at a frame.

    The compiler's objects own memory outside of Python: half made or half handed over they bring the program
    down when they are released.
    """
    while frame is not None:
        module = str(frame.f_globals.get("__name__"))
        if module.startswith(_UNSAFE) or (module, frame.f_code.co_name) == _COMPILES:
            return False
        frame = frame.f_back
    return True


def _raise(number: int, frame: FrameType | None) -> None:
    if _is_safe(frame):
        raise _RAISED[number]
    now = time.monotonic()
    _asked.setdefault(number, now)
    if now - _asked[number] > _PATIENCE:
        # Whatever is being written is temporary, and is swept away by the next that writes there.
        _stop(number, frame)
    _raise_later(number)


def _raise_later(number: int) -> None:
    _waiting[:] = [number]
    signal.setitimer(signal.ITIMER_REAL, _AGAIN)


def _raise_waiting(_: int, frame: FrameType | None) -> None:
    if _waiting:
        _raise(_waiting.pop(), frame)


def over() -> None:
    """Let Ctrl+C be an exception again: from now on somebody catches it."""
    if signal.getsignal(signal.SIGINT) is _stop:
        signal.signal(signal.SIGINT, _raise)


def leave(status: int) -> int:
    """End the program if it was stopped, at once: taking the compiler's objects apart may take long, or for
    ever. Return the status otherwise.
    """
    if status in (128 + signal.SIGINT, 128 + signal.SIGTERM) and _is_started():
        for stream in (sys.stdout, sys.stderr):
            with contextlib.suppress(OSError, ValueError):
                stream.flush()
        os._exit(status)
    return status


def heed() -> None:
    """Let stops be exceptions, :class:`Interrupted` and :class:`Terminated`, in the main thread.

    Where none may be raised, or where Python would lose it, such as while an object ends, it is raised a
    little later.
    """
    signal.signal(signal.SIGTERM, _raise)
    signal.signal(signal.SIGALRM, _raise_waiting)

    def lost(what: sys.UnraisableHookArgs) -> None:
        if issubclass(what.exc_type, KeyboardInterrupt):
            _raise_later(signal.SIGINT)
        elif issubclass(what.exc_type, Terminated):
            _raise_later(signal.SIGTERM)
        else:
            sys.__unraisablehook__(what)

    sys.unraisablehook = lost


# Only where this is the program that was started, and where whoever started it lets it be stopped.
if (
    threading.current_thread() is threading.main_thread()
    and _is_started()
    and signal.getsignal(signal.SIGINT) is signal.default_int_handler
):
    signal.signal(signal.SIGINT, _stop)

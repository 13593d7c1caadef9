"""Work beside the interface of which only the newest answer is wanted."""

from __future__ import annotations

import threading
import time
import traceback
import weakref
from collections.abc import Callable
from typing import Generic, TypeVar

Request = TypeVar("Request")
# After how many seconds the thread is to look again though nothing was asked for; None if it needn't.
Again = float | None


class Newest(Generic[Request]):
    """A thread that works at the newest of what it was asked for, and drops what was asked for before.

    Parameters
    ----------
    name : str
        What the thread is called.
    work : callable
        Gets a request, and a function that says whether a newer one has come or all is to end; it asks that
        now and then, and gives up where it is so. It returns after how many seconds ``idle`` is to be called,
        or None.
    idle : callable, optional
        Is called while nothing is asked for, with the same function; returns when it is to be called again.
    first : callable, optional
        Is called in the thread before anything else; if it returns False the thread ends.
    waits : bool
        Whether the thread is started by :meth:`begin` alone, and not by the first request.
    """

    def __init__(
        self,
        name: str,
        work: Callable[[Request, Callable[[], bool]], Again],
        idle: Callable[[Callable[[], bool]], Again] = lambda overtaken: None,
        first: Callable[[], bool] = lambda: True,
        waits: bool = False,
    ) -> None:
        self._work, self._idle, self._first, self._waits = work, idle, first, waits
        self._lock = threading.Condition()
        self._asked: list[Request] = []
        self._ended = False
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    @property
    def has_ended(self) -> bool:
        """Return whether it was told to end."""
        return self._ended

    @property
    def is_working(self) -> bool:
        """Return whether its thread is there."""
        return self._thread.is_alive()

    @property
    def waiting(self) -> Request | None:
        """Return what it was asked for and has not begun yet."""
        asked = self._asked
        return asked[0] if asked else None

    def begin(self) -> None:
        """Start the thread, if it wasn't started or ended before."""
        with self._lock:
            if self._thread.ident is None and not self._ended:
                self._thread.start()

    def ask(self, request: Request) -> None:
        """Ask for something, in place of what has not been begun."""
        with self._lock:
            self._asked = [request]
            self._lock.notify()
        if not self._waits:
            self.begin()

    def end(self, patience: float = 5.0) -> None:
        """Let the thread end, and wait for that so long, s."""
        with self._lock:
            self._ended = True
            self._lock.notify()
        if self._thread.is_alive() and self._thread is not threading.current_thread():
            self._thread.join(patience)

    def end_with(self, owner: object) -> None:
        """Let the thread end when its owner goes, without waiting for it.

        An object of Qt tells of its end by ``destroyed``, but by then Python may have taken the variables of
        what is connected to that: a circle is taken apart in any order, and whoever is called without its
        variables brings the program down.
        """
        weakref.finalize(owner, self.end, 0.0).atexit = False

    def _overtaken(self) -> bool:
        return self._ended or bool(self._asked)

    def _run(self) -> None:
        """Work at the newest request until the end is asked for."""
        if not self._first():
            return
        again: Again = None
        while True:
            request = self._next(again)
            if self._ended:
                return
            try:
                overtaken = self._overtaken
                again = self._work(request[0], overtaken) if request else self._idle(overtaken)
            except Exception:  # a mistake of ours in one answer must not keep the next one away
                traceback.print_exc()
                again = None

    def _next(self, again: Again) -> list[Request]:
        """Wait for a request, but only so long; return it in a list, or nothing."""
        end = None if again is None else time.monotonic() + again
        with self._lock:
            while not self._asked and not self._ended:
                left = None if end is None else end - time.monotonic()
                if left is not None and left <= 0.0:
                    break
                self._lock.wait(left)
            found, self._asked = self._asked, []
            return found

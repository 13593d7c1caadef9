"""Test modules shared out to processes; one that hangs or dies costs the test that it was at, and nothing
else.
"""

from __future__ import annotations

import collections
import functools
import json
import os
import queue
import signal
import subprocess
import sys
import threading
import time
from typing import Any

# A test that tells nothing for so long is given up, s.
PATIENCE = 300.0


class Shared:
    """Modules for several processes: each has some of its own, and helps the others when these are done.

    Parameters
    ----------
    shares : list of (modules, environment, nice)
        For each process what it begins with, what its environment has besides, and how modest it is.
    patience : float
        How long a test may go on without an end, s.
    """

    def __init__(
        self, shares: list[tuple[list[str], dict[str, str], int]], patience: float = PATIENCE
    ) -> None:
        self.shares, self.patience = shares, patience
        self.waiting = [collections.deque(names) for names, _, _ in shares]
        self.became: dict[str, str] = {}
        self.taken: dict[str, float] = {}
        self.lock = threading.Lock()

    def run(self) -> dict[str, int]:
        """Run all; return how many passed, failed and were skipped."""
        threads = [
            threading.Thread(target=self._serve, args=(number,), daemon=True)
            for number in range(len(self.shares))
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        slowest = sorted(self.taken.items(), key=lambda row: -row[1])[:12]
        print(
            "longest: " + ", ".join(f"{name.rpartition('.')[2]} {taken:.0f} s" for name, taken in slowest),
            flush=True,
        )
        found = collections.Counter(self.became.values())
        return {name: found[name] for name in ("passed", "failed", "skipped")}

    def _next(self, number: int) -> str | None:
        with self.lock:
            if self.waiting[number]:
                return self.waiting[number].popleft()
            # The others' shortest ones: they will be at a long one.
            others = max(self.waiting, key=len)
            return others.pop() if others else None

    def _serve(self, number: int) -> None:
        process: _Process | None = None
        while (module := self._next(number)) is not None:
            done: set[str] = set()
            while module not in done:
                if process is None:
                    process = _Process(self.shares[number][1], self.shares[number][2])
                if not self._through(process, module, done):
                    process.end()
                    process = None
        if process is not None:
            process.end()

    def _through(self, process: _Process, module: str, done: set[str]) -> bool:
        """Let a process run a module; return whether it came through alive. Adds to ``done`` the tests,
        at last the module.
        """
        process.order({"module": module, "done": sorted(done)})
        at, began = module, time.monotonic()
        while True:
            told = process.heard(self.patience)
            if told is None:
                why = "hung" if time.monotonic() - began >= self.patience * 0.9 else "ended the process"
                print(f"\nFAILED {at}: it {why}; the others go on without it.", flush=True)
                self._note(at, "failed")
                done.add(at)
                return False
            ended = time.monotonic()
            self.taken[at] = self.taken.get(at, 0.0) + ended - began
            began = ended
            if "module" in told:
                done.add(module)
                return True
            at = told["test"]
            done.add(at)
            if "became" in told:
                self._note(at, told["became"])

    def _note(self, test: str, became: str) -> None:
        with self.lock:
            # What failed in one part has failed.
            if self.became.get(test) != "failed":
                self.became[test] = became


class _Process:
    """A process of :mod:`.working`, with what it says passed on line by line."""

    def __init__(self, environment: dict[str, str], nice: int) -> None:
        read, write = os.pipe()
        modest = functools.partial(os.nice, nice)
        self.process = subprocess.Popen(
            [sys.executable, "-m", "tests", "--work", str(write)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            errors="replace",
            env={**os.environ, **environment},
            pass_fds=(write,),
            preexec_fn=modest,  # noqa: PLW1509
            start_new_session=True,
        )
        os.close(write)
        self.told: queue.SimpleQueue[dict[str, Any] | None] = queue.SimpleQueue()
        threading.Thread(target=self._listen, args=(read,), daemon=True).start()
        threading.Thread(target=self._pass_on, daemon=True).start()

    def _listen(self, handle: int) -> None:
        with os.fdopen(handle, encoding="utf-8") as pipe:
            for line in pipe:
                self.told.put(json.loads(line))
        self.told.put(None)

    def _pass_on(self) -> None:
        assert self.process.stdout is not None
        for line in self.process.stdout:
            print(line, end="", flush=True)

    def order(self, what: dict[str, Any]) -> None:
        assert self.process.stdin is not None
        try:
            self.process.stdin.write(json.dumps(what) + "\n")
            self.process.stdin.flush()
        except OSError:
            self.told.put(None)

    def heard(self, patience: float) -> dict[str, Any] | None:
        """Return what is told next; None if nothing is for so long, or the process has ended."""
        try:
            return self.told.get(timeout=patience)
        except queue.Empty:
            return None

    def end(self) -> None:
        """End it and all that it has started; one that hangs says first where it stands."""
        assert self.process.stdin is not None
        try:
            self.process.stdin.close()
            self.process.wait(5.0)
        except (OSError, subprocess.TimeoutExpired):
            self.process.send_signal(signal.SIGUSR1)
            time.sleep(1.0)
        try:
            os.killpg(self.process.pid, signal.SIGKILL)
        except ProcessLookupError:
            pass
        self.process.wait()

"""Works spread over processes, one for each core."""

from __future__ import annotations

import contextlib
import json
import os
import queue
import subprocess
import sys
import threading
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from ..profile import Profile, profile_text
from ..stopping import Stopped
from .batch import Item, refuse_overlaps
from .worker import handle
from .works import Product

# Told a work's number, its share 0…1, and, when it is done, what became of it.
Order = dict[str, Any]
Heard = Callable[[int, float, dict[str, Any] | None], None]


def run_all(
    items: Sequence[Item],
    out: Path,
    product: Product,
    profile: Profile,
    heard: Heard,
    jobs: int = 0,
    any_picture: bool = False,
    anew: bool = False,
    stopped: Callable[[], bool] = lambda: False,
    dry: bool = False,
) -> list[dict[str, Any]]:
    """Do a batch; return what became of each work, in its order.

    Parameters
    ----------
    jobs : int
        How many processes at most; 0 takes as many as there are cores.
    dry : bool
        Whether it is only said what would be done.
    stopped : callable
        Asked now and then whether to give up; what is written by then stays, whole.
    """
    refuse_overlaps(list(items), product, profile)
    shared = {
        "dry": dry,
        "out": str(out),
        "product": str(product),
        "profile": profile_text(profile),
        "any_picture": any_picture,
        "anew": anew,
    }
    orders = [{"file": str(item.file), "at": str(item.at), "name": item.name, **shared} for item in items]
    several = min(jobs or os.cpu_count() or 1, len(orders))
    if several <= 1:
        return _run_here(orders, heard, stopped)
    return _Workers(orders, heard, stopped).run(several)


def _run_here(orders: list[Order], heard: Heard, stopped: Callable[[], bool]) -> list[dict[str, Any]]:
    """Do all works in this process, one after the other."""
    found = []
    for number, order in enumerate(orders):

        def say(share: float, number: int = number) -> bool:
            heard(number, share, None)
            return stopped()

        try:
            found.append(handle(order, say))
        except Stopped:
            break
        heard(number, 1.0, found[-1])
    return found


class _Workers:
    """Processes that take works one after the other, each fed by a thread of its own."""

    def __init__(self, orders: list[Order], heard: Heard, stopped: Callable[[], bool]) -> None:
        self.orders, self.heard, self.stopped = orders, heard, stopped
        self.found: list[dict[str, Any] | None] = [None] * len(orders)
        self.processes: list[subprocess.Popen[str]] = []
        self._waiting: queue.SimpleQueue[int] = queue.SimpleQueue()
        for number in range(len(orders)):
            self._waiting.put(number)
        self._lock = threading.Lock()

    def run(self, several: int) -> list[dict[str, Any]]:
        """Do all works; return what became of each that was done, in order."""
        self.processes += [start_worker() for _ in range(several)]
        threads = [threading.Thread(target=self._feed, args=(one,), daemon=True) for one in self.processes]
        try:
            for thread in threads:
                thread.start()
            for thread in threads:
                while thread.is_alive():
                    thread.join(0.1)
                    if self.stopped():
                        break
        finally:
            end_workers(self.processes)
        return [one for one in self.found if one is not None]

    def _feed(self, process: subprocess.Popen[str]) -> None:
        """Give works to a process, and to another one where that has died, until none is left."""
        while not self.stopped():
            try:
                number = self._waiting.get_nowait()
            except queue.Empty:
                return
            try:
                result = self._done_by(process, number)
            except (OSError, ValueError):
                result = None
            if result is None:
                if self.stopped():
                    return
                result = self._failed(number)
                process = start_worker()
                self.processes.append(process)
            with self._lock:
                self.found[number] = result
                self.heard(number, 1.0, result)

    def _done_by(self, process: subprocess.Popen[str], number: int) -> dict[str, Any] | None:
        """Return what became of a work; None if the process has ended, or all shall stop."""
        assert process.stdin is not None and process.stdout is not None
        process.stdin.write(json.dumps(self.orders[number]) + "\n")
        process.stdin.flush()
        while (line := process.stdout.readline()) and not self.stopped():
            progress: dict[str, Any] = json.loads(line)
            if "state" in progress:
                return progress
            with self._lock:
                self.heard(number, progress["share"], None)
        return None

    def _failed(self, number: int) -> dict[str, Any]:
        order = self.orders[number]
        return {
            "file": order["file"],
            "at": order["at"],
            "state": "failed",
            "place": order["file"],
            "seconds": 0.0,
            "reason": "the process that worked on it has ended; memory may have run out. Run it again, "
            "with --jobs 1.",
        }


def start_worker() -> subprocess.Popen[str]:
    """Return a process that waits for works; see :mod:`.worker`."""
    line = [sys.executable, "-m", "pale_ember.files.hand_over.worker"]
    root = str(Path(__file__).resolve().parents[3])
    paths = [root, *filter(None, [os.environ.get("PYTHONPATH")])]
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(paths)}
    return subprocess.Popen(
        line, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, encoding="utf-8", env=environment
    )


def end_workers(processes: list[subprocess.Popen[str]]) -> None:
    """Let processes end: by themselves where they have nothing to do, else at once."""
    for process in processes:
        with contextlib.suppress(OSError):
            assert process.stdin is not None
            process.stdin.close()
    for process in processes:
        try:
            process.wait(0.5)
        except subprocess.TimeoutExpired:
            process.terminate()
    for process in processes:
        try:
            process.wait(5.0)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        if process.stdout is not None:
            process.stdout.close()

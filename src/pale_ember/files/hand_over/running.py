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
from .batch import Item, refuse_overlaps
from .worker import handle
from .works import Product

# Told a work's number, its share 0…1, and, when it is done, what became of it.
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
    text = profile_text(profile)
    orders = [
        {
            "file": str(item.file),
            "at": str(item.at),
            "name": item.name,
            "dry": dry,
            "out": str(out),
            "product": str(product),
            "profile": text,
            "any_picture": any_picture,
            "anew": anew,
        }
        for item in items
    ]
    several = min(jobs or os.cpu_count() or 1, len(orders))
    found: list[dict[str, Any] | None] = [None] * len(orders)
    if several <= 1:
        from ..stopping import Stopped

        for number, order in enumerate(orders):

            def say(share: float, number: int = number) -> bool:
                heard(number, share, None)
                return stopped()

            try:
                found[number] = handle(order, say)
            except Stopped:
                break
            heard(number, 1.0, found[number])
        return [one for one in found if one is not None]
    waiting: queue.SimpleQueue[int] = queue.SimpleQueue()
    for number in range(len(orders)):
        waiting.put(number)
    lock, processes = threading.Lock(), [start_worker() for _ in range(several)]

    def feed(process: subprocess.Popen[str]) -> None:
        assert process.stdin is not None and process.stdout is not None
        while not stopped():
            try:
                number = waiting.get_nowait()
            except queue.Empty:
                return
            result: dict[str, Any] | None = None
            try:
                process.stdin.write(json.dumps(orders[number]) + "\n")
                process.stdin.flush()
                while (line := process.stdout.readline()) and not stopped():
                    progress = json.loads(line)
                    if "state" in progress:
                        result = progress
                        break
                    with lock:
                        heard(number, progress["share"], None)
            except (OSError, ValueError):
                result = None
            if result is None:
                if stopped():
                    return
                result = {
                    **{k: orders[number][k] for k in ("file", "at")},
                    "state": "failed",
                    "place": str(items[number].file),
                    "seconds": 0.0,
                    "reason": "the process that worked on it has ended; memory may have run out. Run it "
                    "again, with --jobs 1.",
                }
                process = start_worker()
                processes.append(process)
                assert process.stdin is not None and process.stdout is not None
            with lock:
                found[number] = result
                heard(number, 1.0, result)

    threads = [threading.Thread(target=feed, args=(process,), daemon=True) for process in processes]
    try:
        for thread in threads:
            thread.start()
        for thread in threads:
            while thread.is_alive():
                thread.join(0.1)
                if stopped():
                    break
    finally:
        end_workers(processes)
    return [one for one in found if one is not None]


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

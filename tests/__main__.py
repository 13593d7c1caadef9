"""Runs the whole suite in two processes, and says how many passed in the last line.

Usage::

    python -m tests            everything
    python -m tests ROOM …     some rooms, files or tests, in one process
                               (such as ``effect`` or ``app.strip.test_lane``)
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from .sharing import Shared
from .working import run_here, work

TOP = Path(__file__).resolve().parent


def modules(folder: Path) -> list[str]:
    """Return the test modules below a folder, the largest first: what takes longest shall not be last."""
    found = sorted(folder.rglob("test_*.py"), key=lambda file: -file.stat().st_size)
    return [".".join(file.relative_to(TOP).with_suffix("").parts) for file in found]


def load(names: tuple[str, ...]) -> unittest.TestSuite:
    loader = unittest.TestLoader()
    suites = []
    for name in names:
        if (TOP / name.replace(".", "/")).is_dir():
            suites.append(loader.discover(str(TOP / name.replace(".", "/")), top_level_dir=str(TOP.parent)))
        else:
            suites.append(loader.loadTestsFromName(f"tests.{name}"))
    return unittest.TestSuite(suites)


def own_display() -> tuple[subprocess.Popen[bytes] | None, str]:
    """Start a virtual display more and return it with its name; none where that can't be had."""
    if shutil.which("Xvfb") is None:
        return None, ""
    read, write = os.pipe()
    command = [
        "Xvfb",
        "-displayfd",
        str(write),
        "-screen",
        "0",
        "1920x1200x24",
        "+extension",
        "GLX",
        "-nolisten",
        "tcp",
    ]
    server = subprocess.Popen(
        command, pass_fds=(write,), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    os.close(write)
    with os.fdopen(read) as told:
        number = told.readline().strip()
    return (server, f":{number}") if number else (None, "")


def main() -> int:
    given = sys.argv[1:]
    if given and given[0] == "--work":
        work(int(given[1]))
        return 0
    # What the tests leave behind stays out of the artist's own folders.
    home = tempfile.mkdtemp(prefix="pale-ember-tests-")
    os.environ.setdefault("PALE_EMBER_STATE", f"{home}/state")
    os.environ.setdefault("XDG_CONFIG_HOME", f"{home}/config")
    # The many commands that tests start need not each compile the program's modules.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    os.environ.setdefault("PYTHONPYCACHEPREFIX", f"{home}/bytecode")
    if given:
        return run_here(load(tuple(given)))
    # Kernels are compiled once, all of them, before two processes and their children would each do it.
    from pale_ember.simulation.warm_up import prepare_all

    prepare_all(lambda done, total, what: what and print(f"preparing {what}", flush=True))
    # Two windows on one display would take the focus from one another.
    server, display = own_display()
    windows = modules(TOP / "app")
    others = [name for name in modules(TOP) if name not in windows]
    # What shall be seen in time goes a little before the browsers, encoders and batches. Not by much: beside
    # somebody else's work those would stand still.
    shared = Shared([(windows, {}, 0), (others, {"DISPLAY": display} if display else {}, 3)])
    try:
        counts = shared.run()
    finally:
        if server is not None:
            server.terminate()
        shutil.rmtree(home, ignore_errors=True)
    print(f"{counts['passed']} passed, {counts['failed']} failed, {counts['skipped']} skipped")
    return 1 if counts["failed"] or not counts["passed"] else 0


if __name__ == "__main__":
    sys.exit(main())

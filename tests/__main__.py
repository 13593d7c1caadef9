"""Runs the whole suite in two processes, and says how many passed in the last line.

python -m tests            everything
python -m tests ROOM …     some rooms or modules, in one process, such as ``effect`` or ``app.test_strip``
"""

from __future__ import annotations

import faulthandler
import functools
import json
import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

TOP = Path(__file__).resolve().parent
# Two halves that take about as long; the window's rooms are all in one of them.
CORE = ("effect", "simulation", "textures", "drawing", "files", "app.texture_bench")
WINDOW = tuple(name for one in sorted((TOP / "app").iterdir()) if one.is_dir() and one.name != "__pycache__" and (name := f"app.{one.name}") not in CORE)


def load(names: tuple[str, ...]) -> unittest.TestSuite:
    loader = unittest.TestLoader()
    suites = []
    for name in names:
        if (TOP / name.replace(".", "/")).is_dir():
            suites.append(loader.discover(str(TOP / name.replace(".", "/")), top_level_dir=str(TOP.parent)))
        else:
            suites.append(loader.loadTestsFromName(f"tests.{name}"))
    return unittest.TestSuite(suites)


def run(names: tuple[str, ...], report: str | None) -> int:
    result = unittest.TextTestRunner(verbosity=2, stream=sys.stdout).run(load(names))
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    counts = [result.testsRun - bad - len(result.skipped), bad, len(result.skipped)]
    if report:
        Path(report).write_text(json.dumps(counts))
    else:
        close(counts)
    sys.stdout.flush()
    return 1 if bad or not result.testsRun else 0


def close(counts: list[int]) -> None:
    print(f"{counts[0]} passed, {counts[1]} failed, {counts[2]} skipped")


def own_display() -> tuple[subprocess.Popen[bytes] | None, str]:
    """Start a virtual display more and return it with its name; none where that can't be had."""
    if shutil.which("Xvfb") is None:
        return None, ""
    read, write = os.pipe()
    command = ["Xvfb", "-displayfd", str(write), "-screen", "0", "1920x1200x24", "+extension", "GLX", "-nolisten", "tcp"]
    server = subprocess.Popen(command, pass_fds=(write,), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    os.close(write)
    with os.fdopen(read) as told:
        number = told.readline().strip()
    return (server, f":{number}") if number else (None, "")


def main() -> int:
    given = sys.argv[1:]
    # What the tests leave behind stays out of the artist's own folders.
    home = tempfile.mkdtemp(prefix="pale-ember-tests-")
    os.environ.setdefault("PALE_EMBER_STATE", f"{home}/state")
    os.environ.setdefault("XDG_CONFIG_HOME", f"{home}/config")
    if given and given[0] == "--part":
        # What hangs says where, before whoever waits for it loses patience.
        faulthandler.dump_traceback_later(1500, exit=True)
        # Qt's threads and GL drivers may be slow to go; all has been counted by then.
        os._exit(run(tuple(given[2:]), given[1]))
    if given:
        return run(tuple(given), None)
    # Kernels are compiled once, before two processes would both do it.
    from pale_ember.simulation.warm import prepare

    prepare(lambda done, total, what: what and print(f"preparing {what}", flush=True))
    # Two windows on one display would take the focus from one another.
    server, display = own_display()
    parts = []
    for names, where in ((CORE, {"DISPLAY": display} if display else {}), (WINDOW, dict[str, str]())):
        report = f"{home}/{names[0]}.json"
        log = open(f"{home}/{names[0]}.log", "w+", encoding="utf-8")  # noqa: SIM115
        command = [sys.executable, "-m", "tests", "--part", report, *names]
        # What shall be seen in time goes first; the other half, with its browsers, encoders and batches, takes what is left.
        modest = functools.partial(os.nice, 10) if names == CORE else None
        process = subprocess.Popen(command, stdout=log, stderr=subprocess.STDOUT, env={**os.environ, **where}, preexec_fn=modest)  # noqa: PLW1509
        parts.append((process, report, log))
    total = [0, 0, 0]
    for process, report, log in parts:
        process.wait(timeout=1600)
        log.seek(0)
        print(log.read(), flush=True)
        if Path(report).exists():
            total = [a + b for a, b in zip(total, json.loads(Path(report).read_text()), strict=True)]
        else:
            print(f"a part of the tests ended early, with status {process.returncode}")
            total[1] += 1
    if server is not None:
        server.terminate()
    close(total)
    return 1 if total[1] or not total[0] else 0


if __name__ == "__main__":
    sys.exit(main())

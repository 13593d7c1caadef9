"""Processes that are stopped by signals."""

import time
from pathlib import Path

# Whoever runs the tests in the background has switched Ctrl+C off; the children are to heed it.
HEEDING = ("env", "--default-signal=INT")


def heeded(pid: int, number: int) -> None:
    """Wait until a process has a handler for a signal, however slowly it starts."""
    end = time.monotonic() + 120.0
    while time.monotonic() < end:
        caught = next(
            line for line in Path(f"/proc/{pid}/status").read_text().splitlines() if line.startswith("SigCgt")
        )
        if int(caught.split()[1], 16) >> (number - 1) & 1:
            return
        time.sleep(0.05)
    raise AssertionError(f"no handler for signal {number}")

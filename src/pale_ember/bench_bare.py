"""The plain layer's step and appearance as a bare C loop, to measure the kernels against; needs a C compiler."""

from __future__ import annotations

import ctypes
import shutil
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np

SOURCE = Path(__file__).parents[2] / "bench" / "bare_loop.c"
FLAGS = ("-O3", "-march=native", "-ffp-contract=off", "-shared", "-fPIC")


def bare_loop(count: int) -> Callable[[], None] | None:
    """Return what carries so many particles over one step and shows them, in C; None where it can't be compiled."""
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None or not SOURCE.exists():
        return None
    with tempfile.TemporaryDirectory() as folder:
        library = f"{folder}/bare.so"
        done = subprocess.run([compiler, *FLAGS, str(SOURCE), "-o", library], capture_output=True, check=False)
        if done.returncode:
            return None
        code = ctypes.CDLL(library)
    dice, stride = np.random.default_rng(1), count + 144 - count % 16
    state = dice.uniform(-1, 1, (11, stride)).astype(np.float32)
    state[6], state[7], state[10] = 0.01, 0.01, 0.0
    serial, out = np.arange(count, dtype=np.uint32), np.empty((count, 10), np.float32)
    tables = dice.uniform(0, 1, 4000).astype(np.float32)

    def at(array: np.ndarray) -> ctypes.c_void_p:
        return ctypes.c_void_p(array.ctypes.data)

    real, size, now = ctypes.c_float, ctypes.c_long, [0]

    def once() -> None:
        now[0] += 1
        code.step(at(state), size(stride), size(count), real(0.98), real(0.016), real(0.0001), real(4.9))
        code.dead(at(state), size(stride), size(count), now[0], real(1 / 60))
        code.appear(
            at(state), size(stride), at(serial), size(count), now[0], real(1 / 60), at(tables), real(0.2), at(out)
        )  # fmt: skip

    return once

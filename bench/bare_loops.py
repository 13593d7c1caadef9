"""The plain and the everything layer's step and appearance as bare C loops, to measure the kernels
against; needs a C compiler.
"""

from __future__ import annotations

import ctypes
import shutil
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

FOLDER = Path(__file__).parent
FLAGS = (
    "-O3",
    "-march=native",
    "-ffp-contract=off",
    "-fno-math-errno",
    "-fno-trapping-math",
    "-shared",
    "-fPIC",
)


def bare_loop(count: int) -> Callable[[], None] | None:
    """Return what carries so many particles of the plain layer over one step and shows them, in C; None
    without a compiler.
    """
    code = _compiled("bare_loop.c")
    if code is None:
        return None
    stride, state, serial, dice = _particles(count)
    out, tables = np.empty((count, 10), np.float32), dice.uniform(0, 1, 4000).astype(np.float32)
    real, size, now = ctypes.c_float, ctypes.c_long, [0]

    def once() -> None:
        now[0] += 1
        code.step(_at(state), size(stride), size(count), real(0.98), real(0.016), real(0.0001), real(4.9))
        code.dead(_at(state), size(stride), size(count), now[0], real(1 / 60))
        code.appear(
            _at(state),
            size(stride),
            _at(serial),
            size(count),
            now[0],
            real(1 / 60),
            _at(tables),
            real(0.2),
            _at(out),
        )

    return once


def bare_everything(count: int) -> Callable[[], None] | None:
    """Return the same of the everything layer."""
    code, plain = _compiled("bare_everything.c"), _compiled("bare_loop.c")
    if code is None or plain is None:
        return None
    stride, state, serial, dice = _particles(count)
    out, tables = np.empty((count, 11), np.float32), dice.uniform(0, 1, 20 * 640).astype(np.float32)
    real, size, now = ctypes.c_float, ctypes.c_long, [0]

    def once() -> None:
        now[0] += 1
        code.everything_step(
            _at(state), size(stride), _at(serial), size(count), now[0], real(1 / 60), _at(tables)
        )
        plain.dead(_at(state), size(stride), size(count), now[0], real(1 / 60))
        code.everything_appear(
            _at(state),
            size(stride),
            _at(serial),
            size(count),
            now[0],
            real(1 / 60),
            _at(tables),
            real(0.2),
            _at(out),
        )

    return once


def _compiled(name: str) -> Any:
    """Return a C file of the folder as a library; None where it can't be compiled."""
    compiler = shutil.which("cc") or shutil.which("gcc")
    if compiler is None or not (FOLDER / name).exists():
        return None
    with tempfile.TemporaryDirectory() as folder:
        library = f"{folder}/bare.so"
        done = subprocess.run(
            [compiler, *FLAGS, str(FOLDER / name), "-o", library, "-lm"], capture_output=True, check=False
        )
        return ctypes.CDLL(library) if done.returncode == 0 else None


def _particles(count: int) -> tuple[int, Any, Any, np.random.Generator]:
    dice, stride = np.random.default_rng(1), count + 144 - count % 16
    state = dice.uniform(-1, 1, (11, stride)).astype(np.float32)
    state[6], state[7], state[10] = 0.01, 0.01, 0.0
    return stride, state, np.arange(count, dtype=np.uint32), dice


def _at(array: Any) -> ctypes.c_void_p:
    return ctypes.c_void_p(array.ctypes.data)

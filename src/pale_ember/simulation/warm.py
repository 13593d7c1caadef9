"""Making the kernels that an effect uses ready ahead of their first use, on both sides of a machine, and saying so."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterable

from ..effect.effect import Effect
from .biography import follow
from .courses import kernels_of
from .kernels import KERNELS, Kernel
from .look import appear
from .sampling import at_clock
from .stepping import give_births, live, run, settle

# What every layer uses, the slowest to compile first.
_ALWAYS = (run, settle, live, give_births, appear, at_clock, follow)
# About how long each takes to compile, s, where it is more than one: for fair halves.
_WEIGHT = {
    "sampling.values": 3.0, "integration.advance": 9.0, "look.appear": 3.0, "turbulence.stir": 3.0, "shapes.spawn": 4.0,
    "stepping.give_birth": 2.0, "stepping.settle": 2.0,
}  # fmt: skip


def needed(effect: Effect) -> list[Kernel]:
    """Return the kernels that an effect's layers use; those of a blank layer if it has none."""
    found = {kernel.name: kernel for kernel in _ALWAYS}
    for layer in effect.layers:
        found |= {kernel.name: kernel for kernel in kernels_of(layer).values()}
    if not effect.layers:
        from ..effect.effect import Layer

        found |= {kernel.name: kernel for kernel in kernels_of(Layer(id="a")).values()}
    return sorted(found.values(), key=lambda kernel: -_WEIGHT.get(kernel.name, 1.0))


def prepare(progress: Callable[[int, int, str], None] | None = None, effect: Effect | None = None) -> dict[str, float]:
    """Compile, or load from the disk cache, the kernels that an effect uses.

    Where many are to be compiled a second process takes half of them; all the others it compiles afterwards, so that
    they are there when they are first used.

    Parameters
    ----------
    progress : callable, optional
        Called with the number done, the number in all, and what is being prepared.
    effect : Effect, optional
        A blank one by default.

    Returns
    -------
    dict
        Seconds by kernel, of those that this process compiled or loaded.
    """
    wanted = [kernel for kernel in needed(effect or Effect()) if not kernel.is_ready]
    if not wanted:
        return {}
    tell = progress or (lambda done, of, name: None)
    other = _helper(wanted) if not _are_kept(wanted) else None
    mine = wanted if other is None else halves([kernel.name for kernel in wanted])[0]
    order = [kernel for kernel in wanted if kernel in mine or kernel.name in mine]
    order += [kernel for kernel in wanted if kernel not in order]
    for done, kernel in enumerate(order):
        tell(done, len(order), _said(kernel.name))
        if other is not None and kernel.name not in mine:
            _wait_for(kernel, other)
        _ = kernel.address
    tell(len(order), len(order), "")
    return {kernel.name: kernel.seconds for kernel in order}


def halves(names: list[str]) -> tuple[set[str], list[str]]:
    """Return names in two parts that take about as long."""
    sides: tuple[list[str], list[str]] = ([], [])
    taken = [0.0, 1.0]
    for name in sorted(names, key=lambda each: -_WEIGHT.get(each, 1.0)):
        side = 0 if taken[0] <= taken[1] else 1
        sides[side].append(name)
        taken[side] += _WEIGHT.get(name, 1.0)
    return set(sides[0]), sides[1]


def _said(name: str) -> str:
    return name.rpartition(".")[2].replace("_", " ")


def _are_kept(wanted: Iterable[Kernel]) -> bool:
    """Return whether most kernels are in the disk cache."""
    return sum(kernel.is_kept() for kernel in wanted) >= 0.7 * len(list(wanted))


def _helper(wanted: list[Kernel]) -> subprocess.Popen[bytes] | None:
    """Start the second process, if there is a processor for it."""
    if (os.cpu_count() or 1) < 2:
        return None
    names = halves([kernel.name for kernel in wanted])[1]
    code = "import sys; from pale_ember.simulation.warm import compile_all; compile_all(sys.argv[1:])"
    try:
        return subprocess.Popen(
            [sys.executable, "-c", code, *names], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip
    except OSError:
        return None


def _wait_for(kernel: Kernel, other: subprocess.Popen[bytes]) -> None:
    """Wait until the other process has compiled a kernel, or has ended."""
    while not kernel.is_kept() and other.poll() is None:
        time.sleep(0.02)


def compile_all(first: list[str]) -> None:
    """Compile some kernels into the disk cache, and then all others that nobody has compiled yet."""
    for name in first:
        _ = KERNELS[name].address
    if os.environ.get("PALE_EMBER_NEEDED_ONLY"):
        return
    os.nice(10)
    for kernel in KERNELS.values():
        if not kernel.is_kept():
            _ = kernel.address

"""Compiles or loads the kernels that an effect uses ahead of their first use, by two processes."""

from __future__ import annotations

import os
import time
from collections.abc import Callable

from .. import first_start
from ..effect.effect import Effect, Layer
from ..effect.kinds import DrawnAs
from .appearance.appear import appear
from .appearance.orienting import orient
from .follow_ups.event_looks import look_at_events
from .follow_ups.schedule import wants_of
from .kernels.compiling import KERNELS, Kernel
from .layout import dependence
from .motion.bows import stands_on_things
from .motion.path import pose
from .motion.prop_poses import poses_along
from .ribbons.bands import BAND_KERNELS, lay_bands
from .ribbons.joining import join, put_in_rows
from .time.biography import follow
from .time.compile_layer import kernels_of
from .time.stepping import give_births, live, run, settle
from .values.sampling import at_clock

# Kernels that every layer uses, the slowest to compile first.
_ALWAYS = (run, settle, live, give_births, appear, at_clock, follow)


def needed(effect: Effect) -> list[Kernel]:
    """Return the kernels that an effect's layers use; those of a blank layer if it has none."""
    found = {kernel.name: kernel for kernel in _ALWAYS}
    for layer in effect.layers:
        wants = wants_of(effect, layer)
        found |= {kernel.name: kernel for kernel in kernels_of(layer, wants).values()}
        if dependence.takes(layer):
            found[look_at_events.name] = look_at_events
        if layer.look.draw != DrawnAs.SPRITE:
            found |= {kernel.name: kernel for kernel in (orient, pose)}
        if layer.look.draw == DrawnAs.RIBBON:
            found |= {kernel.name: kernel for kernel in (join, put_in_rows, lay_bands, *BAND_KERNELS)}
        if stands_on_things(effect, layer):
            found |= {kernel.name: kernel for kernel in (poses_along, pose)}
    if any(prop.path for prop in effect.stage.props) and any(
        layer.contact.enabled for layer in effect.layers
    ):
        found |= {kernel.name: kernel for kernel in (poses_along, pose)}
    if not effect.layers:
        found |= {kernel.name: kernel for kernel in kernels_of(Layer(id="a")).values()}
    return sorted(found.values(), key=lambda kernel: -kernel.cost)


def to_wait_for(effect: Effect) -> float:
    """Return about how long an effect's kernels take to compile, s; 0 if they are all there."""
    return sum(one.cost for one in needed(effect) if not one.is_ready and not one.is_kept())


def prepare(
    progress: Callable[[int, int, str], None] | None = None, effect: Effect | None = None
) -> dict[str, float]:
    """Compile, or load from the disk cache, the kernels that an effect uses.

    Where they are to be compiled a second process takes a half of those that every effect uses, and all
    others afterwards, so that they are there when they are first used.

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
    helped = set(_second_half()) if first_start.begin() else set()
    order = sorted(wanted, key=lambda kernel: kernel.name in helped)
    for done, kernel in enumerate(order):
        tell(done, len(order), kernel.name.rpartition(".")[2].replace("_", " "))
        while kernel.name in helped and not kernel.is_kept() and first_start.is_helped():
            time.sleep(0.02)
        _ = kernel.address
    tell(len(order), len(order), "")
    return {kernel.name: kernel.seconds for kernel in order}


def prepare_all(progress: Callable[[int, int, str], None] | None = None) -> None:
    """Compile every kernel into the disk cache, by two processes; return once all are there.

    Parameters
    ----------
    progress : callable, optional
        As in :func:`prepare`.
    """
    prepare(progress)
    tell = progress or (lambda done, of, name: None)
    # The heaviest first: the second process takes them as they are declared, and shall not meet this one at
    # one of those.
    for done, kernel in enumerate(sorted(KERNELS.values(), key=lambda kernel: -kernel.cost)):
        if not kernel.is_kept():
            tell(done, len(KERNELS), kernel.name.rpartition(".")[2].replace("_", " "))
            _ = kernel.address
    while first_start.is_helped():
        time.sleep(0.1)


def _everyday() -> list[Kernel]:
    """Return what fire, smoke and weather use, the slowest to compile first."""
    return sorted((kernel for kernel in KERNELS.values() if kernel.everyday), key=lambda kernel: -kernel.cost)


def _second_half() -> list[str]:
    """Return the kernels that the second process compiles first: about half of what an everyday effect
    needs.
    """
    sides: tuple[list[str], list[str]] = ([], [])
    # The first process has the window to show as well.
    taken = [3.0, 0.0]
    for kernel in _everyday():
        side = 0 if taken[0] <= taken[1] else 1
        sides[side].append(kernel.name)
        taken[side] += kernel.cost
    return sides[1]


def help_along() -> None:
    """Be the second process: compile half of what an everyday effect needs, and then all that nobody has
    compiled.
    """
    for name in _second_half():
        _ = KERNELS[name].address
    if os.environ.get("PALE_EMBER_NEEDED_ONLY"):
        return
    os.nice(10)
    for kernel in KERNELS.values():
        if not kernel.is_kept():
            _ = kernel.address
    first_start.note_all_compiled()

"""Making the kernels that an effect uses ready ahead of their first use, by two processes, and saying so."""

from __future__ import annotations

import os
import time
from collections.abc import Callable

from .. import first_start
from ..effect.effect import Effect, Layer
from ..effect.kinds import Draw
from . import dependence
from .bands import BAND_KERNELS, lay_bands
from .biography import follow
from .bows import stands_on_things
from .courses import kernels_of
from .follow_ups import look_at_events, wants_of
from .joining import join, put_in_rows
from .kernels import KERNELS, Kernel
from .look import appear
from .orienting import orient
from .path import pose
from .prop_poses import poses_along
from .sampling import at_clock
from .stepping import give_births, live, run, settle

# What every layer uses, the slowest to compile first.
_ALWAYS = (run, settle, live, give_births, appear, at_clock, follow)
# About how long each takes to compile, s: for fair halves.
_WEIGHT = {
    "band_edges.write": 2.0, "band_ways.directions": 2.0, "band_edges.sides": 1.8, "contact.touch": 12.0, "look.appear": 3.7, "integration.advance": 2.7, "turbulence.stir": 1.5, "pushing.push": 1.5,
    "sampling.values": 0.9, "path.pose": 0.9, "limiting.move_limited": 0.9, "bearing.bear": 0.9, "recording.record": 0.7,
    "stepping.settle": 0.4, "forces.drag_and_wind": 0.4, "stepping.give_births": 0.4, "sampling.at_clock": 0.4,
    "shapes.spawn": 0.4, "follow_ups.look_at_events": 0.3, "stepping.live": 0.3, "biography.follow": 0.3,
    "pushing.glide": 0.2, "shapes.in_ball": 0.2, "shapes.in_cylinder": 0.2, "shapes.in_ring": 0.2, "stepping.run": 0.1,
}  # fmt: skip
# What fire, smoke and weather use.
_EVERYDAY = (
    *(kernel.name for kernel in _ALWAYS), "integration.advance", "sampling.values", "forces.drag_and_wind",
    "turbulence.stir", "pushing.push", "pushing.glide", "bearing.bear", "shapes.spawn", "shapes.in_ball",
    "shapes.in_cylinder", "shapes.in_ring",
)  # fmt: skip


def needed(effect: Effect) -> list[Kernel]:
    """Return the kernels that an effect's layers use; those of a blank layer if it has none."""
    found = {kernel.name: kernel for kernel in _ALWAYS}
    for layer in effect.layers:
        wants = wants_of(effect, layer)
        found |= {kernel.name: kernel for kernel in kernels_of(layer, wants).values()}
        if dependence.takes(layer):
            found[look_at_events.name] = look_at_events
        if layer.look.draw != Draw.SPRITE:
            found |= {kernel.name: kernel for kernel in (orient, pose)}
        if layer.look.draw == Draw.RIBBON:
            found |= {kernel.name: kernel for kernel in (join, put_in_rows, lay_bands, *BAND_KERNELS)}
        if stands_on_things(effect, layer):
            found |= {kernel.name: kernel for kernel in (poses_along, pose)}
    if any(prop.path for prop in effect.stage.props) and any(layer.contact.enabled for layer in effect.layers):
        found |= {kernel.name: kernel for kernel in (poses_along, pose)}
    if not effect.layers:
        found |= {kernel.name: kernel for kernel in kernels_of(Layer(id="a")).values()}
    return sorted(found.values(), key=lambda kernel: -_WEIGHT.get(kernel.name, 0.5))


def to_wait_for(effect: Effect) -> float:
    """Return about how long an effect's kernels take to compile, s; 0 if they are all there."""
    return sum(_WEIGHT.get(one.name, 0.5) for one in needed(effect) if not one.is_ready and not one.is_kept())


def prepare(progress: Callable[[int, int, str], None] | None = None, effect: Effect | None = None) -> dict[str, float]:
    """Compile, or load from the disk cache, the kernels that an effect uses.

    Where they are to be compiled a second process takes a half of those that every effect uses, and all others
    afterwards, so that they are there when they are first used.

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
    # The heaviest first: the second process takes them as they are declared, and shall not meet this one at one of those.
    for done, kernel in enumerate(sorted(KERNELS.values(), key=lambda kernel: -_WEIGHT.get(kernel.name, 0.5))):
        if not kernel.is_kept():
            tell(done, len(KERNELS), kernel.name.rpartition(".")[2].replace("_", " "))
            _ = kernel.address
    while first_start.is_helped():
        time.sleep(0.1)


def _second_half() -> list[str]:
    """Return the kernels that the second process compiles first: about half of what an everyday effect needs."""
    sides: tuple[list[str], list[str]] = ([], [])
    # The first process has the window to show as well.
    taken = [3.0, 0.0]
    for name in sorted(_EVERYDAY, key=lambda each: -_WEIGHT.get(each, 0.5)):
        side = 0 if taken[0] <= taken[1] else 1
        sides[side].append(name)
        taken[side] += _WEIGHT.get(name, 0.5)
    return sides[1]


def help_along() -> None:
    """Be the second process: compile half of what an everyday effect needs, and then all that nobody has compiled."""
    for name in _second_half():
        _ = KERNELS[name].address
    if os.environ.get("PALE_EMBER_NEEDED_ONLY"):
        return
    os.nice(10)
    for kernel in KERNELS.values():
        if not kernel.is_kept():
            _ = kernel.address
    first_start.note_all_compiled()

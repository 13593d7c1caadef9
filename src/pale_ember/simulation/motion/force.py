"""What a force is: a kernel that adds to the acceleration of a block of particles.

A force needs nothing but its file in this room: it is found there, compiled, and linked with the layers that
use it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from ...effect.chapters.motion import Flight
from ...effect.values.values import Fixed
from ...neighbours import import_neighbours
from ..kernels.compiling import Kernel, kernel
from ..layout.signatures import AROUND, CALLS, F2, I1, INT, NOTHING, TABLES, U1


class Force(NamedTuple):
    """A kernel, and the fields of a layer's flight of which one must not be 0 for it to act."""

    kernel: Kernel
    fields: tuple[str, ...]


FORCES: list[Force] = []


def force(*fields: str, cost: float = 0.5) -> Callable[[Callable[..., Any]], Kernel]:
    """Declare a function as a force.

    It gets ``scr, around, tables, form, ends, serial, start, n, calls``: the scratch memory, whose rows M are
    places in the middle of the step and whose rows A take the acceleration; the layer's surroundings; its
    values; the numbers of all particles; and which block it is for.

    Parameters
    ----------
    fields : str
        Fields of a layer's flight; it is called where one of them isn't 0.
    cost : float
        About how long it takes to compile, s.
    """

    def declared(function: Callable[..., Any]) -> Kernel:
        made = kernel(NOTHING, F2, AROUND, TABLES, I1, F2, U1, INT, INT, CALLS, cost=cost)(function)
        FORCES.append(Force(made, fields))
        return made

    return declared


def forces_of(flight: Flight) -> list[Kernel]:
    """Return the forces that act in a layer, in the order in which they are added."""
    return [one.kernel for one in FORCES if any(getattr(flight, name) != Fixed(0.0) for name in one.fields)]


def load_forces() -> None:
    """Let all modules of this room declare their forces."""
    import_neighbours(__name__)

"""What a cache holds: each layer's particles at so many moments."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Effect, Layer
from ...simulation import Simulation
from ...simulation.layout.instances import field_of
from ..product_options import CacheOptions
from ..profile import length_of
from ..stopping import Progress, go_on


class Attribute(NamedTuple):
    """One thing that each particle has: its name, how many numbers it is, its unit, and what it is."""

    name: str
    wide: int
    unit: str
    words: str


# In the order of all caches. Those behind ``angle`` are what is drawn, as the look's fields say.
ATTRIBUTES = (
    Attribute("position", 3, "m", "its place in the world"),
    Attribute("velocity", 3, "m/s", "how it moves, without drift and pace"),
    Attribute("age", 1, "", "0 at birth, 1 at death"),
    Attribute("lifetime", 1, "s", "how long it lives in all"),
    Attribute("size", 2, "m", "width and height as drawn"),
    Attribute("color", 3, "", "linear, before intensity"),
    Attribute("opacity", 1, "", "0 to 1"),
    Attribute("intensity", 1, "", "light, times the colour"),
    Attribute("angle", 1, "rad", "its turn in the picture, or about its axis"),
    Attribute("frame", 1, "", "frame of its sheet"),
    Attribute("mix", 1, "", "0 alpha, 1 add"),
    Attribute("erode", 1, "", "how much of it is eaten away"),
    Attribute("bend", 1, "", "how much noise moves its picture"),
    Attribute("shimmer", 1, "", "how much noise changes its light"),
    Attribute("turn", 4, "", "of meshes: how they are turned, a quaternion x y z w"),
    Attribute("stretch", 3, "", "of meshes: times the size"),
    Attribute("lot", 1, "", "of meshes: a throw of the dice for which part of a mesh it is"),
)
SERIAL = Attribute("serial", 1, "", "its number; the same particle has the same one at all moments")


@dataclass(frozen=True)
class Sample:
    """One moment: its time, s, and by layer id each attribute's numbers, (n,) or (n, parts), and
    ``serial``.
    """

    number: int
    time: float
    layers: dict[str, dict[str, NDArray[np.float32] | NDArray[np.uint32]]]


def shown_layers(effect: Effect) -> list[Layer]:
    """Return the layers that are cached: those that are enabled."""
    return [layer for layer in effect.layers if layer.enabled]


def samples(effect: Effect, options: CacheOptions, progress: Progress) -> Iterator[Sample]:
    """Yield the moments of a cache, each at the simulation's step that is nearest to it.

    Raises
    ------
    Stopped
    """
    count = max(1, math.floor(length_of(options, effect) * options.rate + 1e-6) + 1)
    sim, layers = Simulation(effect), shown_layers(effect)
    for number in range(count):
        step = round((options.begin + number / options.rate) * effect.step_rate)
        sim.seek((step + 0.5) / effect.step_rate)
        yield Sample(number, sim.time, {layer.id: _attributes(sim, layer.id) for layer in layers})
        go_on(progress, (number + 1) / count)


def _attributes(sim: Simulation, layer_id: str) -> dict[str, NDArray[np.float32] | NDArray[np.uint32]]:
    """Return all attributes of a layer's particles at the moment."""
    some, rows, fixed = sim.particles(layer_id), sim.instances(layer_id), sim.fixed(layer_id)
    found: dict[str, NDArray[np.float32] | NDArray[np.uint32]] = {"serial": some.serial.copy()}
    for one in ATTRIBUTES:
        values = (
            rows["size"]
            if one.name == "size"
            else getattr(some, one.name)
            if hasattr(some, one.name)
            else field_of(rows, one.name, fixed)
        )
        found[one.name] = np.array(values, np.float32)
    return found

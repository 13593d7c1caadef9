"""A moment of a simulation as it is drawn: instances by layer, with how each layer is put on the picture."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from ..simulation import Simulation
from ..simulation.slots import STRIDE

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Life:
    """Where a layer's particles stand in their lives.

    Attributes
    ----------
    age : (n,) 0…1
    lifetime : (n,) s
    serial : (n,) uint32
    speed : (n,) m/s, or None if nobody asked
    """

    age: Floats
    lifetime: Floats
    serial: NDArray[np.uint32]
    speed: Floats | None = None


@dataclass(frozen=True)
class DrawnLayer:
    """One layer's instances, shape (n, columns), and its look.

    ``around`` is the width and depth, m, of a box that goes with the camera; None for none.
    """

    id: str
    instances: Floats
    blend: str
    sort: str
    order: int
    around: tuple[float, float] | None = None
    life: Life | None = None


@dataclass(frozen=True)
class Moment:
    """All that is drawn at one time; it shares no memory with the simulation.

    Attributes
    ----------
    levels : dict
        For each layer, rows of time, s, number alive and number refused, as far as its past is known.
    problems : tuple of EffectError
        What keeps layers from being simulated as they are meant.
    """

    time: float
    layers: tuple[DrawnLayer, ...]
    counts: dict[str, dict[str, int]] = field(default_factory=dict)
    levels: dict[str, NDArray[np.float64]] = field(default_factory=dict)
    problems: tuple[EffectError, ...] = ()

    @property
    def alive(self) -> int:
        return sum(len(layer.instances) for layer in self.layers)


def moment_of(sim: Simulation, shown: Callable[[Layer], bool] = lambda layer: True, watched: str = "") -> Moment:
    """Return the simulation's present moment, with the layers for which ``shown`` holds.

    Of the layer with the id ``watched`` the particles' speeds are told too.
    """
    effect: Effect = sim.effect
    layers = []
    for layer in effect.layers:
        if layer.enabled and shown(layer):
            look, rows = layer.look, sim.instances(layer.id).copy()
            life = _life(sim, layer.id, layer.id == watched)
            layers.append(DrawnLayer(layer.id, rows, look.blend, look.sort, look.order, _around(layer), life))
    counts = {layer.id: sim.counts(layer.id) for layer in effect.layers}
    levels = {layer.id: sim.levels(layer.id) for layer in effect.layers}
    return Moment(sim.time, tuple(layers), counts, levels, tuple(sim.problems()))


def _life(sim: Simulation, layer_id: str, watched: bool) -> Life:
    particles = sim.particles(layer_id)
    speed = np.sqrt(np.einsum("ij,ij->i", particles.velocity, particles.velocity)) if watched else None
    return Life(particles.age.copy(), particles.lifetime.copy(), particles.serial.copy(), speed)


def _around(layer: Layer) -> tuple[float, float] | None:
    box = layer.birthplace
    if not (box.around_camera and box.kind == "box"):
        return None
    width, _, depth = (layer.place.scale * extent for extent in box.extents)
    return width, depth


def gathered(layer: DrawnLayer, target: tuple[float, float, float]) -> DrawnLayer:
    """Return a layer whose box goes with the camera, put around what it looks at.

    The box is repeated in all directions over the floor, and of each particle the one nearest to the target
    is drawn; so particles keep their places in the world while the camera moves, and none is made for it.
    """
    if layer.around is None or len(layer.instances) == 0:
        return layer
    rows = layer.instances.copy()
    for column, middle, wide in ((0, target[0], layer.around[0]), (2, target[2], layer.around[1])):
        if wide > 1e-3:
            rows[:, column] -= wide * np.round((rows[:, column] - middle) / wide)
    return dataclasses.replace(layer, instances=rows)


def in_order(layer: DrawnLayer, back: NDArray[np.float64]) -> Floats:
    """Return a layer's instances in the order in which they are drawn.

    Parameters
    ----------
    back : ndarray, shape (3,)
        The direction out of the picture. Added light needs no order.
    """
    rows = layer.instances
    if layer.blend == "add" or layer.sort in ("none", "old") or len(rows) < 2:
        # They come in the order of their births, the oldest first.
        return rows
    if layer.sort == "young":
        return np.ascontiguousarray(rows[::-1])
    depth = rows[:, :3] @ back.astype(np.float32)
    return np.take(rows, np.argsort(depth, kind="stable"), axis=0)


def bounds(moment: Moment, only: set[str] | None = None) -> tuple[Floats, Floats] | None:
    """Return the low and high corner of all particles that have some size and light; None if there are none."""
    rows = [layer.instances for layer in moment.layers if only is None or layer.id in only]
    seen = np.concatenate(rows) if rows else np.zeros((0, STRIDE), np.float32)
    seen = seen[(seen[:, 4] > 0) & np.isfinite(seen[:, :3]).all(axis=1)]
    if len(seen) == 0:
        return None
    half = np.maximum(seen[:, 3:4], seen[:, 4:5]) / 2
    return (seen[:, :3] - half).min(axis=0), (seen[:, :3] + half).max(axis=0)

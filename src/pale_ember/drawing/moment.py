"""A moment of a simulation as it is drawn: instances by layer, with how each layer is put on the picture."""

from __future__ import annotations

import dataclasses
import itertools
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..effect.chapters.look import Look, used_noises
from ..effect.editing.chains import ancestors
from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from ..effect.kinds import DrawnAs, EmitterShape, Facing, Sort
from ..simulation import Simulation
from ..simulation.follow_ups.schedule import FollowUpTally
from ..simulation.layout.instances import checked, field_of
from ..simulation.meshes.drawn import DrawnMesh
from ..simulation.ribbons.joining import Joined
from ..simulation.simulation import Lives
from ..simulation.time.population import TIME
from ..textures.prepared import Prepared
from ..textures.shipped import plain_cloud
from .blends import BLENDS
from .sorting import far_first

Floats = NDArray[np.float32]
Rows = NDArray[np.void]


@dataclass(frozen=True)
class DrawnLayer:
    """One layer's instances and its look.

    Attributes
    ----------
    instances : (n,) array of ``INSTANCE``'s fields
    fixed : dict
        The value of each field that they don't carry because all share it; else a plain one.
    around : (float, float) or None
        The width and depth, m, of a box that goes with the camera.
    wears : dict
        Its textures: ``picture``, and those of its noises by their names.
    joined : Joined or None
        What its ribbons join, if it is drawn as such.
    body : tuple of BodyPart
        The mesh that its particles are drawn as, if they are.
    """

    id: str
    instances: Rows
    look: Look
    fixed: dict[str, tuple[float, ...]] = field(default_factory=dict)
    around: tuple[float, float] | None = None
    life: Lives | None = None
    wears: Mapping[str, Prepared] = field(default_factory=dict)
    joined: Joined | None = None
    body: DrawnMesh = ()

    def __post_init__(self) -> None:
        checked(self.instances)


@dataclass(frozen=True)
class Moment:
    """All that is drawn at one time; it shares no memory with the simulation.

    Attributes
    ----------
    levels : dict
        For each layer, rows of time, s, number alive and number refused, as far as its past is known.
    problems : tuple of EffectError
        What keeps layers from being simulated as they are meant.
    answers : dict
        For each follow-up, what became of its parent's events of the last moments.
    hits : dict
        For each layer with contact, if hits are watched: places, normals and ages of the last ones, (n, 7).
    """

    time: float
    layers: tuple[DrawnLayer, ...]
    counts: dict[str, dict[str, int]] = field(default_factory=dict)
    levels: dict[str, NDArray[np.float64]] = field(default_factory=dict)
    problems: tuple[EffectError, ...] = ()
    answers: dict[str, FollowUpTally] = field(default_factory=dict)
    hits: dict[str, Floats] = field(default_factory=dict)

    @property
    def alive(self) -> int:
        return sum(len(layer.instances) for layer in self.layers)

    def each_second(self, layer_id: str, column: int) -> float | None:
        """Return how many hits or births, by their column of :mod:`~..simulation.time.population`, there were
        in the last second.

        None if nothing is known.
        """
        levels = self.levels.get(layer_id)
        if levels is None or len(levels) < 2:
            return None
        last = int(np.searchsorted(levels[:, TIME], self.time, side="right")) - 1
        first = int(np.searchsorted(levels[:, TIME], self.time - 1.0, side="left"))
        if last < 1:
            return None
        first = min(first, last - 1)
        return float(
            (levels[last, column] - levels[first, column])
            / max(levels[last, TIME] - levels[first, TIME], 1e-9)
        )


Known = Mapping[str, Prepared]


def moment_of(
    sim: Simulation,
    shown: Callable[[Layer], bool] = lambda layer: True,
    watched: str = "",
    textures: Known | None = None,
) -> Moment:
    """Return the simulation's present moment, with the layers for which ``shown`` holds.

    Of the layer with the id ``watched`` the particles' speeds are told too. ``textures`` are those that are
    there, by their names; without one a layer wears a soft dot.
    """
    effect: Effect = sim.effect
    layers = []
    for layer in effect.layers:
        if layer.enabled and shown(layer):
            rows, fixed = sim.instances(layer.id).copy(), sim.fixed(layer.id)
            life = sim.lives(layer.id, layer.id == watched)
            wears = worn(layer, textures or {})
            joined = sim.joined(layer.id)
            layers.append(
                DrawnLayer(
                    layer.id,
                    rows,
                    layer.look,
                    fixed,
                    _around(effect, layer),
                    life,
                    wears,
                    joined,
                    sim.body(layer.id),
                )
            )
    counts = {layer.id: sim.counts(layer.id) for layer in effect.layers}
    levels = {layer.id: sim.levels(layer.id) for layer in effect.layers}
    answers = {
        layer.id: found
        for layer in effect.layers
        if layer.origin.parent and (found := sim.answer(layer.id)) is not None
    }
    hits = (
        {layer.id: sim.hits(layer.id) for layer in effect.layers if layer.contact.enabled}
        if sim.watches_hits
        else {}
    )
    return Moment(sim.time, tuple(layers), counts, levels, tuple(sim.problems()), answers, hits)


def worn(layer: Layer, textures: Known) -> dict[str, Prepared]:
    """Return what a layer wears of the textures that are there; a noise without one wears the plain cloud."""
    named = {name: noise.texture for name, noise in used_noises(layer.look).items()}
    if layer.look.texture:
        named["picture"] = layer.look.texture
    found = {role: textures.get(name) for role, name in named.items()}
    for role, ready in found.items():
        if ready is None and role != "picture":
            found[role] = plain_cloud()
    return {role: ready for role, ready in found.items() if ready is not None}


def dressed(moment: Moment, effect: Effect, textures: Known) -> Moment:
    """Return a moment whose layers wear the textures that are there."""
    layers = []
    for drawn in moment.layers:
        at = effect.index(drawn.id)
        wears = worn(effect.layers[at], textures) if at >= 0 else {}
        layers.append(dataclasses.replace(drawn, wears=wears) if wears != drawn.wears else drawn)
    return dataclasses.replace(moment, layers=tuple(layers))


def _around(effect: Effect, layer: Layer) -> tuple[float, float] | None:
    """Return the box that goes with the camera of a layer, or of the one that it follows in the end."""
    if layer.look.draw == DrawnAs.RIBBON:
        # Its points would be put to either side of the box.
        return None
    layer = [layer, *ancestors(effect, layer)][-1]
    box = layer.birthplace
    if not (box.around_camera and box.kind == EmitterShape.BOX):
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
    for axis, middle, wide in ((0, target[0], layer.around[0]), (2, target[2], layer.around[1])):
        if wide > 1e-3:
            place = rows["place"]
            place[:, axis] -= wide * np.round((place[:, axis] - middle) / wide)
    return dataclasses.replace(layer, instances=rows)


def in_order(layer: DrawnLayer, back: NDArray[np.float64]) -> Rows:
    """Return a layer's instances in the order in which they are drawn.

    Parameters
    ----------
    back : ndarray, shape (3,)
        The direction out of the picture.
    """
    rows, look = layer.instances, layer.look
    if BLENDS[look.blend].any_order or look.sort in (Sort.NONE, Sort.OLD) or len(rows) < 2:
        # They come in the order of their births, the oldest first.
        return rows
    if look.sort == Sort.YOUNG:
        return np.ascontiguousarray(rows[::-1])
    return far_first(rows, back)


def ribbons_in_order(joined: Joined, look: Look, back: NDArray[np.float64]) -> Joined:
    """Return ribbons in the order in which they are drawn: by the depth of their middles, or by their age."""
    count = len(joined.starts) - 1
    if BLENDS[look.blend].any_order or look.sort in (Sort.NONE, Sort.OLD) or count < 2:
        return joined
    if look.sort == Sort.YOUNG:
        chosen = np.arange(count)[::-1]
    else:
        middles = joined.order[(joined.starts[:-1] + joined.starts[1:] - 1) // 2]
        chosen = np.argsort(joined.rows["place"][middles].astype(np.float64) @ back, kind="stable")
    long = np.diff(joined.starts)[chosen]
    starts = np.append(0, np.cumsum(long)).astype(np.int32)
    at = np.repeat(joined.starts[:-1][chosen] - starts[:-1], long) + np.arange(starts[-1])
    return joined._replace(
        starts=starts,
        order=np.ascontiguousarray(joined.order[at]),
        whose=joined.whose[chosen],
        cuts=joined.cuts[chosen],
    )


def bounds(
    moment: Moment, only: set[str] | None = None, turned: bool = False
) -> tuple[Floats, Floats] | None:
    """Return the low and high corner of all particles that have some size; None if there are none.

    Pictures are taken as they stand, or, ``turned``, however they are turned, anchored and drawn out.
    """
    corners = [_corners(layer, turned) for layer in moment.layers if only is None or layer.id in only]
    whole = np.concatenate([one for one in corners if len(one)] or [np.zeros((0, 2, 3), np.float32)])
    whole = whole[np.isfinite(whole).all(axis=(1, 2))]
    if not len(whole):
        return None
    return whole[:, 0].min(axis=0), whole[:, 1].max(axis=0)


def _corners(layer: DrawnLayer, turned: bool) -> Floats:
    """Return the low and the high corner of each particle that has some size, (n, 2, 3)."""
    rows = layer.instances
    rows = rows[rows["size"][:, 1] > 0]
    place, size = rows["place"], rows["size"]
    if not layer.body:
        half = size.max(axis=1, keepdims=True) / 2
        if turned and layer.look.draw == DrawnAs.SPRITE:
            return _swept(layer, rows)
        return np.stack([place - half, place + half], axis=1)
    low = np.min([part.vertices[:, :3].min(axis=0) for part in layer.body], axis=0)
    high = np.max([part.vertices[:, :3].max(axis=0) for part in layer.body], axis=0)
    ends = np.array(list(itertools.product(*zip(low, high, strict=True))), np.float32)
    stretch, turn = field_of(rows, "stretch", layer.fixed), field_of(rows, "turn", layer.fixed)[:, None]
    # The corners of the body's box, stretched, and turned by their quaternions.
    box = ends * (size[:, [0, 1, 0]] * stretch)[:, None]
    twice = 2.0 * np.cross(turn[..., :3], box)
    box = box + turn[..., 3:] * twice + np.cross(turn[..., :3], twice) + place[:, None]
    return np.stack([box.min(axis=1), box.max(axis=1)], axis=1)


def _swept(layer: DrawnLayer, rows: Rows) -> Floats:
    """Return the corners of boxes that hold pictures whichever way they are turned, (n, 2, 3)."""
    look, place, size = layer.look, rows["place"], rows["size"]
    reach = np.hypot(size[:, 0] / 2, size[:, 1] * (0.5 + abs(look.anchor)))[:, None]
    low, high = place - reach, place + reach
    if look.facing == Facing.STREAK:
        way = field_of(rows, "way", layer.fixed).astype(np.float32)
        span = np.linalg.norm(way, axis=1, keepdims=True)
        long = np.clip(span, look.streak_least, max(look.streak_most, look.streak_least))
        # One that stands still is drawn out upwards in the picture, wherever that is.
        tail = np.where(span > 1e-9, place - way * (long / np.maximum(span, 1e-9)), place)
        low, high = np.minimum(low, tail - reach), np.maximum(high, tail + reach)
        still = np.where(span > 1e-9, 0.0, long)
        low, high = low - still, high + still
    return np.stack([low, high], axis=1)

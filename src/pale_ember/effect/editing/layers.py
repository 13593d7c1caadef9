"""Adding, copying, removing and reordering layers; each gives a new Effect."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..chapters.place import Place, Triple
from ..chapters.source import Window
from ..effect import Effect, Layer, new_id
from ..errors import EffectError
from ..values.rotations import angles_of, matrix_of
from .companions import reanchored


def free_name(effect: Effect, wished: str) -> str:
    """Return the name, with a number behind it if a layer has it already."""
    taken = {layer.name for layer in effect.layers}
    base = wished.rstrip("0123456789 ") or wished
    name, number = wished, 2
    while name in taken:
        name, number = f"{base} {number}", number + 1
    return name


def add_layer(effect: Effect, layer: Layer, at: int | None = None) -> Effect:
    """Return the effect with a layer put in at an index, or last; it gets an id of its own and a free
    name.
    """
    return add_layers(effect, (layer,), at)


def add_layers(effect: Effect, layers: Sequence[Layer], at: int | None = None) -> Effect:
    """Return the effect with layers put in at an index, or last; each gets an id of its own and a free name.

    Those that follow one another go on doing so among themselves; one that follows a layer of the effect goes
    on following that.
    """
    at = len(effect.layers) if at is None else at
    ids = {layer.id: new_id() for layer in layers if layer.id}
    for i, layer in enumerate(layers):
        fresh = reanchored(_relinked(layer, ids), ids)
        fresh = fresh.model_copy(
            update={"id": ids.get(layer.id) or new_id(), "name": free_name(effect, layer.name)}
        )
        # All at once: a follow-up may stand before its parent.
        effect = effect.model_copy(
            update={"layers": (*effect.layers[: at + i], fresh, *effect.layers[at + i :])}
        )
    return _checked(effect)


def _checked(effect: Effect) -> Effect:
    """Return an effect whose layers are as they may be; raise EffectError if not."""
    return effect.model_copy(update={"layers": ()}).edit("layers", effect.layers)


def _relinked(layer: Layer, ids: dict[str, str]) -> Layer:
    """Return a layer that follows the copy of its parent, where there is one."""
    parent = ids.get(layer.origin.parent)
    if not layer.origin.parent or parent is None:
        return layer
    return with_origin(layer, parent=parent)


def with_origin(layer: Layer, **changed: object) -> Layer:
    """Return a layer with some fields of its origin changed."""
    return layer.model_copy(update={"origin": layer.origin.model_copy(update=changed)})


def duplicate_layer(effect: Effect, layer_id: str) -> Effect:
    """Return the effect with an independent copy of a layer right behind it."""
    at = _index(effect, layer_id)
    return add_layer(effect, effect.layers[at], at + 1)


def duplicate_layers(effect: Effect, ids: Sequence[str]) -> Effect:
    """Return the effect with copies of some layers behind the last of them; copies of a parent and its
    follow-ups stay linked.
    """
    layers = [layer for layer in effect.layers if layer.id in ids]
    stands = any(
        on == f"layer:{one}"
        for layer in layers
        for on in (layer.birthplace.start_on, layer.birthplace.end_on)
        for one in ids
    )
    if len(layers) == 1 or not (stands or any(layer.origin.parent in ids for layer in layers)):
        for layer in layers:
            effect = duplicate_layer(effect, layer.id)
        return effect
    return add_layers(effect, layers, max(_index(effect, layer.id) for layer in layers) + 1)


def remove_layer(effect: Effect, layer_id: str) -> Effect:
    """Return the effect without a layer."""
    at = _index(effect, layer_id)
    return effect.edit("layers", (*effect.layers[:at], *effect.layers[at + 1 :]))


def move_layers(effect: Effect, ids: Sequence[str], to: int) -> Effect:
    """Return the effect with some layers moved, in their order, before the one that stands at an index
    now.
    """
    for layer_id in ids:
        _index(effect, layer_id)
    to = min(max(to, 0), len(effect.layers))
    moved = [layer for layer in effect.layers if layer.id in ids]
    before = [layer for layer in effect.layers[:to] if layer.id not in ids]
    behind = [layer for layer in effect.layers[to:] if layer.id not in ids]
    return effect.edit("layers", (*before, *moved, *behind))


@dataclass(frozen=True)
class Step:
    """How each of several copies stands to the one before it.

    Attributes
    ----------
    move : (float, float, float)
        m.
    turn : (float, float, float)
        About X, then Y, then Z, degrees.
    axes : {"layer", "world"}
        In the layer's own axes each copy goes on from where the last one faces. In the world's, all is turned
        about ``centre``, place and facing, and then moved.
    centre : (float, float, float)
        m.
    later : float
        How much later its window begins, s; never before the effect does.
    """

    move: Triple = (0.0, 0.0, 0.0)
    turn: Triple = (0.0, 0.0, 0.0)
    axes: str = "layer"
    centre: Triple = (0.0, 0.0, 0.0)
    later: float = 0.0


def stepped(place: Place, step: Step) -> Place:
    """Return a place one step further."""
    here, turn = matrix_of(place.rotation), matrix_of(step.turn)
    position, move = np.array(place.position), np.array(step.move)
    if step.axes == "layer":
        rotation, at = here @ turn, position + here @ move
    else:
        centre = np.array(step.centre)
        rotation, at = turn @ here, centre + turn @ (position - centre) + move
    tidy = {
        "position": tuple(_tidy(x, 6) for x in at),
        "rotation": tuple(_tidy(x, 4) for x in angles_of(rotation)),
    }
    return place.model_copy(update=tidy)


def _later(window: Window, seconds: float) -> Window:
    """Return a window that begins later."""
    latest = Window.rules()["begin"].hard[1]
    return (
        window.model_copy(update={"begin": min(max(_tidy(window.begin + seconds, 6), 0.0), latest)})
        if seconds
        else window
    )


def _tidy(number: float, digits: int) -> float:
    return round(float(number), digits) + 0.0


def duplicate_stepped(effect: Effect, ids: Sequence[str], count: int, step: Step) -> Effect:
    """Return the effect with so many copies of some layers behind the last of them, each a step further."""
    layers = [effect.layers[_index(effect, layer_id)] for layer_id in ids]
    at = max(_index(effect, layer_id) for layer_id in ids) + 1
    places = [layer.place for layer in layers]
    for number in range(1, count + 1):
        places = [stepped(place, step) for place in places]
        moved = [
            layer.model_copy(update={"place": place, "window": _later(layer.window, number * step.later)})
            for layer, place in zip(layers, places, strict=True)
        ]
        effect = add_layers(effect, moved, at)
        at += len(moved)
    return effect


def group_layers(effect: Effect, ids: set[str], name: str) -> Effect:
    """Return the effect with some layers in a group, one behind the other where the first of them stands."""
    members = [layer.model_copy(update={"group": name}) for layer in effect.layers if layer.id in ids]
    rest = [layer for layer in effect.layers if layer.id not in ids]
    first = next((i for i, layer in enumerate(effect.layers) if layer.id in ids), 0)
    return effect.edit("layers", (*rest[:first], *members, *rest[first:]))


def _index(effect: Effect, layer_id: str) -> int:
    at = effect.index(layer_id)
    if at < 0:
        raise EffectError(layer_id, "the effect has no layer of this id.")
    return at

"""Adding, copying, removing and reordering layers; each gives a new Effect."""

from __future__ import annotations

from .effect import Effect, Layer, new_id
from .errors import EffectError


def free_name(effect: Effect, wished: str) -> str:
    """Return the name, with a number behind it if a layer has it already."""
    taken = {layer.name for layer in effect.layers}
    base = wished.rstrip("0123456789 ") or wished
    name, number = wished, 2
    while name in taken:
        name, number = f"{base} {number}", number + 1
    return name


def add_layer(effect: Effect, layer: Layer, at: int | None = None) -> Effect:
    """Return the effect with a layer put in at an index, or last; it gets an id of its own and a free name."""
    fresh = layer.model_copy(update={"id": new_id(), "name": free_name(effect, layer.name)})
    at = len(effect.layers) if at is None else at
    return effect.edit("layers", (*effect.layers[:at], fresh, *effect.layers[at:]))


def duplicate_layer(effect: Effect, layer_id: str) -> Effect:
    """Return the effect with an independent copy of a layer right behind it."""
    at = _index(effect, layer_id)
    return add_layer(effect, effect.layers[at], at + 1)


def remove_layer(effect: Effect, layer_id: str) -> Effect:
    """Return the effect without a layer."""
    at = _index(effect, layer_id)
    return effect.edit("layers", (*effect.layers[:at], *effect.layers[at + 1 :]))


def move_layer(effect: Effect, layer_id: str, to: int) -> Effect:
    """Return the effect with a layer moved to an index."""
    at = _index(effect, layer_id)
    rest = [*effect.layers[:at], *effect.layers[at + 1 :]]
    rest.insert(min(max(to, 0), len(rest)), effect.layers[at])
    return effect.edit("layers", tuple(rest))


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

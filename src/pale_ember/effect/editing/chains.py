"""Chains of layers: which follow which, and which links can't be."""

from __future__ import annotations

from ..chapters.contact import wrong_link
from ..effect import Effect, Layer


def refusal_of_link(effect: Effect, child: str, parent: str) -> str:
    """Return why a layer can't follow another; empty if it can."""
    wrong = wrong_link([(x.id, parent if x.id == child else x.origin.parent) for x in effect.layers])
    return wrong[1] if wrong else ""


def parent_of(effect: Effect, layer: Layer) -> Layer | None:
    """Return the layer that one follows; None if it follows none, or one that isn't there."""
    at = effect.index(layer.origin.parent) if layer.origin.parent else -1
    return effect.layers[at] if at >= 0 else None


def follow_ups(effect: Effect, layer_id: str) -> list[Layer]:
    """Return the layers that follow one at once, in their order."""
    return [layer for layer in effect.layers if layer_id and layer.origin.parent == layer_id]


def ancestors(effect: Effect, layer: Layer) -> list[Layer]:
    """Return the layers that one follows, the nearest first."""
    found: list[Layer] = []
    above = parent_of(effect, layer)
    while above is not None:
        found.append(above)
        above = parent_of(effect, above)
    return found


def descendants(effect: Effect, layer_id: str) -> list[Layer]:
    """Return all layers that follow one, directly or not, each behind its parent."""
    found: list[Layer] = []
    for child in follow_ups(effect, layer_id):
        found += [child, *descendants(effect, child.id)]
    return found


def chains(effect: Effect) -> list[list[Layer]]:
    """Return the enabled layers by chains, in each parents first; a lone layer is a chain of one.

    A layer whose parent is disabled, or isn't there, begins a chain of its own.
    """
    enabled = {layer.id for layer in effect.layers if layer.enabled}
    children: dict[str, list[Layer]] = {}
    roots: list[Layer] = []
    for layer in effect.layers:
        if layer.enabled:
            parent = layer.origin.parent
            (children.setdefault(parent, []) if parent in enabled else roots).append(layer)
    found = []
    for root in roots:
        chain = [root]
        for layer in chain:
            chain += children.get(layer.id, [])
        found.append(chain)
    return found

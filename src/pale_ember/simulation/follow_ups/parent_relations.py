"""Which particle is the parent of which, worked out from their numbers alone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Layer
from ...effect.kinds import When
from ...effect.values.values import Fixed
from .schedule import BY_METRE, source_of, starts_of_events

Numbers = NDArray[np.uint32]
# Of one parent, events that are looked at.
MOST_EVENTS = 512


def _events(layer: Layer) -> NDArray[np.int64]:
    """Return the places that a layer's parents' events may have."""
    origin = layer.origin
    if origin.when in (When.BIRTH, When.DEATH):
        return np.zeros(1, np.int64)
    some = np.arange(MOST_EVENTS)
    if origin.when == When.ALIVE and origin.per_metre != Fixed(0.0):
        return np.concatenate([some, some + BY_METRE])
    return some


def _most_each(layer: Layer) -> int:
    low, high = layer.origin.count.bounds_at(np.linspace(0.0, 1.0, 65))
    return int(max(float(np.max(low)), float(np.max(high)), 0.0) + 1.0)


def children_of(child: Layer, parent: int, numbers: Numbers) -> NDArray[np.int64]:
    """Return which of a follow-up's particles, by their numbers, come from the parent of a number; their
    places.
    """
    events = _events(child)
    starts = np.sort(
        starts_of_events(source_of(child.origin), np.full(len(events), parent, np.uint32), events)
    )
    at = np.searchsorted(starts, numbers, side="right") - 1
    behind = numbers - starts[np.maximum(at, 0)]
    return np.flatnonzero((at >= 0) & (behind < _most_each(child)))


def parents_of(child: Layer, number: int, parents: Numbers) -> NDArray[np.int64]:
    """Return which of the parent's particles, by their numbers, the follow-up of a number comes from;
    their places.
    """
    events = _events(child)
    starts = starts_of_events(
        source_of(child.origin), np.repeat(parents, len(events)), np.tile(events, len(parents))
    )
    behind = np.uint32(number) - starts
    return np.unique(np.flatnonzero(behind < _most_each(child)) // len(events))

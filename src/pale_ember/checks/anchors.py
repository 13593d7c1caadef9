"""Bows whose ends stand on what isn't there."""

from __future__ import annotations

from collections.abc import Iterator

from ..effect.effect import Effect, Layer
from ..simulation.motion.bows import missing_anchor
from .rules import Found, layer_check


@layer_check
def stands_on_nothing(effect: Effect, layer: Layer) -> Iterator[Found]:
    """Yield an end of a bow that stands on what isn't there."""
    wrong = missing_anchor(effect, layer)
    if wrong is not None:
        yield wrong.place, wrong.reason

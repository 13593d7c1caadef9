"""Checks by their kind: a check is a function in one of this room's modules, and nothing else.

A check of a layer gets the effect and the layer, and gives places inside the layer with reasons. A check of
the whole effect gets that alone, and gives errors with whole places.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from ..neighbours import import_neighbours

# A place inside of a layer, and a reason.
Found = tuple[str, str]
LayerCheck = Callable[[Effect, Layer], Iterable[Found]]
EffectCheck = Callable[[Effect], Iterable[EffectError]]

LAYER_CHECKS: list[LayerCheck] = []
EFFECT_CHECKS: list[EffectCheck] = []


def layer_check(check: LayerCheck) -> LayerCheck:
    """Let a function be asked about each layer that is enabled."""
    LAYER_CHECKS.append(check)
    return check


def effect_check(check: EffectCheck) -> EffectCheck:
    """Let a function be asked about each effect."""
    EFFECT_CHECKS.append(check)
    return check


def load_checks() -> None:
    """Let all modules of this room declare their checks."""
    import_neighbours(__name__)

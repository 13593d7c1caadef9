"""What is wrong with an effect that can be read: each finding has its place and one sentence."""

from __future__ import annotations

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.rules.paths import FieldPath
from ..simulation.time.weight import slowness, too_large
from .links import link_trouble
from .rules import EFFECT_CHECKS, LAYER_CHECKS, load_checks


def find_problems(effect: Effect) -> list[EffectError]:
    """Return all that keeps an effect from being simulated as it is meant, the worst first."""
    load_checks()
    found = [wrong for wrong in (too_large(effect),) if wrong is not None]
    for i, layer in enumerate(effect.layers):
        for check in LAYER_CHECKS if layer.enabled else ():
            found += [
                EffectError(FieldPath.of_layer(i, place), reason) for place, reason in check(effect, layer)
            ]
        trouble = link_trouble(effect, layer)
        if trouble is not None:
            found.append(trouble.error)
    for whole in EFFECT_CHECKS:
        found += whole(effect)
    # That it is slow is told only where all else is well.
    heavy = slowness(effect)
    return [*found, heavy] if heavy is not None and not found else found

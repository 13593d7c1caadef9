"""Loops that are to be all the same, and what keeps them from it."""

from __future__ import annotations

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.rules.paths import FieldPath
from ..simulation.time.weight import may_refuse, needed_cap
from .rules import effect_check


@effect_check
def loop_troubles(effect: Effect) -> list[EffectError]:
    """Return the caps that may keep the loops of an effect with ``repeat`` from being equal.

    What a full cap refuses depends on who is alive, and so on the loops before: two of them need not refuse
    the same.
    """
    if not (effect.loop and effect.repeat):
        return []
    return [
        EffectError(
            FieldPath.of_layer(i, "emit.cap"),
            f"its cap of {layer.emit.cap:,} may refuse births, and then loops differ though “repeat” "
            f"is on; raise it to {needed_cap(effect, i):,}.",
        )
        for i, layer in enumerate(effect.layers)
        if may_refuse(effect, layer)
    ]

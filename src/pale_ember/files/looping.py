"""Loops that close: an effect whose loops are all the same, and from when on they are."""

from __future__ import annotations

import math

from ..effect.editing.chains import ancestors
from ..effect.effect import Effect
from ..simulation.time.compile_layer import longest_life
from ..simulation.values.tables import bake

# Simulated at most before a loop is taken as settled, s.
MOST = 240.0


def settled(effect: Effect) -> tuple[Effect, float]:
    """Return an effect with all loops the same, and the beginning, s, of the first that all particles of it
    fill.

    From there on, one duration later everything is as it was: no particle lives that was born before the
    first loop.
    """
    same = effect if effect.repeat else effect.model_copy(update={"repeat": True})
    lives = {
        layer.id: longest_life(bake(layer, effect.seed, effect.stage.gravity)) for layer in effect.layers
    }
    longest = max(
        (lives[layer.id] + sum(lives[one.id] for one in ancestors(effect, layer)) for layer in effect.layers),
        default=0.0,
    )
    loops = math.ceil((longest + 2.0 / effect.step_rate) / effect.duration)
    return same, effect.duration * min(loops, math.ceil(MOST / effect.duration))

"""What a new layer starts as: something that moves and can be seen."""

from __future__ import annotations

from ...effect.chapters.look import Look
from ...effect.chapters.motion import Launch
from ...effect.chapters.source import Birthplace, Emit
from ...effect.editing.layers import free_name
from ...effect.effect import Effect, Layer
from ...effect.values.curves import Key
from ...effect.values.values import Curve, Fixed, Spread


def new_layer(effect: Effect) -> Layer:
    """Return a layer of soft dots that rise from a small ball, and fade in and out."""
    return Layer(
        name=free_name(effect, "Layer 1") if effect.layers else "Layer 1",
        emit=Emit(rate=Fixed(30.0)),
        birthplace=Birthplace(kind="ball", radius=0.15, fan=15.0),
        launch=Launch(speed=Spread(0.6, 1.2), size=Spread(0.12, 0.24)),
        look=Look(opacity=Curve((Key(0.0, 0.0), Key(0.2, 0.8), Key(1.0, 0.0)))),
    )

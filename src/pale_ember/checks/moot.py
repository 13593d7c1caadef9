"""Fields that are in use and yet do nothing, for want of another: one sentence, and what mends it."""

from __future__ import annotations

from typing import Any, NamedTuple

from ..effect.effect import Effect, Layer
from ..effect.rules.paths import FieldPath
from ..effect.values.values import Fixed

# The values that a mend sets: enough to be seen, little enough to be tuned.
DRAG, WIND = 1.0, (2.0, 0.0, 0.0)


class Moot(NamedTuple):
    """Why a field does nothing, what would mend it in words, and as edits of the effect."""

    reason: str
    mend: str
    edits: tuple[tuple[str, Any], ...]


def moot_field(effect: Effect, layer: Layer, path: str) -> Moot | None:
    """Return why a layer's field does nothing as things are; None if it does something, or nobody knows.

    Parameters
    ----------
    path : str
        The field's in the layer, such as ``flight.wind``.
    """
    if path != "flight.wind" or layer.flight.wind == Fixed(0.0):
        return None
    if layer.flight.drag == Fixed(0.0):
        at = FieldPath.of_layer(effect.index(layer.id), "flight.drag")
        return Moot(
            "wind carries through drag, and drag is 0: it does nothing.",
            f"Set drag to {DRAG:g}",
            ((at, DRAG),),
        )
    if effect.stage.wind == (0.0, 0.0, 0.0):
        return Moot(
            "no wind blows on the stage, so there is none to carry anything.",
            "Let a wind blow",
            (("stage.wind", WIND),),
        )
    return None

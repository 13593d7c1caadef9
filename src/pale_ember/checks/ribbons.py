"""Why a ribbon can't look as it is meant: a sentence for each, and the field that it is about."""

from __future__ import annotations

from ..effect.effect import Effect, Layer
from ..effect.kinds import Across, Along, DrawnAs, EmitterShape, Join, When
from .rules import Found, layer_check


@layer_check
def ribbon_troubles(effect: Effect, layer: Layer) -> list[Found]:
    """Return what keeps a layer's ribbon from being one: places in the layer, and reasons."""
    ribbon = layer.look.ribbon
    if layer.look.draw != DrawnAs.RIBBON:
        return []
    found = []
    if ribbon.join == Join.PARENT and not layer.origin.parent:
        found.append(
            (
                "look.ribbon.join",
                "it follows no layer, so that there is no parent to join by; link it to one, or join "
                "the layer.",
            )
        )
    if ribbon.across == Across.LINE and layer.birthplace.kind != EmitterShape.LINE:
        found.append(
            (
                "look.ribbon.across",
                f"it is to be as wide as its line, and is born in a {layer.birthplace.kind}; make its "
                "birthplace a line.",
            )
        )
    if ribbon.join == Join.LAYER and layer.origin.parent and layer.origin.when == When.ALIVE:
        found.append(
            (
                "look.ribbon.join",
                "all particles are joined in one ribbon from parent to parent; join them by parent to "
                "have one for each.",
            )
        )
    low, high = layer.launch.lifetime.bounds_at([0.0])
    if layer.launch.lifetime.along != Along.CLOCK and float(high[0]) > 1.05 * float(low[0]):
        found.append(
            (
                "launch.lifetime",
                "points of different lifetimes go from the middle of a ribbon too, and it jumps there; "
                "give all one lifetime.",
            )
        )
    return found

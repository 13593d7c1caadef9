"""What is wrong with an effect that can be read: each finding has its place and one sentence."""

from __future__ import annotations

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import Kind
from ..simulation.meshes import mesh_faces
from ..simulation.weight import slowness, too_large


def findings(effect: Effect) -> list[EffectError]:
    """Return all that keeps an effect from being simulated as it is meant, the worst first."""
    found = [wrong for wrong in (too_large(effect),) if wrong is not None]
    for i, layer in enumerate(effect.layers):
        if layer.enabled and layer.birthplace.kind == Kind.MESH:
            try:
                mesh_faces(layer.birthplace.mesh)
            except EffectError as wrong:
                found.append(EffectError(f"layers[{i}].{wrong.place}", wrong.reason))
    heavy = slowness(effect)
    return [*found, heavy] if heavy is not None and not found else found

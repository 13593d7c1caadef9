"""What is wrong with an effect that can be read: each finding has its place and one sentence."""

from __future__ import annotations

from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import EmitterShape, PropKind
from ..simulation.meshes.drawn import body_of_look
from ..simulation.meshes.faces import mesh_faces
from ..simulation.motion.bows import missing_anchor
from ..simulation.time.weight import slowness, too_large
from .links import link_trouble
from .loops import loop_troubles
from .ribbons import ribbon_troubles


def find_problems(effect: Effect) -> list[EffectError]:
    """Return all that keeps an effect from being simulated as it is meant, the worst first."""
    found = [wrong for wrong in (too_large(effect),) if wrong is not None]
    for i, layer in enumerate(effect.layers):
        if layer.enabled and layer.birthplace.kind == EmitterShape.MESH:
            try:
                mesh_faces(layer.birthplace.mesh)
            except EffectError as wrong:
                found.append(EffectError(f"layers[{i}].{wrong.place}", wrong.reason))
        if layer.enabled:
            _, unread = body_of_look(layer.look)
            found += [
                EffectError(f"layers[{i}].{wrong.place}", wrong.reason)
                for wrong in (unread, missing_anchor(effect, layer))
                if wrong is not None
            ]
            found += [EffectError(f"layers[{i}].{place}", reason) for place, reason in ribbon_troubles(layer)]
        trouble = link_trouble(effect, layer)
        if trouble is not None:
            found.append(trouble.error)
    found += _unread_props(effect)
    found += loop_troubles(effect)
    heavy = slowness(effect)
    return [*found, heavy] if heavy is not None and not found else found


def _unread_props(effect: Effect) -> list[EffectError]:
    """Return the meshes of props that can't be read, where particles would meet them."""
    found = []
    if any(layer.enabled and layer.contact.enabled and layer.contact.props for layer in effect.layers):
        for i, prop in enumerate(effect.stage.props):
            if prop.hit and prop.kind == PropKind.MESH:
                try:
                    mesh_faces(prop.mesh)
                except EffectError as wrong:
                    found.append(EffectError(f"stage.props[{i}].mesh", wrong.reason))
    return found

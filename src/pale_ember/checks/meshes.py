"""Meshes that can't be read: those that particles are born on, drawn as, or would meet."""

from __future__ import annotations

from collections.abc import Iterator

from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from ..effect.kinds import EmitterShape, PropKind
from ..simulation.meshes.drawn import body_of_look
from ..simulation.meshes.faces import mesh_faces
from .rules import Found, effect_check, layer_check


@layer_check
def unread_birthplace(effect: Effect, layer: Layer) -> Iterator[Found]:
    """Yield the mesh that particles should be born on."""
    if layer.birthplace.kind == EmitterShape.MESH:
        try:
            mesh_faces(layer.birthplace.mesh)
        except EffectError as wrong:
            yield wrong.place, wrong.reason


@layer_check
def unread_body(effect: Effect, layer: Layer) -> Iterator[Found]:
    """Yield the mesh that particles should be drawn as."""
    _, unread = body_of_look(layer.look)
    if unread is not None:
        yield unread.place, unread.reason


@effect_check
def unread_props(effect: Effect) -> Iterator[EffectError]:
    """Yield the meshes of props that particles would meet."""
    if any(layer.enabled and layer.contact.enabled and layer.contact.props for layer in effect.layers):
        for i, prop in enumerate(effect.stage.props):
            if prop.hit and prop.kind == PropKind.MESH:
                try:
                    mesh_faces(prop.mesh)
                except EffectError as wrong:
                    yield EffectError(f"stage.props[{i}].mesh", wrong.reason)

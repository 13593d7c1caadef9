"""Meshes: a body for each particle, turned, stretched and shaded."""

from __future__ import annotations

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ...effect.kinds import Blend, Faces
from ...simulation.layout.instances import field_of
from ...simulation.meshes.drawn import DrawnMesh, DrawnMeshPart
from ..moment import DrawnLayer
from ..programs import Programs
from ..shader_columns import MESH_ATTRIBUTES, OPTIONAL, wide
from ..styles import Style
from ..targets import release
from ..texture_store import TextureStore
from .scene import Scene, upload_scene
from .streaming import Stream

Rows = NDArray[np.void]
Floats = NDArray[np.float32]
# The shader's attributes of an instance: names, and how many numbers each has.
_ROW = {name: sum(map(wide, parts)) for name, parts in MESH_ATTRIBUTES.items()}
_CARRIED = frozenset(name.upper() for name in OPTIONAL)
# Bodies that are kept on the GPU while others are drawn.
_MOST = 24
# Sides of faces that are left out, one pass for each: of what is seen through, what lies behind is drawn
# first.
_CULLS = {Faces.OUTER: ("back",), Faces.INNER: ("front",), Faces.BOTH: ("",)}


class Meshes:
    """Draws layers as meshes. Make, use and :meth:`release` it with its context current."""

    def __init__(self, ctx: Any, programs: Programs, store: TextureStore) -> None:
        self.ctx, self.programs, self.store = ctx, programs, store
        self._stream = Stream(ctx)
        # By the part itself, which is kept with it, so that no other has its identity.
        self._buffers: dict[int, tuple[DrawnMeshPart, Any, Any]] = {}

    def draw(self, scene: Scene, style: Style, layer: DrawnLayer, rows: Rows) -> int:
        """Draw a layer's meshes into the framebuffer in use; return in how many calls."""
        features = (
            (style.features - _CARRIED)
            | ({"OVERDRAW"} if scene.counting else set())
            | ({"ROW"} if scene.row else set())
            | ({"SURFACE"} if scene.only else set())
        )
        program = self.programs.mesh(features)
        upload_scene(self.ctx, self.programs, self.store, program, scene, style)
        faces, blend = layer.look.mesh.faces, layer.look.blend
        seen_through = blend in (Blend.ALPHA, Blend.MIX) and faces == Faces.BOTH and not scene.counting
        passes = ("front", "back") if seen_through else _CULLS[faces]
        parts = [
            (part, packed_rows(some, layer.fixed), first)
            for part, some, first in parted(layer.body, rows, layer.fixed, bool(scene.row))
        ]
        calls = 0
        self.ctx.front_face = "ccw"
        for cull in passes:
            if cull:
                self.ctx.enable(moderngl.CULL_FACE)
                self.ctx.cull_face = cull
            for part, some, first in parts:
                self.programs.upload(program, "first", float(first))
                self._draw_part(program, part, some)
                calls += 1
            if cull:
                self.ctx.disable(moderngl.CULL_FACE)
        return calls

    def _draw_part(self, program: Any, part: DrawnMeshPart, rows: Floats) -> None:
        """Draw all instances of one part of a mesh."""
        vertices, faces = self._held(part)
        known = [name for name in ("point", "normal") if self.programs.asks(program, f"in_{name}")]
        beside = (
            (
                vertices,
                " ".join("4f" if name in known else "16x" for name in ("point", "normal")),
                *(f"in_{name}" for name in known),
            ),
        )
        names = [name for name in _ROW if self.programs.asks(program, f"in_{name}")]
        formats = " ".join(f"{count}f" if name in names else f"{4 * count}x" for name, count in _ROW.items())
        array = self._stream.array(
            program, rows, (f"{formats} /i", *(f"in_{name}" for name in names)), beside, id(part), faces
        )
        array.render(moderngl.TRIANGLES, instances=len(rows))

    def _held(self, part: DrawnMeshPart) -> tuple[Any, Any]:
        """Return the buffers of a part's vertices and faces, made when they are first asked for."""
        found = self._buffers.pop(id(part), None)
        if found is None:
            found = (
                part,
                self.ctx.buffer(part.vertices[:, [0, 1, 2, 6, 3, 4, 5, 7]].tobytes()),
                self.ctx.buffer(part.faces.tobytes()),
            )
            while len(self._buffers) >= _MOST:
                oldest = next(iter(self._buffers))
                self._stream.forget(oldest)
                release(*self._buffers.pop(oldest)[1:])
        self._buffers[id(part)] = found
        return found[1], found[2]

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        self._stream.release()
        for _, *buffers in self._buffers.values():
            release(*buffers)
        self._buffers = {}


def packed_rows(rows: Rows, fixed: dict[str, tuple[float, ...]]) -> Floats:
    """Return instances as the shader takes them, (n, floats): fours, of which there may be as many as all
    of it needs.
    """
    out, at = np.empty((len(rows), sum(_ROW.values())), np.float32), 0
    for part in (part for parts in MESH_ATTRIBUTES.values() for part in parts):
        name, _, letter = part.partition(".")
        found = field_of(rows, name, fixed).reshape(len(rows), -1)
        if letter:
            found = found[:, "xyzw".index(letter), None]
        out[:, at : at + wide(part)] = found
        at += wide(part)
    return out


def parted(
    body: DrawnMesh, rows: Rows, fixed: dict[str, tuple[float, ...]], in_row: bool
) -> list[tuple[DrawnMeshPart, Rows, int]]:
    """Return each part of a body with the instances that wear it, and the place of the first of them.

    Of a row only one part is drawn at a time, so that each picture keeps its place.
    """
    if len(body) == 1:
        return [(body[0], rows, 0)]
    which = np.minimum((field_of(rows, "lot", fixed) * len(body)).astype(int), len(body) - 1)
    if in_row:
        return [(body[int(number)], rows[i : i + 1], i) for i, number in enumerate(which)]
    return [
        (part, np.ascontiguousarray(rows[which == i]), 0) for i, part in enumerate(body) if (which == i).any()
    ]

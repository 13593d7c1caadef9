"""Particles as squares that face the camera; small ones as points, which are drawn in half the time."""

from __future__ import annotations

import itertools
import math
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ...effect.stage import Camera
from ...simulation.instances import ALWAYS, NAMES, PLAIN
from ..blends import BLENDS
from ..camera import axes_of, packed
from ..moment import DrawnLayer, Moment, gathered, in_order
from ..programs import Programs
from ..targets import release

# Pixels; all that draw OpenGL 3.3 have points up to 64 at least, most up to 255.
WIDEST_POINT = 60.0
OPTIONAL = tuple(name for name in NAMES if name not in ALWAYS)


class Sprites:
    """Draws the particles of moments. Make, use and :meth:`release` it with its context current."""

    def __init__(self, ctx: Any, programs: Programs) -> None:
        self.ctx, self.programs = ctx, programs
        self._buffer: Any = None
        self._arrays: dict[Any, Any] = {}

    def draw(self, view: Any, projection: Any, camera: Camera, moment: Moment, height: int) -> None:
        """Draw a moment's layers, lower orders first, into the framebuffer in use, so many pixels high."""
        ctx = self.ctx
        ctx.enable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE)
        ctx.blend_equation = moderngl.FUNC_ADD
        _, _, back = axes_of(camera)
        whole = packed(projection @ view)
        ordered = sorted(moment.layers, key=lambda drawn: drawn.look.order)
        drawn = [(layer, in_order(gathered(layer, camera.target), back)) for layer in ordered]
        for _, run in itertools.groupby((one for one in drawn if len(one[1])), key=_alike):
            # Neighbours that are drawn alike are drawn at once: many small draws cost more than one.
            layers, parts = zip(*run, strict=True)
            layer, rows = layers[0], parts[0] if len(parts) == 1 else np.concatenate(parts)
            blend = BLENDS[layer.look.blend]
            ctx.blend_func = blend.source, blend.target
            small = are_small(rows, view, projection, height)
            shots = [(True, rows)] if small.all() else [(False, rows)]
            if blend.any_order and 0 < np.count_nonzero(small) < len(rows):
                shots = [(True, rows[small]), (False, rows[~small])]
            for points, some in shots:
                program = self._ready(layer, some, points)
                program["whole"].write(whole)
                program["lens"] = (projection[0, 0], projection[1, 1])
                program["cover"] = blend.cover
                if points:
                    program["height"] = float(height)
                self._draw_rows(program, some, points)
        ctx.disable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE)

    def _ready(self, layer: DrawnLayer, rows: NDArray[np.void], points: bool) -> Any:
        """Return the program for what a layer's instances carry, with what they don't set for all."""
        carried = [name for name in OPTIONAL if name in (rows.dtype.names or ())]
        program = self.programs.particle(frozenset([name.upper() for name in carried] + ["POINTS"] * points))
        for name in OPTIONAL:
            if name not in carried:
                value = layer.fixed.get(name, PLAIN[name])
                if name == "angle":
                    program["turned"] = math.cos(value[0]), math.sin(value[0])
                else:
                    program[f"in_{name}"] = value if len(value) > 1 else value[0]
        return program

    def _draw_rows(self, program: Any, rows: NDArray[np.void], points: bool) -> None:
        size = len(rows) * rows.dtype.itemsize
        if self._buffer is None or self._buffer.size < size:
            self._release()
            self._buffer = self.ctx.buffer(reserve=max(size * 3 // 2, 1 << 16), dynamic=True)
        else:
            self._buffer.orphan()
        self._buffer.write(np.ascontiguousarray(rows).view(np.uint8))
        key = (program.glo, rows.dtype)
        if key not in self._arrays:
            self._arrays[key] = self.ctx.vertex_array(program, [(self._buffer, *_layout(rows.dtype, program, points))])
        if points:
            self._arrays[key].render(moderngl.POINTS, vertices=len(rows))
        else:
            self._arrays[key].render(moderngl.TRIANGLE_STRIP, vertices=4, instances=len(rows))

    def _release(self) -> None:
        release(*self._arrays.values(), self._buffer)
        self._buffer, self._arrays = None, {}

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        self._release()


def _alike(drawn: tuple[DrawnLayer, NDArray[np.void]]) -> tuple[Any, ...]:
    """Return all that the drawing of a layer depends on besides its instances."""
    layer, rows = drawn
    return layer.look.blend, rows.dtype, tuple(sorted(layer.fixed.items()))


def _layout(kind: np.dtype[np.void], program: Any, points: bool) -> tuple[str, ...]:
    """Return instances' format and names as OpenGL is told them."""
    parts, names = [], []
    for name, (part, _) in (kind.fields or {}).items():  # type: ignore[misc]
        count = int(np.prod(part.shape)) if part.shape else 1
        known = f"in_{name}" in program
        parts.append(f"{count}f" if known else f"{4 * count}x")
        names += [f"in_{name}"] if known else []
    return (" ".join(parts) + ("" if points else " /i"), *names)


def are_small(rows: NDArray[np.void], view: Any, projection: Any, height: int) -> NDArray[np.bool_]:
    """Return which instances can be drawn as points: those that are not too wide and whose middle is in the picture.

    There are no points of any size, and one whose middle is outside is not drawn at all.
    """
    whole = (projection @ view)[[0, 1, 3]].astype(np.float32)
    x, y, w = whole[:, :3] @ np.ascontiguousarray(rows["place"].T) + whole[:, 3:]
    wide = np.maximum(rows["size"][:, 0], rows["size"][:, 1]) * np.float32(projection[1, 1] * height / 2)
    return np.asarray((np.maximum(np.abs(x), np.abs(y)) < w) & (wide < WIDEST_POINT * w))

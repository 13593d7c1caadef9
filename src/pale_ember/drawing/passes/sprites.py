"""Particles as polygons; small ones that face the camera as points, which are drawn in half the time."""

from __future__ import annotations

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ..blends import BLENDS
from ..programs import Programs
from ..styles import Style
from ..texture_store import TextureStore
from .scene import Scene, upload_scene
from .streaming import Stream

# Pixels; all that draw OpenGL 3.3 have points up to 64 at least, most up to 255.
WIDEST_POINT = 60.0


class Sprites:
    """Draws particles as pictures. Make, use and :meth:`release` it with its context current."""

    def __init__(self, ctx: Any, programs: Programs, store: TextureStore) -> None:
        self.ctx, self.programs, self.store = ctx, programs, store
        self._stream = Stream(ctx)

    def draw(self, scene: Scene, style: Style, rows: NDArray[np.void]) -> int:
        """Draw instances of one style into the framebuffer in use; return in how many calls."""
        shots = [(False, rows)]
        if style.is_point:
            small = are_small(rows, scene.view, scene.projection, scene.height, "TEXTURED" in style.features)
            if small.all():
                shots = [(True, rows)]
            elif BLENDS[style.blend].any_order and small.any() and not scene.row:
                shots = [(True, rows[small]), (False, rows[~small])]
        for points, some in shots:
            features = (
                style.features
                | ({"POINTS"} if points else set())
                | ({"OVERDRAW"} if scene.counting else set())
            )
            features |= {"ROW"} if scene.row else set()
            features |= {"SURFACE"} if scene.only else set()
            program = self.programs.particle(features - {"ANCHORED"})
            upload_scene(self.ctx, self.programs, self.store, program, scene, style)
            array = self._stream.array(program, some, layout_of(some.dtype, self.programs, program, points))
            if points:
                array.render(moderngl.POINTS, vertices=len(some))
            else:
                array.render(moderngl.TRIANGLE_STRIP, vertices=style.corners, instances=len(some))
        return len(shots)

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        self._stream.release()


def layout_of(kind: np.dtype[np.void], programs: Programs, program: Any, points: bool) -> tuple[str, ...]:
    """Return instances' format and names as OpenGL is told them."""
    parts, names = [], []
    for name, (part, _) in (kind.fields or {}).items():  # type: ignore[misc]
        count = int(np.prod(part.shape)) if part.shape else 1
        known = programs.asks(program, f"in_{name}")
        parts.append(f"{count}f" if known else f"{4 * count}x")
        names += [f"in_{name}"] if known else []
    return (" ".join(parts) + ("" if points else " /i"), *names)


def are_small(
    rows: NDArray[np.void], view: Any, projection: Any, height: int, square: bool = False
) -> NDArray[np.bool_]:
    """Return which instances can be drawn as points: those that are not too wide and whose middle is in the
    picture.

    There are no points of any size, and one whose middle is outside is not drawn at all. The point of a
    square holds its corners, however it is turned.
    """
    whole = (projection @ view)[[0, 1, 3]].astype(np.float32)
    x, y, w = whole[:, :3] @ np.ascontiguousarray(rows["place"].T) + whole[:, 3:]
    across, high = rows["size"][:, 0], rows["size"][:, 1]
    wide = (np.hypot(across, high) if square else np.maximum(across, high)) * np.float32(
        projection[1, 1] * height / 2
    )
    return np.asarray((np.maximum(np.abs(x), np.abs(y)) < w) & (wide < WIDEST_POINT * w))

"""Particles as polygons; small ones that face the camera as points, which are drawn in half the time."""

from __future__ import annotations

import functools
import itertools
from dataclasses import dataclass
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ...effect.stage import Camera
from ..blends import BLENDS
from ..camera import axes_of, eye_of, packed
from ..moment import Moment, gathered, in_order
from ..programs import Programs
from ..setting import Lights
from ..styles import Style, style_of
from ..targets import release
from ..texture_store import TextureStore

# Pixels; all that draw OpenGL 3.3 have points up to 64 at least, most up to 255.
WIDEST_POINT = 60.0
# The depth that softening reads lies behind the textures of a layer.
DEPTH_UNIT = 12


@dataclass(frozen=True)
class Scene:
    """What particles are drawn into: as seen from where, by which light, before what depth.

    ``height`` is the framebuffer's, pixels; ``depth`` a texture of what stands behind, or None; ``draft`` leaves out
    what is dear; ``counting`` draws each fragment as 1 instead of its light; with a ``row`` there are so many pictures
    side by side, each as ``projection`` says, and each particle is drawn into its own.
    """

    view: NDArray[np.float64]
    projection: NDArray[np.float64]
    camera: Camera
    height: int
    lights: Lights
    depth: Any = None
    draft: bool = False
    counting: bool = False
    row: int = 0

    @functools.cached_property
    def whole(self) -> bytes:
        """Return world to clip space."""
        return packed(self.projection @ self.view)

    @functools.cached_property
    def axes(self) -> bytes:
        """Return the camera's right, up and back."""
        return np.stack(axes_of(self.camera)).astype("f4").tobytes()

    @functools.cached_property
    def eye(self) -> tuple[float, ...]:
        return tuple(float(x) for x in eye_of(self.camera))


class Sprites:
    """Draws the particles of moments. Make, use and :meth:`release` it with its context current."""

    def __init__(self, ctx: Any, programs: Programs, store: TextureStore) -> None:
        self.ctx, self.programs, self.store = ctx, programs, store
        self._buffer: Any = None
        self._arrays: dict[Any, Any] = {}
        self.calls = 0

    def draw(self, scene: Scene, moment: Moment, target: Any) -> None:
        """Draw a moment's layers, lower orders first, into the framebuffer in use."""
        ctx = self.ctx
        self.calls = 0
        ctx.enable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE)
        ctx.blend_equation = moderngl.FUNC_ADD
        solid = scene.depth is not None
        # What hides by its depth needs one to hide by, whatever stands behind.
        tests = solid or any(BLENDS[layer.look.blend].solid for layer in moment.layers)
        if tests:
            ctx.enable(moderngl.DEPTH_TEST)
            ctx.depth_func = "<="
        target.depth_mask = False
        _, _, back = axes_of(scene.camera)
        ordered = sorted(moment.layers, key=lambda drawn: drawn.look.order)
        drawn = [
            (style_of(layer, solid, scene.draft), in_order(gathered(layer, scene.camera.target), back))
            for layer in ordered
            if len(layer.instances)
        ]
        for _, run in itertools.groupby(drawn, key=lambda one: (one[0], one[1].dtype)):
            # Neighbours that are drawn alike are drawn at once: many small draws cost more than one.
            styles, parts = zip(*run, strict=True)
            rows = parts[0] if len(parts) == 1 else np.concatenate(parts)
            self._draw_style(scene, styles[0], rows, target)
        target.depth_mask = True
        # What reads pictures without smaller copies must not read them through these.
        ctx.clear_samplers(0, DEPTH_UNIT + 1)
        ctx.disable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE | moderngl.DEPTH_TEST)

    def _draw_style(self, scene: Scene, style: Style, rows: NDArray[np.void], target: Any) -> None:
        blend = BLENDS[style.blend]
        self.ctx.blend_func = (moderngl.ONE, moderngl.ONE) if scene.counting else blend.functions
        target.depth_mask = blend.solid and not scene.counting
        shots = [(False, rows)]
        if style.is_point:
            small = are_small(rows, scene.view, scene.projection, scene.height)
            if small.all():
                shots = [(True, rows)]
            elif blend.any_order and small.any() and not scene.row:
                shots = [(True, rows[small]), (False, rows[~small])]
        for points, some in shots:
            features = style.features | ({"POINTS"} if points else set()) | ({"OVERDRAW"} if scene.counting else set())
            features |= {"ROW"} if scene.row else set()
            program = self.programs.particle(features - {"ANCHORED"})
            self._set(program, scene, style)
            self._draw_rows(program, some, 0 if points else style.corners)

    def _set(self, program: Any, scene: Scene, style: Style) -> None:
        """Tell a program what is the same for all particles, as far as it asks."""
        lights, projection = scene.lights, scene.projection

        def tell(name: str, value: Any) -> None:
            self.programs.tell(program, name, value)

        tell("whole", scene.whole)
        tell("axes", scene.axes)
        tell("lens", (float(projection[0, 0]), float(projection[1, 1])))
        tell("depths", (float(projection[2, 2]), float(projection[2, 3])))
        tell("height", float(scene.height))
        tell("row", float(scene.row))
        tell("key_from", lights.key_from)
        tell("key_light", lights.key)
        tell("sky_light", lights.sky)
        tell("ground_light", lights.ground)
        tell("eye", scene.eye)
        for name, value in style.uniforms:
            tell(name, value)
        for number, unit in enumerate(style.units):
            if not self.programs.asks(program, unit.name):
                continue
            held = self.store.get(unit.texture)
            getattr(held, unit.part).use(number)
            if unit.name == "corners":
                self.ctx.clear_samplers(number, number + 1)
            else:
                self.store.sampler(unit.texture.smooth, unit.wrap, scene.draft).use(number)
            tell(unit.name, number)
        if self.programs.asks(program, "behind"):
            scene.depth.use(DEPTH_UNIT)
            self.ctx.clear_samplers(DEPTH_UNIT, DEPTH_UNIT + 1)
            tell("behind", DEPTH_UNIT)

    def _draw_rows(self, program: Any, rows: NDArray[np.void], corners: int) -> None:
        """Draw instances as polygons of so many corners, or for 0 as points."""
        size = len(rows) * rows.dtype.itemsize
        if self._buffer is None or self._buffer.size < size:
            self._release()
            self._buffer = self.ctx.buffer(reserve=max(size * 3 // 2, 1 << 16), dynamic=True)
        else:
            self._buffer.orphan()
        self._buffer.write(np.ascontiguousarray(rows).view(np.uint8))
        key = (program.glo, rows.dtype)
        if key not in self._arrays:
            self._arrays[key] = self.ctx.vertex_array(program, [(self._buffer, *layout_of(rows.dtype, self.programs, program, corners == 0))])
        if corners == 0:
            self._arrays[key].render(moderngl.POINTS, vertices=len(rows))
        else:
            self._arrays[key].render(moderngl.TRIANGLE_STRIP, vertices=corners, instances=len(rows))
        self.calls += 1

    def _release(self) -> None:
        release(*self._arrays.values(), self._buffer)
        self._buffer, self._arrays = None, {}

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        self._release()



def layout_of(kind: np.dtype[np.void], programs: Programs, program: Any, points: bool) -> tuple[str, ...]:
    """Return instances' format and names as OpenGL is told them."""
    parts, names = [], []
    for name, (part, _) in (kind.fields or {}).items():  # type: ignore[misc]
        count = int(np.prod(part.shape)) if part.shape else 1
        known = programs.asks(program, f"in_{name}")
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

"""The one drawing path: a moment and a camera into a framebuffer of any OpenGL 3.3 core context."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import resources
from typing import Any, NamedTuple

import moderngl
import numpy as np

from ..effect.colors import hex_to_linear
from ..effect.effect import Camera
from .camera import axes_of, eye_of, projection_matrix, view_matrix
from .moment import Moment, gathered, in_order

INSTANCE_FORMAT = "3f 2f 1f 3f 1f 1f"
INSTANCE_NAMES = ("in_place", "in_size", "in_angle", "in_color", "in_opacity", "in_intensity")
# Pixels; all that draw OpenGL 3.3 have points up to 64 at least, most up to 255.
WIDEST_POINT = 60.0
# The first is a quarter of the picture's size, each further one half of the one before.
GLOW_LEVELS = 4
# Of the light, how much is spread; an even field stays as it is.
GLOW_SHARE = 0.24


@dataclass(frozen=True)
class Backdrop:
    """Colours behind the effect, sRGB hex, and the floor grid's strength."""

    zenith: str
    horizon: str
    ground: str
    line: str


BACKDROPS = {
    "night": Backdrop("#111213", "#222324", "#191a1a", "#3f4244"),
    "dusk": Backdrop("#3a4048", "#75706c", "#45423f", "#6d6a66"),
    "overcast": Backdrop("#8d9193", "#b4b5b4", "#838381", "#5e5f5e"),
    "day": Backdrop("#8fa9bd", "#d9dad6", "#a9a59b", "#77746d"),
    "black": Backdrop("#000000", "#000000", "#000000", "#3a3a3a"),
}


def _shader(name: str) -> str:
    return (resources.files(__package__) / "shaders" / f"{name}.glsl").read_text(encoding="utf-8")


class Layout(NamedTuple):
    """How pictures are laid side by side: their size and that of the cells in whose middle they stand, and their number.

    All in pixels; cells are larger, so that no glow of a neighbour reaches a picture.
    """

    width: int
    height: int
    cell_width: int
    cell_height: int
    number: int


class Programs:
    """The shaders of a context, compiled once for all of its renderers."""

    def __init__(self, ctx: Any) -> None:
        screen = _shader("screen.vert")
        self.particles = {
            name: ctx.program(
                vertex_shader=_shader("particle.vert") + _shader(f"{name}.vert"),
                fragment_shader=_shader("particle.frag") + _shader(f"{name}.frag"),
            )
            for name in ("sprite", "speck")
        }
        self.screens = {
            name: ctx.program(vertex_shader=screen, fragment_shader=_shader(f"{name}.frag"))
            for name in ("backdrop", "shrink", "widen", "develop")
        }
        self.triangles = {name: ctx.vertex_array(program, []) for name, program in self.screens.items()}

    def release(self) -> None:
        """Give them back; their context must be current."""
        for thing in (*self.triangles.values(), *self.screens.values(), *self.particles.values()):
            thing.release()
        self.particles, self.screens, self.triangles = {}, {}, {}


class Renderer:
    """Draws moments. Make, use and :meth:`release` it with its context current.

    Parameters
    ----------
    ctx : moderngl.Context
        OpenGL 3.3 core or later.
    programs : Programs, optional
        Those of the context, where several renderers share it; its own by default.

    Attributes
    ----------
    blue_first : bool
        Whether pixels are written blue, green, red, as some windows take them.
    """

    def __init__(self, ctx: Any, programs: Programs | None = None) -> None:
        self.ctx = ctx
        self.blue_first = False
        self._own = programs is None
        self.programs = programs or Programs(ctx)
        self._programs, self._screens = self.programs.particles, self.programs.screens
        self._triangles = self.programs.triangles
        self._buffer: Any = None
        self._arrays: dict[str, Any] = {}
        self._size = (0, 0)
        self._scene: Any = None
        self._behind: Any = None
        self._behind_look: object = None
        self._glow: list[Any] = []

    def draw(
        self, target: Any, size: tuple[int, int], moment: Moment, camera: Camera, backdrop: str, grid: bool = True
    ) -> None:
        """Draw a moment into a framebuffer, which ends opaque.

        Parameters
        ----------
        target : moderngl.Framebuffer
            8-bit; it gets sRGB values.
        size : (int, int)
            Width and height in pixels.
        backdrop : str
            One of ``BACKDROPS``.
        """
        width, height = max(size[0], 1), max(size[1], 1)
        self._resize(width, height)
        view, projection = view_matrix(camera), projection_matrix(camera, width, height)
        self._lay_behind((camera, backdrop, grid), view, projection, (1, width))
        self._draw_scene(view, projection, camera, moment)
        target.use()
        self.ctx.viewport = (0, 0, width, height)
        self._develop((0.0, 0.0, 1.0, 1.0))

    def behind(self, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool) -> np.ndarray:
        """Return the light behind an effect, (height, width, 3) float32, from the lower left."""
        self._resize(*size)
        self._lay_behind((camera, backdrop, grid), view_matrix(camera), projection_matrix(camera, *size), (1, size[0]))
        data = np.frombuffer(self._behind.color_attachments[0].read(alignment=1), np.float16)
        return np.ascontiguousarray(data.reshape(size[1], size[0], 4)[:, :, :3].astype(np.float32))

    def draw_frames(self, target: Any, moment: Moment, camera: Camera, backdrop: str, layout: Layout) -> None:
        """Draw pictures side by side into a framebuffer, each as it would be in the middle of a picture of its own.

        Parameters
        ----------
        target : moderngl.Framebuffer
            8-bit, ``layout.width`` times the number wide.
        moment : Moment
            With each picture's particles in its cell; see :mod:`.filmstrip`.
        camera : Camera
            What a cell of ``layout`` shows.
        """
        wide, high, count = layout.cell_width, layout.cell_height, layout.number
        left, bottom = (wide - layout.width) / 2, (high - layout.height) / 2
        self._resize(wide * count, high)
        view = view_matrix(camera)
        self._lay_behind((camera, backdrop, False), view, projection_matrix(camera, wide, high), (count, wide))
        self._draw_scene(view, projection_matrix(camera, wide * count, high), camera, moment)
        target.use()
        for i in range(count):
            self.ctx.viewport = (i * layout.width, 0, layout.width, layout.height)
            corner = ((i * wide + left) / (wide * count), bottom / high)
            self._develop((*corner, layout.width / (wide * count), layout.height / high))

    def _lay_behind(self, look: tuple[Camera, str, bool], view: Any, projection: Any, cells: tuple[int, int]) -> None:
        """Make the scene what is behind the effect, in each of a number of cells of a width; kept while it looks the same."""
        ctx, (count, wide) = self.ctx, cells
        ctx.disable(moderngl.DEPTH_TEST | moderngl.CULL_FACE | moderngl.BLEND)
        if (look, cells) != self._behind_look:
            self._behind.use()
            camera, backdrop, grid = look
            for i in range(count):
                ctx.viewport = (i * wide, 0, wide, self._size[1])
                self._draw_backdrop(view, projection, camera, BACKDROPS[backdrop], grid)
            self._behind_look = (look, cells)
        ctx.copy_framebuffer(self._scene, self._behind)

    def _draw_scene(self, view: Any, projection: Any, camera: Camera, moment: Moment) -> None:
        """Draw particles over what is behind them, and the glow of it all."""
        self._scene.use()
        self.ctx.viewport = (0, 0, *self._size)
        self._draw_sprites(view, projection, camera, moment)
        self._draw_glow()

    def _develop(self, cut: tuple[float, float, float, float]) -> None:
        """Make light what a screen shows, of a part of the scene, into the viewport."""
        self._scene.color_attachments[0].use(0)
        self._glow[0].color_attachments[0].use(1)
        develop = self._screens["develop"]
        develop["scene"], develop["glow"], develop["cut"] = 0, 1, cut
        develop["swap"] = 1.0 if self.blue_first else 0.0
        develop["glow_share"], develop["glow_scale"] = GLOW_SHARE, 1.0 / GLOW_LEVELS
        self._triangles["develop"].render(moderngl.TRIANGLES, vertices=3)

    def _draw_backdrop(self, view: Any, projection: Any, camera: Camera, colors: Backdrop, grid: bool) -> None:
        program = self._screens["backdrop"]
        program["unproject"].write(_packed(np.linalg.inv(projection @ view)))
        program["eye"] = tuple(eye_of(camera))
        for name, color in (
            ("zenith", colors.zenith),
            ("horizon", colors.horizon),
            ("ground", colors.ground),
            ("line_light", colors.line),
        ):
            program[name] = tuple(hex_to_linear(color))
        program["cell"] = 10.0 ** max(0, int(np.floor(np.log10(max(camera.distance, 1e-3) / 6.0))))
        program["grid"] = 1.0 if grid else 0.0
        self._triangles["backdrop"].render(moderngl.TRIANGLES, vertices=3)

    def _draw_sprites(self, view: Any, projection: Any, camera: Camera, moment: Moment) -> None:
        ctx = self.ctx
        ctx.enable(moderngl.BLEND)
        ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        ctx.blend_equation = moderngl.FUNC_ADD
        for program in self._programs.values():
            program["view"].write(_packed(view))
            program["projection"].write(_packed(projection))
        self._programs["speck"]["height"] = float(self._size[1])
        ctx.enable(moderngl.PROGRAM_POINT_SIZE)
        _, _, back = axes_of(camera)
        for layer in sorted(moment.layers, key=lambda drawn: drawn.order):
            rows = in_order(gathered(layer, camera.target), back)
            if len(rows) == 0:
                continue
            for program in self._programs.values():
                program["cover"] = 0.0 if layer.blend == "add" else 1.0
            small = _are_small(rows, view, projection, self._size[1])
            if layer.blend == "add" and not small.all():
                # Light may be added in any order.
                self._draw_rows("speck", rows[small])
                self._draw_rows("sprite", rows[~small])
            else:
                self._draw_rows("speck" if small.all() else "sprite", rows)
        ctx.disable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE)

    def _draw_rows(self, name: str, rows: np.ndarray) -> None:
        if len(rows) == 0:
            return
        self._upload(rows)
        if name == "speck":
            self._arrays[name].render(moderngl.POINTS, vertices=len(rows))
        else:
            self._arrays[name].render(moderngl.TRIANGLE_STRIP, vertices=4, instances=len(rows))

    def _upload(self, rows: np.ndarray) -> None:
        if self._buffer is None or self._buffer.size < rows.nbytes:
            self._release(*self._arrays.values(), self._buffer)
            self._buffer = self.ctx.buffer(reserve=max(rows.nbytes * 3 // 2, 1 << 16), dynamic=True)
            self._arrays = {
                name: self.ctx.vertex_array(program, [(self._buffer, layout, *INSTANCE_NAMES)])
                for (name, program), layout in zip(
                    self._programs.items(), (f"{INSTANCE_FORMAT} /i", INSTANCE_FORMAT), strict=True
                )
            }
        else:
            self._buffer.orphan()
        self._buffer.write(np.ascontiguousarray(rows))

    def _draw_glow(self) -> None:
        """Spread the light that lenses and eyes spread: halve the picture several times, then add back up."""
        ctx = self.ctx
        source = self._scene
        shrink, widen = self._screens["shrink"], self._screens["widen"]
        for level in self._glow:
            self._pass(shrink, "shrink", source, level)
            source = level
        ctx.enable(moderngl.BLEND)
        ctx.blend_func = moderngl.ONE, moderngl.ONE
        widen["share"] = 1.0
        for finer, coarser in zip(self._glow[-2::-1], self._glow[:0:-1], strict=True):
            self._pass(widen, "widen", coarser, finer)
        ctx.disable(moderngl.BLEND)

    def _pass(self, program: Any, name: str, source: Any, target: Any) -> None:
        target.use()
        self.ctx.viewport = (0, 0, *target.size)
        texture = source.color_attachments[0]
        texture.use(0)
        program["source"] = 0
        # Soft reads between pixels: of two by two pixels each when halving, of four by four in all when quartering.
        step = 0.5 if name == "shrink" and source is not self._scene else 1.0
        program["texel"] = (step / texture.size[0], step / texture.size[1])
        self._triangles[name].render(moderngl.TRIANGLES, vertices=3)

    def _resize(self, width: int, height: int) -> None:
        if self._size == (width, height):
            return
        self._release_targets()
        self._size = (width, height)
        self._scene, self._behind = self._target(width, height), self._target(width, height)
        self._behind_look = None
        width, height = max(width // 2, 1), max(height // 2, 1)
        for _ in range(GLOW_LEVELS):
            width, height = max(width // 2, 1), max(height // 2, 1)
            self._glow.append(self._target(width, height))

    def _target(self, width: int, height: int) -> Any:
        texture = self.ctx.texture((width, height), 4, dtype="f2")
        texture.filter = moderngl.LINEAR, moderngl.LINEAR
        texture.repeat_x = texture.repeat_y = False
        return self.ctx.framebuffer([texture])

    def _release(self, *things: Any) -> None:
        for thing in things:
            if thing is not None:
                thing.release()

    def _release_targets(self) -> None:
        for target in (self._scene, self._behind, *self._glow):
            if target is not None:
                self._release(*target.color_attachments, target)
        self._scene, self._behind, self._glow = None, None, []

    def release(self) -> None:
        """Give back all that it holds on the GPU; its context must be current."""
        self._release_targets()
        self._release(*self._arrays.values(), self._buffer)
        self._buffer, self._arrays = None, {}
        if self._own:
            self.programs.release()


def _are_small(rows: np.ndarray, view: Any, projection: Any, height: int) -> np.ndarray:
    """Return which instances can be drawn as points: those that are not too wide and whose middle is in the picture.

    A point is drawn in half the time of a square, but there are none of any size, and one whose middle is outside
    is not drawn at all.
    """
    whole = (projection @ view).astype(np.float32)
    clip = rows[:, :3] @ whole[[0, 1, 3], :3].T + whole[[0, 1, 3], 3]
    w = clip[:, 2]
    wide = np.maximum(rows[:, 3], rows[:, 4]) * np.float32(projection[1, 1] * height / 2)
    inside = (np.abs(clip[:, 0]) < w) & (np.abs(clip[:, 1]) < w)
    return np.asarray(inside & (wide < WIDEST_POINT * w))


def _packed(matrix: np.ndarray) -> bytes:
    return np.ascontiguousarray(matrix.T, dtype=np.float32).tobytes()

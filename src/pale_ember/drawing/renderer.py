"""The one drawing path: a moment and a camera into a framebuffer of any OpenGL 3.3 core context."""

from __future__ import annotations

from typing import Any, NamedTuple

import moderngl

from ..effect.stage import Camera
from ..effect.kinds import Backdrop
from .backdrops import BACKDROPS
from .camera import projection_matrix, view_matrix
from .moment import Moment
from .passes.backdrop import draw_backdrop
from .passes.develop import Developing, develop
from .passes.glow import Glow
from .passes.sprites import Sprites
from .programs import Programs
from .targets import light_target, release


class Layout(NamedTuple):
    """How pictures are laid side by side: their size and that of the cells in whose middle they stand, and their number.

    All in pixels; cells are larger, so that no glow of a neighbour reaches a picture.
    """

    width: int
    height: int
    cell_width: int
    cell_height: int
    number: int


class Renderer:
    """Draws moments. Make, use and :meth:`release` it with its context current.

    Parameters
    ----------
    ctx : moderngl.Context
        OpenGL 3.3 core or later.
    programs : Programs, optional
        Those of the context, where several renderers share it; its own by default.
    """

    def __init__(self, ctx: Any, programs: Programs | None = None) -> None:
        self.ctx = ctx
        self._own = programs is None
        self.programs = programs or Programs(ctx)
        self._sprites, self._glow = Sprites(ctx, self.programs), Glow(ctx, self.programs)
        self._size = (0, 0)
        self._scene: Any = None
        self._behind: Any = None
        self._behind_look: object = None

    def draw(
        self, target: Any, size: tuple[int, int], moment: Moment, camera: Camera, backdrop: Backdrop | None,
        grid: bool = True, how: Developing | None = None,
    ) -> None:  # fmt: skip
        """Draw a moment into a framebuffer.

        Parameters
        ----------
        target : moderngl.Framebuffer
            8-bit; it gets sRGB values.
        size : (int, int)
            Width and height in pixels.
        backdrop : Backdrop or None
            None draws the effect on nothing; the target is then premultiplied, and clear where nothing is.
        how : Developing, optional
            From the lower left, red first, by default.
        """
        width, height = max(size[0], 1), max(size[1], 1)
        self._resize(width, height)
        view, projection = view_matrix(camera), projection_matrix(camera, width, height)
        self._lay_behind((camera, backdrop, grid), view, projection, (1, width))
        self._draw_scene(view, projection, camera, moment)
        target.use()
        self.ctx.viewport = (0, 0, width, height)
        how = (how or Developing())._replace(clear=backdrop is None)
        develop(self.programs, self._scene.color_attachments[0], self._glow.texture, how)

    def draw_frames(
        self, target: Any, moment: Moment, camera: Camera, backdrop: Backdrop, layout: Layout,
        how: Developing | None = None,
    ) -> None:  # fmt: skip
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
        if (layout.width, layout.height) == (wide, high):
            # Pictures right beside each other are developed as one.
            self.ctx.viewport = (0, 0, wide * count, high)
            develop(self.programs, self._scene.color_attachments[0], self._glow.texture, how or Developing())
            return
        for i in range(count):
            self.ctx.viewport = (i * layout.width, 0, layout.width, layout.height)
            corner = ((i * wide + left) / (wide * count), bottom / high)
            cut = (*corner, layout.width / (wide * count), layout.height / high)
            develop(self.programs, self._scene.color_attachments[0], self._glow.texture, how or Developing(), cut)

    def _lay_behind(
        self, look: tuple[Camera, Backdrop | None, bool], view: Any, projection: Any, cells: tuple[int, int]
    ) -> None:
        """Make the scene what is behind the effect, in each of a number of cells of a width; kept while it looks the same."""
        ctx, (count, wide) = self.ctx, cells
        ctx.disable(moderngl.DEPTH_TEST | moderngl.CULL_FACE | moderngl.BLEND)
        camera, backdrop, grid = look
        if (look, cells) != self._behind_look:
            self._behind.use()
            self._behind.clear()
            for i in range(count if backdrop is not None else 0):
                assert backdrop is not None
                ctx.viewport = (i * wide, 0, wide, self._size[1])
                draw_backdrop(self.programs, view, projection, camera, BACKDROPS[backdrop], grid)
            self._behind_look = (look, cells)
        self._scene.clear()
        ctx.copy_framebuffer(self._scene, self._behind)

    def _draw_scene(self, view: Any, projection: Any, camera: Camera, moment: Moment) -> None:
        """Draw particles over what is behind them, and the glow of it all."""
        self._scene.use()
        self.ctx.viewport = (0, 0, *self._size)
        self._sprites.draw(view, projection, camera, moment, self._size[1])
        self._glow.spread(self._scene)

    def _resize(self, width: int, height: int) -> None:
        if self._size == (width, height):
            return
        release(self._scene, self._behind)
        self._size, self._behind_look = (width, height), None
        self._scene = light_target(self.ctx, width, height, depth=True)
        self._behind = light_target(self.ctx, width, height)
        self._glow.resize(width, height)

    def release(self) -> None:
        """Give back all that it holds on the GPU; its context must be current."""
        release(self._scene, self._behind)
        self._scene = self._behind = None
        self._size = (0, 0)
        self._sprites.release()
        self._glow.release()
        if self._own:
            self.programs.release()

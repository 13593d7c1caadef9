"""The one drawing path: a moment and a camera into a framebuffer of any OpenGL 3.3 core context."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any, NamedTuple

import moderngl

from ..effect.chapters.stage import Camera
from ..effect.kinds import Backdrop, DrawnAs
from .camera import projection_matrix, view_matrix
from .environment import Environment, as_environment, lights_of
from .moment import Moment
from .passes.backdrop import draw_backdrop
from .passes.develop import Developing, develop
from .passes.glow import Glow
from .passes.particles import Particles
from .passes.scene import Scene
from .passes.shine import Shine, add_light, draw_shine, reach_of, shines_of, upload_shines
from .passes.solids import Solids
from .programs import Programs
from .targets import light_target, release, smooth_target
from .texture_store import TextureStore

# In larger pictures lit edges show their pixels: four samples of each would take more memory than they are
# worth.
MOST_SMOOTH = 1 << 22


class Layout(NamedTuple):
    """How pictures are laid side by side: their size and that of the cells in whose middle they stand, and
    their number.

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
    store : TextureStore, optional
        The context's, likewise.
    """

    def __init__(self, ctx: Any, programs: Programs | None = None, store: TextureStore | None = None) -> None:
        self.ctx = ctx
        self._own = programs is None
        self.programs = programs or Programs(ctx)
        self.store = store or TextureStore(ctx)
        self._particles, self._glow = Particles(ctx, self.programs, self.store), Glow(ctx, self.programs)
        self._solids = Solids(ctx, self.programs)
        self._lights: Any = None
        self._counts: Any = None
        self._size = (0, 0)
        self._scene: Any = None
        self._behind: Any = None
        self._behind_look: object = None
        # The background with several samples for each pixel, whose depth tests the light of layers; and that
        # light.
        self._smooth: Any = None
        self._lit: Any = None

    def draw(
        self,
        target: Any,
        size: tuple[int, int],
        moment: Moment,
        camera: Camera,
        environment: Environment | Backdrop | None,
        grid: bool = True,
        how: Developing | None = None,
        draft: bool = False,
        fine: bool = False,
        only: str = "",
        without: Any = None,
        still: bool = False,
    ) -> None:
        """Draw a moment into a framebuffer.

        Parameters
        ----------
        target : moderngl.Framebuffer
            8-bit; it gets sRGB values.
        size : (int, int)
            Width and height in pixels.
        environment : Environment, Backdrop or None
            A backdrop alone has nothing on it. None draws the effect on nothing; the target is then
            premultiplied, and clear where nothing is.
        draft : bool
            Whether to leave out what is dear while a picture moves.
        how : Developing, optional
            From the lower left, red first, by default.
        fine : bool
            Whether all edges are smoothed, those of ribbons too.
        only : str
            What is drawn instead of light; ``normals`` or nothing.
        without : moderngl.Texture, optional
            What the target is without the effect; then only what differs from it is written.
        still : bool
            Whether the camera and all that stands behind the effect stay as they are.
        """
        width, height = max(size[0], 1), max(size[1], 1)
        self._resize(width, height)
        environment = as_environment(environment, grid)
        view, projection = view_matrix(camera), projection_matrix(camera, width, height)
        # Under a still camera it is drawn once: then its edges are smoothed in a draft too.
        self._lay_behind((camera, environment), view, projection, (1, width), draft and not still)
        self._draw_scene(view, projection, camera, moment, environment, draft, fine=fine, only=only)
        self._glow.spread(self._scene, environment.glow_reach, height)
        target.use()
        self.ctx.viewport = (0, 0, width, height)
        how = (how or Developing())._replace(clear=environment.backdrop is None)
        develop(
            self.programs, self._scene.color_attachments[0], self._glow, environment, how, without=without
        )

    @property
    def complete(self) -> bool:
        """Return whether the last picture had all that stands on the stage; meshes are read in the
        background.
        """
        return self._solids.complete

    @property
    def calls(self) -> int:
        """Return in how many calls the last picture drew its particles."""
        return self._particles.calls

    def count(self, size: tuple[int, int], moment: Moment, camera: Camera, environment: Environment) -> Any:
        """Return a framebuffer in whose red part each pixel counts the layers of particles that are drawn
        over it.
        """
        width, height = max(size[0], 1), max(size[1], 1)
        self._resize(width, height)
        if self._counts is None or self._counts.size != (width, height):
            release(self._counts)
            # Half floats would stop at 2 048.
            texture = self.ctx.texture((width, height), 1, dtype="f4")
            texture.filter = moderngl.NEAREST, moderngl.NEAREST
            self._counts = self.ctx.framebuffer([texture], self.ctx.depth_texture((width, height)))
        view, projection = view_matrix(camera), projection_matrix(camera, width, height)
        self._lay_behind((camera, environment), view, projection, (1, width))
        self.ctx.copy_framebuffer(self._counts, self._behind)
        self._counts.use()
        # The depth of what stands behind stays.
        self._counts.depth_mask = False
        self._counts.clear()
        self._counts.depth_mask = True
        self.ctx.viewport = (0, 0, width, height)
        depth = self._behind.depth_attachment if environment.solid else None
        scene = Scene(
            view, projection, camera, height, lights_of(environment), depth, counting=True, time=moment.time
        )
        self._particles.draw(scene, moment, self._counts)
        return self._counts

    def draw_frames(
        self,
        target: Any,
        moment: Moment,
        camera: Camera,
        environment: Environment | Backdrop,
        layout: Layout,
        how: Developing | None = None,
        draft: bool = False,
    ) -> None:
        """Draw particles side by side into a framebuffer, each as it would be in the middle of a picture of
        its own.

        Parameters
        ----------
        target : moderngl.Framebuffer
            8-bit, ``layout.width`` times the number wide.
        moment : Moment
            One layer with a particle for each picture; see :mod:`.filmstrip`.
        camera : Camera
            What a cell of ``layout`` shows.
        """
        wide, high, count = layout.cell_width, layout.cell_height, layout.number
        left, bottom = (wide - layout.width) / 2, (high - layout.height) / 2
        self._resize(wide * count, high)
        view = view_matrix(camera)
        environment = as_environment(environment, False)
        cell = projection_matrix(camera, wide, high)
        self._lay_behind((camera, environment), view, cell, (count, wide))
        self._draw_scene(view, cell, camera, moment, environment, draft, count)
        self._glow.spread(self._scene, environment.glow_reach, layout.height)
        target.use()
        if (layout.width, layout.height) == (wide, high):
            # Pictures right beside each other are developed as one.
            self.ctx.viewport = (0, 0, wide * count, high)
            develop(
                self.programs, self._scene.color_attachments[0], self._glow, environment, how or Developing()
            )
            return
        for i in range(count):
            self.ctx.viewport = (i * layout.width, 0, layout.width, layout.height)
            corner = ((i * wide + left) / (wide * count), bottom / high)
            cut = (*corner, layout.width / (wide * count), layout.height / high)
            develop(
                self.programs,
                self._scene.color_attachments[0],
                self._glow,
                environment,
                how or Developing(),
                cut,
            )

    def _lay_behind(
        self,
        look: tuple[Camera, Environment],
        view: Any,
        projection: Any,
        cells: tuple[int, int],
        draft: bool = False,
    ) -> None:
        """Make the scene what is behind the effect, in each of a number of cells of a width; kept while it
        looks the same.

        Where something stands there its edges are smoothed, but in a draft.
        """
        ctx, (count, wide) = self.ctx, cells
        ctx.disable(moderngl.DEPTH_TEST | moderngl.CULL_FACE | moderngl.BLEND)
        camera, environment = look
        fine = count == 1 and not draft and bool(environment.props or environment.figure)
        looks = (camera, environment.behind, cells, fine)
        if looks != self._behind_look:
            behind = smooth_target(ctx, *self._size) if fine else self._behind
            behind.use()
            behind.clear()
            # Depth is only written while the depth test is on; here the test always passes.
            ctx.enable(moderngl.DEPTH_TEST)
            ctx.depth_func = "1"
            for i in range(count if environment.backdrop is not None else 0):
                ctx.viewport = (i * wide, 0, wide, self._size[1])
                draw_backdrop(self.programs, self.store, view, projection, camera, environment)
            ctx.disable(moderngl.DEPTH_TEST)
            if count == 1:
                ctx.viewport = (0, 0, *self._size)
                self._solids.draw(projection @ view, environment, lights_of(environment))
            release(self._smooth)
            self._smooth = None
            if fine:
                ctx.copy_framebuffer(self._behind, behind)
                if self._size[0] * self._size[1] <= MOST_SMOOTH:
                    self._smooth = behind
                else:
                    release(behind)
            # A mesh that is being read will be there later.
            self._behind_look = looks if self._solids.complete else None
        self._scene.clear()
        ctx.copy_framebuffer(self._scene, self._behind)

    def _draw_scene(
        self,
        view: Any,
        projection: Any,
        camera: Camera,
        moment: Moment,
        environment: Environment,
        draft: bool,
        row: int = 0,
        fine: bool = False,
        only: str = "",
    ) -> None:
        """Draw particles over what is behind them."""
        self._scene.use()
        self.ctx.viewport = (0, 0, *self._size)
        solid = environment.solid or bool(environment.props) or environment.figure
        depth = self._behind.depth_attachment if solid else None
        if solid:
            self._shine(moment, projection @ view, camera, environment, depth, draft)
        scene = Scene(
            view,
            projection,
            camera,
            self._size[1],
            lights_of(environment),
            depth,
            draft,
            row=row,
            time=moment.time,
            only=only,
        )
        edged = (DrawnAs.MESH, DrawnAs.RIBBON) if fine else (DrawnAs.MESH,)
        if (
            not draft
            and not row
            and any(layer.look.draw in edged and len(layer.instances) for layer in moment.layers)
        ):
            self._draw_smoothly(scene, moment)
        else:
            self._particles.draw(scene, moment, self._scene)

    def _draw_smoothly(self, scene: Scene, moment: Moment) -> None:
        """Draw particles whose edges would show their pixels, with several samples for each."""
        smooth = smooth_target(self.ctx, *self._size)
        self.ctx.copy_framebuffer(smooth, self._scene)
        smooth.use()
        self.ctx.viewport = (0, 0, *self._size)
        self._particles.draw(scene, moment, smooth)
        self.ctx.copy_framebuffer(self._scene, smooth)
        release(smooth)

    def _shine(
        self, moment: Moment, whole: Any, camera: Camera, environment: Environment, depth: Any, draft: bool
    ) -> None:
        """Add the light of layers to floor and props; but in a draft with edges as smooth as their own."""
        shines = shines_of(moment)
        if not shines:
            return
        ctx, upload = self.ctx, functools.partial(upload_shines, shines=shines)
        smoothly = self._smooth is not None and not draft
        if smoothly:
            self._light_smoothly(shines, whole, environment, upload)
        ctx.enable(moderngl.BLEND)
        ctx.blend_func = moderngl.ONE, moderngl.ONE
        if smoothly:
            add_light(self.programs, self._lit.color_attachments[0])
        else:
            if environment.solid:
                draw_shine(ctx, self.programs, shines, whole, camera, depth)
            self._solids.draw(whole, environment, lights_of(environment), upload)
        ctx.disable(moderngl.BLEND)

    def _light_smoothly(
        self, shines: list[Shine], whole: Any, environment: Environment, upload: Callable[[Any], None]
    ) -> None:
        """Draw what layers throw on floor and props with several samples for each pixel, to be added to
        the scene.
        """
        ctx, smooth = self.ctx, self._smooth
        if self._lit is None:
            self._lit = light_target(ctx, *self._size, depth=True)
        smooth.use()
        # Only read the background's depth here.
        smooth.depth_mask = False
        smooth.clear()
        self._solids.draw(
            whole,
            environment,
            lights_of(environment),
            upload,
            reach_of(shines) if environment.solid else None,
        )
        smooth.depth_mask = True
        ctx.copy_framebuffer(self._lit, smooth)
        self._scene.use()
        ctx.viewport = (0, 0, *self._size)

    def _resize(self, width: int, height: int) -> None:
        if self._size == (width, height):
            return
        release(self._scene, self._behind, self._smooth, self._lit)
        self._smooth = self._lit = None
        self._size, self._behind_look = (width, height), None
        self._scene = light_target(self.ctx, width, height, depth=True)
        self._behind = light_target(self.ctx, width, height, depth=True)
        self._glow.resize(width, height)

    def release(self) -> None:
        """Give back all that it holds on the GPU; its context must be current."""
        release(self._scene, self._behind, self._counts, self._smooth, self._lit)
        self._scene = self._behind = self._counts = self._smooth = self._lit = None
        self._size = (0, 0)
        self._particles.release()
        self._solids.release()
        self._glow.release()
        if self._own:
            self.store.release()
            self.programs.release()

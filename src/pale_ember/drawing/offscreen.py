"""Pictures without a window: the drawing path in a context of its own (EGL). The stage draws in one too."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..effect.chapters.look import Look
from ..effect.chapters.stage import Camera
from ..effect.errors import EffectError
from ..effect.kinds import Backdrop
from ..effect.values.colors import BYTE_LIGHT, to_linear, to_srgb
from ..textures.prepared import Prepared
from .environment import Environment, as_environment
from .filmstrip import MARGIN, Rows, draw_filmstrip
from .moment import Moment
from .passes.develop import Developing
from .passes.overdraw import Overdraw, overdraw_of, show_heat
from .programs import Programs
from .renderer import Renderer
from .targets import release
from .texture_store import TextureStore

LARGEST = 8192
# The middle grey that straight pictures are right over, as sRGB and as light.
_GREY = 0.5
_GREY_LIGHT = float(to_linear(_GREY))


class OffscreenRenderer:
    """A windowless context with a renderer for each use of it. Use it in one thread, as a context manager.

    Parameters
    ----------
    blue_first : bool
        Whether :meth:`pixels` and :meth:`film_pixels` give blue, green, red, as windows take them.
    """

    def __init__(self, blue_first: bool = False) -> None:
        try:
            self.ctx: Any = moderngl.create_context(standalone=True, require=330, backend="egl")  # type: ignore[arg-type]
        except Exception as wrong:
            hint = " Install Debian's libegl1 and libgl1-mesa-dri."
            raise EffectError(
                "", f"pictures can't be drawn here: no OpenGL 3.3 through EGL ({wrong}).{hint}"
            ) from None
        self._how = Developing(blue_first=blue_first, from_top=True)
        self._renderers: dict[str, Renderer] = {}
        # By use, what a picture without particles depends on, and it.
        self._bare: dict[str, tuple[tuple[Any, ...], Any, Any]] = {}
        self._targets: dict[str, Any] = {}
        self._pixels: dict[str, NDArray[np.uint8]] = {}
        with self.ctx:
            self._programs = Programs(self.ctx)
            self.store = TextureStore(self.ctx)
            renderer = self.ctx.info["GL_RENDERER"]
        # Mesa's renderers that need no graphics card.
        self.is_software = any(name in renderer for name in ("llvmpipe", "softpipe", "swrast"))

    def __enter__(self) -> OffscreenRenderer:
        return self

    def __exit__(self, *_: object) -> None:
        self.release()

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        with self.ctx:
            for renderer in self._renderers.values():
                renderer.release()
            release(*self._targets.values())
            for bare in self._bare.values():
                release(*bare[1:])
            self._renderers, self._targets, self._bare = {}, {}, {}
            self.store.release()
            self._programs.release()
        self.ctx.release()

    def _renderer(self, use: str) -> Renderer:
        """Return the renderer of a use: each keeps targets of its own size. The context must be current."""
        if use not in self._renderers:
            self._renderers[use] = Renderer(self.ctx, self._programs, self.store)
        return self._renderers[use]

    def _target(self, use: str, size: tuple[int, int], light: bool = False) -> Any:
        target = self._targets.get(use)
        if target is None or target.size != size:
            release(target)
            target = self._targets[use] = self.ctx.simple_framebuffer(
                size, components=4, dtype="f4" if light else "f1"
            )
            self._pixels[use] = np.empty((size[1], size[0], 4), np.float32 if light else np.uint8)
        return target

    def _read(self, use: str) -> NDArray[Any]:
        pixels = self._pixels[use]
        self._targets[use].read_into(
            pixels, components=4, alignment=1, dtype="f4" if pixels.dtype == np.float32 else "f1"
        )
        return pixels

    def light(
        self,
        moment: Moment,
        size: tuple[int, int],
        camera: Camera,
        environment: Environment,
        use: str = "light",
        only: str = "",
    ) -> NDArray[np.float32]:
        """Return a moment as linear light from the upper left, shape (height, width, 4), premultiplied; above
        1 where it is so bright.

        Parameters
        ----------
        only : str
            ``normals``: instead of its light, which way each point looks, right, up and towards the eye, as
            0…1.
        """
        _check_size(size)
        with self.ctx:
            target = self._target(use, size, light=True)
            how = self._how._replace(blue_first=False, plain=True)
            self._renderer(use).draw(
                target, size, moment, camera, environment, False, how, fine=True, only=only
            )
            return self._read(use)

    def pixels(
        self,
        moment: Moment,
        size: tuple[int, int],
        camera: Camera,
        environment: Environment | Backdrop | None,
        grid: bool = True,
        use: str = "",
        draft: bool = False,
        fine: bool = False,
        over: bool = False,
    ) -> NDArray[np.uint8]:
        """Return a moment as pixels from the upper left, shape (height, width, 4).

        Parameters
        ----------
        fine : bool
            Whether all edges are smoothed, those of ribbons too.
        over : bool
            Whether only what differs from the same picture without particles is written: premultiplied, clear
            elsewhere.
        environment : Environment, Backdrop or None
            None draws the effect on nothing: premultiplied, and clear where nothing is.
        use : str
            Names what it is for; pictures of one use should have one size, and the next one takes the place
            of the last, in the same memory.

        Raises
        ------
        EffectError
            If the size is not from 1 to 8192 pixels each way.
        """
        _check_size(size)
        with self.ctx:
            target = self._target(use, size)
            without = self._without(use, size, camera, environment, grid, draft) if over else None
            self._renderer(use).draw(
                target,
                size,
                moment,
                camera,
                environment,
                grid,
                self._how,
                draft,
                fine,
                without=without,
                still=over,
            )
            return self._read(use)

    def _without(
        self,
        use: str,
        size: tuple[int, int],
        camera: Camera,
        environment: Environment | Backdrop | None,
        grid: bool,
        draft: bool,
    ) -> Any:
        """Return a picture without particles, drawn once for all that look the same; the context must be
        current.
        """
        known = self._bare.get(use)
        looks = (size, camera, environment, grid, draft)
        if known is None or known[0] != looks:
            if known is None or known[0][0] != size:
                release(*(known[1:] if known else ()))
                texture = self.ctx.texture(size, 4)
                known = (looks, texture, self.ctx.framebuffer([texture]))
            self._renderer(use).draw(
                known[2], size, Moment(0.0, ()), camera, environment, grid, self._how, draft, still=True
            )
            self._bare[use] = (looks if self._renderer(use).complete else (size,), *known[1:])
        return self._bare[use][1]

    def complete(self, use: str) -> bool:
        """Return whether the last picture of a use had all that stands on the stage."""
        return use in self._renderers and self._renderers[use].complete

    @property
    def texture_memory(self) -> int:
        """Return the bytes that textures take on the graphics card."""
        return self.store.memory

    def draw_calls(self, use: str) -> int:
        """Return in how many calls the last picture of a use drew its particles."""
        renderer = self._renderers.get(use)
        return 0 if renderer is None else renderer.calls

    def overdraw(
        self,
        moment: Moment,
        size: tuple[int, int],
        camera: Camera,
        environment: Environment,
        selected: str = "",
    ) -> tuple[NDArray[np.uint8], Overdraw, Overdraw]:
        """Return the heat of layers over each pixel as pixels from the upper left, and the figures of all
        and of one layer.
        """
        with self.ctx:
            renderer, target = self._renderer("overdraw"), self._target("overdraw", size)
            one = Moment(moment.time, tuple(layer for layer in moment.layers if layer.id == selected))
            of_one = overdraw_of(renderer.count(size, one, camera, environment))
            counts = renderer.count(size, moment, camera, environment)
            of_all = overdraw_of(counts)
            target.use()
            self.ctx.viewport = (0, 0, *size)
            show_heat(self._programs, counts.color_attachments[0], self._how)
            return self._read("overdraw"), of_all, of_one

    def film_pixels(
        self,
        rows: Rows,
        camera: Camera,
        scale: float,
        size: tuple[int, int],
        look: Look,
        environment: Environment | Backdrop,
        margin: int = MARGIN,
        use: str = "film",
        wears: Mapping[str, Prepared] | None = None,
        draft: bool = False,
    ) -> NDArray[np.uint8]:
        """Return instances side by side as pixels from the upper left; see
        :func:`~.filmstrip.draw_filmstrip`.
        """
        whole = (size[0] * len(rows), size[1])
        with self.ctx:
            target = self._target(use, whole)
            draw_filmstrip(
                self._renderer(use),
                target,
                rows,
                camera,
                scale,
                size,
                look,
                environment,
                self._how,
                margin,
                wears,
                draft,
            )
            return self._read(use)

    def picture(
        self,
        moment: Moment,
        size: tuple[int, int],
        camera: Camera,
        environment: Environment | Backdrop | None,
        grid: bool = True,
    ) -> Image.Image:
        """Return a moment as an RGB image, or on nothing as an RGBA one; see :meth:`pixels`."""
        pixels = self.pixels(moment, size, camera, environment, grid)
        if environment is not None and as_environment(environment).backdrop is not None:
            return Image.fromarray(np.ascontiguousarray(pixels[:, :, :3]))
        return Image.fromarray(straight(pixels))

    def filmstrip(
        self,
        rows: Rows,
        camera: Camera,
        scale: float,
        size: tuple[int, int],
        look: Look,
        environment: Environment | Backdrop,
        wears: Mapping[str, Prepared] | None = None,
    ) -> Image.Image:
        """Return instances side by side as an RGB image."""
        return Image.fromarray(
            np.ascontiguousarray(
                self.film_pixels(rows, camera, scale, size, look, environment, wears=wears)[:, :, :3]
            )
        )


def _check_size(size: tuple[int, int]) -> None:
    if not all(1 <= side <= LARGEST for side in size):
        raise EffectError(
            "size", f"{size[0]}x{size[1]} can't be drawn; each side may have 1 to {LARGEST} pixels."
        )


def straight(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return premultiplied pixels as straight ones for those who put them over others by sRGB values, as most
    viewers do.

    No such blend is that of light everywhere. This one is right over black, and over a middle grey as near as
    one alpha for three colours comes.
    """
    levels = pixels[..., :3].astype(np.float32) / np.float32(255.0)
    light, clear = BYTE_LIGHT[pixels[..., :3]], 1.0 - pixels[..., 3:].astype(np.float32) / np.float32(255.0)
    # The picture over grey, and the grey that is left of it by each colour's own alpha.
    left = (to_srgb(np.minimum(light + _GREY_LIGHT * clear, 1.0)) - levels).mean(
        axis=-1, keepdims=True
    ) / _GREY
    cover = np.clip(np.maximum(1.0 - left, levels.max(axis=-1, keepdims=True)), 0.0, 1.0)
    color = np.divide(levels, cover, out=np.zeros_like(levels), where=cover > 1e-6)
    return np.rint(np.concatenate([np.minimum(color, 1.0), cover], axis=-1) * 255.0).astype(np.uint8)


def straight_light(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return premultiplied pixels as straight ones for those who put them over others in linear light, as
    games do.

    Light that covers nothing becomes as opaque as it is bright. (:func:`straight` is for those who reckon
    with sRGB values, as most viewers do.)
    """
    light, cover = BYTE_LIGHT[pixels[..., :3]], pixels[..., 3:].astype(np.float32) / np.float32(255.0)
    cover = np.maximum(cover, light.max(axis=-1, keepdims=True))
    color = np.divide(light, cover, out=np.zeros_like(light), where=cover > 0)
    return np.rint(np.concatenate([to_srgb(np.minimum(color, 1.0)), cover], axis=-1) * 255.0).astype(np.uint8)

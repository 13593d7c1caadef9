"""Pictures without a window: the drawing path in a context of its own (EGL). The stage draws in one too."""

from __future__ import annotations

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..effect.effect import Camera
from ..effect.errors import EffectError
from .filmstrip import Floats, draw_filmstrip
from .moment import Moment
from .quick import Quick
from .renderer import Programs, Renderer

LARGEST = 8192
Look = tuple[str, str]


class Studio:
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
            raise EffectError("", f"pictures can't be drawn here: no OpenGL 3.3 through EGL ({wrong}).{hint}") from None
        self.blue_first = blue_first
        self._renderers: dict[str, Renderer] = {}
        self._targets: dict[str, Any] = {}
        # Mesa's renderers that need no graphics card.
        with self.ctx:
            self._programs = Programs(self.ctx)
            renderer = self.ctx.info["GL_RENDERER"]
        self.is_software = any(name in renderer for name in ("llvmpipe", "softpipe", "swrast"))
        # Quick pictures are for windows, whose order of colours they have.
        self._quickens = self.is_software and blue_first
        self._quick: dict[str, Quick] = {}

    def __enter__(self) -> Studio:
        return self

    def __exit__(self, *_: object) -> None:
        self.release()

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        for quick in self._quick.values():
            quick.release()
        with self.ctx:
            for thing in (*self._renderers.values(), *self._targets.values()):
                thing.release()
            self._renderers, self._targets = {}, {}
            self._programs.release()
        self.ctx.release()

    def _renderer(self, use: str) -> Renderer:
        """Return the renderer of a use: each keeps targets of its own size."""
        if use not in self._renderers:
            with self.ctx:
                self._renderers[use] = Renderer(self.ctx, self._programs)
                self._renderers[use].blue_first = self.blue_first
        return self._renderers[use]

    def _target(self, use: str, size: tuple[int, int]) -> Any:
        target = self._targets.get(use)
        if target is None or target.size != size:
            if target is not None:
                target.release()
            target = self._targets[use] = self.ctx.simple_framebuffer(size, components=4)
        return target

    def pixels(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool = True, use: str = ""
    ) -> NDArray[np.uint8]:
        """Return a moment as pixels from the lower left, shape (height, width, 4).

        Parameters
        ----------
        use : str
            Names what it is for; pictures of one use should have one size.

        Raises
        ------
        EffectError
            If the size is not from 1 to 8192 pixels each way.
        """
        if not all(1 <= side <= LARGEST for side in size):
            raise EffectError("size", f"{size[0]}x{size[1]} can't be drawn; each side may have 1 to {LARGEST} pixels.")
        renderer = self._renderer(use)
        with self.ctx:
            target = self._target(use, size)
            renderer.draw(target, size, moment, camera, backdrop, grid)
            return _read(target, size)

    def quick_pixels(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool = True,
        use: str = "quick",
    ) -> NDArray[np.uint8]:  # fmt: skip
        """Return about what :meth:`pixels` does, as soon as can be: where OpenGL is software, mostly without it."""
        if self._quickens:
            found = self._quick_one(use).pixels(moment, size, camera, backdrop, grid)
            if found is not None:
                return found
        return self.pixels(moment, size, camera, backdrop, grid, use)

    def _quick_one(self, use: str) -> Quick:
        if use not in self._quick:
            self._quick[use] = Quick(self._renderer(use))
        return self._quick[use]

    def film_pixels(
        self, rows: Floats, camera: Camera, scale: float, size: tuple[int, int], look: Look, hasty: bool = False
    ) -> NDArray[np.uint8]:
        """Return instances side by side as pixels from the lower left; see :func:`~.filmstrip.draw_filmstrip`.

        Where OpenGL is software, hasty ones are drawn without it, and take their neighbours' glow.
        """
        whole = (size[0] * len(rows), size[1])
        if hasty and self._quickens:
            return self._quick_one("quick film").film_pixels(rows, camera, scale, size, look)
        renderer = self._renderer("film")
        with self.ctx:
            target = self._target("film", whole)
            draw_filmstrip(renderer, target, rows, camera, scale, size, look)
            return _read(target, whole)

    def picture(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool = True
    ) -> Image.Image:
        """Return a moment as an RGB image; see :meth:`pixels`."""
        return Image.fromarray(np.ascontiguousarray(self.pixels(moment, size, camera, backdrop, grid)[::-1, :, :3]))

    def filmstrip(
        self, rows: Floats, camera: Camera, scale: float, size: tuple[int, int], look: Look
    ) -> Image.Image:  # fmt: skip
        """Return instances side by side as an RGB image."""
        return Image.fromarray(np.ascontiguousarray(self.film_pixels(rows, camera, scale, size, look)[::-1, :, :3]))


def _read(target: Any, size: tuple[int, int]) -> NDArray[np.uint8]:
    data = np.frombuffer(target.read(components=4, alignment=1), np.uint8)
    return data.reshape(size[1], size[0], 4)

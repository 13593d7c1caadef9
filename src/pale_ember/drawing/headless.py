"""Pictures without a window: the same drawing path in a context of its own (EGL)."""

from __future__ import annotations

import os
from typing import Any

import moderngl
from PIL import Image

from ..effect.effect import Camera
from ..effect.errors import EffectError
from .filmstrip import Floats, draw_filmstrip
from .moment import Moment
from .renderer import Renderer

LARGEST = 8192


class Studio:
    """A windowless context with a renderer. Use it in one thread, as a context manager."""

    def __init__(self) -> None:
        try:
            self.ctx: Any = moderngl.create_context(standalone=True, require=330, backend="egl")  # type: ignore[arg-type]
        except Exception as wrong:
            display = os.environ.get("DISPLAY")
            hint = "" if display else " Install Debian's libegl1 and libgl1-mesa-dri."
            raise EffectError("", f"pictures can't be drawn here: no OpenGL 3.3 through EGL ({wrong}).{hint}") from None
        self.renderer = Renderer(self.ctx)

    def __enter__(self) -> Studio:
        return self

    def __exit__(self, *_: object) -> None:
        self.renderer.release()
        self.ctx.release()

    def picture(
        self, moment: Moment, size: tuple[int, int], camera: Camera, backdrop: str, grid: bool = True
    ) -> Image.Image:
        """Return a moment as an RGB image.

        Raises
        ------
        EffectError
            If the size is not from 1 to 8192 pixels each way.
        """
        if not all(1 <= side <= LARGEST for side in size):
            raise EffectError("size", f"{size[0]}x{size[1]} can't be drawn; each side may have 1 to {LARGEST} pixels.")
        target = self.ctx.simple_framebuffer(size, components=4)
        try:
            self.renderer.draw(target, size, moment, camera, backdrop, grid)
            data = target.read(components=3, alignment=1)
        finally:
            target.release()
        return Image.frombytes("RGB", size, data).transpose(Image.Transpose.FLIP_TOP_BOTTOM)

    def filmstrip(
        self, rows: Floats, camera: Camera, scale: float, size: tuple[int, int], look: tuple[str, str]
    ) -> Image.Image:
        """Return instances side by side as an RGB image; see :func:`~.filmstrip.draw_filmstrip`."""
        whole = (size[0] * len(rows), size[1])
        target = self.ctx.simple_framebuffer(whole, components=4)
        try:
            draw_filmstrip(self.renderer, target, rows, camera, scale, size, look)
            data = target.read(components=3, alignment=1)
        finally:
            target.release()
        return Image.frombytes("RGB", whole, data).transpose(Image.Transpose.FLIP_TOP_BOTTOM)

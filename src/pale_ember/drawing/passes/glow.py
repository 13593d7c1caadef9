"""Glow: the light that lenses and eyes spread."""

from __future__ import annotations

from typing import Any

import moderngl

from ..programs import Programs
from ..targets import light_target, release

# The first is a quarter of the picture's size, each further one half of the one before.
LEVELS = 4


class Glow:
    """Halves a picture of light several times, then adds back up."""

    def __init__(self, ctx: Any, programs: Programs) -> None:
        self.ctx, self.programs = ctx, programs
        self._levels: list[Any] = []
        # All levels together give as much light as there is.
        self.scale = 1.0 / LEVELS

    @property
    def texture(self) -> Any:
        """Return the spread light, a quarter of the picture's size; over :attr:`scale` times as much as there is."""
        return self._levels[0].color_attachments[0]

    def resize(self, width: int, height: int) -> None:
        """Take pictures of another size."""
        self.release()
        width, height = max(width // 2, 1), max(height // 2, 1)
        for _ in range(LEVELS):
            width, height = max(width // 2, 1), max(height // 2, 1)
            self._levels.append(light_target(self.ctx, width, height))

    def spread(self, scene: Any, reach: float) -> None:
        """Spread the light of a framebuffer; a reach of 0 keeps it close, at 1 most of it goes far."""
        weight = max(2.0 * reach, 1e-3)
        self.scale = 1.0 / sum(weight**i for i in range(LEVELS))
        ctx, source = self.ctx, scene
        for level in self._levels:
            # Soft reads between pixels: of two by two pixels each when halving, of four by four in all when quartering.
            self._pass("shrink", source, level, 1.0 if source is scene else 0.5)
            source = level
        ctx.enable(moderngl.BLEND)
        ctx.blend_func = moderngl.ONE, moderngl.ONE
        self.programs.screen("widen")["share"] = weight
        for finer, coarser in zip(self._levels[-2::-1], self._levels[:0:-1], strict=True):
            self._pass("widen", coarser, finer, 1.0)
        ctx.disable(moderngl.BLEND)

    def _pass(self, name: str, source: Any, target: Any, step: float) -> None:
        target.use()
        self.ctx.viewport = (0, 0, *target.size)
        texture, program = source.color_attachments[0], self.programs.screen(name)
        texture.use(0)
        program["source"] = 0
        program["texel"] = (step / texture.size[0], step / texture.size[1])
        self.programs.fill(name)

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        release(*self._levels)
        self._levels = []

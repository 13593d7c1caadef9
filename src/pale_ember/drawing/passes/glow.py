"""Glow: the light that lenses and eyes spread, over the same share of the picture at every size."""

from __future__ import annotations

import math
from typing import Any

import moderngl

from ..programs import Programs
from ..targets import light_target, release

# Of a picture of this height, in pixels, the light goes to so many levels: a quarter of its size, an eighth
# and so on.
HEIGHT, SPREADS = 540.0, 4
# A level with less than this share of what the coarser ones have is left to them: sums stay within half
# floats.
_LEAST = 0.02


def level_count(height: int) -> int:
    """Return how many levels a picture needs at most, each half as large as the one before."""
    return max(math.floor(SPREADS - 1 + math.log2(max(height, 1) / HEIGHT)) + 2, 1)


def shares(reach: float, height: float) -> tuple[list[float], float]:
    """Return how much of the light each level has, and how much is not spread at all; together 1.

    A picture of another size has the levels of the usual one somewhere between two of its own; what would be
    finer than the finest stays where it is.

    Parameters
    ----------
    reach : float
        0 keeps the light close, at 1 most of it goes far.
    height : float
        The picture's, pixels.
    """
    weight, shift = max(2.0 * reach, 1e-3), math.log2(max(height, 1.0) / HEIGHT)
    levels = [0.0] * level_count(math.ceil(height))
    unspread, whole = 0.0, sum(weight**i for i in range(SPREADS))
    for i in range(SPREADS):
        at = math.floor(i + shift)
        # So that the two together spread as wide: that goes by the squares of their sizes.
        part = (4.0 ** (i + shift - at) - 1.0) / 3.0
        for level, share in ((at, weight**i * (1.0 - part) / whole), (at + 1, weight**i * part / whole)):
            if level < 0:
                unspread += share
            elif share > 0.0:
                levels[level] += share
    beyond, nearest = 0.0, 0
    for i in range(len(levels) - 1, -1, -1):
        share = levels[i]
        if 0.0 < share < _LEAST * beyond:
            levels[i], levels[nearest] = 0.0, levels[nearest] + share
        elif share > 0.0:
            nearest = i
        beyond += share
    return levels, unspread


class Glow:
    """Halves a picture of light several times, then adds back up.

    Attributes
    ----------
    scale : float
        The texture times this is as much light as was spread.
    spread_share : float
        How much of the light that glows was spread; the rest stays where it is.
    """

    def __init__(self, ctx: Any, programs: Programs) -> None:
        self.ctx, self.programs = ctx, programs
        self._levels: list[Any] = []
        self.scale = self.spread_share = 1.0

    @property
    def texture(self) -> Any:
        """Return the spread light, a quarter of the picture's size."""
        return self._levels[0].color_attachments[0]

    def resize(self, width: int, height: int) -> None:
        """Take pictures of another size."""
        self.release()
        count = level_count(height)
        width, height = max(width // 2, 1), max(height // 2, 1)
        for _ in range(count):
            width, height = max(width // 2, 1), max(height // 2, 1)
            self._levels.append(light_target(self.ctx, width, height))

    def spread(self, scene: Any, reach: float, height: int) -> None:
        """Spread the light of a framebuffer that holds pictures of a height, pixels."""
        parts, unspread = shares(reach, float(height))
        self.spread_share = 1.0 - unspread
        ctx, source = self.ctx, scene
        used = max((i for i, part in enumerate(parts) if part > 0.0), default=0)
        for level in self._levels[: used + 1]:
            # Soft reads between pixels: of two by two pixels each when halving, of four by four in all when
            # quartering.
            self._pass("shrink", source, level, 1.0 if source is scene else 0.5)
            source = level
        ctx.blend_func = moderngl.ONE, moderngl.ONE
        ahead = parts[used]
        for i in range(used - 1, -1, -1):
            # Where a level has no light of its own, the coarser ones take its place.
            own = parts[i] > 0.0
            self.programs.screen("widen")["share"] = ahead / parts[i] if own else 1.0
            (ctx.enable if own else ctx.disable)(moderngl.BLEND)
            self._pass("widen", self._levels[i + 1], self._levels[i], 1.0)
            ahead = parts[i] if own else ahead
        ctx.disable(moderngl.BLEND)
        self.scale = ahead / self.spread_share if self.spread_share > 0.0 else 0.0

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

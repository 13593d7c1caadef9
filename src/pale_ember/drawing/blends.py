"""How particles are put over what is behind them: one row for each blend."""

from __future__ import annotations

from typing import NamedTuple

import moderngl

from ..effect.kinds import Blend


class BlendRow(NamedTuple):
    """What OpenGL does with a particle's premultiplied light and with what is behind.

    ``functions`` are those for the light and, behind them, for the cover; ``cover`` is how much of its
    opacity hides what is behind; ``any_order`` whether the order makes no difference; ``solid`` whether it
    hides by its depth.
    """

    functions: tuple[int, ...]
    cover: float = 1.0
    any_order: bool = False
    solid: bool = False


_OVER = (moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA)

BLENDS: dict[Blend, BlendRow] = {
    Blend.ALPHA: BlendRow(_OVER),
    Blend.ADD: BlendRow(_OVER, cover=0.0, any_order=True),
    Blend.MIX: BlendRow(_OVER),
    Blend.MULTIPLY: BlendRow((moderngl.ZERO, moderngl.SRC_COLOR, *_OVER), any_order=True),
    Blend.CUTOUT: BlendRow((moderngl.ONE, moderngl.ZERO), any_order=True, solid=True),
}

"""How particles are put over what is behind them: one row for each blend."""

from __future__ import annotations

from typing import NamedTuple

import moderngl

from ..effect.kinds import Blend


class BlendRow(NamedTuple):
    """What OpenGL does with a particle's premultiplied light and with what is behind.

    ``cover`` is how much of its opacity hides what is behind; ``any_order`` whether the order makes no difference.
    """

    source: int
    target: int
    cover: float
    any_order: bool


BLENDS: dict[Blend, BlendRow] = {
    Blend.ALPHA: BlendRow(moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA, 1.0, False),
    Blend.ADD: BlendRow(moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA, 0.0, True),
}

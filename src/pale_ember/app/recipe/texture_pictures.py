"""Small pictures of textures, on ash."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...effect.kinds import Channel
from ...effect.values.colors import to_linear, to_srgb
from ...textures.prepared import Prepared

_ASH = 0.018


def channel_image(ready: Prepared, channel: Channel, side: int) -> NDArray[np.uint8]:
    """Return the middle frame of a texture, or of one of its channels, as RGBA of a size."""
    frame = ready.pixels[ready.frames // 2]
    high, wide = frame.shape[:2]
    at = lambda long: np.minimum((np.arange(side) + 0.5) * long / side, long - 1).astype(int)  # noqa: E731
    small = frame[at(high)][:, at(wide)].astype(np.float64) / (255.0 if frame.dtype == np.uint8 else 1.0)  # type: ignore[no-untyped-call]
    if channel == Channel.ALL:
        cover = small[..., 3:]
        light = (
            small[..., :3] * cover
            if ready.data
            else to_linear(small[..., :3])
            if ready.is_coded
            else small[..., :3]
        )
        shown = to_srgb(np.clip(light + _ASH * (1.0 - cover), 0.0, 1.0))
    else:
        one = small[..., list(Channel).index(channel) - 1]
        if not ready.data and not ready.is_coded and channel != Channel.ALPHA:
            one = to_srgb(np.clip(one, 0.0, 1.0))
        shown = np.repeat(np.clip(one, 0.0, 1.0)[..., None], 3, axis=2)
    out = np.full((side, side, 4), 255, np.uint8)
    out[..., :3] = np.rint(shown * 255.0)
    return out

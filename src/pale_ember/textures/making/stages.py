"""What a build looks like after each of its steps, small: the pictures of its lanes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ...effect.steps import Finisher
from ...effect.steps.finishers import Normals, Pack
from ...effect.textures import Texture
from ...effect.values.colors import to_srgb
from .build import Making, flows_of, frame_of, pixels_of
from .canvas import Canvas

ASH = 0.018


def after_each(
    texture: Texture, side: int, share: float, how: Making, stopped: Callable[[], bool] = lambda: False
) -> list[NDArray[np.uint8]] | None:
    """Return a picture of a build after each of its steps, (side, side, 3) sRGB on ash; None if it was given
    up.

    Parameters
    ----------
    share : float
        Which frame of those that are made, 0…1.
    """
    assert texture.build is not None
    small = texture.model_copy(update={"build": texture.build.model_copy(update={"size": side})})
    build, frame = small.build, round(share * (small.made - 1))
    assert build is not None
    found: list[NDArray[np.uint8]] = []
    flows = flows_of(small, how)
    if flows is None:
        return None
    for i, step in enumerate(build.steps):
        if stopped():
            return None
        active = tuple(one for one in build.steps[: i + 1] if one.on)
        canvas = frame_of(small, active, frame, flows, how)
        if not step.on or not isinstance(step, Finisher):
            found.append(_shown(canvas, texture.data))
        elif isinstance(step, Pack):
            found.append(
                _grey(
                    canvas.packed[
                        step.channel if step.channel in canvas.packed else next(iter(canvas.packed))
                    ]
                )
            )
        elif isinstance(step, Normals) and canvas.normals is not None:
            found.append(np.rint((canvas.normals * 0.5 + 0.5) * 255.0).astype(np.uint8))
        else:
            found.append(_shown(canvas, texture.data))
    return found


def _shown(canvas: Canvas, data: bool) -> NDArray[np.uint8]:
    """Return what a step has made so far, over grey, as it is shown."""
    if not canvas.packed or not canvas.begins:
        # What a channel was packed from is put away; the steps behind it begin anew.
        canvas.packed = {}
    pixels = pixels_of(canvas, data)
    cover = pixels[..., 3:]
    light = (
        pixels[..., :3]
        if canvas.premultiplied
        else pixels[..., :3] * (1.0 if data and canvas.packed else cover)
    )
    return np.rint(to_srgb(np.clip(light + ASH * (1.0 - cover), 0.0, 1.0)) * 255.0).astype(np.uint8)


def _grey(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    return np.repeat(np.rint(np.clip(light, 0.0, 1.0) * 255.0).astype(np.uint8)[..., None], 3, axis=2)

"""A build to pictures, frame by frame."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...effect.build_steps import Changer, Flow, Maker, Step
from ...effect.kinds import Channel, StepBlend
from ...effect.textures import Texture
from ..pictures import Pictures
from .canvas import Canvas, Floats
from .changers import CHANGERS, WHOLE
from .flow import Frame, flow_frames
from .makers import MAKERS

Told = Callable[[float], bool]

BLENDS: dict[StepBlend, Callable[[Floats, Floats], Floats]] = {
    StepBlend.REPLACE: lambda old, new: new,
    StepBlend.ADD: lambda old, new: np.minimum(old + new, 1.0),
    StepBlend.SUBTRACT: lambda old, new: np.maximum(old - new, 0.0),
    StepBlend.MULTIPLY: lambda old, new: old * new,
    StepBlend.MOST: np.maximum,
    StepBlend.LEAST: np.minimum,
}


def make(texture: Texture, told: Told = lambda share: False) -> Pictures | None:
    """Return the pictures of a texture's build.

    Parameters
    ----------
    texture : Texture
        One that has a build.
    told : callable
        Told the share that is done; once it returns true the making is given up.

    Returns
    -------
    Pictures or None
        None if it was given up.
    """
    build, frames = texture.build, texture.count
    assert build is not None
    flows: dict[int, list[Frame]] = {}
    moving = [i for i, step in enumerate(build.steps) if isinstance(step, Flow)]
    for place, i in enumerate(moving):
        step = build.steps[i]
        assert isinstance(step, Flow)
        given_up = False

        def flowing(done: int, place: int = place) -> bool:
            nonlocal given_up
            given_up = told((place + done / frames) / (len(moving) + 0.3))
            return given_up

        flows[i] = flow_frames(step, build.size, frames, build.seed, flowing)
        if given_up:
            return None
    colors, normals, motion = [], [], []
    for frame in range(frames):
        canvas = _frame(build.steps, flows, Canvas(build.size, frame, frames, build.seed, np.zeros((build.size,) * 2, np.float32)))
        colors.append(_pixels(canvas, texture.data))
        normals.append(canvas.normals)
        motion.append(canvas.motion)
        if told((len(moving) + 0.3 * (frame + 1) / frames) / (len(moving) + 0.3)):
            return None
    return Pictures(
        np.stack(colors),
        np.stack(normals) if all(one is not None for one in normals) else None,  # type: ignore[arg-type]
        np.stack(motion) if frames > 1 and all(one is not None for one in motion) else None,  # type: ignore[arg-type]
    )


def _frame(steps: tuple[Step, ...], flows: dict[int, list[Frame]], canvas: Canvas) -> Canvas:
    for i, step in enumerate(steps):
        if isinstance(step, Maker):
            new = _flowed(step, canvas, flows[i]) if isinstance(step, Flow) else MAKERS[type(step)](step, canvas)
            share = np.float32(canvas.number(step.strength))
            put = BLENDS[step.blend](canvas.light, new)
            canvas.light = (canvas.light + (put - canvas.light) * share).astype(np.float32)
        elif isinstance(step, Changer):
            new = CHANGERS[type(step)](step, canvas)
            share = np.float32(1.0 if type(step) in WHOLE else canvas.number(step.strength))
            canvas.light = (canvas.light + (new - canvas.light) * share).astype(np.float32)
    return canvas


def _flowed(step: Flow, canvas: Canvas, frames: list[Frame]) -> Floats:
    frame = frames[canvas.frame]
    canvas.heat = frame.heat
    each = np.float32(step.seconds / max(canvas.frames, 1))
    canvas.motion = np.stack([frame.u, -frame.v], axis=2) * each
    return frame.smoke


def _pixels(canvas: Canvas, data: bool) -> Floats:
    """Return red, green, blue, alpha, linear; plain data without channels or colours has its light in all of them."""
    out = np.empty((canvas.size, canvas.size, 4), np.float32)
    if canvas.packed:
        for i, channel in enumerate((Channel.RED, Channel.GREEN, Channel.BLUE, Channel.ALPHA)):
            # What no step packs: the light at the end if it is alpha, nothing if it is another.
            rest = (canvas.light if np.any(canvas.light) else np.float32(1.0)) if i == 3 else np.float32(0.0)
            out[:, :, i] = canvas.packed.get(channel, rest)
        return out
    plain = canvas.light[:, :, None] if data else np.float32(1.0)
    out[:, :, :3] = plain if canvas.color is None else canvas.color
    out[:, :, 3] = canvas.light
    return out

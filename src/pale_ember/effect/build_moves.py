"""Builds made of others: masks packed into channels and taken out again, files turned into builds, sizes halved."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Mapping
from typing import Any

from .errors import EffectError
from .kinds import Channel, Cover, StepBlend
from .steps import STEPS, Finisher, Flow, Pack, Picture, Step, Unpremultiply
from .storage import part_data
from .textures import MOST_FRAMES, MOST_STEPS, Build, Texture

CHANNELS: tuple[Channel, ...] = (Channel.RED, Channel.GREEN, Channel.BLUE, Channel.ALPHA)
SMALLEST, LARGEST = 4, 1024


@dataclasses.dataclass(frozen=True)
class MaskSource:
    """Where a mask comes from: a texture, and which of its channels (all of it is how much it covers)."""

    texture: Texture
    channel: Channel = Channel.ALL


def mask_steps(source: MaskSource) -> tuple[Step, ...]:
    """Return the steps that make a mask."""
    texture, channel = source.texture, source.channel
    if texture.file or texture.build is None:
        wanted = Channel.ALPHA if channel == Channel.ALL and not texture.data else Channel.RED if channel == Channel.ALL else channel
        return (_picture(texture, wanted),) if texture.file else ()
    steps, begin = texture.build.steps, 0
    whole: tuple[Step, ...] | None = None
    for i, step in enumerate(steps):
        if isinstance(step, Pack) and step.on:
            if step.channel in (channel, Channel.ALL) or (channel == Channel.ALL and whole is None):
                whole = steps[begin:i]
            begin = i + 1
    return tuple(step for step in (steps[begin:] if whole is None else whole) if not isinstance(step, Finisher))


def _picture(texture: Texture, channel: Channel) -> Picture:
    return Picture(
        files=(texture.file,), channel=channel, columns=texture.columns, rows=texture.rows, count=texture.frames,
        margin=texture.margin, gap=texture.gap, plain=texture.data, blend=StepBlend.REPLACE,
    )  # fmt: skip


def packed(name: str, sources: Mapping[Channel, MaskSource], size: int = 0) -> Texture:
    """Return a texture that has a mask in each of some channels.

    Parameters
    ----------
    size : int
        Pixels of a frame each way; by default those of the largest build among them.

    Raises
    ------
    EffectError
        If there is nothing to pack, or too much of it.
    """
    steps: list[Step] = []
    for channel in CHANNELS:
        if channel in sources:
            steps += [*mask_steps(sources[channel]), Pack(channel=channel)]
    if not steps:
        raise EffectError("build.steps", "there is nothing to pack; choose a mask for one of the channels.")
    if len(steps) > MOST_STEPS:
        raise EffectError("build.steps", f"together these have {len(steps)} steps; a build has at most {MOST_STEPS}.")
    builds = [one.texture.build for one in sources.values() if one.texture.build is not None and not one.texture.file]
    frames = max((one.texture.count for one in sources.values()), default=1)
    return Texture(
        name=name, data=True, frames=min(frames, MOST_FRAMES) if frames > 1 else 0,
        build=Build(size=size or max((one.size for one in builds), default=256), seed=builds[0].seed if builds else 0, steps=tuple(steps)),
    )  # fmt: skip


def seeds_differ(sources: Iterable[MaskSource]) -> bool:
    """Return whether masks come from builds of different seeds: in one build some then look otherwise."""
    return len({one.texture.build.seed for one in sources if one.texture.build is not None and not one.texture.file}) > 1


def unpacked(texture: Texture) -> tuple[Texture, ...]:
    """Return a texture of its own for each channel that a texture has a mask in."""
    if texture.file:
        channels = CHANNELS
    else:
        steps = () if texture.build is None else texture.build.steps
        some = {step.channel for step in steps if isinstance(step, Pack) and step.on}
        channels = CHANNELS if Channel.ALL in some else tuple(channel for channel in CHANNELS if channel in some)
    build = texture.build if texture.build is not None and not texture.file else Build(size=256)
    return tuple(
        Texture(
            name=f"{texture.name} {channel}", data=True, frames=texture.frames if not texture.file else (texture.count if texture.count > 1 else 0),
            build=build.model_copy(update={"steps": mask_steps(MaskSource(texture, channel))}),
        )
        for channel in channels
    )  # fmt: skip


def as_build(texture: Texture, frame: tuple[int, int]) -> Texture:
    """Return a file's texture as a build whose first step brings the file in.

    Parameters
    ----------
    frame : (int, int)
        Width and height of a frame, pixels.
    """
    steps: tuple[Step, ...] = (_picture(texture, Channel.ALL),)
    if texture.cover == Cover.PREMULTIPLIED and not texture.data:
        steps = (*steps, Unpremultiply())
    build = Build(size=power_below(max(*frame) * 2 - 1), steps=steps)
    count = texture.count
    update = {"file": "", "build": build, "columns": 1, "rows": 1, "margin": 0, "gap": 0, "frames": count if count > 1 else 0, "cover": Cover.STRAIGHT}
    return texture.model_copy(update=update)


def power_below(size: int) -> int:
    """Return the largest power of two that is no larger, within what a build may have."""
    return min(max(1 << max(size.bit_length() - 1, 0), SMALLEST), LARGEST)


def halved(size: int) -> int:
    """Return the next smaller power of two."""
    return max(power_below(size - 1), SMALLEST)


def comes_round(texture: Texture) -> bool:
    """Return whether a build's last frame leads to its first."""
    steps = texture.build.steps if texture.build is not None and not texture.file else ()
    return any(isinstance(step, Flow) and step.loop for step in steps)


# Steps on the clipboard

FORMAT = "pale-ember/steps"


def steps_data(steps: Iterable[Step]) -> dict[str, Any]:
    """Return steps as plain data, as the file has them."""
    return {"format": FORMAT, "steps": [part_data(step) for step in steps]}


def read_steps(data: Any) -> tuple[Step, ...]:
    """Return the steps that :func:`steps_data` gave.

    Raises
    ------
    EffectError
        If it is something else, or something in it is wrong.
    """
    if not isinstance(data, dict) or data.get("format") != FORMAT or not isinstance(data.get("steps"), list):
        raise EffectError("clipboard", "there are no steps on the clipboard; copy some with Ctrl+C on the bench.")
    from .edit import edit
    from .effect import Effect

    # Read as the file would be, so that every refusal says the same.
    whole = edit(Effect(textures=(Texture(name="steps", build=Build()),)), "textures[0].build.steps", data["steps"])
    build = whole.textures[0].build
    assert build is not None
    return build.steps


def named(step: Step) -> str:
    """Return what a step is called."""
    return step.step.capitalize()


def new_step(kind: str) -> Step:
    """Return a step of a kind as it begins."""
    return STEPS[kind]()

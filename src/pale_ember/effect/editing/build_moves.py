"""Builds made of others: masks packed into channels and taken out again, files turned into builds, sizes
halved.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Mapping
from typing import Any

from ..errors import EffectError
from ..kinds import Channel, CoverOfFile, PictureFit, StepBlend
from ..steps import STEPS, Finisher, Step
from ..steps.changers import Mask
from ..steps.finishers import Pack, Unpremultiply
from ..steps.flow import Flow
from ..steps.pictures import Picture
from ..storing.storage import part_data
from ..textures import MOST_FRAMES, MOST_STEPS, Build, Texture
from ..values.values import Fixed

CHANNELS: tuple[Channel, ...] = (Channel.RED, Channel.GREEN, Channel.BLUE, Channel.ALPHA)
SMALLEST, LARGEST = 4, 1024


@dataclasses.dataclass(frozen=True)
class MaskSource:
    """Where a mask comes from: a texture, and which of its channels (all of it is how much it covers)."""

    texture: Texture
    channel: Channel = Channel.ALL


def mask_steps(source: MaskSource, into: Channel, free: Iterable[Channel] = CHANNELS) -> tuple[Step, ...]:
    """Return the steps that make a mask and pack it.

    Parameters
    ----------
    into : Channel
        Which channel it goes into; all for each of them.
    free : iterable of Channel
        Channels, ``into`` among them, that may be used for masks that this one is multiplied by: they are
        overwritten.

    Raises
    ------
    EffectError
        If it is multiplied by more masks than channels are free.
    """
    texture, channel = source.texture, source.channel
    if texture.file or texture.build is None:
        wanted = (
            Channel.ALPHA
            if channel == Channel.ALL and not texture.data
            else Channel.RED
            if channel == Channel.ALL
            else channel
        )
        return (_picture(texture, wanted), Pack(channel=into)) if texture.file else ()
    segments = _segments(texture.build.steps)
    chosen = _chosen(segments, channel)
    needed = _needed(segments, chosen)
    names = _named(
        segments,
        needed[:-1],
        [into, *(one for one in free if one != into)] if into != Channel.ALL else list(free),
    )
    found: list[Step] = []
    for i in needed:
        steps, pack = segments[i]
        found += [
            step.model_copy(update={"channel": names.get(step.channel, step.channel)})
            if isinstance(step, Mask)
            else step
            for step in steps
        ]
        name = into if i == chosen else names[_first(pack, names)]
        found.append(Pack(channel=name) if pack is None else pack.model_copy(update={"channel": name}))
    return tuple(found)


Segment = tuple[tuple[Step, ...], Pack | None]


def _segments(steps: tuple[Step, ...]) -> list[Segment]:
    """Return the steps of each active pack, and the pack; at last the steps behind all packs."""
    found: list[Segment] = []
    begin = 0
    for i, step in enumerate(steps):
        if isinstance(step, Pack) and step.on:
            found.append((_lights(steps[begin:i]), step))
            begin = i + 1
    return [*found, (_lights(steps[begin:]), None)]


def _lights(steps: tuple[Step, ...]) -> tuple[Step, ...]:
    return tuple(step for step in steps if not isinstance(step, Finisher))


def _read(segments: list[Segment], some: Iterable[int]) -> set[Channel]:
    """Return the channels that some segments are multiplied by."""
    return {step.channel for i in some for step in segments[i][0] if isinstance(step, Mask) and step.on}


def _chosen(segments: list[Segment], channel: Channel) -> int:
    """Return the segment that a channel holds in the end; for all, one that is packed into all, or else
    the first.
    """
    whole = [i for i, (_, pack) in enumerate(segments) if pack is not None and pack.channel == Channel.ALL]
    if channel == Channel.ALL:
        return whole[-1] if whole else 0
    found = [
        i
        for i, (_, pack) in enumerate(segments)
        if pack is not None and pack.channel in (channel, Channel.ALL)
    ]
    return found[-1] if found else len(segments) - 1


def _first(pack: Pack | None, names: Mapping[Channel, Channel]) -> Channel:
    """Return the channel that a pack is read by."""
    assert pack is not None
    return next(one for one in CHANNELS if one in names and pack.channel in (one, Channel.ALL))


def _named(segments: list[Segment], some: list[int], spare: list[Channel]) -> dict[Channel, Channel]:
    """Return which spare channel stands for each that other masks are multiplied by, out of those that
    some segments pack.
    """
    read = _read(segments, range(len(segments)))
    names: dict[Channel, Channel] = {}
    for i in some:
        pack = segments[i][1]
        assert pack is not None
        wanted = [one for one in CHANNELS if one in read and pack.channel in (one, Channel.ALL)]
        if any(one not in names for one in wanted):
            if not spare or any(one in names for one in wanted):
                raise EffectError(
                    "build.steps",
                    "this mask is multiplied by more others than channels are left; pack it first.",
                )
            name = spare.pop(0)
            names |= dict.fromkeys(wanted, name)
    return names


def _needed(segments: list[Segment], chosen: int) -> list[int]:
    """Return the segments that a segment is made of, in their order: itself, and those whose masks it is
    multiplied by.
    """
    found = {chosen}
    waiting = [chosen]
    while waiting:
        at = waiting.pop()
        for channel in _read(segments, [at]):
            before = [
                i
                for i in range(at)
                if (pack := segments[i][1]) is not None and pack.channel in (channel, Channel.ALL)
            ]
            if before and before[-1] not in found:
                found.add(before[-1])
                waiting.append(before[-1])
    return sorted(found)


def _picture(texture: Texture, channel: Channel) -> Picture:
    """Return a step that brings in a texture's file."""
    return Picture(
        files=(texture.file,),
        channel=channel,
        columns=texture.columns,
        rows=texture.rows,
        count=texture.frames,
        margin=texture.margin,
        gap=texture.gap,
        plain=texture.data,
        layer=texture.layer,
        blend=StepBlend.REPLACE,
    )


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
    # Those that need channels for what they are multiplied by come first: later nothing may be written over.
    helped = {
        channel: sum(isinstance(step, Pack) for step in mask_steps(source, channel)) > 1
        for channel, source in sources.items()
    }
    for channel in sorted(sources, key=lambda one: (not helped[one], CHANNELS.index(one))):
        done = {step.channel for step in steps if isinstance(step, Pack)}
        steps += mask_steps(sources[channel], channel, [one for one in CHANNELS if one not in done])
    if not steps:
        raise EffectError("build.steps", "there is nothing to pack; choose a mask for one of the channels.")
    if len(steps) > MOST_STEPS:
        raise EffectError(
            "build.steps", f"together these have {len(steps)} steps; a build has at most {MOST_STEPS}."
        )
    builds = [
        one.texture.build
        for one in sources.values()
        if one.texture.build is not None and not one.texture.file
    ]
    frames = max((one.texture.count for one in sources.values()), default=1)
    return Texture(
        name=name,
        data=True,
        frames=min(frames, MOST_FRAMES) if frames > 1 else 0,
        build=Build(
            size=size or max((one.size for one in builds), default=256),
            seed=builds[0].seed if builds else 0,
            steps=tuple(steps),
        ),
    )


def seeds_differ(sources: Iterable[MaskSource]) -> bool:
    """Return whether masks come from builds of different seeds: in one build some then look otherwise."""
    return (
        len(
            {
                one.texture.build.seed
                for one in sources
                if one.texture.build is not None and not one.texture.file
            }
        )
        > 1
    )


def unpacked(texture: Texture) -> tuple[Texture, ...]:
    """Return a texture of its own for each channel that a texture has a mask in."""
    if texture.file:
        channels = CHANNELS
    else:
        steps = () if texture.build is None else texture.build.steps
        some = {step.channel for step in steps if isinstance(step, Pack) and step.on}
        channels = (
            CHANNELS if Channel.ALL in some else tuple(channel for channel in CHANNELS if channel in some)
        )
    build = texture.build if texture.build is not None and not texture.file else Build(size=256)
    return tuple(
        Texture(
            name=f"{texture.name} {channel}",
            data=True,
            frames=texture.frames if not texture.file else (texture.count if texture.count > 1 else 0),
            build=build.model_copy(
                update={"steps": _bare(mask_steps(MaskSource(texture, channel), Channel.ALL))}
            ),
        )
        for channel in channels
    )


def _bare(steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """Return steps without their last pack, where they are the same without it."""
    packs = [step for step in steps if isinstance(step, Pack)]
    return steps[:-1] if len(packs) == 1 and packs[0].strength == Fixed(1.0) else steps


def as_build(texture: Texture, frame: tuple[int, int]) -> Texture:
    """Return a file's texture as a build whose first step brings the file in.

    Parameters
    ----------
    frame : (int, int)
        Width and height of a frame, pixels.
    """
    # Sprites show the whole of a frame, whatever its sides.
    steps: tuple[Step, ...] = (_picture(texture, Channel.ALL).model_copy(update={"fit": PictureFit.STRETCH}),)
    if texture.cover != CoverOfFile.STRAIGHT and not texture.data:
        steps = (*steps, Unpremultiply(srgb=texture.cover == CoverOfFile.PREMULTIPLIED_SRGB))
    build = Build(size=power_below(max(*frame) * 2 - 1), steps=steps)
    count = texture.count
    update = {
        "file": "",
        "layer": "",
        "build": build,
        "columns": 1,
        "rows": 1,
        "margin": 0,
        "gap": 0,
        "frames": count if count > 1 else 0,
        "cover": CoverOfFile.STRAIGHT,
    }
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
        raise EffectError(
            "clipboard", "there are no steps on the clipboard; copy some with Ctrl+C on the bench."
        )
    from ..effect import Effect

    # Read as the file would be, so that every refusal says the same.
    whole = Effect(textures=(Texture(name="steps", build=Build()),)).edit(
        "textures[0].build.steps", data["steps"]
    )
    build = whole.textures[0].build
    assert build is not None
    return build.steps


def named(step: Step) -> str:
    """Return what a step is called."""
    return step.step.capitalize()


def new_step(kind: str) -> Step:
    """Return a step of a kind as it begins."""
    return STEPS[kind]()

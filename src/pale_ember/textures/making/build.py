"""A build to pictures, frame by frame."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field

import numpy as np

from ...effect.kinds import Channel, StepBlend
from ...effect.steps import Changer, Finisher, Maker, Step
from ...effect.steps.flow import Flow
from ...effect.steps.pictures import Picture
from ...effect.textures import Texture
from ..pictures import Pictures
from .bringing import Files, brought
from .canvas import Canvas, Floats, sampled
from .changers import CHANGERS
from .finishers import FINISHERS
from .flow import Frame, flow_frames
from .makers import MAKERS
from .memory import BuildMemory
from .movers import MOVERS
from .trimming import trimmed

Progress = Callable[[float], bool]
# What all steps but flows take of the whole, beside a flow.
_REST = 0.3

BLENDS: dict[StepBlend, Callable[[Floats, Floats], Floats]] = {
    StepBlend.REPLACE: lambda old, new: new,
    StepBlend.ADD: lambda old, new: np.minimum(old + new, 1.0),
    StepBlend.SUBTRACT: lambda old, new: np.maximum(old - new, 0.0),
    StepBlend.MULTIPLY: lambda old, new: old * new,
    StepBlend.MOST: np.maximum,
    StepBlend.LEAST: np.minimum,
}


@dataclass(frozen=True)
class Making:
    """What making a build needs beside it.

    Attributes
    ----------
    told : callable
        Told the share that is done; once it returns true the making is given up.
    files : mapping
        The pictures that its steps bring in, by path; what isn't there is clear.
    states : hashable
        What the files' contents are known by; others, and they are brought in anew.
    memory : BuildMemory or None
        Holds what was made before, so that only what changed is made anew.
    """

    progress: Progress = lambda share: False
    files: Files = field(default_factory=dict)
    states: Hashable = ()
    memory: BuildMemory | None = None


def make(
    texture: Texture, progress: Progress = lambda share: False, how: Making | None = None
) -> Pictures | None:
    """Return the pictures of a texture's build: the frames that stay on its sheet, in their order.

    Parameters
    ----------
    texture : Texture
        One that has a build.
    progress : callable
        See :class:`Making`; one in ``how`` goes before it.

    Returns
    -------
    Pictures or None
        None if it was given up.
    """
    how = how or Making(progress)
    build, frames = texture.build, texture.made
    assert build is not None
    active = tuple(step for step in build.steps if step.on)
    flows = flows_of(texture, how)
    if flows is None:
        return None
    kept = build.kept(frames)
    canvases: dict[int, Canvas] = {}
    for done, frame in enumerate(dict.fromkeys(kept)):
        canvases[frame] = frame_of(texture, active, frame, flows, how)
        if how.progress((len(flows) + _REST * (done + 1) / len(kept)) / (len(flows) + _REST)):
            return None
    return _gathered(texture, [canvases[frame] for frame in kept])


def flows_of(texture: Texture, how: Making) -> dict[Step, list[Frame]] | None:
    """Return the frames of each flow among a build's steps; None if the making was given up."""
    assert texture.build is not None
    flowing = [step for step in texture.build.steps if isinstance(step, Flow) and step.on]
    found: dict[Step, list[Frame]] = {}
    for place, step in enumerate(flowing):

        def progress(done: int, place: int = place) -> bool:
            return how.progress((place + done / texture.made) / (len(flowing) + _REST))

        frames = _flow(step, texture, how, progress)
        if frames is None:
            return None
        found[step] = frames
    return found


def _flow(step: Flow, texture: Texture, how: Making, progress: Callable[[int], bool]) -> list[Frame] | None:
    """Return a flow's frames, those that were made before if nothing that they depend on has changed."""
    assert texture.build is not None
    plain = step.model_copy(update={name: Flow.default_of(name) for name in ("strength", "blend", "on")})
    key = (plain, texture.build.size, texture.made, texture.build.seed)
    found = None if how.memory is None else how.memory.flow(key)
    if found is not None:
        return found
    given_up = False

    def stopped(done: int) -> bool:
        nonlocal given_up
        given_up = given_up or progress(done)
        return given_up

    done = 0

    def counted(now: int) -> bool:
        nonlocal done
        done = now
        return stopped(now)

    found = flow_frames(
        step, texture.build.size, texture.made, texture.build.seed, counted, lambda: stopped(done)
    )
    if given_up:
        return None
    if how.memory is not None:
        how.memory.keep_flow(key, found)
    return found


def frame_of(
    texture: Texture, active: tuple[Step, ...], frame: int, flows: dict[Step, list[Frame]], how: Making
) -> Canvas:
    """Return one frame after some steps; what memory has of the steps below isn't made anew."""
    build = texture.build
    assert build is not None
    place = (build.size, build.seed, frame, texture.made, how.states)
    canvas, first = None, 0
    if how.memory is not None:
        for first in range(len(active), 0, -1):
            canvas = how.memory.canvas((place, active[:first]))
            if canvas is not None:
                break
        else:
            first = 0
    if canvas is None:
        first, canvas = (
            0,
            Canvas(build.size, frame, texture.made, build.seed, np.zeros((build.size,) * 2, np.float32)),
        )
    for i, step in enumerate(active[first:], first):
        apply(step, canvas, flows, how.files)
        if how.memory is not None:
            how.memory.keep_canvas((place, active[: i + 1]), canvas)
    return canvas


def apply(step: Step, canvas: Canvas, flows: dict[Step, list[Frame]], files: Files) -> None:
    """Let a step do its work on a frame."""
    if isinstance(step, Finisher):
        FINISHERS[type(step)](step, canvas)
        return
    share = np.float32(canvas.number(step.strength))
    assert isinstance(step, Maker | Changer)
    if isinstance(step, Flow):
        new = _flowed(step, canvas, flows[step])
    elif isinstance(step, Picture):
        new, color = brought(step, canvas, files)
        if color is not None:
            _lay_colors(step, canvas, new * share, color)
    elif isinstance(step, Maker):
        new = MAKERS[type(step)](step, canvas)
    elif type(step) in MOVERS:
        new = _moved(step, canvas, share)
    else:
        new = CHANGERS[type(step)](step, canvas)
    canvas.begins = False
    put = BLENDS[step.blend](canvas.light, new)
    canvas.light = (canvas.light + (put - canvas.light) * share).astype(np.float32)


def _lay_colors(step: Picture, canvas: Canvas, cover: Floats, color: Floats) -> None:
    """Put a picture's colours over what is there, or in its place."""
    if canvas.color is None:
        # What came before has no colour of its own: where the picture doesn't cover, it is white.
        if step.blend == StepBlend.REPLACE or not np.any(canvas.light):
            canvas.color = color
            return
        canvas.color = np.ones_like(color)
    over = cover[..., None] if step.blend != StepBlend.REPLACE else np.float32(1.0)
    canvas.color = canvas.color + (color - canvas.color) * over


def _moved(step: Changer, canvas: Canvas, share: np.float32) -> Floats:
    """Return the light at other places; colours and heat go along with it."""
    x, y = MOVERS[type(step)](step, canvas)
    half = np.float32(canvas.size / 2)
    column, row = (x + 1) * half - np.float32(0.5), (1 - y) * half - np.float32(0.5)
    light = np.clip(sampled(canvas.light, column, row), 0.0, 1.0)
    if canvas.heat is not None:
        canvas.heat = (canvas.heat + (sampled(canvas.heat, column, row) - canvas.heat) * share).astype(
            np.float32
        )
    if canvas.color is not None and canvas.premultiplied:
        canvas.color = (canvas.color + (sampled(canvas.color, column, row) - canvas.color) * share).astype(
            np.float32
        )
    elif canvas.color is not None:
        # Colours count by what they cover: what lies under nothing is no colour.
        here, there = canvas.light[..., None] * (1.0 - share), light[..., None] * share
        mixed = canvas.color * here + sampled(canvas.color * canvas.light[..., None], column, row) * share
        plain = canvas.color + (sampled(canvas.color, column, row) - canvas.color) * share
        canvas.color = np.where(here + there > 1e-4, mixed / np.maximum(here + there, 1e-4), plain).astype(
            np.float32
        )
    return light


def _flowed(step: Flow, canvas: Canvas, frames: list[Frame]) -> Floats:
    frame = frames[canvas.frame]
    canvas.heat = frame.heat
    each = np.float32(step.seconds / max(canvas.frames, 1))
    canvas.motion = np.stack([frame.u, -frame.v], axis=2) * each
    return frame.smoke


def _gathered(texture: Texture, canvases: list[Canvas]) -> Pictures:
    """Return the frames of a sheet as pictures."""
    assert texture.build is not None
    multiplied = any(c.premultiplied for c in canvases)
    pixels = np.stack(
        [_multiplied(pixels_of(c, texture.data), multiplied and not c.premultiplied) for c in canvases]
    )
    bulges = [c.normals for c in canvases if c.normals is not None]
    normals = np.stack(bulges) if len(bulges) == len(canvases) else None
    # A sheet whose frames are in another order moves otherwise than its flow did.
    in_order = texture.build.kept(texture.made) == tuple(range(texture.made))
    moves = len(canvases) > 1 and in_order and all(c.motion is not None for c in canvases)
    motion = np.stack([c.motion for c in canvases]) if moves else None  # type: ignore[misc]
    found = Pictures(
        pixels, normals, motion, deep=bool(pixels[..., :3].max(initial=0.0) > 1.0), premultiplied=multiplied
    )
    return trimmed(found, by_cover=not (texture.data or multiplied)) if texture.build.trim else found


def _multiplied(pixels: Floats, wanted: bool) -> Floats:
    """Return pixels whose colours are multiplied by what they cover, if that is wanted."""
    if wanted:
        pixels[..., :3] *= pixels[..., 3:]
    return pixels


def pixels_of(canvas: Canvas, data: bool) -> Floats:
    """Return red, green, blue, alpha, linear; plain data without channels or colours has its light in all
    of them.
    """
    out = np.empty((canvas.size, canvas.size, 4), np.float32)
    if canvas.packed:
        for i, channel in enumerate((Channel.RED, Channel.GREEN, Channel.BLUE, Channel.ALPHA)):
            # What no step packs: the light at the end if it is alpha, nothing if it is another.
            rest = (np.float32(1.0) if canvas.begins else canvas.light) if i == 3 else np.float32(0.0)
            out[:, :, i] = canvas.packed.get(channel, rest)
        return out
    plain = canvas.light[:, :, None] if data else np.float32(1.0)
    out[:, :, :3] = plain if canvas.color is None else canvas.color
    out[:, :, 3] = canvas.light
    return out

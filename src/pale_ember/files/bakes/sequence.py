"""Each picture of an effect in a file of its own."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping

from ...drawing.offscreen import OffscreenRenderer, straight
from ...effect.effect import Effect
from ...effect.kinds import Cover, FrameForm
from ...textures.exr import exr_bytes
from ...textures.png import png_bytes
from ...textures.prepared import Prepared
from ..product_options import FramesOptions
from ..stopping import Progress
from .filming import filmed

PathLike = str | os.PathLike[str]


def sequence_files(
    effect: Effect,
    textures: Mapping[str, Prepared],
    options: FramesOptions,
    progress: Progress = lambda share: False,
) -> Iterator[tuple[str, bytes]]:
    """Yield files of a sequence, each its name and its bytes; numbered from 0, with as many digits as are
    needed, at least 4.

    Raises
    ------
    EffectError
        If there is no OpenGL here.
    Stopped
    """
    plan = filmed(
        effect, textures, options, (options.width, options.height), options.behind, rate=options.rate
    )
    digits = max(4, len(str(len(plan.times) - 1)))
    with OffscreenRenderer() as studio:
        for i, moment in enumerate(plan.moments(progress)):
            name = f"{i:0{digits}d}.{options.form}"
            environment = plan.environment(moment.time)
            if options.form == FrameForm.EXR:
                light = studio.light(moment, plan.size, plan.camera, environment)
                yield name, exr_bytes(light if plan.clear else light[..., :3])
                continue
            pixels = studio.pixels(moment, plan.size, plan.camera, environment, use="bake", fine=True)
            if not plan.clear:
                pixels = pixels[..., :3]
            elif options.cover == Cover.STRAIGHT:
                pixels = straight(pixels)
            yield name, png_bytes(pixels, effort=3)

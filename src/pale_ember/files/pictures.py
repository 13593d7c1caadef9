"""Moments as picture files."""

from __future__ import annotations

import io
import os

from ..drawing import moment_of
from ..drawing.headless import Studio
from ..effect.effect import Effect
from ..effect.storage import write_whole
from ..simulation import Simulation


def render_file(
    effect: Effect,
    time: float,
    size: tuple[int, int],
    path: str | os.PathLike[str],
    backdrop: str | None = None,
    grid: bool = True,
) -> None:
    """Draw an effect at a time, from its own camera, into a PNG; whole or not at all.

    Raises
    ------
    EffectError
        If there is no OpenGL here or the file can't be written.
    """
    sim = Simulation(effect)
    sim.seek(time)
    with Studio() as studio:
        image = studio.picture(moment_of(sim), size, effect.stage.camera, backdrop or effect.stage.backdrop, grid)
    data = io.BytesIO()
    image.save(data, "PNG")
    write_whole(path, data.getvalue())

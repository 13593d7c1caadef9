"""Moments as picture files."""

from __future__ import annotations

import io
import os
from collections.abc import Mapping

import numpy as np
from PIL import Image

from ..drawing import moment_of
from ..drawing.environment import environment_of
from ..drawing.filmstrip import fitting_scale
from ..drawing.moment import worn
from ..drawing.offscreen import LARGEST, OffscreenRenderer
from ..effect.effect import Effect
from ..effect.errors import EffectError
from ..effect.kinds import Backdrop
from ..effect.storing.whole_files import write_whole
from ..simulation import Simulation
from ..simulation.motion.prop_poses import prop_clock
from ..simulation.time.biography import Single
from ..textures.prepared import Prepared
from .textures import BACKDROP


def render_file(
    effect: Effect,
    time: float,
    size: tuple[int, int],
    path: str | os.PathLike[str],
    backdrop: Backdrop | None = None,
    grid: bool = True,
    clear: bool = False,
    inputs: tuple[str | os.PathLike[str], ...] = (),
    textures: Mapping[str, Prepared] | None = None,
) -> list[EffectError]:
    """Draw an effect at a time, from its own camera, into a PNG; whole or not at all.

    Parameters
    ----------
    clear : bool
        Draws it on nothing, with an alpha channel.
    inputs : tuple of paths
        What is never written over.
    textures : dict, optional
        From :func:`~.textures.textures_of`; layers wear soft dots instead of what is not in it.

    Returns
    -------
    list of EffectError
        What keeps layers from being simulated as they are meant.

    Raises
    ------
    EffectError
        If there is no OpenGL here or the file can't be written.
    """
    sim = Simulation(effect)
    sim.seek(time)
    with OffscreenRenderer() as studio:
        stage = effect.stage.model_copy(update={"backdrop": backdrop or effect.stage.backdrop})
        environment = environment_of(
            stage,
            grid,
            picture=(textures or {}).get(BACKDROP),
            clear=clear,
            clock=prop_clock(effect, sim.time),
        )
        image = studio.picture(moment_of(sim, textures=textures), size, stage.camera, environment)
    _write(image, path, inputs)
    return sim.problems()


def filmstrip_file(
    effect: Effect,
    layer: str,
    path: str | os.PathLike[str],
    *,
    particle: int = 0,
    frames: int = 16,
    size: tuple[int, int] = (64, 64),
    scale: float | None = None,
    inputs: tuple[str | os.PathLike[str], ...] = (),
    textures: Mapping[str, Prepared] | None = None,
) -> None:
    """Draw one particle's life, at equal ages from birth to death, into a PNG; whole or not at all.

    Parameters
    ----------
    layer : str
        Name or id; the first layer if empty.
    particle : int
        Which one, counted by birth since time 0.
    size : (int, int)
        Of one frame, pixels.
    scale : float, optional
        Pixels for a metre; such that the particle at its largest fits, by default.

    Raises
    ------
    EffectError
        If there is no such layer, nothing is born in it, there is no OpenGL here or the file can't be
        written.
    """
    if max(size[0] * frames, size[1]) > LARGEST:
        raise EffectError(
            "size",
            f"the strip would be {size[0] * frames} × {size[1]} pixels; at most {LARGEST} each way. "
            "Take fewer or smaller pictures.",
        )
    if not effect.layers:
        raise EffectError("layers", "the effect has no layer; add one.")
    chosen = effect.layer(layer) if layer else effect.layers[0]
    alone = Single(effect, chosen)
    birth = alone.birth(particle)
    if birth is None:
        raise EffectError(chosen.name, "nothing is born in this layer; raise its rate or add a burst.")
    rows = alone.instances(alone.life(birth), np.linspace(0.0, 1.0, frames))
    stage, wears = effect.stage, worn(chosen, textures or {})
    scale = scale or fitting_scale(rows, *size, chosen.look, stage.camera)
    environment = environment_of(stage, bare=True, picture=(textures or {}).get(BACKDROP))
    with OffscreenRenderer() as studio:
        _write(
            studio.filmstrip(rows, stage.camera, scale, size, chosen.look, environment, wears), path, inputs
        )


def _write(
    image: Image.Image, path: str | os.PathLike[str], inputs: tuple[str | os.PathLike[str], ...]
) -> None:
    data = io.BytesIO()
    image.save(data, "PNG")
    write_whole(path, data.getvalue(), inputs)

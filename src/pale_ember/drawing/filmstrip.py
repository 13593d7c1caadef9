"""A particle's life as a row of pictures, each the same as the middle of a picture of the whole effect."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..effect.chapters.look import Look
from ..effect.chapters.stage import Camera
from ..effect.kinds import Backdrop, Facing, Sort
from ..simulation.layout.instances import field_of
from ..simulation.meshes.drawn import body_of_look
from ..textures.prepared import Prepared
from .camera import axes_of
from .environment import Environment
from .moment import DrawnLayer, Moment
from .passes.develop import Developing
from .renderer import Layout, Renderer

Rows = NDArray[np.void]
# Pixels at least between a picture and its cell's edge: glow reaches about so far. Cells are whole numbers of
# such stretches, so that each picture's glow falls on the same grid.
MARGIN = 64


def frame_camera(camera: Camera, scale: float, height: int) -> Camera:
    """Return a camera that looks the same way, with so many pixels for a metre at its target.

    Parameters
    ----------
    scale : float
        Pixels for a metre.
    height : int
        Of the whole picture, pixels.
    """
    distance = height / (2.0 * scale * math.tan(math.radians(camera.view) / 2))
    return camera.model_copy(update={"distance": min(max(distance, 0.01), 100_000.0)})


def fitting_scale(
    rows: Rows, width: int, height: int, look: Look | None = None, camera: Camera | None = None
) -> float:
    """Return the pixels for a metre at which the largest of some instances just fits into a frame, turned
    or drawn out.
    """
    if (
        look is not None
        and camera is not None
        and look.facing == Facing.STREAK
        and "way" in (rows.dtype.names or ())
    ):
        return _streak_scale(rows, width, height, look, camera)
    wide, tall = rows["size"].astype(np.float64).T
    angle = field_of(rows, "angle").astype(np.float64)
    across = np.abs(wide * np.cos(angle)) + np.abs(tall * np.sin(angle))
    above = np.abs(wide * np.sin(angle)) + np.abs(tall * np.cos(angle))
    most_across = float(np.max(across, initial=1e-4, where=np.isfinite(across)))
    most_above = float(np.max(above, initial=1e-4, where=np.isfinite(above)))
    return min(width / most_across, height / most_above)


def _streak_scale(rows: Rows, width: int, height: int, look: Look, camera: Camera) -> float:
    way = rows["way"].astype(np.float64)
    span = np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    way *= np.clip(span, look.streak_least, max(look.streak_most, look.streak_least)) / span
    right, up, _ = axes_of(camera)
    size = rows["size"].max(axis=1)
    # The head stands in the middle of its frame.
    across, above = 2 * np.abs(way @ right) + size, 2 * np.abs(way @ up) + size
    return min(
        width / max(float(across.max(initial=0.0)), 1e-4), height / max(float(above.max(initial=0.0)), 1e-4)
    )


def draw_filmstrip(
    renderer: Renderer,
    target: Any,
    rows: Rows,
    camera: Camera,
    scale: float,
    size: tuple[int, int],
    look: Look,
    environment: Environment | Backdrop,
    how: Developing | None = None,
    margin: int = MARGIN,
    wears: Mapping[str, Prepared] | None = None,
    draft: bool = False,
) -> None:
    """Draw instances side by side, each in the middle of its frame.

    Parameters
    ----------
    renderer : Renderer
    target : moderngl.Framebuffer
        As wide as all frames, as high as one.
    rows : (n,) array of INSTANCE
        Their places don't count.
    camera : Camera
        Gives the direction, the view angle and what is behind.
    scale : float
        Pixels for a metre.
    size : (int, int)
        Of one frame, pixels; even numbers keep the particle on the same place of its pixels as in its cell.
    look, environment
        The layer's look, and what is behind.
    margin : int
        0 draws frames right beside each other, in half the time and less; neighbours then shine into each
        other.
    """
    cell_width, cell_height = (-(-side // margin) * margin + 2 * margin if margin else side for side in size)
    layout = Layout(*size, cell_width, cell_height, len(rows))
    seen = frame_camera(camera, scale, cell_height)
    placed = rows.copy()
    placed["place"] = seen.target
    body, _ = body_of_look(look)
    moment = Moment(
        0.0,
        (DrawnLayer("", placed, look.model_copy(update={"sort": Sort.NONE}), wears=wears or {}, body=body),),
    )
    renderer.draw_frames(target, moment, seen, environment, layout, how, draft)

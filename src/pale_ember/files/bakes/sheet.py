"""All frames of an effect in one picture, with a map of their motion and of their normals."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...drawing.camera import project
from ...drawing.environment import Environment
from ...drawing.maps import motions, surfaces
from ...drawing.offscreen import OffscreenRenderer, straight_light
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.kinds import Cover
from ...textures.png import png_bytes
from ...textures.prepared import Prepared
from ..product_options import SheetOptions
from ..stopping import Progress
from .filming import Filming, filmed

MOST_SIDE = 16_384
# A pixel with no more than so many levels counts as invisible.
_SEEN = 1
Floats = NDArray[np.float32]


def sheet_files(
    effect: Effect,
    textures: Mapping[str, Prepared],
    options: SheetOptions,
    name: str,
    progress: Progress = lambda share: False,
) -> dict[str, bytes]:
    """Return a sheet's files: the picture, its maps, and a JSON file that says how to play it.

    Parameters
    ----------
    name : str
        What they are called, without an ending.

    Raises
    ------
    EffectError
        If the sheet would be too large, or there is no OpenGL here.
    Stopped
    """
    cell = options.frame + 2 * options.padding
    wide, high = options.columns * cell, options.rows * cell
    if max(wide, high) > MOST_SIDE:
        raise EffectError(
            "sheet.frame",
            f"the sheet would be {wide} × {high} pixels; at most {MOST_SIDE} each way. Take fewer or "
            "smaller frames.",
        )
    plan = filmed(
        effect,
        textures,
        options,
        (options.frame, options.frame),
        options.behind,
        count=options.columns * options.rows,
    )
    color, motion, normals = _frames(plan, options, progress)
    x0, y0, x1, y1 = _trimmed(color, plan) if options.trim else (0, 0, options.frame, options.frame)
    cut = (slice(None), slice(y0, y1), slice(x0, x1))
    about = _about(plan, options, (x0, y0, x1, y1), name)
    straightened = options.cover == Cover.STRAIGHT and plan.clear
    frames = np.stack([straight_light(one) for one in color]) if straightened else color
    files = {f"{name}.png": png_bytes(_laid(frames[cut] if plan.clear else frames[cut][..., :3], options))}
    if motion is not None:
        # Trimmed, a frame is smaller, and what moves goes farther in it.
        motion = motion[cut] * (np.array([options.frame / (x1 - x0), options.frame / (y1 - y0)], np.float32))
        reach = max(float(np.abs(motion).max()), 1e-4)
        levels = np.full((*motion.shape[:3], 3), 128, np.uint8)
        levels[..., :2] = np.rint((motion / reach * 0.5 + 0.5) * 255.0)
        files[f"{name}_motion.png"] = png_bytes(_laid(levels, options, (128, 128, 128)))
        about |= {"motion": f"{name}_motion.png", "motion_reach": round(reach, 6)}
    if normals is not None:
        files[f"{name}_normals.png"] = png_bytes(
            _laid(np.rint((normals[cut] * 0.5 + 0.5) * 255.0).astype(np.uint8), options, (128, 128, 255))
        )
        about |= {"normals": f"{name}_normals.png"}
    files[f"{name}.json"] = (json.dumps(about, indent=2, ensure_ascii=False) + "\n").encode()
    return files


def _frames(
    plan: Filming, options: SheetOptions, progress: Progress
) -> tuple[NDArray[np.uint8], Floats | None, Floats | None]:
    """Return all frames, where each of their points goes, and which way it looks."""
    color: list[Any] = []
    motion: list[Floats] = []
    normals: list[Floats] = []
    with OffscreenRenderer() as studio:
        before = None
        for number, moment in enumerate(plan.moments(progress, again=options.motion)):
            environment = plan.environment(moment.time)
            bare = Environment(None, False, environment.light, 0.0, 0.0)
            if before is not None and options.motion:
                going = studio.light(
                    motions(before, moment, plan.camera, plan.size),
                    plan.size,
                    plan.camera,
                    bare,
                    use="motion",
                )
                motion.append(_ratio(going, 0.5)[..., :2] * 2.0 - 1.0)
            before = moment
            if number == len(plan.times):
                break
            color.append(
                studio.pixels(moment, plan.size, plan.camera, environment, use="bake", fine=True).copy()
            )
            if options.normals:
                looks = studio.light(
                    surfaces(moment), plan.size, plan.camera, bare, use="normals", only="normals"
                )
                normals.append(_unit(_ratio(looks, 0.0), looks[..., 3:]))
    return np.stack(color), np.stack(motion) if motion else None, np.stack(normals) if normals else None


def _ratio(light: Floats, nowhere: float) -> Floats:
    """Return colours divided by what they cover; where that is next to nothing, one number."""
    cover = light[..., 3:]
    return np.where(cover > 1e-3, light[..., :3] / np.maximum(cover, 1e-3), np.float32(nowhere)).astype(
        np.float32
    )


def _unit(levels: Floats, cover: Floats) -> Floats:
    """Return vectors of length 1 from colours; towards the eye where nothing is."""
    way = np.where(cover > 1e-3, levels * 2.0 - 1.0, np.array([0.0, 0.0, 1.0], np.float32))
    return (way / np.maximum(np.linalg.norm(way, axis=-1, keepdims=True), 1e-6)).astype(np.float32)  # type: ignore[no-any-return]


def _trimmed(color: NDArray[np.uint8], plan: Filming) -> tuple[int, int, int, int]:
    """Return the box, in pixels, of all that is seen in any frame; all of it where something stands
    behind.
    """
    seen = (color if plan.clear else color[..., :0]).max(axis=(0, 3), initial=0) > _SEEN
    if not seen.any():
        return 0, 0, *plan.size
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    # Blocks of four, as compression wants them.
    x0, y0 = int(columns[0]) // 4 * 4, int(rows[0]) // 4 * 4
    return (
        x0,
        y0,
        min(-(-(int(columns[-1]) + 1) // 4) * 4, plan.size[0]),
        min(-(-(int(rows[-1]) + 1) // 4) * 4, plan.size[1]),
    )


def _laid(
    frames: NDArray[np.uint8], options: SheetOptions, nothing: tuple[int, ...] = ()
) -> NDArray[np.uint8]:
    """Return frames in their columns and rows; the padding of maps gets their neutral value."""
    count, high, wide, parts = frames.shape
    cell = (high + 2 * options.padding, wide + 2 * options.padding)
    sheet = np.zeros((options.rows * cell[0], options.columns * cell[1], parts), np.uint8)
    if nothing:
        sheet[:] = nothing
    for i in range(count):
        row, column = divmod(i, options.columns)
        y, x = row * cell[0] + options.padding, column * cell[1] + options.padding
        sheet[y : y + high, x : x + wide] = frames[i]
    return sheet


def _about(plan: Filming, options: SheetOptions, box: tuple[int, int, int, int], name: str) -> dict[str, Any]:
    """Return what is told of a sheet in the file beside it."""
    x0, y0, x1, y1 = box
    length = plan.times[-1] - plan.times[0]
    rate = (len(plan.times) - 1) / length if length > 0 else 0.0
    metre = 2.0 * plan.camera.distance * math.tan(math.radians(plan.camera.view) / 2) / plan.size[1]
    (origin,), _ = project(plan.camera, *plan.size, [(0.0, 0.0, 0.0)])
    return {
        "picture": f"{name}.png",
        "effect": plan.effect.name,
        "columns": options.columns,
        "rows": options.rows,
        "frames": len(plan.times),
        "rate": round(rate, 4),
        "loops": plan.closes,
        "frame": [x1 - x0, y1 - y0],
        "padding": options.padding,
        "trimmed_from": [x0, y0, options.frame, options.frame],
        "cover": str(options.cover) if plan.clear else "opaque",
        "encoding": "srgb",
        "blended_in": "linear light",
        "metres": [round((x1 - x0) * metre, 5), round((y1 - y0) * metre, 5)],
        "origin": [
            round((float(origin[0]) - x0) / (x1 - x0), 5),
            round((float(origin[1]) - y0) / (y1 - y0), 5),
        ],
    }

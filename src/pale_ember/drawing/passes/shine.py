"""Layers that light the floor and the props: each as one light, of its particles' mean colour at their
middle.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.stage import Camera
from ...simulation.layout.instances import field_of
from ..camera import eye_of, packed
from ..moment import DrawnLayer, Moment
from ..programs import Programs

MOST = 8
# Particles that cover so much, m², give half of a layer's light.
_HALF = 0.02


class Shine(NamedTuple):
    """One light: its place, m, its linear colour, its reach, m."""

    place: NDArray[np.float64]
    color: NDArray[np.float64]
    reach: float


def shine_of(layer: DrawnLayer) -> Shine | None:
    """Return a layer's light; None if it gives none."""
    look, rows = layer.look, layer.instances
    if look.shine <= 0 or len(rows) == 0:
        return None
    area = np.maximum(rows["size"][:, 0] * rows["size"][:, 1], 0.0).astype(np.float64)
    weight = area * field_of(rows, "opacity", layer.fixed)
    light = field_of(rows, "color", layer.fixed) * field_of(rows, "intensity", layer.fixed)[:, None]
    picture = layer.wears.get("picture")
    if picture is not None:
        light = light * picture.mean
    total = float(weight.sum())
    if not np.isfinite(total) or total <= 1e-12:
        return None
    bright = weight * light.mean(axis=1)
    middle = np.average(
        rows["place"].astype(np.float64), axis=0, weights=bright if bright.sum() > 1e-12 else weight
    )
    color = (weight[:, None] * light).sum(axis=0) / total * (look.shine * total / (total + _HALF))
    return Shine(middle, color, look.shine_reach)


def shines_of(moment: Moment) -> list[Shine]:
    """Return the strongest lights of a moment."""
    found = [
        shine
        for shine in map(shine_of, moment.layers)
        if shine is not None and np.isfinite(shine.color).all()
    ]
    return sorted(found, key=lambda shine: -float(shine.color.sum()) * shine.reach)[:MOST]


def upload_shines(program: Any, shines: list[Shine]) -> None:
    """Tell a program what shines."""
    places, colors = np.zeros((MOST, 4), np.float32), np.zeros((MOST, 3), np.float32)
    for i, shine in enumerate(shines):
        places[i], colors[i] = (*shine.place, shine.reach), np.minimum(shine.color, 1e4)
    program["count"] = len(shines)
    program["places"].write(places.tobytes())
    program["colors"].write(colors.tobytes())


def _reached(
    shines: list[Shine], whole: NDArray[np.float64], size: tuple[int, int]
) -> tuple[int, int, int, int] | None:
    """Return the part of a picture, in pixels, where floor may be lit; None if there is none."""
    low, high = np.array([1.0, 1.0]), np.array([-1.0, -1.0])
    for shine in shines:
        x, y, z = shine.place
        across = shine.reach**2 - y**2
        if across <= 0:
            continue
        r = across**0.5
        corners = np.array([(x + i * r, 0.0, z + k * r, 1.0) for i in (-1, 1) for k in (-1, 1)]) @ whole.T
        if (corners[:, 3] < 1e-3).any():
            return (0, 0, *size)
        at = corners[:, :2] / corners[:, 3:]
        low, high = np.minimum(low, at.min(axis=0)), np.maximum(high, at.max(axis=0))
    low, high = np.clip(low, -1, 1), np.clip(high, -1, 1)
    if (low >= high).any():
        return None
    first = np.floor((low + 1) / 2 * size).astype(int)
    last = np.ceil((high + 1) / 2 * size).astype(int)
    return int(first[0]), int(first[1]), int(last[0] - first[0]), int(last[1] - first[1])


def reach_of(shines: list[Shine]) -> NDArray[np.float64]:
    """Return where lights may reach the floor: from x, from z, to x, to z, m."""
    places = np.array([shine.place for shine in shines])[:, [0, 2]]
    reach = np.array([[shine.reach] for shine in shines])
    return np.concatenate([(places - reach).min(axis=0), (places + reach).max(axis=0)])


def add_light(programs: Programs, light: Any) -> None:
    """Add a texture of the viewport's size to the framebuffer in use, if that blends so."""
    light.use(0)
    programs.screen("add")["more"] = 0
    programs.fill("add")


def draw_shine(
    ctx: Any, programs: Programs, shines: list[Shine], whole: NDArray[np.float64], camera: Camera, depth: Any
) -> None:
    """Add the light of layers to the floor in the framebuffer in use, whose depth is a texture of its
    size.
    """
    program = programs.screen("shine")
    program["unproject"].write(packed(np.asarray(np.linalg.inv(whole), np.float64)))
    program["eye"] = tuple(eye_of(camera))
    program["size"] = tuple(float(side) for side in depth.size)
    upload_shines(program, shines)
    depth.use(0)
    program["behind"] = 0
    box = _reached(shines, whole, depth.size)
    if box is not None:
        ctx.scissor = box
        programs.fill("shine")
        ctx.scissor = None

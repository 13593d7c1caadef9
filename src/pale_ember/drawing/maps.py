"""Moments drawn as data instead of light: the motion or the normal of each point."""

from __future__ import annotations

import dataclasses

import numpy as np
from numpy.typing import NDArray

from ..effect.chapters.look import Look
from ..effect.chapters.noises import Shimmer
from ..effect.chapters.stage import Camera
from ..effect.kinds import Blend, Channel, DrawnAs
from ..simulation.layout.instances import field_of, instance_type
from .between import followed
from .camera import project
from .moment import DrawnLayer, Moment

Floats = NDArray[np.float32]


def surfaces(moment: Moment) -> Moment:
    """Return a moment all of whose layers are lit, and put over each other by what they cover, so that
    their normals can be drawn.
    """
    return dataclasses.replace(
        moment,
        layers=tuple(dataclasses.replace(layer, look=_plain(layer, lit=1.0)) for layer in moment.layers),
    )


def motions(before: Moment, after: Moment, camera: Camera, size: tuple[int, int]) -> Moment:
    """Return a moment whose particles have the colour of where they go until another one.

    Red is right and green is up, a half is nowhere, and 0 and 1 are one width or height of the picture.
    """
    later = {layer.id: layer for layer in after.layers}
    layers = []
    for layer in before.layers:
        rows = _colored(layer, later.get(layer.id), camera, size)
        fixed = {**layer.fixed, "intensity": (1.0,)}
        joined = layer.joined
        if layer.look.draw == DrawnAs.RIBBON and joined is not None:
            # Its heads come after its points; they go as the newest points do.
            more = len(joined.rows) - len(rows)
            whole = _with_color(
                joined.rows,
                np.concatenate([rows["color"], np.full((more, 3), 0.5, np.float32)])
                if more
                else rows["color"],
            )
            joined = joined._replace(rows=whole)
        layers.append(
            dataclasses.replace(
                layer, instances=rows, fixed=fixed, look=_plain(layer, lit=0.0), joined=joined
            )
        )
    return dataclasses.replace(before, layers=tuple(layers))


def _plain(layer: DrawnLayer, lit: float) -> Look:
    """Return a layer's look as a mask: covering what it covers, without light of its own."""
    look = layer.look
    channel = look.channel
    if lit == 0.0 and "picture" in layer.wears and channel == Channel.ALL:
        channel = Channel.RED if layer.wears["picture"].data else Channel.ALPHA
    return look.model_copy(
        update={
            "blend": Blend.ALPHA if look.blend != Blend.CUTOUT else Blend.CUTOUT,
            "lit": lit,
            "channel": channel,
            "shimmer": Shimmer(),
            "erode": look.erode.model_copy(update={"rim_intensity": 0.0}),
        }
    )


def _colored(
    layer: DrawnLayer, after: DrawnLayer | None, camera: Camera, size: tuple[int, int]
) -> NDArray[np.void]:
    """Return a layer's instances, coloured by how they move until another moment."""
    rows = layer.instances
    color = np.full((len(rows), 3), 0.5, np.float32)
    if after is not None and layer.life is not None and after.life is not None:
        here, there = followed(layer.life.serial, after.life.serial)
        first, seen = project(camera, *size, rows["place"][here])
        last, later = project(camera, *size, after.instances["place"][there])
        way = (last - first) / np.array(size) * (1.0, -1.0)
        color[here, :2] = np.where((seen & later)[:, None], np.clip(way, -1.0, 1.0) * 0.5 + 0.5, 0.5)
    return _with_color(rows, color)


def _with_color(rows: NDArray[np.void], color: Floats) -> NDArray[np.void]:
    """Return instances with other colours, and without what would make them brighter."""
    names = rows.dtype.names or ()
    out = np.empty(len(rows), instance_type((*(name for name in names if name != "intensity"), "color")))
    for name in out.dtype.names or ():
        out[name] = color if name == "color" else field_of(rows, name)
    return out

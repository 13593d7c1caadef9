"""Where a layer stands, and the keys of its path."""

from __future__ import annotations

from ..kinds import PathEase
from ..rules import fields
from ..rules.part import Part

Triple = tuple[float, float, float]


class Place(Part):
    """Where the layer stands in the effect."""

    position: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Position",
        "Where the layer's centre stands.",
        unit="m",
        soft=(-5, 5),
        also="location translate move offset",
    )
    rotation: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Rotation",
        "Turns the layer about X, then Y, then Z. At zero its axis points up.",
        unit="°",
        soft=(-180, 180),
        digits=1,
        also="rotate turn orientation angle",
    )
    scale: float = fields.number(
        1.0,
        "Scale",
        "Multiplies every length of the layer: birthplace, speeds, pushes and sizes.",
        unit="×",
        hard=(0.0001, 10_000),
        soft=(0.1, 4),
        also="size bigger smaller",
    )


class PathKey(Part):
    """A pose that the layer passes, in the axes of its place."""

    at: float = fields.number(
        0.0,
        "At",
        "The share of the window at which the layer is here.",
        hard=(0, 1),
        soft=(0, 1),
        also="time moment",
    )
    position: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Position",
        "How far from its place.",
        unit="m",
        soft=(-5, 5),
        also="location translate move",
    )
    rotation: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Rotation",
        "Turned from its place about X, then Y, then Z; full turns count.",
        unit="°",
        soft=(-360, 360),
        digits=1,
        also="rotate turn orientation",
    )
    scale: float = fields.number(
        1.0,
        "Scale",
        "Multiplies every length of the layer.",
        unit="×",
        hard=(0.0001, 10_000),
        soft=(0.1, 4),
        also="size",
    )
    ease: PathEase = fields.choice(
        PathEase.SMOOTH, "Ease", "How the way to the next key goes.", also="interpolation smooth"
    )

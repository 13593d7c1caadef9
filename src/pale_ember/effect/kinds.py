"""Words that a field chooses from: each list stands here once, and every room that acts on one knows all of it."""

from __future__ import annotations

from enum import StrEnum


class Kind(StrEnum):
    """The shape that particles are born in."""

    POINT = "point"
    BALL = "ball"
    DOME = "dome"
    BOX = "box"
    CONE = "cone"
    CYLINDER = "cylinder"
    RING = "ring"
    LINE = "line"
    MESH = "mesh"


class Fill(StrEnum):
    """Which part of the shape they are born in."""

    VOLUME = "volume"
    SKIN = "skin"
    RIM = "rim"


class Aim(StrEnum):
    """Which way they set out."""

    AXIS = "axis"
    OUTWARD = "outward"
    INWARD = "inward"
    RANDOM = "random"


class PathEase(StrEnum):
    """How the way from one key of a path to the next goes."""

    SMOOTH = "smooth"
    LINEAR = "linear"
    HOLD = "hold"


class Blend(StrEnum):
    """How a particle is put over what is behind it."""

    ALPHA = "alpha"
    ADD = "add"


class Sort(StrEnum):
    """Which particles of a layer are drawn first."""

    FAR = "far"
    OLD = "old"
    YOUNG = "young"
    NONE = "none"


class Backdrop(StrEnum):
    """What stands behind the effect."""

    NIGHT = "night"
    DUSK = "dusk"
    OVERCAST = "overcast"
    DAY = "day"
    BLACK = "black"


class Along(StrEnum):
    """What a curve runs along."""

    LIFE = "life"
    CLOCK = "clock"
    SPEED = "speed"

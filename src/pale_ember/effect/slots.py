"""The slots in which a layer's Values reach the kernels, in the order in which they are read.

A field of the model names its own; three fields' worth of numbers, such as X, Y and Z, take three in a row.
"""

from __future__ import annotations

from enum import IntEnum, auto


class Slot(IntEnum):
    """The place of a Value among all Values of a layer, counted from 0."""

    @staticmethod
    def _generate_next_value_(name: str, start: int, count: int, last_values: list[int]) -> int:
        return count

    # Drawn or read at birth.
    LIFETIME = auto()
    SPEED = auto()
    PUSH_X = auto()
    PUSH_Y = auto()
    PUSH_Z = auto()
    ANGLE = auto()
    CARRY = auto()
    # Read at each step.
    GRAVITY = auto()
    DRAG = auto()
    WIND = auto()
    THRUST_X = auto()
    THRUST_Y = auto()
    THRUST_Z = auto()
    DRIFT_X = auto()
    DRIFT_Y = auto()
    DRIFT_Z = auto()
    PULL = auto()
    SWIRL = auto()
    ORBIT = auto()
    TURBULENCE = auto()
    PACE = auto()
    TOP_SPEED = auto()
    SPIN = auto()
    # Read at each hit.
    BOUNCE = auto()
    FRICTION = auto()
    # Read when a moment is drawn, and kept as at the birth.
    SIZE = auto()
    ASPECT = auto()
    TINT_R = auto()
    TINT_G = auto()
    TINT_B = auto()
    FRAME_RATE = auto()
    # Read when a moment is drawn.
    GROW = auto()
    OPACITY = auto()
    INTENSITY = auto()
    COLOR_R = auto()
    COLOR_G = auto()
    COLOR_B = auto()
    WIDEN = auto()
    FRAME = auto()
    MIX = auto()
    STREAK = auto()
    ERODE = auto()
    BEND = auto()
    SHIMMER = auto()
    STRETCH_X = auto()
    STRETCH_Y = auto()
    STRETCH_Z = auto()
    RIM = auto()

"""The slots in which a layer's Values reach the kernels, in the order in which they are read.

A field of the model names its own; three fields' worth of numbers, such as X, Y and Z, take three in a row.
"""

from __future__ import annotations

from enum import IntEnum


class Slot(IntEnum):
    """The place of a Value among all Values of a layer."""

    # Drawn or read at birth.
    LIFETIME = 0
    SPEED = 1
    PUSH_X = 2
    PUSH_Y = 3
    PUSH_Z = 4
    ANGLE = 5
    CARRY = 6
    # Read at each step.
    GRAVITY = 7
    DRAG = 8
    WIND = 9
    THRUST_X = 10
    THRUST_Y = 11
    THRUST_Z = 12
    DRIFT_X = 13
    DRIFT_Y = 14
    DRIFT_Z = 15
    PULL = 16
    SWIRL = 17
    ORBIT = 18
    TURBULENCE = 19
    PACE = 20
    TOP_SPEED = 21
    SPIN = 22
    # Read at each hit.
    BOUNCE = 23
    FRICTION = 24
    # Read when a moment is drawn, and kept as at the birth.
    SIZE = 25
    ASPECT = 26
    TINT_R = 27
    TINT_G = 28
    TINT_B = 29
    FRAME_RATE = 30
    # Read when a moment is drawn.
    GROW = 31
    OPACITY = 32
    INTENSITY = 33
    COLOR_R = 34
    COLOR_G = 35
    COLOR_B = 36
    WIDEN = 37
    FRAME = 38
    MIX = 39
    STREAK = 40
    ERODE = 41
    BEND = 42
    SHIMMER = 43
    STRETCH_X = 44
    STRETCH_Y = 45
    STRETCH_Z = 46
    RIM = 47

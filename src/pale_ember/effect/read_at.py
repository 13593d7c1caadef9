"""When kernels read a field of a layer."""

from __future__ import annotations

from enum import IntEnum


class ReadAt(IntEnum):
    """The moment of a particle's life at which a Value is read, in the order in which kernels keep them."""

    BIRTH = 0
    STEP = 1
    HIT = 2
    # Where a moment is drawn, as it was at the birth.
    FIRST_LOOK = 3
    # Where a moment is drawn.
    LOOK = 4

"""The rows of a layer's state: structure of arrays, one row for each number that a particle has.

When a particle was born is kept, not how old it is: ``BORN`` is the number of the step at whose start it had lived
``SINCE`` seconds, so that its age is exact however long it lives (:func:`~.sampling.ages`).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# Place, m; velocity, m/s; seconds lived at the end of its first step; shares of life a second; angle, radians;
# the window's clock at its birth; the number of the step after its first one, a whole number in the same memory.
PX, PY, PZ, VX, VY, VZ, SINCE, AGING, ANGLE, CLOCK, BORN = range(11)
ROWS = 11
# Where layers are drawn along their particles' way: how fast each went in its last step, by its places, m/s.
WX, WY, WZ = range(ROWS, ROWS + 3)
WAY_ROWS = ROWS + 3


def ages_of(state: NDArray[np.float32], step: int, rate: int) -> NDArray[np.float32]:
    """Return ages 0…1 at the start of a step, (n,); the kernels' own arithmetic in plain NumPy."""
    whole = (step - state[BORN].view(np.int32)).astype(np.float32)
    return (whole * np.float32(1.0 / rate) + state[SINCE]) * state[AGING]


def born_since_zero(state: NDArray[np.float32]) -> int:
    """Return how many of the living were born at time 0 or later; they stand last, in the order of their births."""
    born = state[BORN].view(np.int32)
    first = int(np.searchsorted(born, 1))
    early = int(np.searchsorted(born, 0))
    return len(born) - first + int(np.count_nonzero(state[SINCE, early:first] == 0.0))

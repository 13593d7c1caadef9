"""The rows of a layer's state: a structure of arrays with one row for each number that a particle has.

When a particle was born is kept, not how old it is: ``BORN`` is the number of the step at whose start it had
lived ``SINCE`` seconds, so that its age is exact however long it lives (:func:`~..values.sampling.ages`).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..kernels.bundles import bundled

# Place, m; velocity, m/s; seconds lived at the end of its first step; shares of life a second; angle,
# radians; the window's clock at its birth; the number of the step after its first one, a whole number in the
# same memory.
PX, PY, PZ, VX, VY, VZ, SINCE, AGING, ANGLE, CLOCK, BORN = range(11)
ROWS = 11
# Where layers are drawn along their particles' way: how fast each went in its last step, by its places, m/s.
WX, WY, WZ = range(ROWS, ROWS + 3)


@bundled
class ExtraRows(NamedTuple):
    """Where the rows are that only some layers have; -1 for those that this one doesn't.

    ``way``: the first of three, always ``WX``. With contact: ``hits`` so far, a whole number; what it
    ``stuck`` to, a prop's place and one more, a whole number, 0 for nothing; how much of its spin it
    ``kept``; the spin that hits have ``added``, radians/s. Where others follow its flight: seconds ``flown``,
    metres ``walked``. Of a follow-up that takes colour or size: ``taken``, the first of red, green, blue and
    size. Of a layer born in a row: ``row``, its place in that, 0…1. Of a ribbon that joins by parents:
    ``owner``, the parent's number, a whole one. Of one whose texture stays where it was laid: ``laid``, how
    long the ribbon was as its head was there, m. ``height`` counts all rows.
    """

    way: int
    hits: int
    stuck: int
    kept: int
    added: int
    flown: int
    walked: int
    taken: int
    row: int
    owner: int
    laid: int
    height: int


# Which rows stand side by side, in which order, and how many numbers each takes. They are there where a layer
# needs them.
_GROUPS = {
    "way": (("way", 3),),
    "contact": (("hits", 1), ("stuck", 1), ("kept", 1), ("added", 1)),
    "flight": (("flown", 1), ("walked", 1)),
    "taken": (("taken", 4),),
    "row": (("row", 1),),
    "owner": (("owner", 1),),
    "laid": (("laid", 1),),
}


def extra_rows_of(**needed: bool) -> ExtraRows:
    """Return where the rows are of a layer that needs some: ``way``, ``contact``, ``flight``, ``taken``,
    ``row``, ``owner``, ``laid``.
    """
    at = ROWS
    found = dict.fromkeys(ExtraRows._fields, -1)
    for group, members in _GROUPS.items():
        for name, numbers in members if needed.get(group) else ():
            found[name] = at
            at += numbers
    return ExtraRows(**(found | {"height": at}))


def ages_of(state: NDArray[np.float32], step: int, rate: int) -> NDArray[np.float32]:
    """Return ages 0…1 at the start of a step, (n,); the kernels' own arithmetic in plain NumPy."""
    whole = (step - state[BORN].view(np.int32)).astype(np.float32)
    return (whole * np.float32(1.0 / rate) + state[SINCE]) * state[AGING]


def born_since_zero(state: NDArray[np.float32]) -> int:
    """Return how many of the living were born at time 0 or later."""
    born = state[BORN].view(np.int32)
    return int(np.count_nonzero((born >= 1) | ((born == 0) & (state[SINCE] == 0.0))))

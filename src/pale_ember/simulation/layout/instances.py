"""What a particle looks like at a moment, as the GPU takes it: the one type that kernels, drawing and
tests share.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..kernels import cache
from .slots import STRAIGHT

# Columns that are no field's own, with the numbers that stand there without a word.
_OWN: dict[str, tuple[float, ...]] = {
    # Place in the world, m; width and height, m; angle, radians; colour, linear.
    "place": (0.0, 0.0, 0.0),
    "size": (0.0, 0.0),
    "angle": (0.0,),
    "color": (1.0, 1.0, 1.0),
    # The way that it is drawn out by, m, or its velocity, m/s; frame of its sheet.
    "way": (0.0, 0.0, 0.0),
    "frame": (0.0,),
    # Two throws of its dice: its place on noises, whether it is mirrored; seconds lived.
    "dice": (0.0, 0.0),
    "lived": (0.0,),
    # Of ribbons: which way the width goes, of length 1; how long the ribbon was there, m.
    "across": (0.0, 0.0, 0.0),
    "laid": (0.0,),
    # Of meshes: how they are turned, a quaternion with its whole part last; a throw of the dice for which
    # part of a mesh they are.
    "turn": (0.0, 0.0, 0.0, 1.0),
    "lot": (0.0,),
}
# Columns that multiply the colour; they are written together with it.
WITH_COLOR = ("opacity", "intensity")
# Columns that instances always carry. Others are left out if all particles of a layer share one value.
ALWAYS = ("place", "size")
PLAIN: dict[str, tuple[float, ...]] = _OWN | {
    name: (straight.column.neutral,) * straight.parts for name, straight in STRAIGHT.items()
}
NAMES: tuple[str, ...] = tuple(PLAIN)


def parts_of(name: str) -> int:
    """Return how many numbers a column is."""
    return len(PLAIN[name])


def _shape(name: str) -> tuple[object, ...]:
    return (np.float32, parts_of(name)) if parts_of(name) > 1 else (np.float32,)


INSTANCE = np.dtype([(name, *_shape(name)) for name in NAMES])

# Kernels hold the columns' order, which the text of this file doesn't tell.
cache.note_constants("layout.instances", NAMES)


def instance_type(fields: tuple[str, ...]) -> np.dtype[np.void]:
    """Return the type of instances that carry only some fields, in the order of ``INSTANCE``."""
    return np.dtype([(name, *_shape(name)) for name in NAMES if name in fields or name in ALWAYS])


def columns_of(kind: np.dtype[np.void]) -> NDArray[np.int64]:
    """Return at which float of an instance each field begins; -1 for those it doesn't carry."""
    fields: Any = kind.fields or {}
    return np.array([fields[name][1] // 4 if name in fields else -1 for name in NAMES], np.int64)


def field_of(
    rows: NDArray[np.void], name: str, fixed: dict[str, tuple[float, ...]] | None = None
) -> NDArray[np.float32]:
    """Return a field of some instances, (n,) or (n, parts), whether they carry it or all share one value
    of it.
    """
    if name in (rows.dtype.names or ()):
        return rows[name]
    value = (fixed or {}).get(name, PLAIN[name])
    whole = np.broadcast_to(np.array(value, np.float32), (len(rows), len(value)))
    return whole if len(value) > 1 else whole[:, 0]


def checked(rows: NDArray[np.void]) -> NDArray[np.void]:
    """Return instances as they are, refusing what is not made of this type's fields."""
    names = rows.dtype.names or ()
    if rows.dtype != instance_type(names) or not set(ALWAYS) <= set(names):
        raise TypeError(f"instances must be of INSTANCE's fields, not {rows.dtype}")
    return rows

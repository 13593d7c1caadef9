"""What a particle looks like at a moment, as the GPU takes it: the one type that kernels, drawing and
tests share.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

# Place in the world, m; width and height, m; angle, radians; linear colour; opacity; light, times the colour;
# the way that it is drawn out by, m, or its velocity, m/s; frame of its sheet; 0 alpha to 1 add; how much it
# is eroded, bent, shimmers; two throws of its dice: its place on noises, whether it is mirrored; seconds
# lived. Of ribbons: which way the width goes, of length 1; how long the ribbon was there, m. Of meshes: how
# they are turned, a quaternion with its whole part last; how much they are stretched; their rim's light; a
# throw of the dice for which part of a mesh they are.
INSTANCE = np.dtype(
    [
        ("place", np.float32, 3),
        ("size", np.float32, 2),
        ("angle", np.float32),
        ("color", np.float32, 3),
        ("opacity", np.float32),
        ("intensity", np.float32),
        ("way", np.float32, 3),
        ("frame", np.float32),
        ("mix", np.float32),
        ("erode", np.float32),
        ("bend", np.float32),
        ("shimmer", np.float32),
        ("dice", np.float32, 2),
        ("lived", np.float32),
        ("across", np.float32, 3),
        ("laid", np.float32),
        ("turn", np.float32, 4),
        ("stretch", np.float32, 3),
        ("rim_light", np.float32),
        ("lot", np.float32),
    ]
)
NAMES: tuple[str, ...] = tuple(INSTANCE.names or ())
# What is the same for all particles of a layer is left out of its instances; without a word it is this.
ALWAYS = ("place", "size")
PLAIN: dict[str, tuple[float, ...]] = {
    "angle": (0.0,),
    "color": (1.0, 1.0, 1.0),
    "opacity": (1.0,),
    "intensity": (1.0,),
    "way": (0.0, 0.0, 0.0),
    "frame": (0.0,),
    "mix": (0.0,),
    "erode": (0.0,),
    "bend": (0.0,),
    "shimmer": (0.0,),
    "dice": (0.0, 0.0),
    "lived": (0.0,),
    "across": (0.0, 0.0, 0.0),
    "laid": (0.0,),
    "turn": (0.0, 0.0, 0.0, 1.0),
    "stretch": (1.0, 1.0, 1.0),
    "rim_light": (0.0,),
    "lot": (0.0,),
}


def instance_type(fields: tuple[str, ...]) -> np.dtype[np.void]:
    """Return the type of instances that carry only some fields, in the order of ``INSTANCE``."""
    return np.dtype([(name, *_shape(name)) for name in NAMES if name in fields or name in ALWAYS])


def _shape(name: str) -> tuple[object, ...]:
    part = INSTANCE.fields[name][0]  # type: ignore[index]
    return (np.float32, part.shape) if part.shape else (np.float32,)


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

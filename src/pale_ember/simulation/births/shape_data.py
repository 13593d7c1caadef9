"""A layer's birthplace as the kernels take it: sizes, choices by number, corners, and the keys of its
dice.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.look import Look
from ...effect.chapters.source import Birthplace
from ...effect.kinds import Aim, EmitterShape, Fill
from ..layout.dependence import is_in_row, is_swept
from ..layout.program import Shape
from ..motion.bows import Bow, bow_at_rest
from ..values.dice import property_key

KINDS, FILLS, AIMS = tuple(EmitterShape), tuple(Fill), tuple(Aim)
POINT, BALL, DOME, BOX, CONE, CYLINDER, RING, LINE, BOW, MESH = (KINDS.index(kind) for kind in EmitterShape)
VOLUME, SKIN, RIM = (FILLS.index(fill) for fill in Fill)
AXIS, OUTWARD, INWARD, RANDOM = (AIMS.index(aim) for aim in Aim)
# Whose dice are whose: places in the shape are drawn with the first three, a ring's tries and faces with
# ``PICK``.
PLACE_U, PLACE_V, PLACE_W, AIM_U, AIM_V, SCATTER_U, SCATTER_V, PICK, FAN_U, FAN_V = range(10)
_NO_CORNERS = np.zeros((0, 3, 3))
# Where along a line or a bow they are born.
ANYWHERE, IN_ROW, MIDDLE = range(3)


def shape_of(
    birthplace: Birthplace,
    stretch: float,
    dice: int,
    corners: NDArray[np.float64] = _NO_CORNERS,
    bow: Bow | None = None,
    row: int = ANYWHERE,
) -> Shape:
    """Return a birthplace for the kernels.

    Parameters
    ----------
    stretch : float
        Multiplies all lengths.
    dice : int
        The layer's key.
    corners : (n, 3, 3) array
        The mesh's faces; with none, particles of a mesh are born at the centre.
    bow : Bow, optional
        Where a bow's curve goes.
    row : int
        Where along a line or a bow they are born.
    """
    bow = bow or bow_at_rest(birthplace, stretch)
    corners = np.ascontiguousarray(corners * (stretch * birthplace.mesh_scale), dtype=np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    reach = np.cumsum(np.linalg.norm(across, axis=1))
    keys = [property_key(dice, f"birthplace/{i}") for i in range(10)]
    width, tall, depth = (stretch * e for e in birthplace.extents)
    return Shape(
        kind=KINDS.index(birthplace.kind),
        fill=FILLS.index(birthplace.fill),
        aim=AIMS.index(birthplace.aim),
        radius=birthplace.radius * stretch,
        tube=birthplace.tube * stretch,
        height=birthplace.height * stretch,
        width=width,
        tall=tall,
        depth=depth,
        angle=math.radians(birthplace.angle),
        arc=math.radians(birthplace.arc),
        fan=math.radians(birthplace.fan),
        scatter=float(birthplace.scatter),
        glitter=birthplace.glitter,
        row=row,
        stray=birthplace.stray * stretch,
        moves=bow.moves,
        bow=bow.points,
        even=bow.even,
        at=np.zeros(2, np.int64),
        corners=corners,
        reach=reach / reach[-1] if len(reach) and reach[-1] > 0.0 else np.zeros(0),
        keys=np.array(keys, np.uint32),
    )


def row_of(birthplace: Birthplace, look: Look) -> int:
    """Return where along a line or a bow a layer's are born."""
    if is_swept(birthplace, look):
        return MIDDLE
    return IN_ROW if is_in_row(birthplace) else ANYWHERE

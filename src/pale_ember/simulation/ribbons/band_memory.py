"""How bands are laid (:class:`Laying`), and the working memory that they are built in."""

from __future__ import annotations

import math
from typing import NamedTuple

from ..kernels.arrays import Float32x1D, Float64x1D, Int64x1D, Int64x2D
from ..kernels.bundles import bundle_type, bundled

# Which way a band's width goes, as in ``Across``.
CAMERA, FLAT, AXIS, LINE = range(4)
# What every vertex has: its place, m; across -1 to 1 and along, twice the picture's share less 1; light and
# opacity; how far its tail and its head are, in halves of the width.
SPOT, LIGHT, ENDS, BASE = 3, 5, 9, 11
# Rows of the working memory. Of the points: place, half the width, which way the chord to the next goes and
# how long it is, which way the band itself goes, and how many pieces go to the next.
PX, PY, PZ, PH, CX, CY, CZ, CHORD, TX, TY, TZ, PARTS = range(12)
# Of the way: place, half the width; light and opacity; what instances say of its width's way; how long it is
# up to there; which way it goes on and how far to the next place; which way it comes and goes, looked at over
# half of its width; which way its width goes, whether that changes sides here (1 or -1), how much farther out
# edges meet; how far the left and the right edge are; how opaque it is still, how far along the picture, how
# far the tail and the head are; where between two points it is.
(
    X,
    Y,
    Z,
    HALF,
    R,
    G,
    B,
    A,
    UX,
    UY,
    UZ,
    LONG,
    DX,
    DY,
    DZ,
    STEP,
    AX,
    AY,
    AZ,
    BX,
    BY,
    BZ,
    SX,
    SY,
    SZ,
    SIGN,
    CORNER,
    LEFT,
    RIGHT,
    COVER,
    ALONG,
    TAIL,
    HEAD,
    SHARE,
) = range(12, 46)
# And whatever else goes along, from here on.
MORE = 46
WORK_ROWS = MORE + 8
# Points nearer to each other than this share of the width are one, and so are those nearer than this, m.
ONE, NEAR = 1e-4, 1e-7
# A rounded way turns no more than this from one point put between to the next, nor leaves the true one by
# more pixels.
TURN, PIXELS = math.radians(6.0), 0.15


@bundled
class Laying(NamedTuple):
    """How bands are laid.

    ``across`` is a place in ``Across``; ``smooth`` so many points at most between two; ``gap`` m, 0 for none;
    ``every`` m that the picture is long, 0 for the whole band; ``laid`` whether it stays where it was laid.
    ``eye`` (3,) and ``back`` (3,) are the camera's; ``dense`` pixels that a metre has at a metre's distance,
    0 where nothing is seen from anywhere; ``widens`` whether what is thinner than two pixels is drawn as wide
    with less light.

    ``fields`` (7,) are the columns of place, width, light, opacity, intensity, across, how long the ribbon
    was in the rows,
    -1 for what all share: ``shared`` (5,) light, opacity, intensity. ``more`` (n, 2) are columns in the rows
    and in the vertices of whatever else goes along; ``sides`` the column of each vertex's side and way, 6,
    ``random_values`` that of a number that tells ribbons apart; -1 for none.
    """

    across: int
    smooth: int
    gap: float
    every: float
    laid: bool
    eye: Float64x1D
    back: Float64x1D
    dense: float
    widens: bool
    fields: Int64x1D
    shared: Float32x1D
    more: Int64x2D
    sides: int
    random_values: int


F_PLACE, F_WIDE, F_LIGHT, F_COVER, F_STRENGTH, F_ACROSS, F_LAID = range(7)
LAYING = bundle_type(Laying)

"""A layer's program: all that its kernels are handed, by name. Made in :mod:`..time.compile_layer`."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..kernels.arrays import (
    Float32x1D,
    Float32x2D,
    Float64x1D,
    Float64x2D,
    Float64x3D,
    Float64x4D,
    Int32x1D,
    Int64x1D,
    Int64x2D,
    UInt32x1D,
    UInt64x1D,
    UInt64x3D,
)
from ..kernels.bundles import bundled
from ..kernels.compiling import Calls
from .payload_columns import VELOCITY
from .rows import ExtraRows

# A pose: centre (3), rotation to the world (9, row by row), stretch of its lengths.
CENTRE, ROTATION, STRETCH, POSE = 0, 3, 12, 13
# Poses kept for a step: at its start, in its middle, at its end, of the moment of a birth.
FROM, MIDDLE, TO, AT = range(4)
# And two rows of memory for what births need a moment: ways and places; zeros and vectors.
SPARE, VECTORS = range(4, 6)
POSES = 6
# Entries of a layer's counters since time 0: births, refusals and hits; of the refusals those that a full cap
# alone made.
BORN, REFUSED, HITS, FULL = range(4)
COUNTERS = 4


# Where a slot's table is: its number of cells, its offset in ``data``, and that of its cells in ``cut_of``.
CELLS, OFFSET, CUTS = range(3)
# A cut: where it is, low and its slope from there, high and its slope.
CUT_X, CUT_LOW, CUT_LOW_SLOPE, CUT_HIGH, CUT_HIGH_SLOPE = range(5)


@bundled
class Tables(NamedTuple):
    """All slots of a layer, as the kernels take them.

    ``form`` (slots,) int32; ``ends`` (slots, 2) low and high of levels and spreads; ``key`` (slots,) uint32
    of each slot's dice; ``place`` (slots, 3) int64 of its table. A cell of a curve is (value, rise) in
    ``data``, of a band (low, rise, high, rise), the rise being that over the cell.

    Where a table jumps inside a cell it has cuts: ``cut_of`` has the first cut of each cell, -1 for a cell
    without one; the slot itself has -1 if no cell is cut. From its x on a cut has the value, up to the next;
    one that no x reaches ends those of a cell.
    """

    form: Int32x1D
    ends: Float32x2D
    key: UInt32x1D
    place: Int64x2D
    data: Float32x1D
    cut_of: Int32x1D
    cut: Float32x2D


@bundled
class Shape(NamedTuple):
    """A birthplace as the kernels take it: lengths in m, angles in radians, ``keys`` of its dice.

    ``row`` says where along a line or a bow they are born: anywhere, 0; where their row says, 1; in the
    middle, 2. A bow ``moves`` if what its ends stand on does: ``bow`` (moments, 4, 3), the points of a cubic
    by P. Bézier in the layer's axes, and ``even`` (moments, n) how far along it, 0…1, its evenly spaced
    places are, stand at the beginning of each step and at the end; ``at`` (2,) is the present step's place
    among them and the step of the first. ``stray`` is in m. ``kind``, ``fill`` and ``aim`` are places in
    their enumerations. ``corners`` (n, 3, 3) are the corners of a mesh's faces in m, ``reach`` (n,) the
    shares of its area up to and with each face.
    """

    kind: int
    fill: int
    aim: int
    radius: float
    tube: float
    height: float
    width: float
    tall: float
    depth: float
    angle: float
    arc: float
    fan: float
    scatter: float
    glitter: bool
    row: int
    stray: float
    moves: bool
    bow: Float64x3D
    even: Float64x2D
    at: Int64x1D
    corners: Float64x3D
    reach: Float64x1D
    keys: UInt32x1D


@bundled
class Track(NamedTuple):
    """A layer's place and path as the kernels take them.

    ``centre`` (3,) m, ``rotation`` (3, 3) and ``scale`` are the place's; ``x`` (n,), ``c`` (n, 7, 4),
    ``end``, ``first`` and ``last`` (7,) the path's pieces; ``moves`` tells whether there is a path at all.
    """

    centre: Float64x1D
    rotation: Float64x2D
    scale: float
    moves: bool
    x: Float64x1D
    c: Float64x3D
    end: float
    first: Float64x1D
    last: Float64x1D


@bundled
class Surroundings(NamedTuple):
    """What a layer's motion needs besides its slots, in the world's axes.

    ``rotation`` (3, 3) float32 from layer to world, ``centre`` (3,), ``axis`` (3,) and ``stretch`` (1,) are
    those of the middle of the step, and so are ``breeze`` (3,), the wind as it gusts, m/s, and ``slid`` (2,
    3), how far the two noises of the eddies have slid, in eddies; ``eddy`` m, ``octaves`` and ``salt`` are
    theirs too. ``speed_range`` m/s; ``sides`` is the key of the dice that push what is born on the axis to a
    side.
    """

    rotation: Float32x2D
    centre: Float32x1D
    axis: Float32x1D
    stretch: Float32x1D
    breeze: Float32x1D
    slid: Float64x2D
    eddy: float
    octaves: int
    salt: int
    speed_range: float
    sides: int


@bundled
class DrawingCodes(NamedTuple):
    """What a layer's particles are drawn as: places in ``DrawnAs``, ``Across`` and ``Stand``; the key of the
    dice that choose their parts and, tumbling, their axes.
    """

    draw: int
    across: int
    stand: int
    random_values: int


@bundled
class Weather(NamedTuple):
    """Wind and eddies over time: ``wind`` (3,) m/s, ``gust`` 0…1 of it in periods of ``gust_period`` s,
    ``churn`` 1/s.

    With ``repeats`` both come round with the loop.
    """

    wind: Float64x1D
    gust: float
    gust_period: float
    churn: float
    repeats: bool


@bundled
class Clock(NamedTuple):
    """How steps become a window's clock.

    ``rate`` steps/s; ``duration`` of a loop, s, 0 for none, ``whole`` the steps of a loop if it is a whole
    number of them, else 0; ``begin`` and ``length`` of the window, s.
    """

    rate: float
    duration: float
    whole: int
    begin: float
    length: float


@bundled
class World(NamedTuple):
    """What particles of a layer can meet.

    Of n props: ``kind`` (n,) places in ``PropKind``; ``half`` (n, 3) half their sizes, m; ``poses`` (3, n,
    pose) at the beginning and the end of the step, and at the end of the one before, of their feet; ``turn``
    (n, 4) axis and angle from the one to the other; ``boxes`` (n, 6) what they sweep in the step; ``balls``
    (n, 4) middle and radius of a ball around each that rests; ``movers`` those that move, and ``table``
    (steps, 2, movers, pose) their poses from the step ``since`` (1,) on. ``roots`` (n,), ``closed`` (n,),
    ``nodes``, ``links``, ``corners``, ``planes`` are the trees of meshes.

    ``grids`` (n, 6) and ``counts`` (n, 6) are those of the meshes' cells: where each begins and its cells to
    a metre; their number along each axis, where its cells begin in ``first``, its triangles in ``corners``,
    its words in ``bits``. ``first``, ``listed`` and ``bits`` are of the cells.

    ``grid`` (x, y, z) has a bit for each resting prop that touches a cell; it begins at ``low`` (3,), with
    ``dense`` (3,) cells to a metre. ``on_hit``, ``wear``, ``reach`` and ``widest``, the most that particles
    reach, m, are the layer's.
    """

    floor: bool
    on_hit: int
    wear: float
    reach: float
    widest: float
    kind: Int64x1D
    half: Float64x2D
    poses: Float64x3D
    turn: Float64x2D
    boxes: Float64x2D
    balls: Float32x2D
    movers: Int64x1D
    table: Float64x4D
    since: Int64x1D
    roots: Int64x1D
    closed: Int64x1D
    nodes: Float64x2D
    links: Int64x2D
    corners: Float64x3D
    planes: Float64x2D
    grids: Float64x2D
    counts: Int64x2D
    first: Int32x1D
    listed: Int32x1D
    bits: UInt64x1D
    grid: UInt64x3D
    low: Float64x1D
    dense: Float64x1D


@bundled
class Log(NamedTuple):
    """Memory for what happens to particles, and what of it is wanted.

    ``wants`` is a sum of the bits in :mod:`.recording`; ``what`` (room, columns) float32 and ``who`` (room,
    4) int64, rows as they are numbered there; ``used`` (2,) the rows in use, and the hits since time 0.
    """

    wants: int
    what: Float32x2D
    who: Int64x2D
    used: Int64x1D


@bundled
class LayerProgram(NamedTuple):
    """All that a layer's motion depends on, as the kernels take it.

    ``follow`` tells whether particles move with the layer. The last ones but the addresses are memory to
    reuse: ``form``, ``ends`` of the slots at this moment, ``poses`` (6, pose). ``extra_rows`` tells which
    rows a state has besides those of all layers, ``world`` what there is to meet, ``log`` where what happens
    is written, ``drawn`` what they are drawn as. With ``has_contact`` particles may meet things; with
    ``is_recorded`` each one's flight or death is written down.
    """

    clock: Clock
    follow: bool
    tables: Tables
    shape: Shape
    track: Track
    weather: Weather
    around: Surroundings
    form: Int32x1D
    ends: Float32x2D
    poses: Float64x2D
    extra_rows: ExtraRows
    world: World
    log: Log
    calls: Calls
    drawn: DrawingCodes
    has_contact: bool
    is_recorded: bool


@bundled
class Showing(NamedTuple):
    """Particles that are shown, at which moment, and where their instances go.

    ``state`` and ``serial`` (n,) are the particles'; ``out`` (n, floats of an instance) takes their
    instances, with each field where ``columns`` says (:func:`~.instances.columns_of`), -1 for one that isn't
    carried: size and angle as drawn, colour linear and without intensity. ``form`` and ``ends`` are the slots
    at this moment (:func:`~..values.sampling.at_clock`), which is the start of ``step``; ``clock`` is the
    window's then, s.
    """

    state: Float32x2D
    serial: UInt32x1D
    out: Float32x2D
    columns: Int64x1D
    form: Int32x1D
    ends: Float32x2D
    step: int
    clock: float


@bundled
class Births(NamedTuple):
    """The births of a stretch of steps, in order.

    ``left`` (n,) s of its step that each lives, ``clock`` (n,) of the window, ``number`` (n,) uint32; those
    of step i of the stretch are ``first[i]`` to ``first[i + 1]``. ``rest`` (steps,) counts those behind them
    in a step that no cap could hold, since time 0. Of a follow-up ``payload`` (events, columns) is what is
    given at each event, as
    :mod:`.payload_columns` numbers it, ``of`` (n,) the row of each birth's, and ``carried`` (n,) how much of
    the velocity there each has, if they have any; of others these have no rows. ``row`` (n,) is the place of
    each in its row, 0…1, where the layer's are born in one.
    """

    left: Float32x1D
    clock: Float64x1D
    number: UInt32x1D
    first: Int64x1D
    rest: Int64x1D
    payload: Float32x2D = np.zeros((0, 0), np.float32)
    of: Int32x1D = np.zeros(0, np.int32)
    carried: Float32x1D = np.zeros(0, np.float32)
    row: Float32x1D = np.zeros(0, np.float32)

    def payload_each(self) -> NDArray[np.float32]:
        """Return what each birth is given, (n, columns)."""
        found = self.payload[self.of]
        if len(self.carried):
            found[:, VELOCITY : VELOCITY + 3] *= self.carried[:, None]
        return found

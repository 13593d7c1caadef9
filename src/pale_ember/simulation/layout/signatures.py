"""The Numba types that kernels share: arrays, and the bundles that a layer hands to them."""

from __future__ import annotations

from numba import types

from ..kernels.bundles import Bundle
from ..kernels.compiling import Calls
from .program import Births, Clock, Course, Drawn, Log, Shape, Surroundings, Tables, Track, Weather, World
from .rows import ExtraRows

F1 = types.float32[::1]
F2 = types.float32[:, ::1]
D1 = types.float64[::1]
D2 = types.float64[:, ::1]
D3 = types.float64[:, :, ::1]
I1 = types.int32[::1]
L1 = types.int64[::1]
L2 = types.int64[:, ::1]
U1 = types.uint32[::1]
U2 = types.uint32[:, ::1]
U8 = types.uint64[::1]
INT, BOOL, FLOAT, REAL, NUMBER = types.int64, types.boolean, types.float32, types.float64, types.uint32
NOTHING = types.void

TABLES = Bundle(Tables, I1, F2, U1, L2, F1, I1, F2)
SHAPE = Bundle(Shape, INT, INT, INT, *(REAL,) * 10, BOOL, INT, REAL, BOOL, D3, D2, L1, D3, D1, U1)
TRACK = Bundle(Track, D1, D2, REAL, BOOL, D1, D3, REAL, D1, D1)
WEATHER = Bundle(Weather, D1, REAL, REAL, REAL, BOOL)
AROUND = Bundle(Surroundings, F2, F1, F1, F1, F1, D2, REAL, INT, INT, REAL, INT)
CALLS = Bundle(Calls, *(INT,) * len(Calls._fields))
CLOCK = Bundle(Clock, REAL, REAL, INT, REAL, REAL)
D4 = types.float64[:, :, :, ::1]
EXTRA_ROWS = Bundle(ExtraRows, *(INT,) * len(ExtraRows._fields))
WORLD = Bundle(
    World, BOOL, INT, REAL, REAL, REAL, L1, D2, D3, D2, D2, F2, L1, D4, L1, L1, L1, D2, L2, D3, D2, D2, L2, I1, I1,
    U8, types.uint64[:, :, ::1], D1, D1,
)  # fmt: skip
LOG = Bundle(Log, INT, F2, L2, L1)
DRAWN = Bundle(Drawn, INT, INT, INT, INT)
COURSE = Bundle(Course, CLOCK, BOOL, TABLES, SHAPE, TRACK, WEATHER, AROUND, I1, F2, D2, EXTRA_ROWS, WORLD, LOG, CALLS, DRAWN)
BIRTHS = Bundle(Births, F1, D1, U1, L1, L1, F2, I1, F1, F1)

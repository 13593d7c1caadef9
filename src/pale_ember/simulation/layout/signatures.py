"""The Numba types that kernels share: arrays, and the bundles that a layer hands to them."""

from __future__ import annotations

from numba import types

from ..kernels.bundles import bundle_type
from ..kernels.compiling import Calls
from .program import (
    Births,
    Clock,
    DrawingCodes,
    LayerProgram,
    Log,
    Shape,
    Showing,
    Surroundings,
    Tables,
    Track,
    Weather,
    World,
)
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

TABLES = bundle_type(Tables)
SHAPE = bundle_type(Shape)
TRACK = bundle_type(Track)
WEATHER = bundle_type(Weather)
AROUND = bundle_type(Surroundings)
CALLS = bundle_type(Calls)
CLOCK = bundle_type(Clock)
D4 = types.float64[:, :, :, ::1]
EXTRA_ROWS = bundle_type(ExtraRows)
WORLD = bundle_type(World)
LOG = bundle_type(Log)
DRAWN = bundle_type(DrawingCodes)
PROGRAM = bundle_type(LayerProgram)
SHOWING = bundle_type(Showing)
BIRTHS = bundle_type(Births)

"""Array types of bundles: to people and type checkers what NumPy calls them, to kernels what Numba does.

All lie in C order. ``Float32x2D`` is an array of two dimensions of 32-bit floating point numbers.
"""

from __future__ import annotations

from typing import Annotated

import numpy as np
from numba import types
from numpy.typing import NDArray

Float32x1D = Annotated[NDArray[np.float32], types.float32[::1]]
Float32x2D = Annotated[NDArray[np.float32], types.float32[:, ::1]]
Float64x1D = Annotated[NDArray[np.float64], types.float64[::1]]
Float64x2D = Annotated[NDArray[np.float64], types.float64[:, ::1]]
Float64x3D = Annotated[NDArray[np.float64], types.float64[:, :, ::1]]
Float64x4D = Annotated[NDArray[np.float64], types.float64[:, :, :, ::1]]
Int32x1D = Annotated[NDArray[np.int32], types.int32[::1]]
Int64x1D = Annotated[NDArray[np.int64], types.int64[::1]]
Int64x2D = Annotated[NDArray[np.int64], types.int64[:, ::1]]
UInt32x1D = Annotated[NDArray[np.uint32], types.uint32[::1]]
UInt64x1D = Annotated[NDArray[np.uint64], types.uint64[::1]]
UInt64x3D = Annotated[NDArray[np.uint64], types.uint64[:, :, ::1]]

"""Table look-ups for eight particles at once.

Numba can't turn a look-up whose places come from an array into vector code, since it can't rule out that
the table and the results overlap; so the vector code is written here. The arithmetic is that of the plain
loop, operation by operation, and so are the results.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

LANES = 8
# To a type checker, what it makes takes the context too.
_intrinsic: Any = intrinsic
_FLOATS = ir.VectorType(ir.FloatType(), LANES)
_INTS = ir.VectorType(ir.IntType(32), LANES)


class _Lanes:
    """Eight entries of arrays, from index ``at`` on, while code is made."""

    def __init__(self, context: Any, builder: Any, signature: Any, args: Any) -> None:
        self.builder = builder
        self.at = args[-1]
        self.data = [
            cgutils.create_struct_proxy(kind)(context, builder, value).data
            for kind, value in zip(signature.args[:-1], args[:-1])
        ]

    def _pointer(self, array: int, vector: Any) -> Any:
        return self.builder.bitcast(self.builder.gep(self.data[array], [self.at]), vector.as_pointer())

    def load(self, array: int, vector: Any = _FLOATS) -> Any:
        return self.builder.load(self._pointer(array, vector), align=4)

    def store(self, array: int, found: Any) -> None:
        self.builder.store(found, self._pointer(array, _FLOATS), align=4)

    def cells(self, table: int, places: int, size: int) -> list[Any]:
        """Return the eight cells that an array of places names, each a vector of ``size`` floats."""
        b = self.builder
        places = self.load(places, _INTS)
        found = []
        for lane in range(LANES):
            place = b.zext(b.extract_element(places, ir.Constant(ir.IntType(32), lane)), ir.IntType(64))
            first = b.gep(self.data[table], [b.mul(place, ir.Constant(ir.IntType(64), size))])
            vector = ir.VectorType(ir.FloatType(), size)
            found.append(b.load(b.bitcast(first, vector.as_pointer()), align=4))
        return found

    def mixed(self, a: Any, b: Any, order: list[int]) -> Any:
        """Return the entries of two vectors in an order; those of the second count on from the first's."""
        return self.builder.shuffle_vector(
            a, b, ir.Constant(ir.VectorType(ir.IntType(32), len(order)), order)
        )


@_intrinsic
def curve_lanes(typing: Any, out: Any, data: Any, at: Any, share: Any, i: Any) -> Any:
    """Set ``out[i:i+8]`` to value + rise·share of the cells ``at[i:i+8]`` of a curve's table."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        lanes = _Lanes(context, builder, signature, args)
        cells = lanes.cells(1, 2, 2)
        pairs = [lanes.mixed(cells[k], cells[k + 1], [0, 1, 2, 3]) for k in (0, 2, 4, 6)]
        even, odd = (lanes.mixed(pairs[k], pairs[k + 2], [0, 1, 2, 3, 4, 5, 6, 7]) for k in (0, 1))
        value = lanes.mixed(even, odd, [0, 2, 8, 10, 4, 6, 12, 14])
        rise = lanes.mixed(even, odd, [1, 3, 9, 11, 5, 7, 13, 15])
        lanes.store(0, builder.fadd(value, builder.fmul(rise, lanes.load(3))))
        return context.get_dummy_value()

    return types.void(out, data, at, share, types.intp), code


@_intrinsic
def band_lanes(typing: Any, out: Any, data: Any, at: Any, share: Any, u: Any, i: Any) -> Any:
    """Set ``out[i:i+8]`` to the place ``u[i:i+8]`` between the two curves of a band's table."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        """Write the machine instructions."""
        b, lanes = builder, _Lanes(context, builder, signature, args)
        cells, t = lanes.cells(1, 2, 4), lanes.load(3)
        halves = [lanes.mixed(cells[k], cells[k + 4], [0, 1, 2, 3, 4, 5, 6, 7]) for k in range(4)]
        near, far = [0, 8, 1, 9, 4, 12, 5, 13], [2, 10, 3, 11, 6, 14, 7, 15]
        first, last = [0, 1, 8, 9, 4, 5, 12, 13], [2, 3, 10, 11, 6, 7, 14, 15]
        lows, highs = (
            (lanes.mixed(halves[0], halves[1], side), lanes.mixed(halves[2], halves[3], side))
            for side in (near, far)
        )
        low = b.fadd(lanes.mixed(*lows, first), b.fmul(lanes.mixed(*lows, last), t))
        high = b.fadd(lanes.mixed(*highs, first), b.fmul(lanes.mixed(*highs, last), t))
        lanes.store(0, b.fadd(low, b.fmul(b.fsub(high, low), lanes.load(4))))
        return context.get_dummy_value()

    return types.void(out, data, at, share, u, types.intp), code

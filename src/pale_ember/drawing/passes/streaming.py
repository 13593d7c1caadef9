"""A buffer for what is different in each picture, and the arrays that read it."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..targets import release


class Stream:
    """Memory on the GPU that grows with what is written to it. Use and release it with its context
    current.
    """

    def __init__(self, ctx: Any) -> None:
        self.ctx = ctx
        self._buffer: Any = None
        self._arrays: dict[Any, Any] = {}

    def array(
        self,
        program: Any,
        rows: NDArray[Any],
        layout: tuple[str, ...],
        beside: tuple[Any, ...] = (),
        key: object = None,
        index: Any = None,
    ) -> Any:
        """Write rows, and return a vertex array that reads them as a layout says.

        Parameters
        ----------
        beside : tuple, optional
            What else the array reads, as moderngl takes it, with an ``index`` or without; told apart by
            ``key``.
        """
        size = rows.nbytes
        if self._buffer is None or self._buffer.size < size:
            self.release()
            self._buffer = self.ctx.buffer(reserve=max(size * 3 // 2, 1 << 16), dynamic=True)
        else:
            self._buffer.orphan()
        self._buffer.write(np.ascontiguousarray(rows).view(np.uint8))
        known = (program.glo, layout, key)
        if known not in self._arrays:
            self._arrays[known] = self.ctx.vertex_array(
                program, [*beside, (self._buffer, *layout)], index_buffer=index
            )
        return self._arrays[known]

    def forget(self, key: object) -> None:
        """Give back the arrays that read something besides, as it goes away."""
        for known in [one for one in self._arrays if one[2] == key]:
            release(self._arrays.pop(known))

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        release(*self._arrays.values(), self._buffer)
        self._buffer, self._arrays = None, {}

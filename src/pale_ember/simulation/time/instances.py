"""What a layer's particles look like at a moment: their instances, and the memory that holds them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Layer
from ..appearance.appear import write_instances
from ..layout import slots
from ..layout.instances import columns_of, instance_type
from ..layout.program import LayerProgram, Showing, Tables
from ..values.sampling import at_clock
from .compile_layer import carried_fields
from .thread_pool import ScratchMemory, ThreadPool


class Instances:
    """The instances of a layer's particles.

    Parameters
    ----------
    layer : Layer
    tables : Tables
        The layer's fields, as kernels read them.
    most : int
        So many particles are alive at most.

    Attributes
    ----------
    fixed : dict
        Fields of ``INSTANCE`` that instances don't carry, with the value that all particles share.
    """

    def __init__(self, layer: Layer, tables: Tables, most: int) -> None:
        fields, self.fixed = carried_fields(layer, tables)
        self._tables, self._most = tables, most
        self._kind = instance_type(fields)
        self._columns = columns_of(self._kind)
        self._memory: NDArray[np.float32] | None = None
        self._step: int | None = None

    def forget(self) -> None:
        """Work them out anew when they are asked for next."""
        self._step = None

    def of_all(
        self,
        program: LayerProgram,
        state: NDArray[np.float32],
        serial: NDArray[np.uint32],
        step: int,
        clock: float,
        threads: ThreadPool,
        scratch: ScratchMemory,
    ) -> NDArray[np.void]:
        """Return the instances of the first ``len(serial)`` particles, good until the next call."""
        n = len(serial)
        if self._memory is None:
            self._memory = np.empty((self._most, self._kind.itemsize // 4), np.float32)
        if self._step != step:
            showing = self._showing(state, serial, self._memory, step, clock)

            def work(thread: int, first: int, last: int) -> None:
                write_instances(program, showing, first, last, scratch.look(thread))

            if threads.splits(n):
                threads.share(n, work)
            else:
                work(0, 0, n)
            self._step = step
        return self._memory[:n].view(self._kind)[:, 0]

    def of_others(
        self,
        program: LayerProgram,
        state: NDArray[np.float32],
        serial: NDArray[np.uint32],
        step: int,
        clock: float,
        scratch: ScratchMemory,
    ) -> NDArray[np.void]:
        """Return instances of particles that stand elsewhere, (n,), in memory of their own."""
        out = np.zeros((len(serial), self._kind.itemsize // 4), np.float32)
        showing = self._showing(np.ascontiguousarray(state), serial, out, step, clock)
        write_instances(program, showing, 0, len(serial), scratch.look())
        return out.view(self._kind)[:, 0]

    def _showing(
        self,
        state: NDArray[np.float32],
        serial: NDArray[np.uint32],
        out: NDArray[np.float32],
        step: int,
        clock: float,
    ) -> Showing:
        """Return what the kernel of appearance takes."""
        form, ends = np.zeros(slots.COUNT, np.int32), np.zeros((slots.COUNT, 2), np.float32)
        at_clock(self._tables, clock, form, ends)
        # What keeps to the birth is read at each particle's own clock.
        form[slots.KEPT] = self._tables.form[slots.KEPT]
        return Showing(
            state=state,
            serial=serial,
            out=out,
            columns=self._columns,
            form=form,
            ends=ends,
            step=step,
            clock=clock,
        )

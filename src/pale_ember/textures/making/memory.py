"""What was made of builds lately, so that an edit of one step makes only that step and those above it
anew.
"""

from __future__ import annotations

import dataclasses
import threading
from collections import OrderedDict
from collections.abc import Hashable
from typing import Generic, TypeVar

from .canvas import Canvas
from .flow import Frame

# Bytes of all canvases, and of all flows, that are kept.
MOST_CANVASES, MOST_FLOWS = 96 << 20, 256 << 20
T = TypeVar("T")


class _Kept(Generic[T]):
    """The newest things that fit into some bytes."""

    def __init__(self, most: int) -> None:
        self.most, self.held = most, 0
        self.things: OrderedDict[Hashable, tuple[T, int]] = OrderedDict()

    def get(self, key: Hashable) -> T | None:
        found = self.things.get(key)
        if found is None:
            return None
        self.things.move_to_end(key)
        return found[0]

    def put(self, key: Hashable, thing: T, size: int) -> None:
        if key in self.things or size > self.most // 2:
            return
        self.things[key] = (thing, size)
        self.held += size
        while self.held > self.most:
            self.held -= self.things.popitem(last=False)[1][1]


class BuildMemory:
    """Canvases after each step, and the frames of flows; one for each place that makes builds again and
    again.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._canvases: _Kept[Canvas] = _Kept(MOST_CANVASES)
        self._flows: _Kept[list[Frame]] = _Kept(MOST_FLOWS)

    def canvas(self, key: Hashable) -> Canvas | None:
        """Return a copy of a canvas that may be worked on."""
        with self._lock:
            found = self._canvases.get(key)
        return None if found is None else dataclasses.replace(found, packed=dict(found.packed))

    def keep_canvas(self, key: Hashable, canvas: Canvas) -> None:
        """Keep a copy; arrays are shared, as no step writes into one that it was given."""
        parts = (
            canvas.light,
            canvas.color,
            canvas.heat,
            canvas.normals,
            canvas.motion,
            *canvas.packed.values(),
        )
        size = sum(part.nbytes for part in parts if part is not None)
        with self._lock:
            self._canvases.put(key, dataclasses.replace(canvas, packed=dict(canvas.packed)), size)

    def flow(self, key: Hashable) -> list[Frame] | None:
        with self._lock:
            return self._flows.get(key)

    def keep_flow(self, key: Hashable, frames: list[Frame]) -> None:
        size = sum(part.nbytes for frame in frames for part in (frame.smoke, frame.heat, frame.u, frame.v))
        with self._lock:
            self._flows.put(key, frames, size)

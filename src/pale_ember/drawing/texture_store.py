"""Textures on the graphics card: each is uploaded once for a context, and freed when memory is short."""

from __future__ import annotations

from collections import OrderedDict
from typing import Any, NamedTuple

import moderngl
import numpy as np

from ..textures.prepared import Prepared, linear_halves
from .targets import release

# Bytes of textures that are kept at most while others are in use.
MOST = 512 << 20
# A picture that is narrower one way on the screen is read up to so many times finer along the other.
ANISOTROPY = 4.0


class Held(NamedTuple):
    """A texture's parts as arrays of frames, and its polygons as a picture of 8 by frames."""

    picture: Any
    normals: Any
    motion: Any
    corners: Any
    joint_corners: Any


class TextureStore:
    """The textures of a context. Use and release it with the context current."""

    def __init__(self, ctx: Any) -> None:
        self.ctx = ctx
        self._held: OrderedDict[Prepared, Held] = OrderedDict()
        self._samplers: dict[tuple[bool, bool, bool, bool], Any] = {}

    @property
    def memory(self) -> int:
        """Return the bytes that its textures take."""
        return sum(ready.memory for ready in self._held)

    def get(self, ready: Prepared) -> Held:
        """Return a texture's parts."""
        found = self._held.get(ready)
        if found is None:
            found = self._held[ready] = self._put(ready)
            while self.memory > MOST and len(self._held) > 1:
                _, gone = self._held.popitem(last=False)
                release(*gone)
        self._held.move_to_end(ready)
        return found

    def sampler(self, smooth: bool, wrap: bool, draft: bool, anisotropic: bool = False) -> Any:
        """Return how a texture is read; a draft takes the nearest of its smaller copies.

        An ``anisotropic`` one is read finer along what is narrow on the screen only the other way.
        """
        key = (smooth, wrap, draft, anisotropic)
        if key not in self._samplers:
            between = moderngl.LINEAR_MIPMAP_NEAREST if draft else moderngl.LINEAR_MIPMAP_LINEAR
            filters = (
                (between, moderngl.LINEAR) if smooth else (moderngl.NEAREST_MIPMAP_NEAREST, moderngl.NEAREST)
            )
            ratio = ANISOTROPY if smooth and anisotropic else 1.0
            self._samplers[key] = self.ctx.sampler(
                repeat_x=wrap, repeat_y=wrap, filter=filters, anisotropy=ratio
            )
        return self._samplers[key]

    def _put(self, ready: Prepared) -> Held:
        return Held(
            self._array(linear_halves(ready.pixels) if ready.is_coded else ready.pixels),
            self._array(ready.normals),
            self._array(ready.motion),
            self._corners(ready.corners),
            self._corners(ready.joint_corners),
        )

    def _array(self, frames: Any) -> Any:
        if frames is None:
            return None
        count, high, wide, parts = frames.shape
        kind = "f1" if frames.dtype == np.uint8 else "f2"
        array = self.ctx.texture_array(
            (wide, high, count), parts, np.ascontiguousarray(frames).tobytes(), alignment=1, dtype=kind
        )
        array.build_mipmaps()
        return array

    def _corners(self, strips: Any) -> Any:
        table = self.ctx.texture(
            (strips.shape[1], strips.shape[0]), 2, strips.astype(np.float32).tobytes(), dtype="f4"
        )
        table.filter = moderngl.NEAREST, moderngl.NEAREST
        return table

    def release(self) -> None:
        """Give back all that it holds."""
        for held in self._held.values():
            release(*held)
        release(*self._samplers.values())
        self._held.clear()
        self._samplers = {}

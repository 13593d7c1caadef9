"""Ribbons: bands through the points of a layer, as one strip of triangles."""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ...effect.kinds import Across, Blend, Lay, LayFrom, code_of
from ...simulation.layout.instances import NAMES, PLAIN, columns_of
from ...simulation.ribbons import bands
from ...simulation.ribbons.joining import Joined
from ..camera import axes_of
from ..moment import DrawnLayer, ribbons_in_order
from ..programs import Programs
from ..shader_columns import ALONG_BANDS
from ..styles import Style
from ..texture_store import TextureStore
from .scene import Scene, upload_scene
from .streaming import Stream

Floats = NDArray[np.float32]
# From so many points on several threads pay off.
_WORTH = 4096
# Vertices of one layer.
_MOST = 12_000_000


class Ribbons:
    """Draws layers as ribbons. Make, use and :meth:`release` it with its context current."""

    def __init__(self, ctx: Any, programs: Programs, store: TextureStore) -> None:
        self.ctx, self.programs, self.store = ctx, programs, store
        self._stream = Stream(ctx)
        self._memory = Memory()

    def draw(self, scene: Scene, style: Style, layer: DrawnLayer) -> int:
        """Draw a layer's ribbons into the framebuffer in use; return in how many calls."""
        features = (
            style.features
            | ({"OVERDRAW"} if scene.counting else set())
            | ({"ROW"} if scene.row else set())
            | ({"SURFACE"} if scene.only else set())
        )
        program = self.programs.ribbon(features)
        asks = {
            name
            for name in (*ALONG_BANDS, "side", "lot", "number")
            if self.programs.asks(program, f"in_{name}")
        }
        _, _, back = axes_of(scene.camera)
        joined = (
            pieces_of(layer, scene)
            if scene.row or layer.joined is None
            else ribbons_in_order(layer.joined, layer.look, back)
        )
        if not len(joined.starts) > 1:
            return 0
        strips, columns = self._memory.band(layer, joined, scene, asks)
        if scene.row:
            strips = [_numbered(strip, columns) for strip in strips]
        upload_scene(self.ctx, self.programs, self.store, program, scene, style)
        layout = _layout(self.programs, program, columns)
        for strip in strips:
            self._stream.array(program, strip, layout).render(moderngl.TRIANGLE_STRIP, vertices=len(strip))
        return len(strips)

    def release(self) -> None:
        """Give back all that it holds on the GPU, and its threads."""
        self._stream.release()
        self._memory.end()


def _layout(programs: Programs, program: Any, columns: dict[str, tuple[int, int]]) -> tuple[str, ...]:
    """Return the vertices' format and names as OpenGL is told them."""
    parts, names = [], []
    for name, (_, count) in columns.items():
        known = programs.asks(program, f"in_{name}")
        parts.append(f"{count}f" if known else f"{4 * count}x")
        names += [f"in_{name}"] if known else []
    return " ".join(parts), *names


def _numbered(vertices: Floats, columns: dict[str, tuple[int, int]]) -> Floats:
    """Tell each piece of a row its number: it stands where random values do."""
    if "number" not in columns:
        return vertices
    vertices = vertices.copy()
    vertices[:, columns["number"][0]] = vertices[:, columns["lot"][0]] if "lot" in columns else 0.0
    return vertices


def pieces_of(layer: DrawnLayer, scene: Scene) -> Joined:
    """Return a short piece of ribbon for each particle, lying across the picture: as wide as it is at
    that point.
    """
    rows, count = layer.instances, len(layer.instances)
    both = np.repeat(rows, 2)
    right, _, _ = axes_of(scene.camera)
    half = rows["size"][:, :1] / 2
    both["place"][0::2] -= half * right.astype(np.float32)
    both["place"][1::2] += half * right.astype(np.float32)
    numbers = np.arange(count, dtype=np.uint32)
    return Joined(
        both,
        np.arange(count + 1, dtype=np.int32) * 2,
        np.arange(2 * count, dtype=np.int32),
        numbers,
        np.zeros(count, np.float32),
    )


class Memory:
    """Arrays that bands are built in, kept from picture to picture; one thread's or several's."""

    def __init__(self, threads: int | None = None) -> None:
        self._threads = threads or min(os.cpu_count() or 1, 4)
        self._pool: ThreadPoolExecutor | None = None
        self._parts = [_Part() for _ in range(self._threads)]

    def end(self) -> None:
        """Let its threads go."""
        if self._pool is not None:
            self._pool.shutdown(wait=False)
            self._pool = None

    def band(
        self, layer: DrawnLayer, joined: Joined, scene: Scene, asks: set[str]
    ) -> tuple[list[Floats], dict[str, tuple[int, int]]]:
        """Return strips of a layer's ribbons, each (n, columns), and where in them each attribute begins
        and how wide it is.
        """
        look, kind = layer.look, joined.rows.dtype
        ribbon, places = (
            look.ribbon,
            {name: int(at) for name, at in zip(NAMES, columns_of(kind), strict=True)},
        )
        shared = [
            *layer.fixed.get("color", PLAIN["color"]),
            *layer.fixed.get("opacity", PLAIN["opacity"]),
            *layer.fixed.get("intensity", PLAIN["intensity"]),
        ]
        columns, more, spare, at = _columns(asks, places, bool(scene.row))
        # A piece of ribbon for itself faces the camera: there is no way for it to lie.
        across = (
            Across.CAMERA
            if scene.row or (ribbon.across in (Across.AXIS, Across.LINE) and places["across"] < 0)
            else ribbon.across
        )
        # Of very many points fewer are put between, so that memory holds them.
        smooth = 0 if scene.row else min(ribbon.smooth, max(_MOST // max(4 * len(joined.order), 1) - 1, 0))
        every = ribbon.every if ribbon.lay == Lay.REPEAT else 0.0
        _, _, back = axes_of(scene.camera)
        fields = [
            places[name] for name in ("place", "size", "color", "opacity", "intensity", "across", "laid")
        ]
        laying = bands.Laying(
            code_of(across),
            smooth,
            ribbon.gap,
            every,
            ribbon.lay_from == LayFrom.TAIL,
            np.array(scene.eye, np.float64),
            np.asarray(back, np.float64),
            float(scene.projection[1, 1]) * scene.height / 2.0,
            look.blend != Blend.CUTOUT and not scene.counting,
            np.array(fields, np.int64),
            np.array(shared, np.float32),
            np.array(more, np.int64).reshape(-1, 2),
            spare.get("side", -1),
            spare.get("lot", -1),
        )
        rows = np.ascontiguousarray(joined.rows).view(np.float32).reshape(len(joined.rows), -1)
        random_values = joined.whose.astype(np.float32) if scene.row else lots_of(joined.whose)

        def lay(part: _Part, first: int, last: int) -> Floats:
            return part.lay(laying, rows, joined, random_values, first, last, at)

        strips = self._lay_together(lay, joined, bool(scene.row))
        return [strip for strip in strips if len(strip)], columns

    def _lay_together(
        self, lay: Callable[[_Part, int, int], Floats], joined: Joined, in_row: bool
    ) -> list[Floats]:
        """Return the strips of all ribbons, laid by several threads where there are many points."""
        count = len(joined.whose)
        several = self._threads if len(joined.order) >= _WORTH and count > 1 and not in_row else 1
        if several == 1:
            return [lay(self._parts[0], 0, count)]
        # As many points for each.
        ends = np.searchsorted(joined.starts, np.arange(several + 1) * len(joined.order) // several)
        self._pool = self._pool or ThreadPoolExecutor(self._threads)
        return list(self._pool.map(lay, self._parts, ends[:-1].tolist(), ends[1:].tolist()))


def _columns(
    asks: set[str], places: dict[str, int], in_row: bool
) -> tuple[dict[str, tuple[int, int]], list[tuple[int, int]], dict[str, int], int]:
    """Return where in a strip each attribute begins and how wide it is; which columns of instances go where;
    where those stand that only some shaders ask for; and how many columns there are.
    """
    columns: dict[str, tuple[int, int]] = {
        "place": (0, 3),
        "spot": (bands.SPOT, 2),
        "light": (bands.LIGHT, 4),
        "ends": (bands.ENDS, 2),
    }
    at, more = bands.BASE, list[tuple[int, int]]()
    for name in ALONG_BANDS:
        if name in asks and places[name] >= 0:
            columns[name] = (at, 1)
            more.append((places[name], at))
            at += 1
    spare: dict[str, int] = {}
    for name, wide in (("side", 6), ("lot", 1), ("number", 1)):
        if name in asks or (name == "lot" and in_row):
            spare[name] = at
            columns |= {"side": (at, 3), "ahead": (at + 3, 3)} if name == "side" else {name: (at, wide)}
            at += wide
    return columns, more, spare, at


class _Part:
    """What one thread builds bands in."""

    def __init__(self) -> None:
        self._work, self._who = np.zeros((bands.WORK_ROWS, 0), np.float32), np.zeros((3, 0), np.uint32)
        self._out = np.zeros(0, np.float32)

    def lay(
        self,
        laying: bands.Laying,
        rows: Floats,
        joined: Joined,
        random_values: Floats,
        first: int,
        last: int,
        width: int,
    ) -> Floats:
        """Return the strip of some of the ribbons, (n, width)."""
        starts = joined.starts[first : last + 1]
        wanted = int(np.diff(starts).max(initial=0)) * (laying.smooth + 1) + 2
        if self._work.shape[1] < wanted:
            # An odd row length keeps the rows out of each other's cache sets.
            self._work = np.zeros((bands.WORK_ROWS, (wanted + wanted // 2) // 16 * 16 + 24), np.float32)
            self._who = np.zeros((3, self._work.shape[1]), np.uint32)
        wanted = (
            bands.room_for(int(starts[-1] - starts[0]) if len(starts) else 0, last - first, laying.smooth)
            * width
        )
        if len(self._out) < wanted:
            self._out = np.empty(wanted + wanted // 2, np.float32)
        made = bands.lay_bands(
            laying,
            bands.addresses(),
            rows,
            joined.starts,
            joined.order,
            joined.cuts,
            random_values,
            first,
            last,
            self._work,
            self._who[0],
            self._who[1:],
            self._out,
            width,
        )
        return self._out[: made * width].reshape(-1, width)


def lots_of(whose: NDArray[np.uint32]) -> Floats:
    """Return a number 0…1 for each ribbon, from its parent's."""
    return np.array((whose * np.uint32(2654435769) >> np.uint32(8)) * math.ldexp(1.0, -24), np.float32)

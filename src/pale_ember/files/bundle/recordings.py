"""Baked particles: all that a layer shows at so many moments, in few bytes."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...drawing.between import followed
from ...drawing.camera import eye_of, projection_matrix, view_matrix
from ...drawing.environment import Lights
from ...drawing.moment import DrawnLayer, Moment, ribbons_in_order
from ...drawing.passes.ribbons import Memory
from ...drawing.passes.scene import Scene
from ...drawing.passes.shine import MOST as MOST_SHINES
from ...drawing.passes.shine import shines_of
from ...drawing.shader_columns import ALONG_BANDS
from ...effect.effect import Effect
from ...effect.kinds import DrawnAs, FrameEnd
from ...simulation import Simulation
from ...simulation.layout.instances import NAMES
from ...simulation.motion.prop_poses import prop_clock
from .blob import Blob, leveled, small

# Ribbons are laid as seen in a picture so high, pixels: what is thinner than a pixel there is drawn as one.
HEIGHT = 720
# Bytes of particles before packing that a page may have; of effects with more, every other moment is left
# out, and again.
MOST = 20 << 20
# Columns that are read along a ribbon.
_ALONG = {*ALONG_BANDS, "side", "lot"}
_NO_LIGHT = Lights((0.0, 1.0, 0.0), (0.0,) * 3, (0.0,) * 3, (0.0,) * 3)
Floats = NDArray[np.float32]


class Recording:
    """A stretch of an effect's time.

    Parameters
    ----------
    steps : list of int
        The simulation's steps that are kept.
    """

    def __init__(self, effect: Effect, steps: list[int]) -> None:
        self.effect, self.steps, self._wanted = effect, steps, set(steps)
        camera = effect.stage.camera
        self._seen = view_matrix(camera), projection_matrix(camera, HEIGHT * 16 // 9, HEIGHT)
        self._memory = Memory(1)
        # Bytes that are kept, and of how many moments one was kept because of them.
        self._weight, self.every = 0, 1
        self.rows: dict[str, list[NDArray[np.void]]] = {}
        self.serials: dict[str, list[NDArray[np.uint32]]] = {}
        self.strips: dict[str, list[Floats]] = {}
        self.columns: dict[str, dict[str, tuple[int, int]]] = {}
        self.first: dict[str, DrawnLayer] = {}
        self.shines: list[Floats] = []
        self.clocks: list[float] = []

    def see(self, step: int, sim: Simulation, moment: Moment) -> None:
        """Keep what a moment shows, if it is one of those that are kept."""
        if step not in self._wanted:
            return
        if self._weight > MOST:
            self._halve()
            if step not in self._wanted:
                return
        self.clocks.append(prop_clock(self.effect, sim.time))
        self.shines.append(_told(moment))
        scene = Scene(*self._seen, self.effect.stage.camera, HEIGHT, _NO_LIGHT, time=moment.time)
        for layer in moment.layers:
            self.first.setdefault(layer.id, layer)
            if layer.look.draw == DrawnAs.RIBBON:
                self._lay(layer, self._memory, scene)
                self._weight += self.strips[layer.id][-1].nbytes // 2
                continue
            assert layer.life is not None
            self._weight += layer.instances.nbytes
            self.rows.setdefault(layer.id, []).append(layer.instances)
            self.serials.setdefault(layer.id, []).append(layer.life.serial)

    def _halve(self) -> None:
        """Keep every other moment only, of those that were and those to come, and the last."""
        known = self.steps[: len(self.clocks)]
        self.every *= 2
        last = self.steps[-1]
        self.steps = sorted({*self.steps[::2], last})
        self._wanted = set(self.steps)
        at = [i for i, one in enumerate(known) if one in self._wanted]
        self.clocks, self.shines = [self.clocks[i] for i in at], [self.shines[i] for i in at]
        # A layer is there at all moments, or at none.
        parts: tuple[Any, ...] = (self.rows, self.serials, self.strips)
        for kept in parts:
            for name, one in kept.items():
                kept[name] = [one[i] for i in at]
        self._weight //= 2

    def _lay(self, layer: DrawnLayer, memory: Memory, scene: Scene) -> None:
        strips: list[Floats] = []
        if layer.joined is not None and len(layer.joined.starts) > 1:
            back = view_matrix(scene.camera)[2, :3]
            strips, columns = memory.band(
                layer, ribbons_in_order(layer.joined, layer.look, back), scene, _ALONG
            )
            self.columns[layer.id] = columns
        self.strips.setdefault(layer.id, []).append(
            strips[0].copy() if strips else np.zeros((0, 0), np.float32)
        )

    def packed(self, blob: Blob) -> dict[str, Any]:
        """Put it into a blob; return what the page needs to find it again."""
        found: dict[str, Any] = {
            "times": blob.put(
                np.array(self.steps, np.float64).astype(np.float32) / np.float32(self.effect.step_rate)
            )
        }
        found["shines"] = blob.put(np.stack(self.shines))
        found["clocks"] = blob.put(np.array(self.clocks, np.float32))
        found["layers"] = [
            self._packed_ribbons(layer, blob)
            if layer.look.draw == DrawnAs.RIBBON
            else self._packed_rows(layer, blob)
            for layer in self.first.values()
        ]
        return found

    def _packed_rows(self, layer: DrawnLayer, blob: Blob) -> dict[str, Any]:
        """Return a layer's recorded instances as columns of small numbers."""
        rows = self.rows[layer.id]
        counts = np.array([len(one) for one in rows], np.uint32)
        whole = np.concatenate(rows)
        serials = self.serials[layer.id]
        ahead = [_shifts(before, now) for before, now in itertools.pairwise(serials)]
        ancestors = _ancestors(counts, ahead)
        columns: dict[str, Any] = {}
        picture = layer.wears.get("picture")
        for name in (one for one in NAMES if one in (whole.dtype.names or ())):
            values = whole[name] if whole[name].ndim > 1 else whole[name][:, None]
            if name == "angle":
                values = np.mod(values, np.float32(2 * np.pi))
            if name == "frame" and picture is not None and layer.look.frame_end == FrameEnd.AROUND:
                values = np.mod(values, np.float32(picture.frames))
            parts = []
            for i in range(values.shape[1]):
                levels, low, high = leveled(values[:, i])
                parts.append([blob.put(small(_beyond_guess(levels, ancestors))), low, high])
            columns[name] = parts
        return {
            "counts": blob.put(counts),
            "columns": columns,
            "next": blob.put(np.concatenate(ahead) if ahead else np.zeros(0, np.int16)),
        }

    def _packed_ribbons(self, layer: DrawnLayer, blob: Blob) -> dict[str, Any]:
        """Return a layer's recorded bands as columns of small numbers."""
        strips, columns = self.strips[layer.id], self.columns.get(layer.id, {})
        counts = np.array([len(one) for one in strips], np.uint32)
        whole = np.concatenate(
            [one for one in strips if len(one)]
            or [np.zeros((0, max((at + wide for at, wide in columns.values()), default=0)), np.float32)]
        )
        joints = np.concatenate([_joints(one) for one in strips] or [np.zeros(0, np.uint8)])
        found: dict[str, Any] = {}
        for name, (at, wide) in columns.items():
            parts = []
            for i in range(wide):
                # How far its ends are may be huge; beyond one half of the width it makes no difference.
                values = np.minimum(whole[:, at + i], 1.5) if name == "ends" else whole[:, at + i]
                levels, low, high = leveled(values)
                # From one pair of vertices to the next little changes.
                rest = levels.copy()
                rest[2:] -= levels[:-2]
                parts.append([blob.put(small(rest)), low, high])
            found[name] = parts
        return {"counts": blob.put(counts), "columns": found, "joints": blob.put(joints)}


def _shifts(before: NDArray[np.uint32], now: NDArray[np.uint32]) -> NDArray[np.int16]:
    """Return for each particle how many places behind its own it stands in the next moment; 32767 where
    it is gone.
    """
    here, there = followed(before, now)
    found = np.full(len(before), 32767, np.int64)
    found[here] = there - here
    return np.where(np.abs(found) < 32767, found, 32767).astype(np.int16)


def _ancestors(
    counts: NDArray[np.uint32], ahead: list[NDArray[np.int16]]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return for each row of all moments the row that it was one moment before, and two; -1 where it was
    not there.
    """
    starts = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    before = np.full(starts[-1], -1, np.int64)
    for i, shift in enumerate(ahead):
        here = np.flatnonzero(shift != 32767)
        before[starts[i + 1] + here + shift[here]] = starts[i] + here
    return before, np.where(before >= 0, before[before], -1)


def _beyond_guess(
    levels: NDArray[np.uint16], ancestors: tuple[NDArray[np.int64], NDArray[np.int64]]
) -> NDArray[np.uint16]:
    """Return what levels have beyond where each particle would be if it went on as before."""
    one, two = ancestors
    if not len(levels):
        return levels
    guess = np.where(one >= 0, levels[one], np.uint16(0))
    guess += np.where(two >= 0, levels[one] - levels[two], np.uint16(0))
    return levels - guess


def _joints(strip: Floats) -> NDArray[np.uint8]:
    """Return which pairs of a strip's vertices only lead from one ribbon to the next."""
    if not len(strip):
        return np.zeros(0, np.uint8)
    left, right = strip[0::2, :3], strip[1::2, :3]
    found = np.zeros(len(left), np.uint8)
    if len(left) > 2:
        found[1:-1] = (left[1:-1] == right[:-2]).all(axis=1) & (right[1:-1] == left[2:]).all(axis=1)
    return found


def _told(moment: Moment) -> Floats:
    """Return a moment's lights: how many, then place and reach of each, then the colours."""
    found = np.zeros(1 + 7 * MOST_SHINES, np.float32)
    for i, shine in enumerate(shines := shines_of(moment)):
        found[1 + 4 * i : 5 + 4 * i] = (*shine.place, shine.reach)
        found[1 + 4 * MOST_SHINES + 3 * i : 4 + 4 * MOST_SHINES + 3 * i] = np.minimum(shine.color, 1e4)
    found[0] = len(shines)
    return found


def eye_place(effect: Effect) -> list[float]:
    """Return where the effect's camera is, m."""
    return [float(x) for x in eye_of(effect.stage.camera)]

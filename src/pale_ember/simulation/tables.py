"""Values baked for the kernels: levels, spreads, and evenly sampled tables with sharp steps."""

from __future__ import annotations

import functools
import itertools
from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..effect.colors import ColorSpread, ColorValue, Flat, Gradient, GradientBand, Stops, evaluate_stops
from ..effect.colors import hex_to_linear as linear
from ..effect.curves import Keys, breaks, evaluate
from ..effect.effect import Layer
from ..effect.forms import sides_of
from ..effect.values import Band, Curve, Fixed, Spread, Value
from . import slots as s
from .dice import layer_key, property_key

# The fewest cells are enough for most curves, and where curves have the same number, kernels look up places
# once; being a multiple of 20, they also put keys at round shares of life exactly on a border.
FEWEST, MOST = 160, 10_240
TOLERANCE = 0.0008

Floats = NDArray[np.float64]


class Tables(NamedTuple):
    """All slots of a layer, as the kernels take them.

    ``form`` (slots,) int32; ``ends`` (slots, 2) low and high of levels and spreads; ``cells`` and
    ``offset`` (slots,) int64 of each slot's table in ``data``; ``key`` (slots,) uint32 of its dice. A cell
    of a curve is (value, rise), of a band (low, rise, high, rise), the rise being that over the cell.
    """

    form: NDArray[np.int32]
    ends: NDArray[np.float32]
    cells: NDArray[np.int64]
    offset: NDArray[np.int64]
    key: NDArray[np.uint32]
    data: NDArray[np.float32]


def baked_keys(keys: Keys) -> tuple[Floats, Floats]:
    """Return a curve as cells of equal width over 0…1: value at the start and rise over each cell.

    As many cells are used (160, 320, …) as keep the error under 0.1 % of the curve's range; a step is
    put at the nearest border between cells.
    """
    value, rise = _cells(lambda x: evaluate(keys, x)[:, None], breaks(keys), [k.x for k in keys])
    return value[:, 0], rise[:, 0]


def _cells(curve: Callable[[Floats], Floats], jumps: list[float], corners: list[float]) -> tuple[Floats, Floats]:
    """Bake a function of 0…1 with several channels; return values (cells, channels) and rises."""
    count = FEWEST
    while True:
        borders = np.arange(count + 1) / count
        start = curve(borders)
        # Just before a border: the same, but for a border that a jump was moved to.
        stop = start.copy()
        for jump in jumps:
            near = round(jump * count)
            before, after = curve(np.array([np.nextafter(jump, -1.0)]))[0], curve(np.array([jump]))[0]
            moved = np.abs(after - before) > 1e-12
            if near / count <= jump:
                start[near] = np.where(moved, after, start[near])
            if near / count >= jump:
                stop[near] = np.where(moved, before, stop[near])
        value, rise = start[:-1], stop[1:] - start[:-1]
        if count >= MOST or _error(curve, jumps, corners, value, rise) <= TOLERANCE:
            return value, rise
        count *= 2


def _error(
    curve: Callable[[Floats], Floats], jumps: list[float], corners: list[float], value: Floats, rise: Floats
) -> float:
    """Return the largest error of baked cells as a share of the curve's range, away from moved jumps."""
    count = len(value)
    x = np.concatenate([(np.arange(2 * count) + 0.5) / (2 * count), np.array(corners)])
    x = x[(x >= 0.0) & (x < 1.0)]
    for jump in jumps:
        x = x[np.abs(x - jump) > 1.0 / count]
    if len(x) == 0:
        return 0.0
    true = curve(x)
    span = max(float(np.ptp(true)), 1e-12)
    cell = np.minimum((x * count).astype(int), count - 1)
    found = value[cell] + rise[cell] * (x * count - cell)[:, None]
    return float(np.max(np.abs(found - true))) / span


# Most Values of an effect stay the same from one edit to the next.
@functools.lru_cache(maxsize=2048)
def _number_cells(value: Curve | Band, hard: tuple[float, float]) -> tuple[Floats, Floats]:
    """Return a curve's cells with one channel, or a band's with two."""
    sides = sides_of(value)

    def curve(x: Floats) -> Floats:
        # Free keys may swing past what the field allows.
        return np.clip(np.stack([evaluate(side, x) for side in sides], axis=1), *hard)

    return _cells(curve, [j for side in sides for j in breaks(side)], [k.x for side in sides for k in side])


@functools.lru_cache(maxsize=512)
def _color_cells(value: Gradient | GradientBand) -> list[tuple[Floats, Floats]]:
    """Return the cells of red, green and blue."""
    sides: list[Stops] = sides_of(value)
    jumps = [b.x for side in sides for a, b in itertools.pairwise(side) if a.x == b.x]
    corners = [stop.x for side in sides for stop in side]

    def channel_of(channel: int) -> Callable[[Floats], Floats]:
        return lambda x: np.stack([evaluate_stops(side, x)[:, channel] for side in sides], axis=1)

    return [_cells(channel_of(channel), jumps, corners) for channel in range(3)]


class Baker:
    """Collects a layer's slots and gives its Tables."""

    def __init__(self, layer: Layer, seed: int) -> None:
        self.layer = layer
        self.dice = layer_key(seed, layer.id)
        self.form = np.zeros(s.COUNT, np.int32)
        self.ends = np.zeros((s.COUNT, 2), np.float32)
        self.cells = np.zeros(s.COUNT, np.int64)
        self.offset = np.zeros(s.COUNT, np.int64)
        self.key = np.zeros(s.COUNT, np.uint32)
        self.parts: list[NDArray[np.float32]] = [np.zeros(4, np.float32)]
        self.length = 4

    def tables(self) -> Tables:
        return Tables(self.form, self.ends, self.cells, self.offset, self.key, np.concatenate(self.parts))

    def number(self, slot: int, value: Value, hard: tuple[float, float], factor: float) -> None:
        """Bake a Value into a slot."""
        self.key[slot] = property_key(self.dice, s.SLOTS[slot].path)
        if isinstance(value, Fixed):
            self.ends[slot] = value.number * factor
            return
        if isinstance(value, Spread):
            self.form[slot] = s.SPREAD
            self.ends[slot] = value.low * factor, value.high * factor
            return
        assert isinstance(value, Curve | Band)
        level, rise = _number_cells(value, hard)
        self._table(slot, value.along, isinstance(value, Band), level * factor, rise * factor)

    def color(self, slot: int, path: str, value: ColorValue) -> None:
        """Bake a ColorValue into three slots, red, green and blue."""
        self.key[slot : slot + 3] = property_key(self.dice, path)
        if isinstance(value, Flat):
            self.ends[slot : slot + 3] = linear(value.color)[:, None]
            return
        if isinstance(value, ColorSpread):
            self.form[slot : slot + 3] = s.SPREAD
            self.ends[slot : slot + 3] = np.stack([linear(value.low), linear(value.high)], axis=1)
            return
        assert isinstance(value, Gradient | GradientBand)
        for channel, (level, rise) in enumerate(_color_cells(value)):
            self._table(slot + channel, value.along, isinstance(value, GradientBand), level, rise)

    def _table(self, slot: int, along: str, band: bool, value: Floats, rise: Floats) -> None:
        first = {"life": s.LIFE_CURVE, "clock": s.CLOCK_CURVE, "speed": s.SPEED_CURVE}[along]
        self.form[slot] = first + band
        self.cells[slot] = len(value)
        self.offset[slot] = self.length
        data = np.stack([value, rise], axis=2).reshape(-1).astype(np.float32)
        self.parts.append(data)
        self.length += len(data)


def bake(layer: Layer, seed: int, gravity: float) -> Tables:
    """Return a layer's tables.

    Parameters
    ----------
    layer : Layer
    seed : int
        The effect's.
    gravity : float
        The stage's, m/s².
    """
    baker = Baker(layer, seed)
    for slot, what in s.SLOTS.items():
        chapter, _, rest = what.path.partition(".")
        name, _, axis = rest.partition(".")
        part = getattr(layer, chapter)
        value = getattr(part, name)
        if axis:
            value = getattr(value, axis)
        factor = what.factor * (layer.place.scale if what.scaled else 1.0)
        if slot == s.GRAVITY:
            factor = gravity
        baker.number(slot, value, type(part).rules()[name].hard, factor)
    for slot, path in s.COLOR_SLOTS.items():
        baker.color(slot, path, getattr(layer.look, path.split(".")[1]))
    return baker.tables()

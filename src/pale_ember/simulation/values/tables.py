"""Bakes Values for the kernels: constants, spreads, and evenly sampled tables whose jumps stay where they
are.
"""

from __future__ import annotations

import functools
import itertools
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...effect.effect import Layer
from ...effect.kinds import Across, Along, DrawnAs
from ...effect.rules.fields import HUGE
from ...effect.rules.part import Part
from ...effect.values.colors import (
    ColorSpread,
    ColorValue,
    Flat,
    Gradient,
    GradientBand,
    OneOf,
    Stops,
    evaluate_stops,
)
from ...effect.values.colors import hex_to_linear as linear
from ...effect.values.curves import breaks, evaluate
from ...effect.values.forms import sides_of
from ...effect.values.values import Band, Curve, Fixed, Spread, Value
from ..layout import slots
from ..layout.program import CELLS, CUT_LOW, CUT_LOW_SLOPE, CUTS, OFFSET, Tables
from .dice import layer_key, property_key

# The fewest cells are enough for most curves, and where curves have the same number, kernels look up places
# once; being a multiple of 20, they also put keys at round shares of life exactly on a border.
FEWEST, MOST = 160, 10_240
# From so many cells on, keys between borders are cut there.
CUT_KEYS = 640
TOLERANCE = 0.0007
# Tighter for values that are summed over a life: the table's error must stay below that of the second-order
# step.
SUMMED_TOLERANCE = 0.00015
# A jump this near to a border between cells stands on it.
ON_BORDER = 1e-7
# Ends the cuts of a cell: no x reaches it.
BEYOND = 2.0

Floats = NDArray[np.float64]
# A function of 0…1 with several channels: its values at x, or those it comes to from below, (n, channels).
Function = Callable[[Floats, bool], Floats]


class Cells(NamedTuple):
    """A baked function: ``value`` and ``rise`` (cells, channels); cuts at ``x`` (n,) with ``level`` and
    ``slope``.
    """

    value: Floats
    rise: Floats
    x: Floats
    level: Floats
    slope: Floats

    def at(self, x: Floats) -> Floats:
        """Return its values, (n, channels)."""
        count = len(self.value)
        cell = np.clip((x * count).astype(int), 0, count - 1)
        found = self.value[cell] + self.rise[cell] * (x * count - cell)[:, None]
        if len(self.x):
            k = np.searchsorted(self.x, x, side="right") - 1
            cut = (k >= 0) & (_cell_of(self.x[np.maximum(k, 0)], count) == cell)
            found[cut] = (self.level[k] + self.slope[k] * (x - self.x[k])[:, None])[cut]
        return found


def _cell_of(x: Floats, count: int) -> NDArray[np.int64]:
    """Return the cells that cuts lie in; those at 1 in the last."""
    return np.minimum((x * count + ON_BORDER).astype(np.int64), count - 1)


def baked_cells(curve: Function, jumps: list[float], corners: list[float], summed: bool = False) -> Cells:
    """Bake a function of 0…1.

    Cells go from border to border; or, of what is summed up over a life, through the two points of Gauss's
    quadrature, so that the sum over a cell is that of the function itself.

    As many cells are used (160, 320, …) as keep the error under 0.1 % of the function's range. Jumps stand on
    borders between cells or are cuts in them; where many cells don't do, so are all corners.
    """
    count, cuts = FEWEST, sorted(set(jumps))
    probes = np.unique(np.array([x for x in corners if 0.0 <= x < 1.0], dtype=np.float64))
    span = 0.0
    while True:
        if count == CUT_KEYS:
            cuts = sorted({*jumps, *probes.tolist()})
        found = _cells(curve, np.array(cuts, dtype=np.float64), count, summed)
        x = np.concatenate([(np.arange(2 * count) + 0.5) / (2 * count), probes])
        true = curve(x, False)
        span = max(span, float(np.ptp(true)), 1e-12)
        wanted = SUMMED_TOLERANCE if summed else TOLERANCE
        if count >= MOST or float(np.max(np.abs(found.at(x) - true))) / span <= wanted:
            return found
        count *= 2


def _cells(curve: Function, cuts: Floats, count: int, summed: bool) -> Cells:
    """Bake with a number of cells; cuts that lie on borders are none."""
    borders = np.arange(count + 1) / count
    start, stop = curve(borders[:-1], False), curve(borders[1:], True)
    value, rise = start, stop - start
    if summed:
        first, second = (
            curve(borders[:-1] + (0.5 + sign / np.sqrt(12.0)) / count, False) for sign in (-1.0, 1.0)
        )
        rise = (second - first) * np.sqrt(3.0)
        value = (first + second - rise) / 2
    at = np.rint(cuts * count)
    between = cuts[(np.abs(cuts * count - at) > ON_BORDER) | (at >= count)]
    cell = _cell_of(between, count)
    until = np.append(between, BEYOND)[1:]
    last = np.append(cell, -1)[1:] != cell
    until = np.where(last, borders[cell + 1], until)
    level, end = curve(between, False), curve(until, True)
    width = np.maximum(until - between, 1e-30)[:, None]
    slope = np.where(width > 1e-12, (end - level) / width, 0.0)
    first_cuts = np.flatnonzero(np.append(-1, cell)[:-1] != cell)
    if len(first_cuts):
        c = cell[first_cuts]
        share = np.maximum(between[first_cuts] * count - c, 1e-12)[:, None]
        # Up to its first cut a cell goes to what the function comes to there.
        value[c] = start[c]
        rise[c] = (curve(between[first_cuts], True) - start[c]) / share
    return Cells(value, rise, between, level, slope)


# Most Values of an effect stay the same from one edit to the next.
@functools.lru_cache(maxsize=2048)
def _number_cells(value: Curve | Band, hard: tuple[float, float], summed: bool) -> Cells:
    """Return a curve's cells with one channel, or a band's with two."""
    sides = sides_of(value)

    def curve(x: Floats, before: bool) -> Floats:
        # Free keys may swing past what the field allows.
        return np.clip(np.stack([evaluate(side, x, before) for side in sides], axis=1), *hard)

    jumps, corners = [j for side in sides for j in breaks(side)], [k.x for side in sides for k in side]
    found = baked_cells(curve, jumps, corners, summed)
    if summed:
        ends = np.clip(found.value, *hard), np.clip(found.value + found.rise, *hard)
        found = found._replace(value=ends[0], rise=ends[1] - ends[0])
    return found


@functools.lru_cache(maxsize=512)
def _color_cells(value: Gradient | GradientBand) -> list[Cells]:
    """Return the cells of red, green and blue."""
    sides: list[Stops] = sides_of(value)
    jumps = [b.x for side in sides for a, b in itertools.pairwise(side) if a.x == b.x]
    corners = [stop.x for side in sides for stop in side]

    @functools.cache
    def colors(shape: int, raw: bytes, before: bool) -> Floats:
        x = np.frombuffer(raw)
        return np.stack([evaluate_stops(side, x, before) for side in sides], axis=2)

    def channel_of(channel: int) -> Function:
        return lambda x, before: colors(len(x), x.tobytes(), before)[:, channel]

    return [baked_cells(channel_of(channel), jumps, corners) for channel in range(3)]


class Baker:
    """Collects a layer's slots and gives its Tables."""

    def __init__(self, layer: Layer, seed: int) -> None:
        self.layer = layer
        self.dice = layer_key(seed, layer.id)
        self.form = np.zeros(slots.COUNT, np.int32)
        self.ends = np.zeros((slots.COUNT, 2), np.float32)
        self.place = np.zeros((slots.COUNT, 3), np.int64)
        self.place[:, CUTS] = -1
        self.key = np.zeros(slots.COUNT, np.uint32)
        self.parts: list[NDArray[np.float32]] = [np.zeros(4, np.float32)]
        self.length = 4
        self.cut_of: list[NDArray[np.int32]] = [np.full(1, -1, np.int32)]
        self.cut_rows: list[list[float]] = [[BEYOND, 0.0, 0.0, 0.0, 0.0]]

    def tables(self) -> Tables:
        return Tables(
            form=self.form,
            ends=self.ends,
            key=self.key,
            place=self.place,
            data=np.concatenate(self.parts),
            cut_of=np.concatenate(self.cut_of),
            cut=np.array(self.cut_rows, dtype=np.float32),
        )

    def number(self, slot: int, value: Value, hard: tuple[float, float], factor: float) -> None:
        """Bake a Value into a slot."""
        self.key[slot] = property_key(self.dice, slots.SLOTS[slot].path)
        if isinstance(value, Fixed):
            self.ends[slot] = value.number * factor
            return
        if isinstance(value, Spread):
            self.form[slot] = slots.SPREAD
            self.ends[slot] = value.low * factor, value.high * factor
            return
        assert isinstance(value, Curve | Band)
        self._table(
            slot,
            value.along,
            isinstance(value, Band),
            _number_cells(value, hard, slot in slots.SUMMED),
            factor,
        )

    def color(self, slot: int, path: str, value: ColorValue) -> None:
        """Bake a ColorValue into three slots, red, green and blue."""
        self.key[slot : slot + 3] = property_key(self.dice, path)
        if isinstance(value, Flat):
            self.ends[slot : slot + 3] = linear(value.color)[:, None]
            return
        if isinstance(value, ColorSpread):
            self.form[slot : slot + 3] = slots.SPREAD
            self.ends[slot : slot + 3] = np.stack([linear(value.low), linear(value.high)], axis=1)
            return
        if isinstance(value, OneOf):
            colors = np.stack([linear(color) for color in value.colors])
            for channel in range(3):
                # A table along the particle's draw: a level cell for each.
                level = colors[:, channel : channel + 1]
                self._lay(
                    slot + channel,
                    slots.ONE_OF,
                    Cells(level, np.zeros_like(level), np.zeros(0), np.zeros((0, 1)), np.zeros((0, 1))),
                )
            return
        assert isinstance(value, Gradient | GradientBand)
        for channel, cells in enumerate(_color_cells(value)):
            self._table(slot + channel, value.along, isinstance(value, GradientBand), cells)

    def _table(self, slot: int, along: str, band: bool, cells: Cells, factor: float = 1.0) -> None:
        first = {
            Along.LIFE: slots.LIFE_CURVE,
            Along.CLOCK: slots.CLOCK_CURVE,
            Along.SPEED: slots.SPEED_CURVE,
        }[Along(along)]
        self._lay(slot, first + band, cells, factor)

    def _lay(self, slot: int, form: int, cells: Cells, factor: float = 1.0) -> None:
        """Write a table."""
        self.form[slot] = form
        count = self.place[slot, CELLS] = len(cells.value)
        self.place[slot, OFFSET] = self.length
        data = (np.stack([cells.value, cells.rise], axis=2) * factor).reshape(-1).astype(np.float32)
        self.parts.append(data)
        self.length += len(data)
        if len(cells.x):
            self._cut(slot, cells, int(count), factor)

    def _cut(self, slot: int, cells: Cells, count: int, factor: float) -> None:
        """Write a table's cuts, cell by cell, each cell's ended by one that is never reached."""
        self.place[slot, CUTS] = sum(map(len, self.cut_of))
        of = np.full(count, -1, np.int32)
        rows = np.zeros((len(cells.x), 5))
        rows[:, 0] = cells.x
        channels = cells.level.shape[1]
        rows[:, 1 : 2 * channels : 2], rows[:, 2 : 2 * channels + 1 : 2] = (
            cells.level * factor,
            cells.slope * factor,
        )
        for row, cell in zip(rows.tolist(), _cell_of(cells.x, count).tolist(), strict=True):
            if of[cell] < 0:
                if self.cut_rows[-1][0] != BEYOND:
                    self.cut_rows.append([BEYOND, 0.0, 0.0, 0.0, 0.0])
                of[cell] = len(self.cut_rows)
            self.cut_rows.append(row)
        self.cut_rows.append([BEYOND, 0.0, 0.0, 0.0, 0.0])
        self.cut_of.append(of)


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
    hard = (-HUGE, HUGE)
    swept = layer.look.draw == DrawnAs.RIBBON and layer.look.ribbon.across == Across.LINE
    for slot, what in slots.SLOTS.items():
        value: Any = layer
        for step in what.path.split("."):
            if isinstance(value, Part):
                hard = type(value).rules()[step].hard if step in type(value).rules() else hard
            value = getattr(value, step)
        if swept and slot in (slots.SIZE, slots.ASPECT):
            # Such a band is as wide as the line that it comes from.
            value = Fixed(layer.birthplace.extents[0] if slot == slots.SIZE else 1.0)
        factor = what.factor * (layer.place.scale if what.scaled else 1.0)
        if slot == slots.GRAVITY:
            factor = gravity
        baker.number(slot, value, hard, factor)
    for slot, path in slots.COLOR_SLOTS.items():
        baker.color(slot, path, getattr(layer.look, path.split(".")[1]))
    return baker.tables()


def highest(tables: Tables, slot: int) -> float:
    """Return a number that what a slot gives doesn't exceed."""
    cells, offset, cuts = (int(part) for part in tables.place[slot])
    if not cells:
        return float(np.max(tables.ends[slot]))
    channels = 2 if tables.form[slot] in (slots.LIFE_BAND, slots.CLOCK_BAND, slots.SPEED_BAND) else 1
    data = tables.data[offset : offset + cells * 2 * channels].reshape(-1, 2)
    most = float(np.max(np.maximum(data[:, 0], data[:, 0] + data[:, 1])))
    if cuts >= 0:
        # More cuts than the slot's own are looked at; the most is then told too high, never too low.
        rows = tables.cut[int(max(tables.cut_of[cuts : cuts + cells].min(), 0)) :]
        ends = rows[:, CUT_LOW::2] + np.maximum(rows[:, CUT_LOW_SLOPE::2], 0.0) / cells
        most = max(most, float(np.max(ends)))
    return most

"""Which of a layer's particles its ribbons join, in what order, and where their heads are."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numba import uint32
from numpy.typing import NDArray

from ...effect.effect import Effect, Layer
from ...effect.kinds import EmitterShape, When
from ..kernels.compiling import kernel
from ..layout import dependence, rows
from ..layout.program import CENTRE, POSE
from ..layout.signatures import F1, I1, INT, U1
from ..motion.path import pose

if TYPE_CHECKING:
    from ..time.layer_run import LayerRun


class Joined(NamedTuple):
    """The ribbons of a moment.

    ``rows`` (n,) of ``INSTANCE``'s fields are the layer's instances and, behind them, its heads; of ribbon i
    those in ``order`` (n,) from ``starts[i]`` to ``starts[i + 1]`` are its points, from its tail to its head.
    ``whose`` (ribbons,) tells them apart: the number of their parent; ``cuts`` (ribbons,) how much of the way
    from its oldest point to the next is gone already, so that a tail draws in as it dies instead of losing a
    piece at a time.
    """

    rows: NDArray[np.void]
    starts: NDArray[np.int32]
    order: NDArray[np.int32]
    whose: NDArray[np.uint32]
    cuts: NDArray[np.float32]


@kernel(INT, U1, F1, INT, U1, I1, I1, I1, I1, U1, entry=True)
def join(owners, places, n, parents, table, ribbon, newest, head, whose):
    """Tell which ribbon each of n particles, in the order of birth, is a point of; return how many ribbons
    there are.

    Parameters
    ----------
    owners : uint32 array
        Their parents' numbers; empty where all are joined to one.
    places : float32 array
        Their places in a row, of which each is a ribbon of its own; empty for none.
    parents : uint32 array
        The numbers of those that live.
    table : int32 array of -1
        Memory: a power of two, at least twice as many as particles.
    ribbon, newest : int32 arrays (n,)
        The ribbon of each; of each ribbon the newest particle.
    head : int32 array (parents,)
        The ribbon whose head a parent is; -1 for none.
    whose : uint32 array (n,)
        Of each ribbon the parent's number.
    """
    count, mask = 0, uint32(table.shape[0] - 1)
    alone = owners.shape[0] == 0
    for i in range(n):
        owner = uint32(0) if alone else owners[i]
        at = (owner * uint32(0x9E3779B1)) >> uint32(7) & mask
        while table[at] >= 0 and whose[table[at]] != owner:
            at = (at + uint32(1)) & mask
        known = table[at]
        if known < 0 or (places.shape[0] > 0 and places[i] < places[newest[known]]):
            # A row that begins anew is another ribbon; the one before is as long as it will be.
            known = count
            count += 1
            table[at], whose[known] = known, owner
        ribbon[i], newest[known] = known, i
    for j in range(parents.shape[0]):
        owner = parents[j]
        at = (owner * uint32(0x9E3779B1)) >> uint32(7) & mask
        while table[at] >= 0 and whose[table[at]] != owner:
            at = (at + uint32(1)) & mask
        head[j] = table[at]
    return count


@kernel(INT, I1, INT, I1, I1, I1, entry=True)
def put_in_rows(ribbon, count, heads, starts, order):
    """Fill ``starts`` (count + 1,) and ``order`` of points and, behind those of each ribbon, its head;
    return their number.
    """
    for i in range(count + 1):
        starts[i] = 0
    for i in range(ribbon.shape[0]):
        starts[ribbon[i] + 1] += 1
    for k in range(heads.shape[0]):
        starts[heads[k] + 1] += 1
    for i in range(count):
        starts[i + 1] += starts[i]
    # Filled from each beginning on, which is put back behind that.
    for i in range(ribbon.shape[0]):
        order[starts[ribbon[i]]] = i
        starts[ribbon[i]] += 1
    for k in range(heads.shape[0]):
        order[starts[heads[k]]] = ribbon.shape[0] + k
        starts[heads[k]] += 1
    for i in range(count, 0, -1):
        starts[i] = starts[i - 1]
    starts[0] = 0
    return starts[count]


def joined(run: LayerRun, effect: Effect, layer: Layer) -> Joined:
    """Return the ribbons of a layer's run at its moment; they share no memory with it."""
    n, extra = run.alive, run.program.extra_rows
    owners = run.state[extra.owner, :n].view(np.uint32) if extra.owner >= 0 else np.zeros(0, np.uint32)
    places = run.state[extra.row, :n] if extra.row >= 0 else np.zeros(0, np.float32)
    parents = _living(run, layer)
    numbers = run.parent.serial[parents] if run.parent is not None else np.zeros(0, np.uint32)
    table = np.full(1 << max(int(2 * n).bit_length(), 4), -1, np.int32)
    ribbon, newest = np.empty(n, np.int32), np.empty(n, np.int32)
    head, whose = np.full(len(numbers), -1, np.int32), np.empty(n, np.uint32)
    count = join(
        np.ascontiguousarray(owners),
        np.ascontiguousarray(places),
        n,
        np.ascontiguousarray(numbers),
        table,
        ribbon,
        newest,
        head,
        whose,
    )
    ends = np.flatnonzero(head >= 0)
    heads = head[ends]
    if count and owners.size == 0 and _has_own_head(run, layer):
        heads = np.array([count - 1], np.int32)
    shown = run.show().copy()
    if len(heads):
        state, serial = run.state[:, newest[heads]].copy(), run.serial[newest[heads]].copy()
        if owners.size:
            assert run.parent is not None
            _put_on_parents(state, run, parents[ends])
            serial = numbers[ends].copy()
        else:
            _put_on_layer(state, run)
        state[rows.SINCE] = 0.0
        state[rows.BORN].view(np.int32)[:] = run.step
        shown = np.concatenate([shown, run.instances_of(state, serial)])
    starts, order = np.empty(count + 1, np.int32), np.empty(n + len(heads), np.int32)
    put_in_rows(ribbon, count, np.ascontiguousarray(heads, np.int32), starts, order)
    return Joined(shown, starts, order, whose[:count].copy(), _cuts(run, starts, order, n))


def _cuts(run: LayerRun, starts: NDArray[np.int32], order: NDArray[np.int32], n: int) -> NDArray[np.float32]:
    """Return how much of each ribbon's first piece is gone: it goes while its oldest point lives as long
    as the next is younger.
    """
    first = order[np.minimum(starts[:-1], len(order) - 1)]
    second = order[np.minimum(starts[:-1] + 1, len(order) - 1)]
    ages = np.concatenate(
        [rows.ages_of(run.state[:, :n], run.step, run.rate), np.zeros(len(order) - n, np.float32)]
    )
    younger = ages[first] - ages[second]
    with np.errstate(divide="ignore", invalid="ignore"):
        gone = (ages[first] + younger - 1.0) / younger
    several = np.diff(starts) > 1
    return np.where(several & (younger > 1e-6), np.clip(np.nan_to_num(gone), 0.0, 1.0), 0.0).astype(
        np.float32
    )


def _living(run: LayerRun, layer: Layer) -> NDArray[np.int64]:
    """Return which of the parent's particles are heads of ribbons, if they have points: none where the
    window is closed.
    """
    nobody = np.zeros(0, np.int64)
    if (
        run.parent is None
        or not dependence.joins_parents(layer)
        or layer.origin.when == When.DEATH
        or dependence.needs_row(layer)
    ):
        return nobody
    schedule = run.schedule
    local = float(schedule.local(float(run.step), schedule.loop_of(run.step)))
    return np.arange(run.parent.alive) if 0.0 <= local <= schedule.length else nobody


def _has_own_head(run: LayerRun, layer: Layer) -> bool:
    """Return whether a ribbon of all goes on up to where the layer bears the next one."""
    place = layer.birthplace
    swept = dependence.is_swept(place, layer.look)
    if layer.origin.parent or not (swept or place.kind == EmitterShape.POINT) or dependence.needs_row(layer):
        return False
    schedule = run.schedule
    loop = schedule.loop_of(run.step)
    local = float(schedule.local(float(run.step), loop))
    if not 0.0 <= local <= schedule.length or schedule.length <= 0.0:
        return False
    return float(schedule.rate_at(np.array([local / schedule.length]), loop)[0]) > 0.0


def _put_on_parents(state: NDArray[np.float32], run: LayerRun, which: NDArray[np.int64]) -> None:
    """Put heads where their parents are."""
    parent = run.parent
    assert parent is not None
    state[rows.PX : rows.PZ + 1] = parent.state[rows.PX : rows.PZ + 1, which]
    laid, walked = run.program.extra_rows.laid, parent.program.extra_rows.walked
    if laid >= 0 and walked >= 0:
        state[laid] = parent.state[walked, which]


def _put_on_layer(state: NDArray[np.float32], run: LayerRun) -> None:
    """Put the head where the layer stands."""
    at, clock = np.empty(POSE), run.schedule.clock(run.step)
    pose(run.program.track, clock, at)
    here, laid = at[CENTRE : CENTRE + 3].astype(np.float32), run.program.extra_rows.laid
    if laid >= 0:
        state[laid, 0] += np.float32(
            np.linalg.norm(state[rows.PX : rows.PZ + 1, 0].astype(np.float64) - here)
        )
    state[rows.PX : rows.PZ + 1, 0] = here
    state[rows.CLOCK, 0] = clock

"""A moment between two steps: each particle at a share of the way from the one to the other."""

from __future__ import annotations

import dataclasses

import numpy as np
from numpy.typing import NDArray

from ..effect.kinds import DrawnAs, FrameEnd
from .moment import DrawnLayer, Moment

# Columns that stay the same for a particle's whole life.
_KEPT = ("dice", "lot")


def between(before: Moment, after: Moment, share: float) -> Moment:
    """Return what lies between two moments of one effect.

    Particles that are in one of them only are shown in the half that is nearer to it. Ribbons are those of
    the nearer one.
    """
    if share <= 0.0:
        return before
    later = {layer.id: layer for layer in after.layers}
    layers = [
        _layer(layer, later[layer.id], share) if layer.id in later else layer for layer in before.layers
    ]
    return dataclasses.replace(
        before, time=before.time + (after.time - before.time) * share, layers=tuple(layers)
    )


def _layer(before: DrawnLayer, after: DrawnLayer, share: float) -> DrawnLayer:
    """Return a layer's particles between two moments, at a share of the way."""
    if (
        before.look.draw == DrawnAs.RIBBON
        or before.life is None
        or after.life is None
        or before.instances.dtype != after.instances.dtype
    ):
        return before if share < 0.5 else after
    here, there = followed(before.life.serial, after.life.serial)
    rows = before.instances[here].copy()
    other = after.instances[there]
    picture = before.wears.get("picture")
    around = {"angle": 2.0 * np.pi}
    if picture is not None and before.look.frame_end == FrameEnd.AROUND:
        around["frame"] = float(picture.frames)
    for name in rows.dtype.names or ():
        if name in _KEPT:
            continue
        way = other[name] - rows[name]
        if name in around:
            way = way - np.float32(around[name]) * np.round(way / np.float32(around[name]))
        elif name == "turn":
            way = (
                np.where((rows[name] * other[name]).sum(axis=1, keepdims=True) < 0, -other[name], other[name])
                - rows[name]
            )
        rows[name] += way * np.float32(share)
        if name == "turn":
            rows[name] /= np.maximum(np.linalg.norm(rows[name], axis=1, keepdims=True), 1e-12)
    # The order is that of births: the newest come last.
    lives, serial = before.life.rows[:, here], before.life.serial[here]
    alone = np.setdiff1d(np.arange(len(before.instances)), here) if share < 0.5 else np.zeros(0, np.int64)
    new = np.setdiff1d(np.arange(len(after.instances)), there) if share >= 0.5 else np.zeros(0, np.int64)
    if len(alone):
        order = np.argsort(np.concatenate([here, alone]), kind="stable")
        rows = np.concatenate([rows, before.instances[alone]])[order]
        lives = np.concatenate([lives, before.life.rows[:, alone]], axis=1)[:, order]
        serial = np.concatenate([serial, before.life.serial[alone]])[order]
    if len(new):
        rows = np.concatenate([rows, after.instances[new]])
        lives = np.concatenate([lives, after.life.rows[:, new]], axis=1)
        serial = np.concatenate([serial, after.life.serial[new]])
    life = dataclasses.replace(before.life, rows=lives, serial=serial, speed=None)
    return dataclasses.replace(before, instances=rows, life=life)


def followed(
    before: NDArray[np.uint32], after: NDArray[np.uint32]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return where particles that are in both of two lists of numbers stand in the first, in its order,
    and in the second.
    """
    if not len(before) or not len(after):
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    order = np.argsort(after, kind="stable")
    at = np.minimum(np.searchsorted(after, before, sorter=order), len(after) - 1)
    place = order[at]
    known = after[place] == before
    return np.flatnonzero(known), place[known]

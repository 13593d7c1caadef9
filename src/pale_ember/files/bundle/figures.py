"""What an effect costs and where it goes, over its whole duration."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from ...drawing.moment import bounds, moment_of
from ...effect.effect import Effect
from ...simulation import Simulation
from ...textures.prepared import Prepared
from ..stopping import Stopped, Told


def figures_of(effect: Effect, textures: Iterable[Prepared] = (), told: Told = lambda share: False) -> dict[str, Any]:
    """Return an effect's figures from time 0 to its duration, each step looked at.

    Parameters
    ----------
    told : callable
        Told how much is done; returns whether to give up.

    Returns
    -------
    dict
        ``layers``, each with counts, the most alive, births and hits each second, and ``bounds`` (low and high corner, m)
        of all that it draws; the whole effect's ``bounds``, ``alive`` at most and in the mean, and ``texture_memory``, bytes.

    Raises
    ------
    Stopped
    """
    sim = Simulation(effect)
    steps = max(1, round(effect.duration * effect.step_rate))
    boxes: dict[str, Any] = {}
    peaks = {layer.id: 0 for layer in effect.layers}
    sums = dict(peaks)
    most = 0
    for step in range(steps + 1):
        together = 0
        for layer in effect.layers:
            alive = sim.counts(layer.id)["alive"]
            peaks[layer.id] = max(peaks[layer.id], alive)
            sums[layer.id] += alive
            together += alive
        most = max(most, together)
        moment = moment_of(sim)
        for layer in effect.layers:
            if (box := bounds(moment, {layer.id}, turned=True)) is not None:
                old = boxes.get(layer.id, box)
                boxes[layer.id] = np.minimum(old[0], box[0]), np.maximum(old[1], box[1])
        if step < steps:
            sim.step()
        if step % 8 == 0 and told(step / steps):
            raise Stopped
    rows = []
    for layer in effect.layers:
        counts = sim.counts(layer.id)
        rows.append({
            "id": layer.id, "name": layer.name, **{name: counts[name] for name in ("born", "died", "hits", "refused")},
            "peak": peaks[layer.id], "mean": _tidy(sums[layer.id] / (steps + 1)), "cap": layer.emit.cap,
            "born_per_second": _tidy(counts["born"] / effect.duration), "hits_per_second": _tidy(counts["hits"] / effect.duration),
            "bounds": _corners(boxes.get(layer.id)),
        })  # fmt: skip
    all_boxes = list(boxes.values())
    whole = (np.min([b[0] for b in all_boxes], axis=0), np.max([b[1] for b in all_boxes], axis=0)) if all_boxes else None
    return {
        "duration": effect.duration, "peak": most, "mean": _tidy(sum(sums.values()) / (steps + 1)), "bounds": _corners(whole),
        "texture_memory": sum(one.memory for one in textures), "layers": rows,
    }  # fmt: skip


def _corners(box: Any) -> list[list[float]] | None:
    # Outward, so that what is rounded still holds all.
    if box is None:
        return None
    return [[float(np.floor(float(x) * 1e4) / 1e4) for x in box[0]], [float(np.ceil(float(x) * 1e4) / 1e4) for x in box[1]]]


def _tidy(number: float) -> float:
    return round(number, 4)

"""What an effect costs, in figures."""

from __future__ import annotations

from typing import Any

from ..drawing.moment import Moment, bounds, moment_of
from ..effect.effect import Effect
from ..simulation import Simulation

# Bounds are looked at every so many steps.
BOUNDS_STEPS = 4


def stats(effect: Effect, until: float) -> list[dict[str, Any]]:
    """Return each layer's figures from time 0 to ``until``: counts, peak alive, and bounds over that
    time, m.
    """
    sim = Simulation(effect)
    boxes: dict[str, tuple[list[float], list[float]]] = {}
    peaks = {layer.id: 0 for layer in effect.layers}
    steps = max(0, round(until * effect.step_rate))
    for step in range(steps + 1):
        for layer in effect.layers:
            peaks[layer.id] = max(peaks[layer.id], sim.counts(layer.id)["alive"])
        if step % BOUNDS_STEPS == 0 or step == steps:
            _widen(boxes, effect, moment_of(sim))
        if step < steps:
            sim.step()
    return [
        {
            "id": layer.id,
            "name": layer.name,
            **sim.counts(layer.id),
            "peak": peaks[layer.id],
            "bounds": boxes.get(layer.id),
        }
        for layer in effect.layers
    ]


def _widen(boxes: dict[str, tuple[list[float], list[float]]], effect: Effect, moment: Moment) -> None:
    for layer in effect.layers:
        box = bounds(moment, {layer.id})
        if box is None:
            continue
        low, high = ([float(x) for x in corner] for corner in box)
        if layer.id in boxes:
            low = [min(a, b) for a, b in zip(low, boxes[layer.id][0], strict=True)]
            high = [max(a, b) for a, b in zip(high, boxes[layer.id][1], strict=True)]
        boxes[layer.id] = (low, high)

"""What an effect costs and where it goes, over its whole duration."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any, Protocol

import numpy as np

from ...drawing.moment import Moment, bounds, moment_of
from ...effect.effect import Effect
from ...simulation import Simulation
from ...textures.prepared import Prepared
from ..stopping import Progress, go_on


class Watcher(Protocol):
    """An observer that sees each step of an effect."""

    def see(self, step: int, sim: Simulation, moment: Moment) -> None:
        """Take note of the moment at the start of a step."""


def watch(
    effect: Effect,
    watchers: Sequence[Watcher],
    textures: dict[str, Prepared],
    first: int,
    last: int,
    progress: Progress,
) -> None:
    """Show each step from ``first`` to ``last`` to all watchers.

    Raises
    ------
    Stopped
    """
    sim = Simulation(effect)
    sim.seek((first + 0.5) / effect.step_rate)
    for step in range(first, last + 1):
        moment = moment_of(sim, textures=textures)
        for watcher in watchers:
            watcher.see(step, sim, moment)
        if step < last:
            sim.step()
        go_on(progress, (step + 1 - first) / (last + 1 - first))


def last_step(effect: Effect) -> int:
    """Return the step that an effect's duration ends at."""
    return max(1, round(effect.duration * effect.step_rate))


class Figures:
    """Counts, peaks and bounds of an effect, step by step."""

    def __init__(self, effect: Effect) -> None:
        self.effect = effect
        self._boxes: dict[str, Any] = {}
        self._peaks = {layer.id: 0 for layer in effect.layers}
        self._sums = dict(self._peaks)
        self._counts: dict[str, dict[str, int]] = {}
        self._most = self._steps = 0

    def see(self, step: int, sim: Simulation, moment: Moment) -> None:
        """Take note of a moment."""
        self._counts = moment.counts
        for layer_id, counts in moment.counts.items():
            self._peaks[layer_id] = max(self._peaks[layer_id], counts["alive"])
            self._sums[layer_id] += counts["alive"]
            if (box := bounds(moment, {layer_id}, turned=True)) is not None:
                old = self._boxes.get(layer_id, box)
                self._boxes[layer_id] = np.minimum(old[0], box[0]), np.maximum(old[1], box[1])
        self._most = max(self._most, sum(counts["alive"] for counts in moment.counts.values()))
        self._steps += 1

    def found(self, textures: Iterable[Prepared] = ()) -> dict[str, Any]:
        """Return what was seen: for each layer counts, the most alive, births and hits each second and
        bounds, m; and for all.
        """
        effect, steps = self.effect, max(self._steps, 1)
        rows = []
        for layer in effect.layers:
            counts = self._counts[layer.id]
            rows.append(
                {
                    "id": layer.id,
                    "name": layer.name,
                    **{name: counts[name] for name in ("born", "died", "hits", "refused")},
                    "peak": self._peaks[layer.id],
                    "mean": _tidy(self._sums[layer.id] / steps),
                    "cap": layer.emit.cap,
                    "born_per_second": _tidy(counts["born"] / effect.duration),
                    "hits_per_second": _tidy(counts["hits"] / effect.duration),
                    "bounds": _corners(self._boxes.get(layer.id)),
                }
            )
        boxes = list(self._boxes.values())
        whole = (
            (np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)) if boxes else None
        )
        return {
            "duration": effect.duration,
            "peak": self._most,
            "mean": _tidy(sum(self._sums.values()) / steps),
            "bounds": _corners(whole),
            "texture_memory": sum(one.memory for one in textures),
            "layers": rows,
        }


def figures_of(
    effect: Effect, textures: dict[str, Prepared] | None = None, progress: Progress = lambda share: False
) -> dict[str, Any]:
    """Return an effect's figures from time 0 to its duration, each step looked at."""
    figures = Figures(effect)
    watch(effect, [figures], textures or {}, 0, last_step(effect), progress)
    return figures.found((textures or {}).values())


def _corners(box: Any) -> list[list[float]] | None:
    # Outward, so that what is rounded still holds all.
    if box is None:
        return None
    return [
        [float(np.floor(float(x) * 1e4) / 1e4) for x in box[0]],
        [float(np.ceil(float(x) * 1e4) / 1e4) for x in box[1]],
    ]


def _tidy(number: float) -> float:
    return round(number, 4)

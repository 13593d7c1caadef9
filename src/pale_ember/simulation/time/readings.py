"""What is read off a layer's run beside its particles' instances: recent hits, speeds, counts."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...effect.kinds import Along
from ...effect.values.values import Fixed
from ..layout import recording, slots
from ..layout.program import BORN, FULL, HITS, REFUSED
from ..layout.rows import VX, VZ, ages_of, born_since_zero
from ..values.dice import random_share
from .layer_run import LayerRun


def recent_hits(run: LayerRun, seconds: float) -> NDArray[np.float32]:
    """Return places, normals and ages, s, of the hits of the last seconds, (n, 7)."""
    what, who = run.events(max(run.step - round(seconds * run.rate), run.first_step), run.step, recording.HIT)
    ago = (run.step - who[:, recording.STEP] - 1).astype(np.float32) / run.rate + what[:, recording.LEFT]
    return np.column_stack(
        [
            what[:, recording.PLACE : recording.PLACE + 3],
            what[:, recording.NORMAL : recording.NORMAL + 3],
            ago,
        ]
    ).astype(np.float32)


def speeds_of(run: LayerRun) -> NDArray[np.float32]:
    """Return how fast each particle goes along its way, m/s, (alive,): its velocity times its pace."""
    n, pace = run.alive, run.pace
    velocity = run.state[VX : VZ + 1, :n]
    speed = np.sqrt(np.einsum("ij,ij->j", velocity, velocity))
    if pace == Fixed(1.0) or n == 0:
        return speed
    axes = {
        Along.LIFE: lambda: ages_of(run.state[:, :n], run.step, run.rate),
        Along.CLOCK: lambda: np.full(n, run.schedule.clock(run.step)),
        Along.SPEED: lambda: np.minimum(speed / run.program.around.speed_range, 1.0),
    }
    low, high = pace.bounds_at(axes[Along(pace.along)]() if pace.along else np.zeros(n))
    u = random_share(int(run.tables.key[slots.PACE]), run.serial[:n])
    return np.abs(speed * (low + (high - low) * u)).astype(np.float32)


def counts_of(run: LayerRun) -> dict[str, int]:
    """Return born, died, hits and refused since time 0, of particles born since then, and alive now.

    ``full`` are those of the refused that the cap refused, and not a follow-up's limit for a step.
    """
    born, origin = int(run.counters[BORN]), run.layer.origin
    limited = bool(origin.parent) and origin.limit < run.serial.shape[0]
    return {
        "born": born,
        "died": born - born_since_zero(run.state[:, : run.alive]),
        "hits": int(run.counters[HITS]),
        "refused": int(run.counters[REFUSED]),
        "full": int(run.counters[FULL if limited else REFUSED]),
        "alive": run.alive,
    }

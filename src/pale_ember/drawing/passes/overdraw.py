"""What drawing costs: how many layers of particles lie over each pixel."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from ..programs import Programs
from .develop import Developing


class Overdraw(NamedTuple):
    """Layers of particles over a pixel: the mean over the whole picture, and the most."""

    mean: float
    peak: int


def overdraw_of(counts: Any) -> Overdraw:
    """Return the figures of a framebuffer that counts."""
    found = np.frombuffer(counts.read(components=1, dtype="f4", alignment=1), np.float32)
    return Overdraw(float(found.mean()), round(float(found.max(initial=0.0))))


def show_heat(programs: Programs, counts: Any, how: Developing) -> None:
    """Fill the viewport with a texture of counts as heat."""
    counts.use(0)
    program = programs.screen("heat")
    program["counts"] = 0
    program["swap"], program["flip"] = float(how.blue_first), float(how.from_top)
    programs.fill("heat")

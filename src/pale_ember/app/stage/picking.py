"""Particles on the picture: the one under the mouse, and those of the age that the cursor says."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF

from ...drawing.camera import project
from ...drawing.moment import Moment, gathered
from ..session.selecting import Picked
from ..session.session import Session

# How near to a particle's middle a click must be, pixels.
PICK = 16.0
# Particles within this share of life of the cursor are marked, so many at most.
NEAR_AGE, MOST_MARKS = 0.02, 160
Floats = NDArray[np.float64]


def particle_at(session: Session, moment: Moment, size: tuple[int, int], at: QPointF) -> Picked | None:
    """Return the particle whose middle is nearest to a place, within a few pixels; one of the selected
    layer first.
    """
    best: tuple[float, Picked] | None = None
    for layer in moment.layers:
        if layer.life is None or len(layer.instances) == 0:
            continue
        rows = gathered(layer, session.camera.target).instances
        places, before = project(session.camera, *size, rows["place"])
        far = np.where(before, np.hypot(places[:, 0] - at.x(), places[:, 1] - at.y()), np.inf)
        i = int(np.argmin(far))
        mine = 1.0 if layer.id == session.selected else 3.0
        if far[i] <= PICK and (best is None or far[i] * mine < best[0]):
            birth = layer.life.birth(i)
            born = (birth.step + 1) / session.effect.step_rate - birth.left
            best = (far[i] * mine, Picked(layer.id, birth, born, layer.life.lifetime(i)))
    return None if best is None else best[1]


def marked(session: Session, size: tuple[int, int]) -> tuple[Floats, Floats]:
    """Return where particles of the selected layer are that are about as old as the cursor says, and the
    followed one.

    Returns
    -------
    (ndarray (n, 2), ndarray (0 or 1, 2))
        Pixels.
    """
    none = np.zeros((0, 2))
    drawn = next((one for one in session.moment.layers if one.id == session.selected), None)
    if drawn is None or drawn.life is None or not session.is_shown(drawn.id):
        return none, none
    rows = gathered(drawn, session.camera.target).instances
    near = np.flatnonzero(np.abs(drawn.life.age - session.cursor) < NEAR_AGE)[:MOST_MARKS]
    if (
        session.strip_axis != "life"
        or not session.cursor_shown
        or session.picked is not None
        or session.hasty
    ):
        near = near[:0]
    picked = session.picked
    own = np.flatnonzero(drawn.life.serial == picked.birth.serial) if picked is not None else near[:0]
    found = []
    for chosen in (near, own):
        places, before = project(session.camera, *size, rows["place"][chosen])
        found.append(places[before])
    return found[0], found[1]

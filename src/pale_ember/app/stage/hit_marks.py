"""Marks over the stage: where particles hit, and the parent and the children of the particle that is
followed.
"""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPen

from ...drawing import Moment
from ...drawing.camera import project
from ...drawing.moment import gathered
from ...effect.chapters.stage import Camera
from ...effect.editing.chains import follow_ups, parent_of
from ...simulation.follow_ups.parent_relations import children_of, parents_of
from ..session.session import Session
from ..widgets import theme

# How long a normal is drawn, as a share of the way to the camera's target; how long a hit is seen, s; so many
# at most.
LENGTH, SECONDS, MOST = 0.035, 0.5, 1500


def paint_hits(painter: QPainter, camera: Camera, size: tuple[int, int], moment: Moment) -> None:
    """Paint a dot and the surface's direction for each hit of the last half second; they fade."""
    rows = np.concatenate([*moment.hits.values()] or [np.zeros((0, 7), np.float32)])[-MOST:]
    if not len(rows):
        return
    ends = np.concatenate([rows[:, :3], rows[:, :3] + rows[:, 3:6] * (LENGTH * camera.distance)])
    places, before = project(camera, *size, ends)
    n = len(rows)
    # Four shades, each with one pen.
    shade = np.clip((rows[:, 6] / SECONDS * 4).astype(int), 0, 3)
    for step in range(3, -1, -1):
        ink = theme.color(theme.SALT, 235 - 55 * step)
        painter.setPen(QPen(ink, 1.3))
        painter.setBrush(ink)
        for i in np.flatnonzero((shade == step) & before[:n] & before[n:]).tolist():
            foot = QPointF(float(places[i, 0]), float(places[i, 1]))
            painter.drawLine(foot, QPointF(float(places[n + i, 0]), float(places[n + i, 1])))
            painter.drawEllipse(foot, 1.6, 1.6)


def paint_kin(painter: QPainter, session: Session, size: tuple[int, int]) -> None:
    """Mark the parent of the particle that is followed with a square, and its children with small rings."""
    picked, effect = session.picked, session.effect
    at = effect.index(picked.layer_id) if picked is not None else -1
    if picked is None or at < 0:
        return
    layer = effect.layers[at]
    drawn = {one.id: one for one in session.moment.layers}
    painter.setBrush(theme.color(theme.ASH_0, 0))
    for child in follow_ups(effect, layer.id):
        one = drawn.get(child.id)
        if one is not None and one.life is not None:
            kin = children_of(child, picked.birth.serial, one.life.serial)
            painter.setPen(QPen(theme.color(theme.EMBER, 220), 1.3))
            for at_pixel in _pixels(session, child.id, kin, size):
                painter.drawEllipse(at_pixel, 5.0, 5.0)
    parent = parent_of(effect, layer)
    above = drawn.get(parent.id) if parent is not None else None
    if above is not None and above.life is not None:
        kin = parents_of(layer, picked.birth.serial, above.life.serial)
        painter.setPen(QPen(theme.color(theme.SALT, 230), 1.6))
        for at_pixel in _pixels(session, above.id, kin, size):
            painter.drawRect(round(at_pixel.x()) - 8, round(at_pixel.y()) - 8, 16, 16)


def _pixels(session: Session, layer_id: str, kin: np.ndarray, size: tuple[int, int]) -> list[QPointF]:
    """Return where some particles of a layer stand in the picture."""
    one = next(one for one in session.moment.layers if one.id == layer_id)
    rows = gathered(one, session.camera.target).instances[kin]
    if not len(rows):
        return []
    places, before = project(session.camera, *size, rows["place"])
    return [QPointF(float(x), float(y)) for (x, y), seen in zip(places[:300], before) if seen]

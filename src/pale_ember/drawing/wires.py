"""A birthplace as lines of the world, so that one sees where particles come from."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..effect.chapters.path import evaluate_path
from ..effect.effect import Layer
from ..simulation.meshes.faces import known_faces
from ..simulation.motion.bows import bow_at_rest, on_cubic
from ..simulation.motion.path import Pose, pose_at

Lines = list[NDArray[np.float64]]
_POINTS = 48


def _circle(radius: float, height: float, arc: float) -> NDArray[np.float64]:
    turn = np.linspace(0.0, math.radians(arc), _POINTS + 1)
    return np.stack([radius * np.cos(turn), np.full_like(turn, height), radius * np.sin(turn)], axis=1)


def _meridian(radius: float, turn: float, upper: bool) -> NDArray[np.float64]:
    """Return the line from one pole of a ball, or from a dome's rim, to the upper pole, at a turn about
    the axis in degrees.
    """
    rise = np.linspace(0.0 if upper else -math.pi / 2, math.pi / 2, _POINTS + 1)
    wide, angle = radius * np.cos(rise), math.radians(turn)
    return np.stack([wide * math.cos(angle), radius * np.sin(rise), wide * math.sin(angle)], axis=1)


def _box(size: tuple[float, float, float]) -> Lines:
    x, y, z = (s / 2 for s in size)
    corners = [(x, z), (x, -z), (-x, -z), (-x, z), (x, z)]
    rings = [np.array([(a, h, b) for a, b in corners]) for h in (-y, y)]
    return rings + [np.array([(a, -y, b), (a, y, b)]) for a, b in corners[:4]]


def path_line(layer: Layer, points: int = 240) -> NDArray[np.float64]:
    """Return a layer's path as a polyline of the world, shape (n, 3), m."""
    rest = pose_at(layer.model_copy(update={"path": ()}), 0.0)
    clocks = np.unique(np.concatenate([np.linspace(0.0, 1.0, points), [key.at for key in layer.path]]))
    return rest.centre + rest.scale * evaluate_path(layer.path, clocks)[:, :3] @ rest.rotation.T


def _mesh_edges(mesh: str, most: int = 600) -> tuple[NDArray[np.float64], ...]:
    """Return some of a mesh's faces as closed lines; none before it was read for the simulation."""
    faces = known_faces(mesh)
    some = () if faces is None else faces[:: max(1, len(faces) // most)]
    return tuple(face[[0, 1, 2, 0]] for face in some)


def birthplace_wire(
    layer: Layer, clock: float = 0.0, at: Pose | None = None, bow: NDArray[np.float64] | None = None
) -> Lines:
    """Return polylines, each of shape (n, 3) in m, that outline a layer's birthplace at a clock, or ``at`` an
    event, and its axis.

    ``bow`` are the four points of a bow in the world, m, where its ends stand on things.
    """
    b = layer.birthplace
    r, h, arc = b.radius, b.height, b.arc
    lines: Lines = []
    if b.kind in ("ball", "dome"):
        turns = [turn for turn in (0.0, 90.0, 180.0, 270.0, arc) if turn < arc or turn == arc < 360.0]
        lines = [_circle(r, 0, arc), *(_meridian(r, turn, b.kind == "dome") for turn in turns)]
    elif b.kind == "box":
        lines = _box(b.extents)
    elif b.kind in ("cone", "cylinder"):
        top = r + (h * math.tan(math.radians(b.angle)) if b.kind == "cone" else 0.0)
        lines = [_circle(r, 0, arc), _circle(top, h, arc)]
        for turn in np.linspace(0.0, math.radians(arc), 5):
            c, s = math.cos(turn), math.sin(turn)
            lines.append(np.array([(r * c, 0, r * s), (top * c, h, top * s)]))
    elif b.kind == "ring":
        lines = [_circle(r, 0, arc), _circle(r + b.tube, 0, arc), _circle(max(r - b.tube, 0), 0, arc)]
        for turn in np.linspace(0.0, math.radians(arc), 9):
            around = np.linspace(0, 2 * math.pi, 17)
            wide = r + b.tube * np.cos(around)
            lines.append(
                np.stack([wide * math.cos(turn), b.tube * np.sin(around), wide * math.sin(turn)], axis=1)
            )
    elif b.kind == "line":
        lines = [np.array([(-b.extents[0] / 2, 0, 0), (b.extents[0] / 2, 0, 0)])]
    elif b.kind == "mesh":
        lines = [line * b.mesh_scale for line in _mesh_edges(b.mesh)]
    elif b.kind == "bow" and bow is None:
        lines = _bow(bow_at_rest(b, 1.0).points[0])
    reach = 0.12
    lines.append(np.array([(0.0, 0.0, 0.0), (0.0, reach, 0.0)]))
    lines += [
        np.array([(-reach / 4, 0, 0), (reach / 4, 0, 0)]),
        np.array([(0, 0, -reach / 4), (0, 0, reach / 4)]),
    ]
    pose = at or pose_at(layer, clock)
    placed = [pose.centre + pose.scale * line @ pose.rotation.T for line in lines]
    return _bow(bow) + placed if bow is not None else placed


def _bow(points: NDArray[np.float64]) -> Lines:
    """Return a bow's curve and, from each end, the way that it is pulled."""
    return [on_cubic(points[None], np.linspace(0.0, 1.0, _POINTS + 1))[0], points[:2], points[2:]]

"""Meshes to be born on: shipped ones, and files in OBJ, glTF, GLB, STL or PLY."""

from __future__ import annotations

import functools
import itertools
import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.errors import EffectError
from .drawn import shipped_body
from .reading import read_scene, shown_name, stamp_of

Corners = NDArray[np.float64]
_AROUND = 48


def mesh_faces(mesh: str) -> Corners:
    """Return the corners of a mesh's triangles, shape (n, 3, 3), in m.

    Parameters
    ----------
    mesh : str
        The name of a shipped mesh, or a file.

    Raises
    ------
    EffectError
        With the place ``birthplace.mesh`` and one sentence, whatever is wrong.
    """
    if mesh in SHIPPED_MESHES:
        return _shipped(mesh)
    found = _from_file(*stamp_of(mesh))
    _last_read[mesh] = found
    while len(_last_read) > _MOST_READ:
        del _last_read[next(iter(_last_read))]
    return found


def body_corners(faces: Corners) -> Corners:
    """Return a mesh's triangles put into a body 1 m each way, its foot's middle at 0."""
    low, high = faces.min(axis=(0, 1)), faces.max(axis=(0, 1))
    wide = np.maximum(high - low, 1e-9)
    return (faces - np.array([(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2])) / wide


# The last contents of each file, for callers that can't wait for a disk.
_last_read: dict[str, Corners] = {}
_MOST_READ = 16


def known_faces(mesh: str) -> Corners | None:
    """Return the corners of a mesh that is shipped or was read already; None for one that must be read
    first.
    """
    return _shipped(mesh) if mesh in SHIPPED_MESHES else _last_read.get(mesh)


@functools.lru_cache(maxsize=16)
def _from_file(path: str, changed: int, size: int) -> Corners:
    """Return the corners of a file's triangles."""

    def corners_of(scene: Any) -> Corners:
        return np.array(scene.to_mesh().triangles, dtype=np.float64).reshape(-1, 3, 3)

    corners = read_scene(path, "birthplace.mesh", corners_of)
    corners = corners[np.isfinite(corners).all(axis=(1, 2))]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    corners = corners[np.linalg.norm(across, axis=1) > 0.0]
    if not len(corners):
        raise EffectError(
            "birthplace.mesh", f"“{shown_name(path)}” has no faces to be born on; choose another mesh."
        )
    corners.flags.writeable = False
    return corners


def _turned(profile: list[tuple[float, float]], closed: bool = False) -> Corners:
    """Return the faces of a profile of (radius, height), upwards, turned about the axis; normals face
    outward.
    """
    turn = np.arange(_AROUND + 1) % _AROUND * (2.0 * math.pi / _AROUND)
    cos, sin = np.cos(turn), np.sin(turn)
    points = [np.stack([r * cos, np.full_like(cos, h), r * sin], axis=1) for r, h in profile]
    if closed:
        points.append(points[0])
    faces = []
    for low, high in itertools.pairwise(points):
        a, b, c, d = low[:-1], low[1:], high[1:], high[:-1]
        faces += [np.stack([a, c, b], axis=1), np.stack([a, d, c], axis=1)]
    found = np.concatenate(faces)
    across = np.cross(found[:, 1] - found[:, 0], found[:, 2] - found[:, 0])
    whole: Corners = found[np.linalg.norm(across, axis=1) > 1e-12]
    return whole


@functools.cache
def _shipped(name: str) -> Corners:
    """Return the corners of a shipped mesh's triangles."""
    found: Corners
    if name == "cylinder":
        found = _turned([(0.5, 0.0), (0.5, 1.0)])
    elif name == "cone":
        found = _turned([(0.0, 0.0), (0.5, 0.0), (0.0, 1.0)])
    elif name == "ball":
        lean = np.linspace(-math.pi / 2, math.pi / 2, 25)
        found = _turned([(0.5 * abs(math.cos(a)), 0.5 * math.sin(a)) for a in lean.tolist()])
    elif name == "torus":
        lean = np.asarray(np.arange(24) * (2.0 * math.pi / 24), dtype=np.float64)
        found = _turned([(0.5 + 0.15 * math.cos(a), 0.15 * math.sin(a)) for a in lean.tolist()], closed=True)
    elif name in ("dome", "ring", "rocks", "shards"):
        parts = shipped_body(name)
        found = np.concatenate(
            [part.vertices[part.faces.reshape(-1), :3].reshape(-1, 3, 3) for part in parts]
        ).astype(np.float64)
    elif name == "plane":
        found = np.subtract(_square(np.array([0.0, 1.0, 0.0])), np.array([0.0, 0.5, 0.0]), dtype=np.float64)
    else:
        squares = [_square(side * np.eye(3)[axis]) for axis in range(3) for side in (1.0, -1.0)]
        found = np.concatenate(squares, dtype=np.float64)
    found.flags.writeable = False
    return found


def _square(normal: Corners) -> Corners:
    """Return a square of side 1, half a metre along its normal."""
    first = np.roll(np.abs(normal), 1)
    second = np.cross(normal, first)
    a, b, c, d = (0.5 * (normal + i * first + j * second) for i, j in ((-1, -1), (1, -1), (1, 1), (-1, 1)))
    return np.array([(a, b, c), (a, c, d)], dtype=np.float64)

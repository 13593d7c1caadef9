"""Meshes to be born on: shipped ones, and files in OBJ, glTF, GLB, STL or PLY."""

from __future__ import annotations

import functools
import itertools
import math
import os

import numpy as np
from numpy.typing import NDArray

from ..effect.errors import EffectError, nearest
from ..effect.source import SHIPPED_MESHES

Corners = NDArray[np.float64]
ENDINGS = (".obj", ".gltf", ".glb", ".stl", ".ply")
LARGEST = 256 << 20
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
    if not mesh.lower().endswith(ENDINGS):
        known = nearest(mesh, SHIPPED_MESHES)
        raise EffectError("birthplace.mesh", f"“{mesh[:80]}” is neither a shipped mesh nor a mesh file; {known}")
    try:
        about = os.stat(mesh)
    except (OSError, ValueError) as wrong:
        said = (getattr(wrong, "strerror", None) or str(wrong)).lower()
        raise EffectError("birthplace.mesh", f"“{mesh[:200]}” can't be read: {said}; choose the file anew.") from None
    if about.st_size > LARGEST:
        raise EffectError("birthplace.mesh", f"“{mesh[:200]}” is larger than 256 MB; use a simpler mesh.")
    return _from_file(os.path.abspath(mesh), about.st_mtime_ns, about.st_size)


@functools.lru_cache(maxsize=16)
def _from_file(path: str, changed: int, size: int) -> Corners:
    import trimesh

    try:
        loaded = trimesh.load_scene(path, process=False)
        faces = loaded.to_mesh().triangles
        corners = np.array(faces, dtype=np.float64).reshape(-1, 3, 3)
    except Exception as wrong:  # any of trimesh's readers may stumble in its own way
        said = str(wrong).split("\n")[0][:120] or type(wrong).__name__
        raise EffectError("birthplace.mesh", f"“{path}” is not a mesh that can be read ({said}).") from None
    corners = corners[np.isfinite(corners).all(axis=(1, 2))]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    corners = corners[np.linalg.norm(across, axis=1) > 0.0]
    if not len(corners):
        raise EffectError("birthplace.mesh", f"“{path}” has no faces to be born on; choose another mesh.")
    corners.flags.writeable = False
    return corners


def _turned(profile: list[tuple[float, float]], closed: bool = False) -> Corners:
    """Return the faces of a profile of (radius, height), upwards, turned about the axis; normals face outward."""
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

"""Meshes to be drawn: places, normals and texture coordinates by corner, of shipped ones and of files."""

from __future__ import annotations

import functools
import itertools
import math
from typing import Any, NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ...effect.chapters.look import Look
from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.errors import EffectError
from ...effect.kinds import DrawnAs
from .reading import read_scene, shown_name, stamp_of

Floats = NDArray[np.float64]
PLACE = "look.mesh.mesh"
# Neighbouring faces that meet at less than this are one round surface.
CREASE = math.cos(math.radians(40.0))
_AROUND = 48
# The number of shipped rocks, and of shards.
_PIECES = 6


class DrawnMeshPart(NamedTuple):
    """One part of a mesh: ``vertices`` (n, 8) float32, place, normal and texture coordinates; ``faces``
    (m, 3) int32.
    """

    vertices: NDArray[np.float32]
    faces: NDArray[np.int32]


DrawnMesh = tuple[DrawnMeshPart, ...]


def body_of(mesh: str) -> DrawnMesh:
    """Return a mesh's parts.

    Shipped ones are 1 m wide and high; a file is made as large as makes the longest side of its largest part
    1 m. Several parts stand each in its own middle, a single one where its file has it.

    Raises
    ------
    EffectError
        With the place ``look.mesh.mesh`` and one sentence, whatever is wrong.
    """
    if mesh in SHIPPED_MESHES:
        return shipped_body(mesh)
    found = _from_file(*stamp_of(mesh, PLACE))
    _read[mesh] = None
    while len(_read) > _MOST_READ:
        del _read[next(iter(_read))]
    return found


# Files that were read lately, for those who can't wait for a disk.
_read: dict[str, None] = {}
_MOST_READ = 16


def is_known(mesh: str) -> bool:
    """Return whether a mesh is shipped or was read already, so that it is there at once."""
    return mesh in SHIPPED_MESHES or mesh in _read


def body_of_look(look: Look) -> tuple[DrawnMesh, EffectError | None]:
    """Return the mesh that a look draws, a ball if it can't be read, and what is wrong with it; nothing
    for one without.
    """
    if look.draw != DrawnAs.MESH:
        return (), None
    try:
        return body_of(look.mesh.mesh), None
    except EffectError as wrong:
        return shipped_body("ball"), wrong


@functools.lru_cache(maxsize=16)
def _from_file(path: str, changed: int, size: int) -> DrawnMesh:
    """Return a file's mesh in parts, with normals and texture coordinates."""

    def parts_of(scene: Any) -> list[tuple[Floats, NDArray[np.int64], Floats | None, Floats | None]]:
        """Return corners, faces, normals and texture coordinates of a scene's meshes."""
        found = []
        for one in scene.dump():
            faces = getattr(one, "faces", None)
            if faces is None or not len(faces):
                continue
            given = "vertex_normals" in one._cache or "vertex_normals" in getattr(one, "_data", {})
            uv = getattr(one.visual, "uv", None)
            found.append(
                (
                    np.array(one.vertices, np.float64).reshape(-1, 3),
                    np.array(faces, np.int64).reshape(-1, 3),
                    np.array(one.vertex_normals, np.float64) if given else None,
                    np.array(uv, np.float64) if uv is not None and len(uv) == len(one.vertices) else None,
                )
            )
        return found

    parts = [whole for part in read_scene(path, PLACE, parts_of) if (whole := _whole(*part)) is not None]
    if not parts:
        raise EffectError(PLACE, f"“{shown_name(path)}” has no faces to be drawn; choose another mesh.")
    boxes = [(corners.min(axis=(0, 1)), corners.max(axis=(0, 1))) for corners, _, _ in parts]
    large = max(float((high - low).max()) for low, high in boxes)
    if not large > 0.0:
        raise EffectError(PLACE, f"“{shown_name(path)}” has no size; choose another mesh.")
    found = []
    for (corners, normals, uv), (low, high) in zip(parts, boxes, strict=True):
        middle = (low + high) / 2.0 if len(parts) > 1 else np.zeros(3)
        found.append(_indexed((corners - middle) / large, normals, uv))
    return tuple(found)


def _whole(
    places: Floats, faces: NDArray[np.int64], normals: Floats | None, uv: Floats | None
) -> tuple[Floats, Floats, Floats] | None:
    """Return places, normals and texture coordinates by corner of the faces with an area; None without."""
    faces = faces[((faces >= 0) & (faces < len(places))).all(axis=1)]
    faces = faces[np.isfinite(places[faces]).all(axis=(1, 2))]
    corners = places[faces]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    real = np.linalg.norm(across, axis=1) > 0.0
    faces, corners = faces[real], corners[real]
    if not len(faces):
        return None
    found = None if normals is None else normals[faces]
    if found is None or not np.isfinite(found).all() or (np.linalg.norm(found, axis=2) < 0.5).any():
        found = rounded_normals(corners)
    laid = uv[faces] if uv is not None and np.isfinite(uv[faces]).all() else _laid_around(corners)
    return corners, found, laid


def _laid_around(corners: Floats) -> Floats:
    """Return texture coordinates by corner, around the middle and up, for a mesh that has none."""
    low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
    away = corners - (low + high) / 2.0
    u = np.arctan2(away[..., 0], away[..., 2]) / (2.0 * math.pi) + 0.5
    # A face that crosses the seam goes on beyond it.
    u += (u < u.max(axis=1, keepdims=True) - 0.5) * 1.0
    v = (corners[..., 1] - low[1]) / max(high[1] - low[1], 1e-9)
    return np.stack([u, v], axis=2)


def rounded_normals(corners: Floats) -> Floats:
    """Return a normal for each corner of faces, (n, 3, 3): that of all faces there which meet this one at
    less than a crease.
    """
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    unit = flat / np.maximum(np.linalg.norm(flat, axis=1, keepdims=True), 1e-300)
    span = max(float(np.ptp(corners.reshape(-1, 3), axis=0).max()), 1e-30)
    grid = np.round((corners.reshape(-1, 3) - corners.min(axis=(0, 1))) / span * (1 << 20)).astype(np.int64)
    key = grid[:, 0] | grid[:, 1] << 21 | grid[:, 2] << 42
    order = np.argsort(key, kind="stable")
    starts = np.flatnonzero(np.append(True, np.diff(key[order]) != 0))
    found = np.empty((len(corners) * 3, 3))
    _sum_normals(order, np.append(starts, len(order)), flat, unit, CREASE, found)
    return (found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300)).reshape(-1, 3, 3)


@njit(cache=True, nogil=True)
def _sum_normals(order, starts, flat, unit, crease, out):
    """Add to each corner the normals of the faces that meet there at less than a crease."""
    for k in range(len(starts) - 1):
        first, last = starts[k], starts[k + 1]
        # Where hundreds of faces meet in a point, some of them tell.
        stride = max((last - first) // 64, 1)
        for i in range(first, last):
            own = order[i] // 3
            x, y, z = flat[own, 0], flat[own, 1], flat[own, 2]
            for j in range(first, last, stride):
                other = order[j] // 3
                dot = (
                    unit[own, 0] * unit[other, 0]
                    + unit[own, 1] * unit[other, 1]
                    + unit[own, 2] * unit[other, 2]
                )
                if other != own and dot > crease:
                    x += flat[other, 0]
                    y += flat[other, 1]
                    z += flat[other, 2]
            out[order[i], 0], out[order[i], 1], out[order[i], 2] = x, y, z


def _indexed(corners: Floats, normals: Floats, uv: Floats) -> DrawnMeshPart:
    """Return a part whose equal corners are one vertex."""
    rows = np.concatenate([corners.reshape(-1, 3), normals.reshape(-1, 3), uv.reshape(-1, 2)], axis=1).astype(
        np.float32
    )
    rows += np.float32(0.0)
    whole = np.ascontiguousarray(rows).view([("", np.void, rows.itemsize * rows.shape[1])]).reshape(-1)
    _, first, back = np.unique(
        whole.view(f"V{rows.itemsize * rows.shape[1]}"), return_index=True, return_inverse=True
    )
    # In the order of their first use, which is that of their neighbours too.
    rank = np.empty(len(first), np.int64)
    seen = np.argsort(first, kind="stable")
    rank[seen] = np.arange(len(first))
    made = DrawnMeshPart(rows[first[seen]], rank[back.reshape(-1)].astype(np.int32).reshape(-1, 3))
    for part in made:
        part.flags.writeable = False
    return made


@functools.cache
def shipped_body(name: str) -> DrawnMesh:
    """Return a shipped mesh."""
    if name in _TURNED:
        return (_turned(*_TURNED[name]()),)
    if name == "ring":
        return (_flat_ring(),)
    if name == "plane":
        square = _square(np.array([0.0, 1.0, 0.0])) - np.array([0.0, 0.5, 0.0])
        return (_flat([square]),)
    if name == "box":
        return (_flat([_square(side * np.eye(3)[axis]) for axis in range(3) for side in (1.0, -1.0)]),)
    dice = np.random.default_rng(1009 if name == "rocks" else 2003)
    made = _rock if name == "rocks" else _shard
    return tuple(made(dice) for _ in range(_PIECES))


def _turned(profile: Floats, slopes: Floats) -> DrawnMeshPart:
    """Return a profile of (radius, height), upwards, turned about the axis; ``slopes`` are the normals
    along it.
    """
    turn = np.linspace(0.0, 2.0 * math.pi, _AROUND + 1)
    cos, sin = np.cos(turn), -np.sin(turn)
    rows = len(profile)
    grid = np.empty((rows, _AROUND + 1, 8), np.float32)
    for values, at in ((profile, 0), (slopes, 3)):
        grid[..., at] = values[:, 0:1] * cos
        grid[..., at + 1] = values[:, 1:2]
        grid[..., at + 2] = values[:, 0:1] * sin
    # The texture's coordinate is proportional to the length of the profile.
    way = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(profile, axis=0), axis=1)))
    grid[..., 6], grid[..., 7] = turn / (2.0 * math.pi), (way / way[-1])[:, None]
    faces = []
    for row, column in itertools.product(range(rows - 1), range(_AROUND)):
        a = row * (_AROUND + 1) + column
        b = a + _AROUND + 1
        faces += [(a, a + 1, b + 1)] if profile[row, 0] > 1e-9 else []
        faces += [(a, b + 1, b)] if profile[row + 1, 0] > 1e-9 else []
    return DrawnMeshPart(grid.reshape(-1, 8), np.array(faces, np.int32))


def _straight(low: float, high: float) -> tuple[Floats, Floats]:
    rise = np.linspace(0.0, 1.0, 9)
    profile = np.stack([low + (high - low) * rise, rise], axis=1)
    normal = np.array([1.0, low - high]) / math.hypot(1.0, low - high)
    return profile, np.repeat(normal[None], len(rise), axis=0)


def _arc(first: float, last: float, radius: float, rows: int, height: float = 0.0) -> tuple[Floats, Floats]:
    lean = np.linspace(first, last, rows)
    normal = np.stack([np.maximum(np.cos(lean), 0.0), np.sin(lean)], axis=1)
    normal[np.abs(normal) < 1e-12] = 0.0
    return normal * radius + np.array([0.0, height]), normal


def _tube() -> tuple[Floats, Floats]:
    lean = np.linspace(0.0, 2.0 * math.pi, 25)
    normal = np.stack([np.cos(lean), np.sin(lean)], axis=1)
    return normal * 0.15 + np.array([0.5, 0.0]), normal


_TURNED = {
    "cylinder": lambda: _straight(0.5, 0.5),
    "cone": lambda: _straight(0.5, 0.15),
    "ball": lambda: _arc(-math.pi / 2, math.pi / 2, 0.5, 25),
    "dome": lambda: _arc(0.0, math.pi / 2, 0.5, 13),
    "torus": _tube,
}


def _flat_ring() -> DrawnMeshPart:
    """Return a flat ring, half as wide inside as outside, that looks up; around and outward are its
    texture's ways.
    """
    turn = np.linspace(0.0, 2.0 * math.pi, _AROUND + 1)
    rows = []
    for share, radius in ((0.0, 0.25), (0.5, 0.375), (1.0, 0.5)):
        row = np.zeros((_AROUND + 1, 8), np.float32)
        row[:, 0], row[:, 2], row[:, 4], row[:, 6], row[:, 7] = (
            radius * np.cos(turn),
            -radius * np.sin(turn),
            1.0,
            turn / (2.0 * math.pi),
            share,
        )
        rows.append(row)
    n = _AROUND + 1
    faces = []
    for r, c in itertools.product(range(2), range(_AROUND)):
        faces += [
            (r * n + c, (r + 1) * n + c, (r + 1) * n + c + 1),
            (r * n + c, (r + 1) * n + c + 1, r * n + c + 1),
        ]
    return DrawnMeshPart(np.concatenate(rows), np.array(faces, np.int32))


def _square(normal: Floats) -> Floats:
    """Return the corners of a square of side 1, half a metre along its normal, seen from there
    anticlockwise.
    """
    first = np.roll(np.abs(normal), 1)
    second = np.cross(normal, first)
    return np.array(
        [0.5 * (normal + i * first + j * second) for i, j in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    )


def _flat(polygons: list[Floats]) -> DrawnMeshPart:
    """Return a body of flat convex faces, each with the whole picture on it."""
    vertices: list[Floats] = []
    faces = []
    for corners in polygons:
        normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        normal /= max(float(np.linalg.norm(normal)), 1e-12)
        along = corners[1] - corners[0]
        along /= np.linalg.norm(along)
        u, v = (corners - corners[0]) @ along, (corners - corners[0]) @ np.cross(normal, along)
        uv = np.stack([(u - u.min()) / np.ptp(u), (v - v.min()) / np.ptp(v)], axis=1)
        first = sum(len(one) for one in vertices)
        vertices.append(np.concatenate([corners, np.repeat(normal[None], len(corners), axis=0), uv], axis=1))
        faces += [(first, first + i, first + i + 1) for i in range(1, len(corners) - 1)]
    return DrawnMeshPart(np.concatenate(vertices).astype(np.float32), np.array(faces, np.int32))


def _cut(planes: Floats) -> list[Floats]:
    """Return the faces of the body behind planes (a, b, c, d), each its corners anticlockwise as seen
    from outside.
    """
    found = []
    for i, plane in enumerate(planes):
        normal = plane[:3]
        first = np.cross(normal, [0.0, 1.0, 0.0] if abs(normal[1]) < 0.9 else [1.0, 0.0, 0.0])
        first /= np.linalg.norm(first)
        second = np.cross(normal, first)
        corners = [
            normal * plane[3] + 4.0 * (a * first + b * second)
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))
        ]
        for j, other in enumerate(planes):
            if i == j or len(corners) < 3:
                continue
            kept = []
            for a, b in zip(corners, [*corners[1:], corners[0]], strict=True):
                da, db = float(a @ other[:3] - other[3]), float(b @ other[:3] - other[3])
                if da <= 0.0:
                    kept.append(a)
                if da * db < 0.0:
                    kept.append(a + (b - a) * (da / (da - db)))
            corners = kept
        if (
            len(corners) >= 3
            and np.linalg.norm(np.cross(corners[1] - corners[0], corners[2] - corners[0])) > 1e-6
        ):
            found.append(np.array(corners))
    return found


def _scaled(polygons: list[Floats]) -> list[Floats]:
    """Return a body put into its middle, its longest side 1 m."""
    every = np.concatenate(polygons)
    low, high = every.min(axis=0), every.max(axis=0)
    return [(one - (low + high) / 2.0) / float((high - low).max()) for one in polygons]


def _rock(dice: np.random.Generator) -> DrawnMeshPart:
    """Return a broken stone: a body cut by planes all around."""
    ways = dice.normal(size=(16, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    planes = np.concatenate([ways, dice.uniform(0.62, 1.0, (16, 1))], axis=1)
    box = np.concatenate([np.concatenate([np.eye(3), -np.eye(3)]), np.full((6, 1), 1.1)], axis=1)
    return _flat(_scaled(_cut(np.concatenate([planes, box]))))


def _shard(dice: np.random.Generator) -> DrawnMeshPart:
    """Return a splinter: a thin plate, cut by a few planes across it and bevelled."""
    count = int(dice.integers(4, 6))
    turn = np.sort(dice.uniform(0.0, 2.0 * math.pi, count) * 0.35 + np.arange(count) * 2.0 * math.pi / count)
    lean = dice.uniform(-0.35, 0.35, count)
    ways = np.stack([np.cos(turn) * np.cos(lean), np.sin(turn) * np.cos(lean), np.sin(lean)], axis=1)
    sides = np.concatenate([ways, dice.uniform(0.35, 1.0, (count, 1))], axis=1)
    plate = np.array(
        [
            (0.0, 0.0, 1.0, 0.07),
            (0.0, 0.0, -1.0, 0.07),
            (1.0, 0.0, 0.0, 1.3),
            (-1.0, 0.0, 0.0, 1.3),
            (0.0, 1.0, 0.0, 1.3),
            (0.0, -1.0, 0.0, 1.3),
        ]
    )
    return _flat(_scaled(_cut(np.concatenate([sides, plate]))))

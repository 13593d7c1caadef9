"""Where the stage is seen from: matrices, and places on the picture."""

from __future__ import annotations

import functools
import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..effect.chapters.stage import Camera

Floats = NDArray[np.float64]

# The plane that nothing nearer is seen of, m, at most.
NEAREST = 0.25


def eye_of(camera: Camera) -> Floats:
    """Return the eye's place, m."""
    yaw, pitch = math.radians(camera.yaw), math.radians(camera.pitch)
    back = np.array([math.cos(pitch) * math.sin(yaw), math.sin(pitch), math.cos(pitch) * math.cos(yaw)])
    return np.array(camera.target) + camera.distance * back


def axes_of(camera: Camera) -> tuple[Floats, Floats, Floats]:
    """Return the camera's right, up and back, unit vectors in the world."""
    return _axes(camera.yaw, camera.pitch)


@functools.lru_cache(maxsize=64)
def _axes(yaw: float, pitch: float) -> tuple[Floats, Floats, Floats]:
    sy, cy = math.sin(math.radians(yaw)), math.cos(math.radians(yaw))
    sp, cp = math.sin(math.radians(pitch)), math.cos(math.radians(pitch))
    found = np.array([[cy, 0.0, -sy], [-sp * sy, cp, -sp * cy], [cp * sy, sp, cp * cy]])
    found.flags.writeable = False
    return found[0], found[1], found[2]


def view_matrix(camera: Camera) -> Floats:
    """Return world to eye, (4, 4); the eye looks along its -Z."""
    found = np.eye(4)
    found[:3, :3] = np.stack(axes_of(camera))
    found[:3, 3] = -found[:3, :3] @ eye_of(camera)
    return found


def projection_matrix(camera: Camera, width: int, height: int) -> Floats:
    """Return eye to clip space, (4, 4), as OpenGL has it."""
    # From far away, what passes close to the eye is still seen.
    near, far = min(max(camera.distance * 0.005, 1e-4), NEAREST), camera.distance * 100 + 1000
    high = 1.0 / math.tan(math.radians(camera.view) / 2)
    found = np.zeros((4, 4))
    found[0, 0] = high * height / max(width, 1)
    found[1, 1] = high
    found[2, 2] = (far + near) / (near - far)
    found[2, 3] = 2 * far * near / (near - far)
    found[3, 2] = -1.0
    return found


def project(camera: Camera, width: int, height: int, points: ArrayLike) -> tuple[Floats, NDArray[np.bool_]]:
    """Return where points of the world fall on a picture.

    Parameters
    ----------
    points : array_like, shape (n, 3)

    Returns
    -------
    (ndarray (n, 2), ndarray (n,) of bool)
        Pixels from the upper left, and whether the point is before the eye.
    """
    at = np.asarray(points, dtype=np.float64).reshape(-1, 3)
    whole = projection_matrix(camera, width, height) @ view_matrix(camera)
    clip = at @ whole[:3, :3].T + whole[:3, 3]
    depth = at @ whole[3, :3] + whole[3, 3]
    before = depth > 1e-6
    share = clip[:, :2] / np.where(before, depth, 1.0)[:, None]
    return np.stack([(share[:, 0] + 1) * width / 2, (1 - share[:, 1]) * height / 2], axis=1), before


def framed(camera: Camera, low: ArrayLike, high: ArrayLike) -> Camera:
    """Return the camera moved so that a box of the world fills most of the picture."""
    a, b = np.asarray(low, dtype=np.float64), np.asarray(high, dtype=np.float64)
    radius = max(float(np.linalg.norm(b - a)) / 2, 0.05)
    distance = radius / math.sin(math.radians(camera.view) / 2) * 1.05
    middle = tuple(float(m) for m in (a + b) / 2)
    return camera.model_copy(update={"target": middle, "distance": min(max(distance, 0.01), 100_000.0)})


def packed(matrix: Floats) -> bytes:
    """Return a matrix as OpenGL takes it."""
    return np.ascontiguousarray(matrix.T, dtype=np.float32).tobytes()

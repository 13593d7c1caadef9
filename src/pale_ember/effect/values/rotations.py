"""Turns about X, then Y, then Z, as matrices and back."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def matrix_of(rotation: tuple[float, float, float]) -> Floats:
    """Return the matrix (3, 3) that turns about X, then Y, then Z; degrees."""
    a, b, c = (math.radians(angle) for angle in rotation)
    ca, sa, cb, sb, cc, sc = math.cos(a), math.sin(a), math.cos(b), math.sin(b), math.cos(c), math.sin(c)
    about_x = np.array([[1, 0, 0], [0, ca, -sa], [0, sa, ca]])
    about_y = np.array([[cb, 0, sb], [0, 1, 0], [-sb, 0, cb]])
    about_z = np.array([[cc, -sc, 0], [sc, cc, 0], [0, 0, 1]])
    return about_z @ about_y @ about_x  # type: ignore[no-any-return]


def angles_of(matrix: Floats) -> tuple[float, float, float]:
    """Return the turns about X, then Y, then Z that a matrix is, degrees; where Y is a right angle, Z is
    0.
    """
    sine = min(max(-float(matrix[2, 0]), -1.0), 1.0)
    about_y = math.asin(sine)
    if abs(sine) > 1.0 - 1e-12:
        return math.degrees(math.atan2(sine * matrix[0, 1], matrix[1, 1])), math.degrees(about_y), 0.0
    about_x = math.atan2(matrix[2, 1], matrix[2, 2])
    return math.degrees(about_x), math.degrees(about_y), math.degrees(math.atan2(matrix[1, 0], matrix[0, 0]))

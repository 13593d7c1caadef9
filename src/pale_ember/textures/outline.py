"""Tight polygons around what a picture covers, so that sprites are not drawn where nothing is.

Convex hulls by A. M. Andrew's monotone chain, 1979; corners are cut away where that adds the least area.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

CORNERS = 8
Floats = NDArray[np.float32]
SQUARE = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)], np.float64)
# What is fainter than this is not seen.
_FAINT = 1.0 / 255.0


def _hull(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the convex hull of points, against the clock."""
    order = points[np.lexsort((points[:, 1], points[:, 0]))].tolist()
    if len(order) < 3:
        return np.array(order)

    def half(some: list[list[float]]) -> list[list[float]]:
        chain: list[list[float]] = []
        for p in some:
            while len(chain) > 1:
                (ax, ay), (bx, by) = chain[-2], chain[-1]
                if (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax) > 0:
                    break
                chain.pop()
            chain.append(p)
        return chain[:-1]

    return np.array(half(order) + half(order[::-1]))


def _reduced(hull: NDArray[np.float64], most: int = CORNERS) -> NDArray[np.float64]:
    """Return a polygon around a hull with at most so many corners: edges give way where that adds the
    least area.
    """
    corners = hull.tolist()
    while len(corners) > most:
        best, at, place = np.inf, -1, (0.0, 0.0)
        count = len(corners)
        for i in range(count):
            # Leave out the edge from i to i + 1: its neighbours are drawn out until they meet.
            (ax, ay), (bx, by), (cx, cy), (dx, dy) = (corners[(i + k) % count] for k in (-1, 0, 1, 2))
            ux, uy, vx, vy = bx - ax, by - ay, dx - cx, dy - cy
            cross = ux * vy - uy * vx
            if cross <= 1e-12:
                continue
            t = ((cx - bx) * vy - (cy - by) * vx) / cross
            if t < 0:
                continue
            px, py = bx + ux * t, by + uy * t
            area = abs((px - bx) * (cy - by) - (py - by) * (cx - bx)) / 2
            if area < best and max(abs(px), abs(py)) <= 1.6:
                best, at, place = area, i, (px, py)
        if at < 0:
            return SQUARE.copy()
        after = (at + 1) % count
        corners[at] = list(place)
        corners.pop(after)
    return np.array(corners)


def outline(cover: Floats) -> NDArray[np.float64]:
    """Return a polygon around all that a picture covers, (n, 2) in −1…1 with y up, at most eight corners.

    Parameters
    ----------
    cover : (height, width) array
        Row 0 on top; 0 is nothing.
    """
    high, wide = cover.shape
    seen = cover > _FAINT
    rows = np.flatnonzero(seen.any(axis=1))
    if len(rows) == 0:
        return np.zeros((1, 2))
    left = seen[rows].argmax(axis=1)
    right = wide - seen[rows][:, ::-1].argmax(axis=1)
    # A pixel around, as soft reads reach that far; and those of the smaller copies that are read where it is
    # drawn small.
    margin = max(1.0, max(high, wide) / 32)
    points = np.concatenate(
        [
            np.stack([x, y], axis=1)
            for x, side in ((left - margin, -1), (right + margin, 1))
            for y in (rows - margin, rows + 1 + margin)
        ]
    ).astype(np.float64)
    points = np.stack([points[:, 0] / wide * 2 - 1, 1 - points[:, 1] / high * 2], axis=1)
    points = np.clip(points, -1.0, 1.0)
    if len(points) > 64:
        # The farthest points in so many directions are enough for a hull of few corners, drawn out to hold
        # all.
        turn = np.linspace(0, 2 * np.pi, 33)[:-1]
        points = points[np.unique((points @ np.stack([np.cos(turn), np.sin(turn)])).argmax(axis=0))] * (
            1 + 0.006
        )
        points = np.clip(points, -1.0, 1.0)
    polygon = _reduced(_hull(points))
    square = 4.0 * 0.97
    return SQUARE.copy() if area_of(polygon) >= square else polygon


def area_of(polygon: NDArray[np.float64]) -> float:
    """Return a polygon's area."""
    x, y = polygon[:, 0], polygon[:, 1]
    return float(abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2)


def strip_corners(polygon: NDArray[np.float64]) -> Floats:
    """Return a polygon's corners as a strip of triangles takes them, (CORNERS, 2); the last is repeated
    to fill up.
    """
    order, low, high = [0], 1, len(polygon) - 1
    while low <= high:
        order.append(low)
        if low != high:
            order.append(high)
        low, high = low + 1, high - 1
    order += [order[-1]] * (CORNERS - len(order))
    return polygon[order].astype(np.float32)


def joint(first: NDArray[np.float64], second: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return a polygon around two."""
    return _reduced(_hull(np.concatenate([first, second])))

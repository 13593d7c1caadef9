"""Builds what hits on a mesh are found by: a tree of boxes around its triangles, and a grid of cells.

Both keep the triangles themselves, and no distance field is made: so a wall of two triangles stays exactly
where it is at any thickness. Most ways in a step are short and look into a cell or two, most of which are
empty; long ones go down the tree.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# Triangles that a box of the tree holds at most; how deep it may be.
LEAF = 4
# Cells, and triangles listed in them, that a grid has at most.
MOST_LISTED = 2_000_000
# Cells that a short way looks into at most, along each axis.
SHORT = 3
# A mesh is a skin of this thickness at least, m: on what has none there is no side to be on.
SKIN = 2e-5


class Tree(NamedTuple):
    """A tree of boxes.

    Attributes
    ----------
    boxes : (n, 6) low and high corner
    links : (n, 2) int64
        The first of two boxes inside, and 0; or of a leaf the first triangle, and how many.
    corners : (t, 3, 3)
        Triangles in the order of the leaves.
    planes : (t, 8)
        The unit normal of each, how far it is from the origin along that, and the middle and radius of a ball
        around it.
    """

    boxes: Floats
    links: NDArray[np.int64]
    corners: Floats
    planes: Floats


def tree_of(corners: Floats) -> Tree:
    """Return the tree of some triangles, (t, 3, 3): halved at the median along the longest side of their
    middles.
    """
    low, high, middle = corners.min(axis=1), corners.max(axis=1), corners.mean(axis=1)
    order = np.arange(len(corners))
    boxes: list[Floats] = [np.zeros(6)]
    links: list[tuple[int, int]] = [(0, 0)]
    coming = [(0, 0, len(corners))]
    while coming:
        at, first, last = coming.pop()
        own = order[first:last]
        boxes[at] = np.concatenate([low[own].min(axis=0), high[own].max(axis=0)])
        if last - first <= LEAF:
            links[at] = (first, last - first)
            continue
        axis = int(np.argmax(np.ptp(middle[own], axis=0)))
        half = (last - first) // 2
        order[first:last] = own[np.argpartition(middle[own, axis], half)]
        links[at] = (len(boxes), 0)
        coming += [(len(boxes), first, first + half), (len(boxes) + 1, first + half, last)]
        boxes += [np.zeros(6), np.zeros(6)]
        links += [(0, 0), (0, 0)]
    corners = np.ascontiguousarray(corners[order])
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    centre = (corners.min(axis=1) + corners.max(axis=1)) / 2
    radius = np.linalg.norm(corners - centre[:, None], axis=2).max(axis=1, keepdims=True)
    planes = np.concatenate(
        [normal, np.sum(normal * corners[:, 0], axis=1, keepdims=True), centre, radius], axis=1
    )
    return Tree(np.array(boxes), np.array(links, np.int64), corners, planes)


class Cells(NamedTuple):
    """A grid of boxes over triangles, for ways that are short.

    Attributes
    ----------
    low, dense : (3,)
        Where it begins, and how many cells there are to a metre.
    many : (3,) int64
        How many along each axis.
    first : (cells + 1,) int64
        Where the triangles of each cell begin in ``listed``.
    listed : (n,) int32
    bits : (words,) uint64
        A bit for each cell that has some, so that empty ones are told without going through memory; each row
        of cells along z begins with a word of its own.
    """

    low: Floats
    dense: Floats
    many: NDArray[np.int64]
    first: NDArray[np.int32]
    listed: NDArray[np.int32]
    bits: NDArray[np.uint64]


def cells_of(corners: Floats) -> Cells:
    """Return a grid over some triangles, about one cell for each along a surface, no finer than memory
    allows.
    """
    low, high = corners.min(axis=(0, 1)) - 1e-6, corners.max(axis=(0, 1)) + 1e-6
    wide = np.maximum(high - low, 1e-5)
    fine = np.sqrt(0.8 * len(corners) / max(wide[0] * wide[1] + wide[1] * wide[2] + wide[0] * wide[2], 1e-12))
    while True:
        count = np.clip(np.ceil(wide * fine), 1, 256).astype(np.int64)
        dense = count / wide
        begin = np.clip(((corners.min(axis=1) - low) * dense).astype(np.int64), 0, count - 1)
        end = np.clip(((corners.max(axis=1) - low) * dense).astype(np.int64), 0, count - 1)
        each = np.prod(end - begin + 1, axis=1)
        if int(each.sum()) + int(np.prod(count)) <= MOST_LISTED or fine < 1e-3:
            break
        fine *= 0.6
    of = np.repeat(np.arange(len(corners)), each)
    place = np.arange(len(of)) - np.repeat(np.cumsum(each) - each, each)
    size = (end - begin + 1)[of]
    x, y, z = place // (size[:, 1] * size[:, 2]), place // size[:, 2] % size[:, 1], place % size[:, 2]
    cell = ((begin[of, 0] + x) * count[1] + begin[of, 1] + y) * count[2] + begin[of, 2] + z
    order = np.argsort(cell, kind="stable")
    first = np.concatenate([[0], np.cumsum(np.bincount(cell, minlength=int(np.prod(count))))])
    words = int(-(-count[2] // 64))
    bits = np.zeros((int(count[0] * count[1]), words), np.uint64)
    z = cell % count[2]
    np.bitwise_or.at(bits, (cell // count[2], z // 64), np.uint64(1) << (z % 64).astype(np.uint64))
    return Cells(low, dense, count, first.astype(np.int32), of[order].astype(np.int32), bits.reshape(-1))


def is_closed(corners: Floats) -> bool:
    """Return whether triangles enclose a space: each edge is shared by two, which go along it in opposite
    ways.
    """
    size = max(float(np.ptp(corners.reshape(-1, 3), axis=0).max()), 1e-12)
    points = np.round(corners.reshape(-1, 3) / (size * 1e-6)).astype(np.int64)
    _, number = np.unique(points, axis=0, return_inverse=True)
    faces = number.reshape(-1, 3)
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    edges = edges[edges[:, 0] != edges[:, 1]]
    ahead = {tuple(edge) for edge in edges.tolist()}
    return len(ahead) == len(edges) and all((b, a) in ahead for a, b in ahead)

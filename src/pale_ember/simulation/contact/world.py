"""Makes the table of what a layer's particles can hit: the floor and the props, as the kernels take them."""

from __future__ import annotations

import functools
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.stage import Prop
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.kinds import PropKind, code_of
from ...effect.values.rotations import matrix_of
from ..layout import slots
from ..layout.program import CENTRE, POSE, ROTATION, STRETCH, Tables, World
from ..meshes.faces import body_corners, mesh_faces
from ..motion.prop_poses import step_poses
from ..values.tables import highest
from .mesh_trees import Cells, Tree, cells_of, is_closed, tree_of

Floats = NDArray[np.float64]
# Cells of the grid over the props that rest, along its longest side.
CELLS = 48


def no_world() -> World:
    """Return a world of nothing, for layers without contact."""
    return _world(False, 0, 0.0, 0.0, 0.0, [], [])


def world_of(effect: Effect, layer: Layer, tables: Tables) -> tuple[World, list[Prop], EffectError | None]:
    """Return what a layer's particles can meet, the props in it, and what keeps it from being so, such as
    a missing mesh.
    """
    contact = layer.contact
    if not contact.enabled:
        return no_world(), [], None
    props: list[Prop] = []
    trees: list[tuple[Tree, Cells, bool] | None] = []
    problem = None
    for i, prop in enumerate(effect.stage.props if contact.props else ()):
        if not prop.hit:
            continue
        try:
            trees.append(mesh_tree(prop.mesh, prop.size) if prop.kind == PropKind.MESH else None)
            props.append(prop)
        except EffectError as wrong:
            problem = EffectError(f"stage.props[{i}].mesh", wrong.reason)
    widest = contact.reach * highest(tables, slots.SIZE) * highest(tables, slots.GROW) * _most_stretch(layer)
    made = _world(
        effect.stage.floor and contact.floor,
        code_of(contact.on_hit),
        contact.wear,
        contact.reach,
        widest,
        props,
        trees,
    )
    return made, props, problem


def _most_stretch(layer: Layer) -> float:
    """Return how much a layer's path makes its particles larger at most; a smooth one may swing past its
    keys.
    """
    return max((key.scale for key in layer.path), default=1.0) * (1.5 if layer.path else 1.0)


@functools.lru_cache(maxsize=32)
def mesh_tree(mesh: str, size: tuple[float, float, float]) -> tuple[Tree, Cells, bool]:
    """Return the tree of a prop's mesh, stretched to its size as it is drawn, and whether it encloses a
    space.
    """
    corners = body_corners(mesh_faces(mesh)) * np.array(size)
    tree = tree_of(corners)
    return tree, cells_of(tree.corners), is_closed(corners)


def _world(
    floor: bool,
    on_hit: int,
    wear: float,
    reach: float,
    widest: float,
    props: list[Prop],
    trees: list[tuple[Tree, Cells, bool] | None],
) -> World:
    """Return props, floor and meshes as kernels take them."""
    n = len(props)
    poses, turn = np.zeros((3, n, POSE)), np.zeros((n, 4))
    half = np.array([prop.size for prop in props]).reshape(n, 3) / 2
    for i, prop in enumerate(props):
        poses[:, i, CENTRE:ROTATION] = prop.position
        poses[:, i, ROTATION:STRETCH] = matrix_of(prop.rotation).reshape(-1)
        poses[:, i, STRETCH] = 1.0
    movers = np.array([i for i, prop in enumerate(props) if prop.path], np.int64)
    boxes = np.concatenate([swept_box(poses[:, i], half[i]) for i in range(n)] or [np.zeros(0)]).reshape(n, 6)
    balls = np.zeros((n, 4), np.float32)
    if n:
        balls[:, :3] = (boxes[:, :3] + boxes[:, 3:]) / 2
        balls[:, 3] = np.linalg.norm(half, axis=1) * 1.001 + 1e-4
    resting = [i for i in range(n) if i not in movers]
    grid, low, dense = _grid(boxes, resting, widest)
    return World(
        floor=bool(floor),
        on_hit=int(on_hit),
        wear=float(wear),
        reach=float(reach),
        widest=float(widest),
        kind=np.array([code_of(prop.kind) for prop in props], np.int64),
        half=half,
        poses=poses,
        turn=turn,
        boxes=boxes,
        balls=balls,
        movers=movers,
        table=np.zeros((1, 2, len(movers), POSE)),
        since=np.full(1, 1 << 60, np.int64),
        **_packed_trees(trees),
        grid=grid,
        low=low,
        dense=dense,
    )


def _packed_trees(trees: list[tuple[Tree, Cells, bool] | None]) -> dict[str, NDArray[Any]]:
    """Return the meshes of props, one after the other in common arrays, as a :class:`World` holds them."""
    n = len(trees)
    roots, closed = np.full(n, -1, np.int64), np.zeros(n, np.int64)
    nodes, links, corners = [np.zeros((0, 6))], [np.zeros((0, 2), np.int64)], [np.zeros((0, 3, 3))]
    planes = [np.zeros((0, 8))]
    grids, counts = np.zeros((n, 6)), np.zeros((n, 6), np.int64)
    first, listed, bits = [np.zeros(0, np.int32)], [np.zeros(0, np.int32)], [np.zeros(0, np.uint64)]
    count, faces = 0, 0
    for i, tree in enumerate(trees):
        if tree is None:
            continue
        whole, cells, closed[i] = tree
        grids[i, :3], grids[i, 3:] = cells.low, cells.dense
        counts[i, :3], counts[i, 3], counts[i, 4] = cells.many, sum(map(len, first)), faces
        counts[i, 5] = sum(map(len, bits))
        first.append(cells.first + np.int32(sum(map(len, listed))))
        listed.append(cells.listed)
        bits.append(cells.bits)
        roots[i] = count
        nodes.append(whole.boxes)
        # Leaves name triangles, others boxes: each by its own offset.
        leaf = whole.links[:, 1:] > 0
        links.append(
            whole.links
            + np.concatenate([np.where(leaf, faces, count), np.zeros_like(leaf, np.int64)], axis=1)
        )
        corners.append(whole.corners)
        planes.append(whole.planes)
        count, faces = count + len(whole.boxes), faces + len(whole.corners)
    return {
        "roots": roots,
        "closed": closed,
        "grids": grids,
        "counts": counts,
        "nodes": np.concatenate(nodes),
        "links": np.concatenate(links),
        "corners": np.concatenate(corners),
        "planes": np.concatenate(planes),
        "first": np.concatenate(first),
        "listed": np.concatenate(listed),
        "bits": np.concatenate(bits),
    }


def swept_box(poses: Floats, half: Floats) -> Floats:
    """Return the low and high corner of what a body sweeps from one pose to another, in plain NumPy."""
    found = []
    for one in poses:
        turn, grown = np.abs(one[ROTATION:STRETCH].reshape(3, 3)), one[STRETCH]
        middle = one[CENTRE:ROTATION] + one[ROTATION:STRETCH].reshape(3, 3)[:, 1] * half[1] * grown
        found.append((middle - turn @ half * grown, middle + turn @ half * grown))
    lows, highs = zip(*found, strict=True)
    return np.concatenate([np.min(lows, axis=0), np.max(highs, axis=0)])


def _grid(boxes: Floats, resting: list[int], widest: float) -> tuple[NDArray[np.uint64], Floats, Floats]:
    """Return a grid over resting props, a bit of each cell for each prop that a particle in it may touch."""
    if not resting:
        return np.zeros((1, 1, 1), np.uint64), np.full(3, 1e30), np.zeros(3)
    more = widest + 1e-3
    low, high = boxes[resting, :3].min(axis=0) - more, boxes[resting, 3:].max(axis=0) + more
    cell = np.full(3, max(float((high - low).max()) / CELLS, 1e-6))
    # A cell knows what its neighbours hold.
    low, high = low - cell, high + cell
    count = np.maximum(np.ceil((high - low) / cell), 1).astype(int)
    grid = np.zeros(count, np.uint64)
    dense = 1.0 / cell
    for i in resting:
        first = np.clip(np.floor((boxes[i, :3] - more - low) * dense) - 1, 0, count - 1).astype(int)
        last = np.clip(np.floor((boxes[i, 3:] + more - low) * dense) + 1, 0, count - 1).astype(int)
        grid[tuple(slice(a, b + 1) for a, b in zip(first, last, strict=True))] |= np.uint64(1) << np.uint64(i)
    return grid, low, dense


def with_poses(world: World, effect: Effect, props: list[Prop], first: int, steps: int) -> World:
    """Return the world with the poses of its moving props known for some steps at least, and for the one
    before them.
    """
    if not len(world.movers):
        return world
    known, since = world.table, int(world.since[0])
    if since < first and first + steps <= since + len(known):
        return world
    table = np.stack([step_poses(effect, props[i], first - 1, steps + 1) for i in world.movers], axis=2)
    return world._replace(table=np.ascontiguousarray(table), since=np.full(1, first - 1, np.int64))

"""Points in the stage that can be dragged: a layer's place, every size of its birthplace, the keys of its
path.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...drawing.camera import axes_of, eye_of
from ...effect.chapters.place import PathKey
from ...effect.chapters.source import ROUND
from ...effect.chapters.stage import Camera, Prop
from ...effect.effect import Layer
from ...effect.kinds import EmitterShape, FollowAim
from ...effect.values.rotations import angles_of, matrix_of
from ...simulation.meshes.faces import known_faces
from ...simulation.motion.path import Pose, pose_at

Point = NDArray[np.float64]
AXES = ("x", "y", "z")
# Seen from so many degrees above or below, what is drawn freely lies level.
LEVEL_FROM = 40.0
# No side of a prop is shorter, m.
LEAST_SIZE = 0.001


class Handle(NamedTuple):
    """A point that can be dragged.

    Attributes
    ----------
    path : str
        The field that it sets, in its layer.
    place : ndarray, shape (3,)
        Where it stands in the world, m.
    way : {"line", "plane", "view"}
        Whether it keeps to a line along ``along``, to the plane square to it, or to the plane of the picture.
    value_at : callable
        Gives the field's value for a place that it is dragged to.
    look : {"size", "arm", "move", "key", "turn", "pull"}
    number : int
        Of a path's key; -1 else.
    prop : int
        The number of the prop that it belongs to; -1 for what is the layer's.
    """

    path: str
    label: str
    place: Point
    way: str
    along: Point
    value_at: Callable[[Point], Any]
    look: str = "size"
    number: int = -1
    prop: int = -1


def handles_of(
    layer: Layer,
    clock: float,
    camera: Camera,
    key: int,
    axes: str = "world",
    event: Pose | None = None,
    ends: tuple[Pose, Pose] | None = None,
) -> list[Handle]:
    """Return a layer's handles at a clock of its window, along the world's axes or the ``layer``'s own.

    ``ends`` are the frames that the ends of a bow are told in. Those on top come last. A follow-up has no
    place of its own: its handles stand at an ``event``, if there is one.
    """
    reach = camera.distance * 0.09
    ways = matrix_of(layer.place.rotation) if axes == "layer" else np.eye(3)
    if layer.origin.parent:
        found = [*_sizes(layer, event), *_bow(layer, event, ends)] if event is not None else []
        if event is not None and layer.origin.aim == FollowAim.OWN:
            found += _turns("place.rotation", tuple(event.centre), layer.place.rotation, ways, reach)
        return found
    pose = pose_at(layer, clock)
    found = _sizes(layer, pose)
    base = np.array(layer.place.position)
    found += _turns("place.rotation", layer.place.position, layer.place.rotation, ways, reach)
    found += _arms(
        "place.position", "Place", pose.centre, reach, lambda at: _triple(base + at - pose.centre), ways
    )
    found.append(
        Handle(
            "place.position",
            "Place",
            pose.centre,
            "view",
            pose.centre,
            lambda at: _triple(base + at - pose.centre),
            "move",
        )
    )
    return found + _bow(layer, pose, ends) + _keys(layer, key, reach, ways)


def _bow(layer: Layer, pose: Pose, ends: tuple[Pose, Pose] | None) -> list[Handle]:
    """Return a handle for each end of a bow, and for each pull."""
    place, found = layer.birthplace, []
    if place.kind != EmitterShape.BOW:
        return []
    for frame, end, label in zip(ends or (pose, pose), ("start", "end"), ("Start", "End"), strict=True):
        at = frame.centre + frame.scale * frame.rotation @ np.array(getattr(place, end))
        pulled = at + pose.scale * pose.rotation @ np.array(getattr(place, f"{end}_pull"))

        def moved(world: Point, frame: Pose = frame) -> tuple[float, ...]:
            return _triple(frame.rotation.T @ (world - frame.centre) / frame.scale)

        def drawn(world: Point, at: Point = at) -> tuple[float, ...]:
            return _triple(pose.rotation.T @ (world - at) / pose.scale)

        found.append(Handle(f"birthplace.{end}_pull", f"{label} pull", pulled, "view", pulled, drawn, "pull"))
        found.append(Handle(f"birthplace.{end}", label, at, "view", at, moved, "size"))
    return found


def _keys(layer: Layer, chosen: int, reach: float, ways: Point) -> list[Handle]:
    """Return the handles of the path's keys; the chosen one has arms as well."""
    return _path_keys(layer.path, pose_at(layer.model_copy(update={"path": ()}), 0.0), chosen, reach, ways)


def path_handle(rest: Pose, camera: Camera) -> Handle:
    """Return a handle that gives a path's key for each place of a plane through the layer's: that which
    faces the camera, or the level one.
    """
    handle = _path_keys((PathKey(),), rest, -1, 1.0, np.eye(3))[0]
    return (
        handle._replace(way="plane", along=np.array([0.0, 1.0, 0.0]))
        if abs(camera.pitch) > LEVEL_FROM
        else handle
    )


def _path_keys(keys: tuple[PathKey, ...], rest: Pose, chosen: int, reach: float, ways: Point) -> list[Handle]:
    """Return the handles of a path's keys, with arms for the chosen one."""
    found: list[Handle] = []
    for i, key in enumerate(keys):
        place = rest.centre + rest.scale * rest.rotation @ np.array(key.position)

        def inside(at: Point) -> tuple[float, ...]:
            return _triple(rest.rotation.T @ (at - rest.centre) / rest.scale)

        path, label = f"path[{i}].position", f"Key {i + 1}"
        if i == chosen:
            found += _arms(path, label, place, reach * 0.8, inside, ways, i)
        found.append(Handle(path, label, place, "view", place, inside, "key", i))
    return found


def _arms(
    path: str,
    label: str,
    place: Point,
    reach: float,
    value_at: Callable[[Point], Any],
    ways: Point,
    number: int = -1,
) -> list[Handle]:
    """Return a handle along each of three axes, the columns of ``ways``, a little away from a place."""
    found = []
    for axis in range(3):
        along = ways[:, axis]
        tip = reach * along
        give = lambda at, tip=tip: value_at(at - tip)  # noqa: E731
        found.append(Handle(path, f"{label} {AXES[axis]}", place + tip, "line", along, give, "arm", number))
    return found


def handles_of_prop(
    prop: Prop, number: int, camera: Camera, axes: str = "world", key: int = 0
) -> list[Handle]:
    """Return the handles of a prop: its place, its turn, its three sizes, the keys of its path."""
    base, turn = np.array(prop.position), matrix_of(prop.rotation)
    ways, reach = turn if axes == "layer" else np.eye(3), camera.distance * 0.09
    found = []
    for axis in range(3):
        half = 1.0 if axis == 1 else 0.5
        along = turn[:, axis]

        def sized(at: Point, axis: int = axis, half: float = half, along: Point = along) -> tuple[float, ...]:
            return _with(prop.size, axis, max(float((at - base) @ along) / half, LEAST_SIZE))

        found.append(
            Handle("size", f"Size {AXES[axis]}", base + along * prop.size[axis] * half, "line", along, sized)
        )
    found += _turns("rotation", prop.position, prop.rotation, ways, reach)
    found += _arms("position", "Place", base, reach, _triple, ways)
    found.append(Handle("position", "Place", base, "view", base, _triple, "move"))
    found += _path_keys(prop.path, Pose(base, turn, 1.0), key, reach, ways)
    return [handle._replace(prop=number) for handle in found]


def _turns(
    path: str, position: tuple[float, ...], rotation: tuple[float, float, float], ways: Point, reach: float
) -> list[Handle]:
    """Return a handle for each axis that turns a thing about it; whole degrees of the way that it is
    dragged.
    """
    centre, here = np.array(position), matrix_of(rotation)
    found = []
    for axis in range(3):
        about, first, second = ways[:, axis], ways[:, (axis + 1) % 3], ways[:, (axis + 2) % 3]
        place = centre + reach * 1.35 * (first + second) / math.sqrt(2)

        def turned(
            at: Point, about: Point = about, first: Point = first, second: Point = second
        ) -> tuple[float, ...]:
            arm = at - centre
            angle = math.degrees(math.atan2(float(arm @ second), float(arm @ first))) - 45.0
            return angles_of(_about(about, round(angle)) @ here)

        found.append(Handle(path, f"Turn {AXES[axis]}", place, "plane", about, turned, "turn"))
    return found


def _about(axis: Point, degrees: float) -> Point:
    """Return the matrix that turns about an axis of length 1 (O. Rodrigues, 1840)."""
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    angle = math.radians(degrees)
    return np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * cross @ cross  # type: ignore[no-any-return]


def ring_of(handle: Handle, centre: Point, count: int = 48) -> Point:
    """Return the circle that a turn handle goes along, (count + 1, 3) m."""
    arm = handle.place - centre
    side = np.cross(handle.along, arm)
    angles = np.linspace(0.0, 2 * math.pi, count + 1)[:, None]
    return centre + np.cos(angles) * arm + np.sin(angles) * side


def _sizes(layer: Layer, pose: Pose) -> list[Handle]:
    """Return the handles of a birthplace's sizes."""
    b = layer.birthplace
    found: list[Handle] = []

    def add(
        name: str, label: str, at: tuple[float, float, float], along: tuple[float, float, float], get: Any
    ) -> None:
        """Add a handle at a place of the layer's axes; ``get`` gives the value from a place there."""
        give = lambda world: get(pose.rotation.T @ (world - pose.centre) / pose.scale)  # noqa: E731
        place = pose.centre + pose.scale * pose.rotation @ np.array(at)
        found.append(
            Handle(f"birthplace.{name}", label, place, "line", pose.rotation @ np.array(along), give)
        )

    kind, x, y, z = b.kind, (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
    if kind in ROUND:
        add("radius", "Radius", (b.radius, 0, 0), x, lambda at: max(at[0], 0.0))
        wide = b.radius * 1.12 + 0.03

        def turned(world: Point) -> float:
            at = pose.rotation.T @ (world - pose.centre)
            return math.degrees(math.atan2(at[2], at[0])) % 360.0 or 360.0

        at = np.array([wide * math.cos(math.radians(b.arc)), 0.0, wide * math.sin(math.radians(b.arc))])
        place = pose.centre + pose.scale * pose.rotation @ at
        found.append(Handle("birthplace.arc", "Arc", place, "plane", pose.rotation[:, 1], turned))
    if kind == "ring":
        add("tube", "Tube", (b.radius, b.tube, 0), y, lambda at: max(at[1], 0.0))
    if kind in ("cone", "cylinder"):
        add("height", "Height", (0, b.height, 0), y, lambda at: max(at[1], 0.0))
    if kind == "cone":
        top = b.radius + b.height * math.tan(math.radians(b.angle))
        high = max(b.height, 1e-6)
        lean = lambda at: min(max(math.degrees(math.atan2(at[0] - b.radius, high)), 0.0), 89.0)  # noqa: E731
        add("angle", "Angle", (top, b.height, 0), x, lean)
    if kind in ("box", "line"):
        for axis, along in enumerate((x, y, z) if kind == "box" else (x,)):
            half = tuple(one * b.extents[axis] / 2 for one in along)
            get = lambda at, axis=axis: _with(b.extents, axis, max(2 * at[axis], 0.0))  # noqa: E731
            add("extents", f"Extent {AXES[axis]}", half, along, get)  # type: ignore[arg-type]
    if kind == "mesh":
        wide = _mesh_reach(b.mesh)
        add("mesh_scale", "Mesh scale", (wide * b.mesh_scale, 0, 0), x, lambda at: max(at[0] / wide, 1e-5))
    return found


def _mesh_reach(mesh: str) -> float:
    faces = known_faces(mesh)
    return 0.5 if faces is None else max(float(faces[:, :, 0].max()), 1e-3)


def _with(triple: tuple[float, float, float], axis: int, value: float) -> tuple[float, ...]:
    return tuple(value if i == axis else old for i, old in enumerate(triple))


def _triple(at: Point) -> tuple[float, ...]:
    return tuple(float(x) for x in at)


def ray(camera: Camera, size: tuple[int, int], x: float, y: float) -> tuple[Point, Point]:
    """Return the eye and the direction through a pixel."""
    width, height = size
    right, up, back = axes_of(camera)
    tan = math.tan(math.radians(camera.view) / 2)
    across, above = (2 * x / width - 1) * tan * width / height, (1 - 2 * y / height) * tan
    direction = across * right + above * up - back
    return eye_of(camera), direction / np.linalg.norm(direction)


def dragged_to(handle: Handle, camera: Camera, size: tuple[int, int], x: float, y: float) -> Point | None:
    """Return the place nearest to a pixel that a handle may go to; None where the view tells nothing."""
    eye, direction = ray(camera, size, x, y)
    if handle.way == "line":
        # The nearest points of two lines.
        along, gap = handle.along, handle.place - eye
        across = 1.0 - float(along @ direction) ** 2
        if across < 1e-4:
            return None
        share = (float(along @ direction) * float(direction @ gap) - float(along @ gap)) / across
        return handle.place + share * along
    normal = axes_of(camera)[2] if handle.way == "view" else handle.along
    slant = float(normal @ direction)
    if abs(slant) < 1e-3:
        return None
    far = float(normal @ (handle.place - eye)) / slant
    return eye + far * direction if far > 0 else None


def tidy(value: Any, metres: float, least: float = -math.inf) -> Any:
    """Return a number, or three, rounded to what a pixel of so many metres tells, but not below ``least``."""
    if isinstance(value, tuple):
        return tuple(tidy(one, metres, least) for one in value)
    step = 10.0 ** math.floor(math.log10(max(metres, 1e-9) * 3))
    return max(round(round(value / step) * step, 9) + 0.0, least)

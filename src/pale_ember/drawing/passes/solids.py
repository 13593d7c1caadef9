"""Props and the person-sized figure: bodies with a depth and plain shading."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.stage import Prop
from ...effect.errors import EffectError
from ...effect.kinds import PropKind
from ...effect.values.colors import hex_to_linear
from ...effect.values.rotations import matrix_of
from ...simulation.meshes.faces import body_corners, known_faces
from ..camera import packed
from ..environment import Environment, Lights
from ..programs import Programs
from ..targets import release

Corners = NDArray[np.float32]
_ROUND, _TALL = 48, 24
# The share of the layers' light that the floor reflects, as in shine.frag.glsl; the key of its body.
FLOOR_PAINT = (0.3, 0.3, 0.3)
_FLOOR = ("floor", "")
# A person, 1.75 m tall, of balls: middle and size of each, m; and where it stands.
_PERSON = (
    ((0.0, 1.62, 0.0), (0.19, 0.26, 0.22)),
    ((0.0, 1.19, 0.0), (0.42, 0.62, 0.26)),
    ((0.0, 0.93, 0.0), (0.36, 0.3, 0.26)),
    ((-0.1, 0.46, 0.0), (0.18, 0.94, 0.2)),
    ((0.1, 0.46, 0.0), (0.18, 0.94, 0.2)),
    ((-0.1, 0.05, 0.05), (0.12, 0.1, 0.27)),
    ((0.1, 0.05, 0.05), (0.12, 0.1, 0.27)),
    ((-0.26, 1.08, 0.0), (0.11, 0.68, 0.13)),
    ((0.26, 1.08, 0.0), (0.11, 0.68, 0.13)),
)
PERSON_PLACE = (-1.15, 0.0, -0.5)
_PERSON_PAINT = "#77736e"


def _grid_faces(points: NDArray[np.float64], normals: NDArray[np.float64]) -> Corners:
    """Return triangles over a grid of points, (n, 6): corner and normal."""
    a, b, c, d = (
        np.concatenate([part, other], axis=2)
        for part, other in (
            (points[:-1, :-1], normals[:-1, :-1]),
            (points[1:, :-1], normals[1:, :-1]),
            (points[1:, 1:], normals[1:, 1:]),
            (points[:-1, 1:], normals[:-1, 1:]),
        )
    )
    return np.stack([a, b, c, a, c, d], axis=2).reshape(-1, 6).astype(np.float32)


def _ball() -> Corners:
    up, around = np.linspace(0, np.pi, _TALL + 1)[:, None], np.linspace(0, 2 * np.pi, _ROUND + 1)[None, :]
    points = np.stack(
        [np.sin(up) * np.cos(around), np.cos(up) + 0 * around, np.sin(up) * np.sin(around)], axis=2
    )
    return _grid_faces(points / 2 + np.array([0, 0.5, 0]), points)


def _cylinder() -> Corners:
    around = np.linspace(0, 2 * np.pi, _ROUND + 1)
    ring = np.stack([np.cos(around), 0 * around, np.sin(around)], axis=1)
    side = np.stack([ring / 2, ring / 2 + np.array([0, 1, 0])])
    parts = [_grid_faces(side, np.stack([ring, ring]))]
    for height, way in ((0.0, -1.0), (1.0, 1.0)):
        middle = np.array([0.0, height, 0.0])
        cap = np.stack([np.broadcast_to(middle, ring.shape), ring / 2 + middle])
        parts.append(_grid_faces(cap, np.broadcast_to(np.array([0.0, way, 0.0]), cap.shape)))
    return np.concatenate(parts)


def _flat(faces: NDArray[np.float64]) -> Corners:
    """Return faces, (n, 3, 3), with the normal of each at its corners."""
    normal = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    return (
        np.concatenate([faces, np.repeat(normal[:, None], 3, axis=1)], axis=2)
        .reshape(-1, 6)
        .astype(np.float32)
    )


def _box() -> Corners:
    """Return the triangles of a box of size 1, with their normals."""
    parts = []
    for axis in range(3):
        for way in (-0.5, 0.5):
            normal, u, v = np.zeros(3), np.zeros(3), np.zeros(3)
            normal[axis], u[(axis + 1) % 3], v[(axis + 2) % 3] = np.sign(way), 0.5, 0.5
            middle = normal * 0.5
            corners = [
                middle - u - v,
                middle + u - v,
                middle + u + v,
                middle - u - v,
                middle + u + v,
                middle - u + v,
            ]
            parts.append(np.stack([np.concatenate([corner, normal]) for corner in corners]))
    found = np.concatenate(parts)
    found[:, 1] += 0.5
    return found.astype(np.float32)


def body_of(prop: Prop) -> Corners | None:
    """Return a prop's body, 1 m each way, its foot's middle at 0: (n, 6). None for a mesh that isn't read
    yet.
    """
    if prop.kind != PropKind.MESH:
        return {PropKind.BALL: _ball, PropKind.CYLINDER: _cylinder, PropKind.BOX: _box}[prop.kind]()
    try:
        faces = known_faces(prop.mesh)
    except EffectError:
        return None
    if faces is None or not len(faces):
        return None
    return _flat(body_corners(faces))


def pose_of(prop: Prop) -> NDArray[np.float64]:
    """Return body to world, (4, 4)."""
    found = np.eye(4)
    found[:3, :3] = matrix_of(prop.rotation) * np.array(prop.size)
    found[:3, 3] = prop.position
    return found


def person() -> list[Prop]:
    """Return the figure as props."""
    return [
        Prop(
            kind=PropKind.BALL,
            color=_PERSON_PAINT,
            size=size,
            position=tuple(
                m + p
                for m, p in zip((middle[0], middle[1] - size[1] / 2, middle[2]), PERSON_PLACE, strict=True)
            ),
        )
        for middle, size in _PERSON
    ]


def _floor() -> Corners:
    """Return a square of 1 m that looks up."""
    corners = [(x, 0.0, z, 0.0, 1.0, 0.0) for x, z in ((0, 0), (1, 0), (1, 1), (0, 0), (1, 1), (0, 1))]
    return np.array(corners, np.float32)


def _put(program: Any, array: Any, pose: NDArray[np.float64], paint: tuple[float, ...]) -> None:
    """Draw a body."""
    program["pose"].write(packed(pose))
    turn = np.linalg.inv(pose[:3, :3]).T
    program["turn"].write(np.ascontiguousarray(turn.T, np.float32).tobytes())
    program["paint"] = paint
    array.render(moderngl.TRIANGLES)


class Solids:
    """Draws the solid bodies on the stage. Use and release it with its context current."""

    def __init__(self, ctx: Any, programs: Programs) -> None:
        self.ctx, self.programs = ctx, programs
        self._bodies: dict[tuple[str, str], Any] = {}
        self._arrays: dict[Any, Any] = {}
        # Whether the last draw had the body of each prop.
        self.complete = True

    def draw(
        self,
        whole: NDArray[np.float64],
        environment: Environment,
        lights: Lights,
        shines: Callable[[Any], None] | None = None,
        floor: NDArray[np.float64] | None = None,
    ) -> None:
        """Draw props and figure into the framebuffer in use; or add what layers throw on them, as ``shines``
        tells a program.

        Parameters
        ----------
        floor : float64 array (4,), optional
            The part of the floor that may be lit, from x, from z, to x, to z: it is drawn too.
        """
        self.complete = True
        things = [prop for prop in environment.props if prop.seen] + (person() if environment.figure else [])
        if not things and floor is None:
            return
        self.ctx.enable(moderngl.DEPTH_TEST)
        self.ctx.depth_func = "<="
        program = self.programs.solid(() if shines is None else ("SHINES",))
        program["whole"].write(packed(whole))
        if shines is not None:
            # The depth there may be of another sample of the pixel.
            self.ctx.polygon_offset = -2.0, -200.0
            shines(program)
        else:
            program["key_from"], program["key_light"] = lights.key_from, lights.key
            program["sky_light"], program["ground_light"] = lights.sky, lights.ground
        for prop in things:
            array = self._body(prop, program)
            if array is None:
                self.complete = False
                continue
            _put(program, array, pose_of(prop), tuple(hex_to_linear(prop.color)))
        if floor is not None:
            x, z, beyond, behind = floor
            pose = np.diag([beyond - x, 1.0, behind - z, 1.0])
            pose[:3, 3] = x, 0.0, z
            _put(program, self._array(_FLOOR, _floor, program), pose, FLOOR_PAINT)
        self.ctx.polygon_offset = 0.0, 0.0
        self.ctx.disable(moderngl.DEPTH_TEST)

    def _body(self, prop: Prop, program: Any) -> Any:
        key = (prop.kind, prop.mesh if prop.kind == PropKind.MESH else "")
        return self._array(key, lambda: body_of(prop), program)

    def _array(self, key: tuple[str, str], make: Callable[[], Corners | None], program: Any) -> Any:
        """Return a body's corners for a program; None while there is no such body."""
        if key not in self._bodies:
            body = make()
            if body is None:
                return None
            self._bodies[key] = self.ctx.buffer(body.tobytes())
        if (key, program.glo) not in self._arrays:
            layout = (self._bodies[key], "3f 3f", "in_place", "in_normal")
            self._arrays[key, program.glo] = self.ctx.vertex_array(program, [layout])
        return self._arrays[key, program.glo]

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        release(*self._arrays.values(), *self._bodies.values())
        self._bodies, self._arrays = {}, {}

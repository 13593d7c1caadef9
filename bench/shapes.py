"""Ribbons and meshes against bare loops: as many vertices, as many bodies, and the plainest shader that
draws them.
"""

from __future__ import annotations

import statistics
from collections.abc import Callable
from typing import Any

import moderngl
import numpy as np

from pale_ember.drawing.camera import packed, projection_matrix, view_matrix
from pale_ember.drawing.environment import Environment, lights_of
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.drawing.passes.particles import Particles
from pale_ember.drawing.passes.ribbons import Memory
from pale_ember.drawing.passes.scene import Scene
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.simulation.layout.instances import instance_type
from pale_ember.simulation.meshes.drawn import DrawnMeshPart, body_of
from pale_ember.simulation.ribbons.joining import Joined

from .draw import SIZE, _least

TRAILS, POINTS, BODIES = 500, 64, 2000

_STRIP_VERTEX = """#version 330
uniform mat4 whole;
in vec3 place; in float across; in vec4 light;
out float at; out vec4 shown;
void main() { gl_Position = whole * vec4(place, 1.0); at = across; shown = light; }
"""
_STRIP_FRAGMENT = """#version 330
in float at; in vec4 shown;
out vec4 pixel;
void main() { float soft = 1.0 - at * at; pixel = vec4(shown.rgb, 0.0) * (shown.a * soft * soft); }
"""
_BODY_VERTEX = """#version 330
uniform mat4 whole;
in vec3 point; in vec3 normal; in vec3 place; in float size; in vec4 turn; in vec4 light;
out vec3 facing; flat out vec4 shown;
vec3 turned(vec3 v) { return v + 2.0 * cross(turn.xyz, cross(turn.xyz, v) + turn.w * v); }
void main() {
    gl_Position = whole * vec4(place + turned(point) * size, 1.0);
    facing = turned(normal);
    shown = light;
}
"""
_BODY_FRAGMENT = """#version 330
uniform vec3 key;
in vec3 facing; flat in vec4 shown;
out vec4 pixel;
void main() { float t = dot(normalize(facing), key) * 0.5 + 0.5; pixel = vec4(shown.rgb * (t * t + 0.3),
    1.0); }
"""


def trails(count: int = TRAILS, points: int = POINTS) -> tuple[Any, Joined]:
    """Return flying trails, as instances and as what joins them."""
    roll = np.random.default_rng(5)
    rows = np.zeros(count * points, instance_type(("color", "opacity")))
    begin, fast = (
        roll.uniform((-1.8, 0.2, -1.0), (1.8, 2.0, 1.0), (count, 1, 3)),
        roll.normal(0, 1.2, (count, 1, 3)),
    )
    t = np.linspace(0.0, 0.6, points)[None, :, None]
    place = begin + fast * t + np.array([0.0, -1.5, 0.0]) * t**2 + 0.06 * np.sin(t * 9.0 + begin * 7.0)
    rows["place"], rows["size"] = (
        place.reshape(-1, 3),
        np.tile(np.linspace(0.004, 0.03, points), count)[:, None],
    )
    rows["color"], rows["opacity"] = (1.0, 0.6, 0.3), np.tile(np.linspace(0.0, 1.0, points), count)
    order = np.arange(count * points, dtype=np.int32)
    joined = Joined(
        rows,
        np.arange(count + 1, dtype=np.int32) * points,
        order,
        np.arange(count, dtype=np.uint32),
        np.zeros(count, np.float32),
    )
    return rows, joined


def _scene(ctx: Any, behind: Any) -> Scene:
    camera = Camera(target=(0.0, 1.2, 0.0), distance=5.0)
    view, projection = view_matrix(camera), projection_matrix(camera, *SIZE)
    return Scene(view, projection, camera, SIZE[1], lights_of(Environment(None, solid=True)), behind)


def measure_shapes(step: Callable[[], None] | None = None) -> dict[str, float]:
    """Return ms and ratios: building 32 000 points of ribbons beside a plain ``step`` of as many particles,
    drawing them beside a bare strip of as many vertices, and drawing 2 000 meshes of 200 triangles beside a
    bare instanced loop.
    """
    found: dict[str, float] = {}
    with OffscreenRenderer() as studio, studio.ctx:
        ctx = studio.ctx
        target = ctx.framebuffer([ctx.texture(SIZE, 4, dtype="f2")], ctx.depth_texture(SIZE))
        behind = ctx.depth_texture(SIZE)
        scene, drawer = _scene(ctx, behind), Particles(ctx, studio._programs, studio.store)
        rows, joined = trails()
        look = Look.model_validate({"draw": "ribbon", "blend": "add", "sort": "none"})
        layer = DrawnLayer("a", rows, look, joined=joined)
        memory = Memory()
        strips, columns = memory.band(layer, joined, scene, set())
        vertices = np.concatenate(strips)
        found["vertices"] = float(len(vertices))
        build = _least(lambda: memory.band(layer, joined, scene, set()), lambda: None, 25)  # type: ignore[arg-type]
        found["build_ms"] = build * 1e3
        if step is not None:
            found["build_steps"] = build / _least(step, lambda: None, 40)

        def begin() -> None:
            target.use()
            ctx.viewport = (0, 0, *SIZE)

        ribbons = drawer._ribbons

        def ours() -> None:
            begin()
            ribbons._memory = _Kept([vertices], columns)  # type: ignore[assignment]
            drawer.draw(scene, Moment(0.0, (layer,)), target)

        found |= _beside(ours, _bare_strip(ctx, scene, vertices, begin), ctx, "ribbon")
        body = _two_hundred()
        some = _bodies()
        look = Look.model_validate({"draw": "mesh", "blend": "cutout", "lit": 1.0, "sort": "none"})
        meshes = DrawnLayer("b", some, look, body=(body,))

        def drawn() -> None:
            begin()
            target.clear(depth=1.0)
            drawer.draw(scene, Moment(0.0, (meshes,)), target)

        found |= _beside(drawn, _bare_bodies(ctx, scene, body, some, begin, target), ctx, "mesh")
        found["triangles"] = float(len(body.faces))
        drawer.release()
        for thing in (target, behind):
            thing.release()
    return found


class _Kept:
    """Gives vertices that are built already."""

    def __init__(self, strips: Any, columns: Any) -> None:
        self.made = strips, columns

    def band(self, *_: Any) -> Any:
        return self.made

    def end(self) -> None:
        """Have nothing to let go."""


def _beside(ours: Callable[[], None], bare: Callable[[], None], ctx: Any, name: str) -> dict[str, float]:
    ours()
    bare()
    pairs = [(_least(ours, ctx.finish), _least(bare, ctx.finish)) for _ in range(5)]
    return {
        f"{name}_ms": statistics.median(one for one, _ in pairs) * 1e3,
        f"{name}_bare_ms": statistics.median(other for _, other in pairs) * 1e3,
        f"{name}_ratio": statistics.median(one / other for one, other in pairs),
    }


def _bare_strip(ctx: Any, scene: Scene, vertices: Any, begin: Callable[[], None]) -> Callable[[], None]:
    data = np.ascontiguousarray(np.concatenate([vertices[:, :4], vertices[:, 5:9]], axis=1))
    program = ctx.program(vertex_shader=_STRIP_VERTEX, fragment_shader=_STRIP_FRAGMENT)
    program["whole"].write(packed(scene.projection @ scene.view))
    buffer = ctx.buffer(data.tobytes(), dynamic=True)
    array = ctx.vertex_array(program, [(buffer, "3f 1f 4f", "place", "across", "light")])

    def once() -> None:
        begin()
        ctx.enable_only(moderngl.BLEND | moderngl.DEPTH_TEST)
        ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        buffer.orphan()
        buffer.write(data)
        array.render(moderngl.TRIANGLE_STRIP)

    return once


def _two_hundred() -> DrawnMeshPart:
    """Return a rounded body of 200 triangles."""
    ball = body_of("ball")[0]
    up, around = np.meshgrid(np.linspace(0.0, np.pi, 11), np.linspace(0.0, 2.0 * np.pi, 11), indexing="ij")
    normal = np.stack([np.sin(up) * np.cos(around), np.cos(up), np.sin(up) * np.sin(around)], axis=2).reshape(
        -1, 3
    )
    vertices = np.concatenate(
        [normal / 2, normal, np.stack([around, up], axis=2).reshape(-1, 2)], axis=1
    ).astype(ball.vertices.dtype)
    faces = [(r * 11 + c, (r + 1) * 11 + c, (r + 1) * 11 + c + 1) for r in range(10) for c in range(10)]
    faces += [(r * 11 + c, (r + 1) * 11 + c + 1, r * 11 + c + 1) for r in range(10) for c in range(10)]
    return DrawnMeshPart(vertices, np.array(faces, np.int32))


def _bodies() -> Any:
    roll = np.random.default_rng(6)
    rows = np.zeros(BODIES, instance_type(("color", "turn", "lot")))
    rows["place"], rows["size"] = roll.uniform((-2.2, 0.1, -1.5), (2.2, 2.4, 1.5), (BODIES, 3)), 0.06
    turn = roll.normal(size=(BODIES, 4))
    rows["turn"], rows["color"] = (
        turn / np.linalg.norm(turn, axis=1, keepdims=True),
        roll.uniform(0.3, 1.0, (BODIES, 3)),
    )
    return rows


def _bare_bodies(
    ctx: Any, scene: Scene, body: DrawnMeshPart, rows: Any, begin: Callable[[], None], target: Any
) -> Callable[[], None]:
    program = ctx.program(vertex_shader=_BODY_VERTEX, fragment_shader=_BODY_FRAGMENT)
    program["whole"].write(packed(scene.projection @ scene.view))
    program["key"] = (0.5, 0.7, 0.5)
    data = np.concatenate(
        [rows["place"], rows["size"][:, :1], rows["turn"], rows["color"], np.ones((len(rows), 1))], axis=1
    ).astype(np.float32)
    buffer = ctx.buffer(data.tobytes(), dynamic=True)
    points, faces = (
        ctx.buffer(np.ascontiguousarray(body.vertices[:, :6]).tobytes()),
        ctx.buffer(body.faces.tobytes()),
    )
    array = ctx.vertex_array(
        program,
        [(points, "3f 3f", "point", "normal"), (buffer, "3f 1f 4f 4f /i", "place", "size", "turn", "light")],
        index_buffer=faces,
    )

    def once() -> None:
        begin()
        target.clear(depth=1.0)
        ctx.enable_only(moderngl.DEPTH_TEST)
        buffer.orphan()
        buffer.write(data)
        array.render(moderngl.TRIANGLES, instances=len(rows))

    return once

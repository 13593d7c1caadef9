"""Drawing against a bare loop: the same instances, the same shader, nothing else."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

import moderngl
import numpy as np

from pale_ember.drawing.camera import projection_matrix, view_matrix
from pale_ember.drawing.environment import Environment, lights_of
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.drawing.passes.particles import Particles
from pale_ember.drawing.passes.scene import Scene, upload_scene
from pale_ember.drawing.passes.sprites import layout_of
from pale_ember.drawing.styles import style_of
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.effect.textures import Texture
from pale_ember.simulation.layout.instances import instance_type
from pale_ember.textures.library import shipped_textures
from pale_ember.textures.making.build import make
from pale_ember.textures.prepared import Prepared, prepared
from pale_ember.textures.shipped import plain_cloud

COUNT, SIZE = 5000, (900, 600)
LOOKS: dict[str, dict[str, Any]] = {
    "soft dots": {"soften": 0.2},
    "textured": {"texture": "puff"},
    "frames blended": {"texture": "puff", "frame_blend": True},
    "lit": {"texture": "puff", "lit": 1.0},
    "eroded": {"texture": "puff", "erode": {"amount": 0.4}},
}


def _puff() -> Prepared:
    texture: Texture = next(one for one in shipped_textures() if one.name == "puff")
    made = make(texture)
    assert made is not None
    return prepared(texture, made)


def _rows(size: float) -> Any:
    roll = np.random.default_rng(3)
    rows = np.zeros(COUNT, instance_type(("color", "opacity", "frame", "erode", "dice")))
    rows["place"] = roll.uniform((-2.2, 0.1, -1.5), (2.2, 2.4, 1.5), (COUNT, 3))
    rows["size"] = size
    rows["color"], rows["opacity"] = roll.uniform(0.2, 1.0, (COUNT, 3)), 0.4
    rows["frame"], rows["erode"], rows["dice"] = (
        roll.uniform(0, 15, COUNT),
        0.4,
        roll.uniform(0, 1, (COUNT, 2)),
    )
    return rows


def _least(work: Callable[[], None], finish: Callable[[], None], runs: int = 9) -> float:
    taken = []
    for _ in range(runs):
        finish()
        start = time.perf_counter()
        work()
        finish()
        taken.append(time.perf_counter() - start)
    return min(taken)


def measure_draw(size: float = 0.12) -> dict[str, dict[str, float]]:
    """Return, for each look, ms for 5 000 sprites and the ratio to a bare loop that draws the same
    instances.
    """
    camera, found = Camera(target=(0.0, 1.2, 0.0), distance=5.0), {}
    view, projection = view_matrix(camera), projection_matrix(camera, *SIZE)
    environment = Environment(None, solid=True)
    puff, rows = _puff(), _rows(size)
    with OffscreenRenderer() as studio, studio.ctx:
        ctx = studio.ctx
        target = ctx.framebuffer([ctx.texture(SIZE, 4, dtype="f2")], ctx.depth_texture(SIZE))
        behind = ctx.depth_texture(SIZE)
        store = studio.store
        for name, edits in LOOKS.items():
            look = Look.model_validate({"sort": "none", **edits})
            wears = {"picture": puff} if look.texture else {}
            if "erode" in edits:
                wears["erode"] = plain_cloud()
            layer = DrawnLayer("a", rows, look, wears=wears)
            moment = Moment(0.0, (layer,))
            scene = Scene(view, projection, camera, SIZE[1], lights_of(environment), behind)
            drawer = Particles(ctx, studio._programs, store)

            def ours(drawer: Particles = drawer, scene: Scene = scene, moment: Moment = moment) -> None:
                target.use()
                ctx.viewport = (0, 0, *SIZE)
                drawer.draw(scene, moment, target)

            ours()
            bare = _bare(studio, layer, scene, target)
            pairs = [(_least(ours, ctx.finish), _least(bare, ctx.finish)) for _ in range(5)]
            found[name] = {
                "ms": statistics.median(one for one, _ in pairs) * 1e3,
                "bare_ms": statistics.median(other for _, other in pairs) * 1e3,
                "ratio": statistics.median(one / other for one, other in pairs),
            }
            drawer.release()
        for thing in (target, behind):
            thing.release()
    return found


def _bare(studio: OffscreenRenderer, layer: DrawnLayer, scene: Scene, target: Any) -> Callable[[], None]:
    """Return a loop of two calls: the instances into a buffer, and their drawing. All else is set before."""
    ctx, style = studio.ctx, style_of(layer, solid=True)
    features = style.features
    program = studio._programs.particle(features)
    upload_scene(ctx, studio._programs, studio.store, program, scene, style)
    data = np.ascontiguousarray(layer.instances).view(np.uint8)
    buffer = ctx.buffer(data.tobytes(), dynamic=True)
    array = ctx.vertex_array(
        program, [(buffer, *layout_of(layer.instances.dtype, studio._programs, program, points=False))]
    )

    def once() -> None:
        target.use()
        ctx.viewport = (0, 0, *SIZE)
        ctx.enable_only(moderngl.BLEND | moderngl.DEPTH_TEST)
        ctx.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        upload_scene(ctx, studio._programs, studio.store, program, scene, style)
        buffer.orphan()
        buffer.write(data)
        array.render(moderngl.TRIANGLE_STRIP, vertices=style.corners, instances=COUNT)
        ctx.clear_samplers(0, 13)

    return once

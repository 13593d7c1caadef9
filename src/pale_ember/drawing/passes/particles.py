"""A moment's layers, each drawn as its look says: pictures, ribbons, meshes."""

from __future__ import annotations

import itertools
from typing import Any

import moderngl
import numpy as np

from ...effect.kinds import DrawnAs
from ..blends import BLENDS
from ..camera import axes_of
from ..moment import DrawnLayer, Moment, gathered, in_order
from ..programs import Programs
from ..styles import style_of
from ..texture_store import TextureStore
from .meshes import Meshes
from .ribbons import Ribbons
from .scene import DEPTH_UNIT, Scene
from .sprites import Sprites


class Particles:
    """Draws the particles of moments. Make, use and :meth:`release` it with its context current."""

    def __init__(self, ctx: Any, programs: Programs, store: TextureStore) -> None:
        self.ctx = ctx
        self._sprites = Sprites(ctx, programs, store)
        self._ribbons = Ribbons(ctx, programs, store)
        self._meshes = Meshes(ctx, programs, store)
        self.calls = 0

    def draw(self, scene: Scene, moment: Moment, target: Any) -> None:
        """Draw a moment's layers, lower orders first, into the framebuffer in use."""
        ctx = self.ctx
        self.calls = 0
        ctx.enable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE)
        ctx.blend_equation = moderngl.FUNC_ADD
        solid = scene.depth is not None
        # Cutout layers need a depth buffer, even without a background.
        tests = solid or any(BLENDS[layer.look.blend].solid for layer in moment.layers)
        if tests:
            ctx.enable(moderngl.DEPTH_TEST)
            ctx.depth_func = "<="
        target.depth_mask = False
        ordered = [
            layer
            for layer in sorted(moment.layers, key=lambda drawn: drawn.look.order)
            if len(layer.instances)
        ]
        for draw, layers in itertools.groupby(ordered, key=lambda layer: layer.look.draw):
            self._draw_alike(scene, draw, list(layers), solid, target)
        target.depth_mask = True
        # Later passes sample without mipmaps; these samplers must not stay bound.
        ctx.clear_samplers(0, DEPTH_UNIT + 1)
        ctx.disable(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE | moderngl.DEPTH_TEST)

    def _draw_alike(
        self, scene: Scene, draw: DrawnAs, layers: list[DrawnLayer], solid: bool, target: Any
    ) -> None:
        """Draw neighbours that are drawn as the same thing."""
        if draw == DrawnAs.RIBBON:
            for layer in layers:
                self._put_over(scene, layer.look.blend, target)
                self.calls += self._ribbons.draw(scene, style_of(layer, solid, scene.draft), layer)
            return
        _, _, back = axes_of(scene.camera)
        if draw == DrawnAs.MESH:
            for layer in layers:
                self._put_over(scene, layer.look.blend, target)
                rows = in_order(gathered(layer, scene.camera.target), back)
                self.calls += self._meshes.draw(scene, style_of(layer, solid, scene.draft), layer, rows)
            return
        drawn = [
            (style_of(layer, solid, scene.draft), in_order(gathered(layer, scene.camera.target), back))
            for layer in layers
        ]
        for _, run in itertools.groupby(drawn, key=lambda one: (one[0], one[1].dtype)):
            # Neighbours that are drawn alike are drawn at once: many small draws cost more than one.
            styles, parts = zip(*run, strict=True)
            rows = parts[0] if len(parts) == 1 else np.concatenate(parts)
            self._put_over(scene, styles[0].blend, target)
            self.calls += self._sprites.draw(scene, styles[0], rows)

    def _put_over(self, scene: Scene, blend: Any, target: Any) -> None:
        row = BLENDS[blend]
        self.ctx.blend_func = (moderngl.ONE, moderngl.ONE) if scene.counting else row.functions
        target.depth_mask = row.solid and not scene.counting

    def release(self) -> None:
        """Give back all that it holds on the GPU."""
        self._sprites.release()
        self._ribbons.release()
        self._meshes.release()

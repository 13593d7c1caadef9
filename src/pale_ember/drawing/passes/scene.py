"""What particles are drawn into, and the uniforms of it that their shaders read."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...effect.chapters.stage import Camera
from ..camera import axes_of, eye_of, packed
from ..environment import Lights
from ..programs import Programs
from ..styles import Style
from ..texture_store import TextureStore

# The depth that softening reads lies behind the textures of a layer.
DEPTH_UNIT = 12


@dataclass(frozen=True)
class Scene:
    """What particles are drawn into: as seen from where, by which light, before what depth.

    ``height`` is the framebuffer's, pixels; ``depth`` a texture of what stands behind, or None; ``draft``
    leaves out what is dear; ``counting`` draws each fragment as 1 instead of its light; with a ``row`` there
    are so many pictures side by side, each as ``projection`` says, and each particle is drawn into its own;
    ``time`` is the moment's, s.
    """

    view: NDArray[np.float64]
    projection: NDArray[np.float64]
    camera: Camera
    height: int
    lights: Lights
    depth: Any = None
    draft: bool = False
    counting: bool = False
    row: int = 0
    time: float = 0.0
    only: str = ""

    @functools.cached_property
    def whole(self) -> bytes:
        """Return world to clip space."""
        return packed(self.projection @ self.view)

    @functools.cached_property
    def axes(self) -> bytes:
        """Return the camera's right, up and back."""
        return np.stack(axes_of(self.camera)).astype("f4").tobytes()

    @functools.cached_property
    def eye(self) -> tuple[float, ...]:
        return tuple(float(x) for x in eye_of(self.camera))


def upload_scene(
    ctx: Any, programs: Programs, store: TextureStore, program: Any, scene: Scene, style: Style
) -> None:
    """Tell a program what is the same for all that a style draws, as far as it asks, and bind the
    textures.
    """
    lights, projection = scene.lights, scene.projection

    def upload(name: str, value: Any) -> None:
        programs.upload(program, name, value)

    upload("whole", scene.whole)
    upload("axes", scene.axes)
    upload("lens", (float(projection[0, 0]), float(projection[1, 1])))
    upload("depths", (float(projection[2, 2]), float(projection[2, 3])))
    upload("height", float(scene.height))
    upload("row", float(scene.row))
    upload("clock", scene.time)
    upload("key_from", lights.key_from)
    upload("key_light", lights.key)
    upload("sky_light", lights.sky)
    upload("ground_light", lights.ground)
    upload("eye", scene.eye)
    for name, value in style.uniforms:
        upload(name, value)
    for number, unit in enumerate(style.units):
        if not programs.asks(program, unit.name):
            continue
        held = store.get(unit.texture)
        getattr(held, unit.part).use(number)
        if unit.name == "corners":
            ctx.clear_samplers(number, number + 1)
        else:
            store.sampler(unit.texture.smooth, unit.wrap, scene.draft, unit.anisotropic).use(number)
        upload(unit.name, number)
    if programs.asks(program, "behind"):
        scene.depth.use(DEPTH_UNIT)
        ctx.clear_samplers(DEPTH_UNIT, DEPTH_UNIT + 1)
        upload("behind", DEPTH_UNIT)

"""What is behind the effect: sky, ground, the floor's grid; or squares; or a picture."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...effect.chapters.stage import Camera
from ...effect.kinds import Backdrop
from ...effect.values.colors import hex_to_linear
from ..backdrops import BACKDROPS
from ..camera import axes_of, eye_of, packed
from ..environment import Environment
from ..programs import Programs
from ..texture_store import TextureStore

# Squares, pixels; and how much wider than high a picture is that goes all around.
SQUARE = 16.0
AROUND = 1.9, 2.1


def _plain(numbers: Any) -> tuple[float, ...]:
    return tuple(float(one) for one in numbers)


def draw_backdrop(
    programs: Programs,
    store: TextureStore,
    view: Any,
    projection: Any,
    camera: Camera,
    environment: Environment,
) -> None:
    """Fill the viewport with an environment's backdrop as a camera sees it, with the floor's depth where it
    is solid.
    """
    assert environment.backdrop is not None
    colors = BACKDROPS[environment.backdrop]
    pictured = environment.backdrop == Backdrop.PICTURE and environment.picture is not None
    features = ("PICTURE",) if pictured else ()
    program = programs.screen("backdrop", features)

    def upload(name: str, value: Any) -> None:
        programs.upload(program, name, value)

    upload("unproject", packed(np.linalg.inv(projection @ view)))
    upload("eye", _plain(eye_of(camera)))
    for name, color in (
        ("zenith", colors.zenith),
        ("horizon", colors.horizon),
        ("ground", colors.ground),
        ("line_light", colors.line),
    ):
        upload(name, _plain(hex_to_linear(color)))
    _, _, back = axes_of(camera)
    upload("cell", 10.0 ** max(0, int(np.floor(np.log10(max(camera.distance, 1e-3) / 6.0)))))
    upload("grid", 1.0 if environment.grid and environment.floor else 0.0)
    upload("floor_there", 1.0 if environment.floor else 0.0)
    upload("checker", SQUARE if colors.checker else 0.0)
    upload("depths", _plain(projection[2, 2:]))
    upload("ahead", _plain(-back))
    upload("solid", 1.0 if environment.solid else 0.0)
    if pictured:
        assert environment.picture is not None
        wide, high = environment.picture.size
        shape = float(projection[1, 1] / projection[0, 0]) / (wide / high)
        upload("panorama", 1.0 if AROUND[0] <= wide / high <= AROUND[1] else 0.0)
        # It fills the view; what is too much of it is cut off.
        upload("fit", (min(shape, 1.0), min(1.0 / shape, 1.0)))
        store.get(environment.picture).picture.use(0)
        store.sampler(True, True, False).use(0)
        upload("picture", 0)
    programs.fill("backdrop", features)
    if pictured:
        programs.ctx.clear_samplers(0, 1)

"""What is behind the effect: sky, ground, the floor's grid; or squares; or a picture."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...effect.colors import hex_to_linear
from ...effect.kinds import Backdrop
from ...effect.stage import Camera
from ..backdrops import BACKDROPS
from ..camera import axes_of, eye_of, packed
from ..programs import Programs
from ..setting import Setting
from ..texture_store import TextureStore

# Squares, pixels; and how much wider than high a picture is that goes all around.
SQUARE = 16.0
AROUND = 1.9, 2.1


def _plain(numbers: Any) -> tuple[float, ...]:
    return tuple(float(one) for one in numbers)


def draw_backdrop(
    programs: Programs, store: TextureStore, view: Any, projection: Any, camera: Camera, setting: Setting
) -> None:
    """Fill the viewport with a setting's backdrop as a camera sees it, with the floor's depth where it is solid."""
    assert setting.backdrop is not None
    colors = BACKDROPS[setting.backdrop]
    pictured = setting.backdrop == Backdrop.PICTURE and setting.picture is not None
    features = ("PICTURE",) if pictured else ()
    program = programs.screen("backdrop", features)

    def tell(name: str, value: Any) -> None:
        programs.tell(program, name, value)

    tell("unproject", packed(np.linalg.inv(projection @ view)))
    tell("eye", _plain(eye_of(camera)))
    for name, color in (
        ("zenith", colors.zenith), ("horizon", colors.horizon), ("ground", colors.ground), ("line_light", colors.line),
    ):  # fmt: skip
        tell(name, _plain(hex_to_linear(color)))
    _, _, back = axes_of(camera)
    tell("cell", 10.0 ** max(0, int(np.floor(np.log10(max(camera.distance, 1e-3) / 6.0)))))
    tell("grid", 1.0 if setting.grid and setting.floor else 0.0)
    tell("floor_there", 1.0 if setting.floor else 0.0)
    tell("checker", SQUARE if colors.checker else 0.0)
    tell("depths", _plain(projection[2, 2:]))
    tell("ahead", _plain(-back))
    tell("solid", 1.0 if setting.solid else 0.0)
    if pictured:
        assert setting.picture is not None
        wide, high = setting.picture.size
        shape = float(projection[1, 1] / projection[0, 0]) / (wide / high)
        tell("panorama", 1.0 if AROUND[0] <= wide / high <= AROUND[1] else 0.0)
        # It fills the view; what is too much of it is cut off.
        tell("fit", (min(shape, 1.0), min(1.0 / shape, 1.0)))
        store.get(setting.picture).picture.use(0)
        store.sampler(True, True, False).use(0)
        tell("picture", 0)
    programs.fill("backdrop", features)
    if pictured:
        programs.ctx.clear_samplers(0, 1)

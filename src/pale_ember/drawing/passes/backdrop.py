"""What is behind the effect: sky, ground, the floor's grid."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...effect.colors import hex_to_linear
from ...effect.stage import Camera
from ..backdrops import BackdropColors
from ..camera import eye_of, packed
from ..programs import Programs


def draw_backdrop(
    programs: Programs, view: Any, projection: Any, camera: Camera, colors: BackdropColors, grid: bool
) -> None:
    """Fill the viewport with a backdrop as a camera sees it."""
    program = programs.screen("backdrop")
    program["unproject"].write(packed(np.linalg.inv(projection @ view)))
    program["eye"] = tuple(eye_of(camera))
    for name, color in (
        ("zenith", colors.zenith),
        ("horizon", colors.horizon),
        ("ground", colors.ground),
        ("line_light", colors.line),
    ):
        program[name] = tuple(hex_to_linear(color))
    program["cell"] = 10.0 ** max(0, int(np.floor(np.log10(max(camera.distance, 1e-3) / 6.0))))
    program["grid"] = 1.0 if grid else 0.0
    programs.fill("backdrop")

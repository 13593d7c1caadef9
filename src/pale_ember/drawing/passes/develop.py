"""Linear light to what a screen shows."""

from __future__ import annotations

from typing import Any, NamedTuple

from ..environment import Environment
from ..programs import Programs
from .glow import Glow


class Developing(NamedTuple):
    """How pixels are written: blue, green, red, as some windows take them; from the top; see-through where
    nothing is; as plain light.
    """

    blue_first: bool = False
    from_top: bool = False
    clear: bool = False
    plain: bool = False


def develop(
    programs: Programs,
    scene: Any,
    glow: Glow,
    environment: Environment,
    how: Developing,
    cut: tuple[float, float, float, float] = (0, 0, 1, 1),
    without: Any = None,
) -> None:
    """Write a part of a scene, corner and size 0…1, with its glow into the viewport: 8-bit sRGB values.

    With a picture ``without`` the effect, developed likewise, only what differs from it is written:
    premultiplied, clear elsewhere.
    """
    scene.use(0)
    glow.texture.use(1)
    program = programs.screen("develop")
    program["scene"], program["glow"], program["cut"] = 0, 1, cut
    program["swap"], program["flip"], program["clear"], program["plain"] = (
        1.0 if part else 0.0 for part in how
    )
    program["glow_share"], program["glow_scale"] = environment.glow * glow.spread_share, glow.scale
    program["exposed"] = 2.0**environment.exposure
    program["lies"], program["without"] = 0.0 if without is None else 1.0, 2
    if without is not None:
        without.use(2)
    programs.fill("develop")

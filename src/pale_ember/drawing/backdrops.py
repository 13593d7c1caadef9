"""The backdrops of the stage, and the light that goes with each."""

from __future__ import annotations

from dataclasses import dataclass

from ..effect.kinds import Backdrop


@dataclass(frozen=True)
class BackdropColors:
    """Colours behind the effect, sRGB hex, the floor grid's, and the light: the key light's, the sky's, the
    ground's.

    ``checker`` draws squares instead, of the zenith's and the ground's colour.
    """

    zenith: str
    horizon: str
    ground: str
    line: str
    key: str
    key_strength: float
    sky: str
    bounce: str
    sky_strength: float
    checker: bool = False


BACKDROPS: dict[Backdrop, BackdropColors] = {
    Backdrop.NIGHT: BackdropColors(
        "#111213", "#222324", "#191a1a", "#3f4244", "#b9c8dc", 0.3, "#8d98a8", "#6d6a66", 0.13
    ),
    Backdrop.DUSK: BackdropColors(
        "#3a4048", "#75706c", "#45423f", "#6d6a66", "#ffc79a", 0.42, "#98a4b6", "#8d8278", 0.3
    ),
    Backdrop.OVERCAST: BackdropColors(
        "#8d9193", "#b4b5b4", "#838381", "#5e5f5e", "#f4f5f2", 0.35, "#dfe3e6", "#a8a6a2", 0.66
    ),
    Backdrop.NOON: BackdropColors(
        "#8fa9bd", "#d9dad6", "#a9a59b", "#77746d", "#fff4e2", 0.95, "#c9dcee", "#b8b0a2", 0.42
    ),
    Backdrop.GREY: BackdropColors(
        "#767676", "#767676", "#767676", "#8c8c8c", "#ffffff", 0.6, "#ffffff", "#cfcfcf", 0.36
    ),
    Backdrop.BLACK: BackdropColors(
        "#000000", "#000000", "#000000", "#3a3a3a", "#ffffff", 0.6, "#ffffff", "#cfcfcf", 0.2
    ),
    Backdrop.CHECKER: BackdropColors(
        "#8c8c8c", "#8c8c8c", "#666666", "#b0b0b0", "#ffffff", 0.6, "#ffffff", "#cfcfcf", 0.36, checker=True
    ),
    # Where there is no picture yet; the light stays when one is there.
    Backdrop.PICTURE: BackdropColors(
        "#5b5e60", "#747676", "#5a5957", "#7d7d7b", "#fff6ea", 0.6, "#d4dce4", "#aca79f", 0.4
    ),
}

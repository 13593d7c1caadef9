"""What stands behind an effect."""

from __future__ import annotations

from dataclasses import dataclass

from ..effect.kinds import Backdrop


@dataclass(frozen=True)
class BackdropColors:
    """Colours behind the effect, sRGB hex, and the floor grid's strength."""

    zenith: str
    horizon: str
    ground: str
    line: str


BACKDROPS: dict[Backdrop, BackdropColors] = {
    Backdrop.NIGHT: BackdropColors("#111213", "#222324", "#191a1a", "#3f4244"),
    Backdrop.DUSK: BackdropColors("#3a4048", "#75706c", "#45423f", "#6d6a66"),
    Backdrop.OVERCAST: BackdropColors("#8d9193", "#b4b5b4", "#838381", "#5e5f5e"),
    Backdrop.NOON: BackdropColors("#8fa9bd", "#d9dad6", "#a9a59b", "#77746d"),
    Backdrop.BLACK: BackdropColors("#000000", "#000000", "#000000", "#3a3a3a"),
}

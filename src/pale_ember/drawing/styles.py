"""How a layer's particles are drawn: the shader's features, what is the same for all, and the textures
that they wear.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

from ..effect.chapters.look import NOISES, Look
from ..effect.chapters.noises import Noise
from ..effect.kinds import Blend, Channel, DrawnAs, Facing, FrameEnd, Lay
from ..effect.values.colors import hex_to_linear
from ..effect.values.values import Fixed
from ..simulation.layout.instances import PLAIN
from ..textures.prepared import Prepared
from .blends import BLENDS
from .moment import DrawnLayer
from .shader_columns import OPTIONAL, PASSED

CHANNELS: dict[Channel, tuple[float, float, float, float]] = {
    # Of data all is the brightness; pictures are read whole before it comes to this.
    Channel.ALL: (1 / 3, 1 / 3, 1 / 3, 0.0),
    Channel.RED: (1.0, 0.0, 0.0, 0.0),
    Channel.GREEN: (0.0, 1.0, 0.0, 0.0),
    Channel.BLUE: (0.0, 0.0, 1.0, 0.0),
    Channel.ALPHA: (0.0, 0.0, 0.0, 1.0),
}
FACINGS: dict[Facing, str] = {
    Facing.CAMERA: "",
    Facing.STREAK: "STREAK",
    Facing.UPRIGHT: "UPRIGHT",
    Facing.FLAT: "FLAT",
    Facing.TRAVEL: "TRAVEL",
}
BLEND_FEATURES: dict[Blend, str] = {
    Blend.ALPHA: "",
    Blend.ADD: "",
    Blend.MIX: "MIXED",
    Blend.MULTIPLY: "MULTIPLY",
    Blend.CUTOUT: "CUTOUT",
}
_NOISE_FEATURES = {"erode": "ERODES", "bend": "BENDS", "shimmer": "SHIMMERS"}
# Features that stand for more than that a column isn't neutral.
_DECIDED = {*BLEND_FEATURES.values(), *_NOISE_FEATURES.values(), "SHELL"}
Uniforms = tuple[tuple[str, Any], ...]


class Unit(NamedTuple):
    """A sampler of the shader, the texture it reads, which part of it, and whether it goes on at its borders.

    An ``anisotropic`` one may be far narrower one way on the screen than the other.
    """

    name: str
    texture: Prepared
    part: str
    wrap: bool
    anisotropic: bool = False


class Style(NamedTuple):
    """All that the drawing of a layer depends on besides its instances; equal styles are drawn at once."""

    blend: Blend
    features: frozenset[str]
    uniforms: Uniforms
    units: tuple[Unit, ...]
    corners: int

    @property
    def is_point(self) -> bool:
        """Return whether it looks the same drawn as a point."""
        return not self.features & {"STREAK", "UPRIGHT", "FLAT", "TRAVEL", "ANCHORED"}


def style_of(layer: DrawnLayer, solid: bool, draft: bool = False) -> Style:
    """Return how a layer is drawn.

    Parameters
    ----------
    solid : bool
        Whether there is anything that it can meet softly.
    draft : bool
        Whether to leave out what is dear while a picture moves.
    """
    look = layer.look
    sprite, ribbon = look.draw == DrawnAs.SPRITE, look.draw == DrawnAs.RIBBON
    features = set(filter(None, (FACINGS[look.facing] if sprite else "", BLEND_FEATURES[look.blend])))
    uniforms: list[tuple[str, Any]] = []
    units: list[Unit] = []
    carried = _carry(layer, features, uniforms)
    uniforms += [("cover", BLENDS[look.blend].cover), ("anchor", look.anchor), ("nudge", look.nudge)]
    if look.anchor and sprite:
        features.add("ANCHORED")
    if look.nudge:
        features.add("NUDGED")
    if look.facing == Facing.STREAK and sprite:
        uniforms.append(("streak_ends", (look.streak_least, max(look.streak_most, look.streak_least))))
    if look.blend == Blend.CUTOUT:
        uniforms.append(("cutoff", look.cutoff))
    if look.soften > 0 and solid and look.blend != Blend.CUTOUT:
        features.add("SOFT")
        uniforms.append(("soften", look.soften))
    picture = layer.wears.get("picture")
    if picture is not None:
        _wear(look, picture, features, uniforms, units, draft)
        if ribbon and look.ribbon.lay == Lay.REPEAT:
            units[:] = [unit._replace(wrap=True) for unit in units]
    if look.draw == DrawnAs.MESH:
        _stand(look, features, uniforms)
    if picture is not None and not sprite and (look.tiles != (1.0, 1.0) or look.pan != (0.0, 0.0)):
        features.add("TILED")
        uniforms += [("tiles", look.tiles), ("pan", look.pan)]
        units[:] = [unit._replace(wrap=True) for unit in units]
    if look.lit > 0:
        features.add("LIT")
        uniforms += [("lit", look.lit), ("roundness", look.roundness)]
        if picture is not None and picture.normals is not None:
            features.add("NORMALS")
            units.append(
                Unit(
                    "normals", picture, "normals", picture.wrap or (ribbon and look.ribbon.lay == Lay.REPEAT)
                )
            )
    for name in NOISES:
        noise = getattr(look, name)
        if name in layer.wears and (name in carried or layer.fixed.get(name, (0.0,))[0] != 0.0):
            whole = picture is not None and picture.is_opaque and look.channel in (Channel.ALL, Channel.ALPHA)
            _take_noise(
                name, noise, layer.wears[name], features, uniforms, units, look.draw == DrawnAs.MESH, whole
            )
    corners = 4 if picture is None else 8
    return Style(look.blend, frozenset(features), tuple(uniforms), tuple(units), corners)


def _carry(layer: DrawnLayer, features: set[str], uniforms: list[tuple[str, Any]]) -> list[str]:
    """Return what each particle carries by itself; what all share becomes uniforms."""
    carried = [name for name in OPTIONAL if name in (layer.instances.dtype.names or ())]
    features |= {name.upper() for name in carried}
    for name in OPTIONAL:
        if name not in carried:
            value = layer.fixed.get(name, PLAIN[name])
            if name == "angle":
                uniforms.append(("turned", (math.cos(value[0]), math.sin(value[0]))))
            else:
                uniforms.append((f"in_{name}", value if len(value) > 1 else value[0]))
    for name, feature in PASSED.items():
        if feature not in _DECIDED and (name in carried or layer.fixed.get(name, PLAIN[name]) != PLAIN[name]):
            features.add(feature)
    return carried


def _stand(look: Look, features: set[str], uniforms: list[Any]) -> None:
    """Add what meshes have: a rim, a core."""
    if look.mesh.core < 1.0 or look.mesh.rim != Fixed(0.0):
        features.add("SHELL")
        uniforms += [("rim_power", look.mesh.rim_power), ("core", look.mesh.core)]


def _wear(
    look: Look, picture: Prepared, features: set[str], uniforms: list[Any], units: list[Unit], draft: bool
) -> None:
    """Add what drawing with a picture needs: features, uniforms and textures."""
    features.add("TEXTURED")
    blended = look.frame_blend and picture.frames > 1 and not draft
    uniforms += [("frames", float(picture.frames)), ("mirror", look.mirror)]
    units += [
        # Streaks are many times longer than wide: with equal copies both ways their ends would be as bright
        # as their middle.
        Unit(
            "picture",
            picture,
            "picture",
            picture.wrap,
            look.facing == Facing.STREAK and look.draw == DrawnAs.SPRITE,
        ),
        Unit("corners", picture, "joint_corners" if blended else "corners", False),
    ]
    if look.frame_end == FrameEnd.HOLD:
        features.add("HOLDS")
    if look.channel != Channel.ALL:
        features.add("CHANNEL")
        uniforms.append(("channel", CHANNELS[look.channel]))
    if picture.data:
        features.add("DATA")
    if blended:
        features.add("FRAME_BLEND")
        if picture.motion is not None:
            features.add("MOTION")
            units.append(Unit("moves", picture, "motion", picture.wrap))


def _take_noise(
    name: str,
    noise: Noise,
    ready: Prepared,
    features: set[str],
    uniforms: list[Any],
    units: list[Unit],
    bare: bool,
    whole: bool,
) -> None:
    """Add what drawing with a noise needs: its feature, uniforms and texture."""
    features.add(_NOISE_FEATURES[name])
    units.append(Unit(f"{name}_noise", ready, "picture", True))
    uniforms += [(f"{name}_channel", CHANNELS[noise.channel]), (f"{name}_lay", (*noise.tiles, *noise.pan))]
    uniforms.append((f"{name}_painted", 0.0 if ready.data else 1.0))
    if name == "erode":
        # A body without a picture, and a picture that covers whole, are nowhere thinner than elsewhere.
        inward = noise.inward if ("TEXTURED" in features or not bare) and not whole else 0.0  # type: ignore[attr-defined]
        uniforms.append(("erode_edge", (noise.edge, inward)))  # type: ignore[attr-defined]
        if noise.rim_intensity > 0:  # type: ignore[attr-defined]
            features.add("RIM")
            rim = hex_to_linear(noise.rim_color) * noise.rim_intensity  # type: ignore[attr-defined]
            uniforms.append(("rim", tuple(float(part) for part in rim)))

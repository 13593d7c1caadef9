"""How a particle looks: picture, shape, light, blending, and the noise that eats, bends and flickers it."""

from __future__ import annotations

from ..kinds import Blend, Channel, DrawnAs, Facing, FrameEnd, Sort
from ..read_at import ReadAt
from ..rules import fields
from ..rules.part import Part
from ..values.colors import ColorValue
from ..values.values import Fixed, Value
from .draws import MeshLook, Ribbon
from .noises import ALONG, Bend, Erode, Noise, Pair, Shimmer

_SPRITE = (DrawnAs.SPRITE,)


class Look(Part):
    """How a particle is drawn: as a picture, or without one a soft dot; as a point of a ribbon; as a mesh."""

    draw: DrawnAs = fields.choice(
        DrawnAs.SPRITE,
        "Draw",
        "Each as a picture of its own; all joined by a band; or each as a mesh.",
        also="type render sprite billboard ribbon trail beam mesh model",
    )
    texture: str = fields.texture(
        "",
        "Texture",
        "The picture on each particle; none is a soft dot.",
        also="picture image map sprite sheet",
    )
    channel: Channel = fields.choice(
        Channel.ALL,
        "Channel",
        "All of the picture, or one of the masks that are packed in it.",
        group="picture",
        needs="texture",
        also="mask packed red green blue alpha",
    )
    frame: Value = fields.value(
        0.0,
        "Frame",
        "Which frame of the sheet it shows: a curve plays it, a spread takes one at random.",
        along=ALONG,
        hard=(-100_000, 100_000),
        soft=(0, 64),
        digits=1,
        group="picture",
        needs="texture",
        also="sheet animation play random",
        read_at=ReadAt.LOOK,
    )
    frame_rate: Value = fields.value(
        0.0,
        "Frame rate",
        "Frames that pass in a second, besides.",
        along="clock",
        unit="/s",
        hard=(-10_000, 10_000),
        soft=(0, 60),
        digits=1,
        group="picture",
        needs="texture",
        also="sheet speed fps play",
        read_at=ReadAt.FIRST_LOOK,
    )
    frame_end: FrameEnd = fields.choice(
        FrameEnd.AROUND,
        "Frame end",
        "Behind the last frame the sheet starts around again, or holds.",
        group="picture",
        needs="texture",
        also="sheet loop stop",
    )
    frame_blend: bool = fields.flag(
        False,
        "Frame blend",
        "Fades from each frame to the next; along the motion where the sheet knows it.",
        group="picture",
        needs="texture",
        also="smooth interpolate sheet crossfade",
    )
    tiles: Pair = fields.vec2(
        (1.0, 1.0),
        "Tiles",
        "How often the picture fits across and along.",
        hard=(-1000, 1000),
        soft=(0.25, 4),
        group="picture",
        needs="texture",
        draws=(DrawnAs.RIBBON, DrawnAs.MESH),
        also="repeat uv scale",
    )
    pan: Pair = fields.vec2(
        (0.0, 0.0),
        "Pan",
        "How fast the picture slides, to the right and along.",
        unit="/s",
        hard=(-1000, 1000),
        soft=(-2, 2),
        group="picture",
        needs="texture",
        draws=(DrawnAs.RIBBON, DrawnAs.MESH),
        also="scroll flow uv speed",
    )
    mirror: float = fields.number(
        0.0,
        "Mirror",
        "How likely each is flipped from left to right, so that repetition hides.",
        hard=(0, 1),
        soft=(0, 1),
        draws=(DrawnAs.SPRITE, DrawnAs.MESH),
        group="picture",
        needs="texture",
        also="flip random repetition",
    )
    facing: Facing = fields.choice(
        Facing.CAMERA,
        "Facing",
        "Towards the camera; drawn out along its motion; upright; flat on the floor; or in the plane "
        "of its travel.",
        draws=_SPRITE,
        group="shape",
        also="orientation billboard align stretch velocity",
    )
    streak: Value = fields.value(
        0.05,
        "Streak",
        "It is drawn out by its way in so many seconds.",
        along=ALONG,
        unit="s",
        hard=(0, 100),
        soft=(0, 0.3),
        digits=3,
        only=("facing", (Facing.STREAK,)),
        draws=_SPRITE,
        group="shape",
        also="stretch trail length velocity motion",
        read_at=ReadAt.LOOK,
    )
    streak_least: float = fields.number(
        0.0,
        "Least streak",
        "It is drawn out by this at least.",
        unit="m",
        hard=(0, 1e5),
        soft=(0, 1),
        only=("facing", (Facing.STREAK,)),
        draws=_SPRITE,
        group="shape",
        also="stretch minimum length",
    )
    streak_most: float = fields.number(
        1000.0,
        "Most streak",
        "It is drawn out by this at most.",
        unit="m",
        hard=(0, 1e5),
        soft=(0, 4),
        only=("facing", (Facing.STREAK,)),
        draws=_SPRITE,
        group="shape",
        also="stretch maximum length",
    )
    anchor: float = fields.number(
        0.0,
        "Anchor",
        "Which part of its height stands at its place: −0.5 its foot, 0.5 its head.",
        hard=(-0.5, 0.5),
        soft=(-0.5, 0.5),
        draws=_SPRITE,
        group="shape",
        also="pivot foot origin offset",
    )
    grow: Value = fields.value(
        1.0,
        "Grow",
        "Multiplies the size as life goes on.",
        along=ALONG,
        unit="×",
        hard=(0, 1e5),
        soft=(0, 3),
        also="size bigger scale shrink",
        read_at=ReadAt.LOOK,
    )
    widen: Value = fields.value(
        1.0,
        "Widen",
        "Multiplies the width alone as life goes on.",
        along=ALONG,
        unit="×",
        hard=(0, 1e5),
        soft=(0, 3),
        group="shape",
        also="narrow stretch width aspect",
        read_at=ReadAt.LOOK,
    )
    tint: ColorValue = fields.color_value(
        "#ffffff",
        "Tint",
        "A colour given at birth, multiplied with the colour along life.",
        along="clock",
        group="light",
        also="hue color colour random colours list palette several one of pick",
        read_at=ReadAt.FIRST_LOOK,
    )
    color: ColorValue = fields.color_value(
        "#ffffff",
        "Colour",
        "The colour as life goes on; or one of several, for each particle one.",
        along=ALONG,
        also="color colour hue gradient tint list palette",
        read_at=ReadAt.LOOK,
    )
    opacity: Value = fields.value(
        1.0,
        "Opacity",
        "How much of what is behind it hides; for added light, how much light it gives.",
        along=ALONG,
        hard=(0, 1),
        soft=(0, 1),
        also="alpha fade transparency transparent visible",
        read_at=ReadAt.LOOK,
        column=fields.Column("opacity", neutral=1.0),
    )
    intensity: Value = fields.value(
        1.0,
        "Intensity",
        "Multiplies its light; above 1 it glows.",
        along=ALONG,
        unit="×",
        hard=(0, 1e5),
        soft=(0, 8),
        group="light",
        also="bright brightness glow emissive emission hdr bloom",
        read_at=ReadAt.LOOK,
        column=fields.Column("intensity", neutral=1.0),
    )
    lit: float = fields.number(
        0.0,
        "Lit",
        "How much it takes of the stage's light, instead of shining by itself.",
        hard=(0, 1),
        soft=(0, 1),
        group="light",
        also="shaded lighting sun shadow",
    )
    roundness: float = fields.number(
        0.7,
        "Roundness",
        "How much a flat picture is lit as if it bulged.",
        hard=(0, 1),
        soft=(0, 1),
        draws=(DrawnAs.SPRITE, DrawnAs.RIBBON),
        group="light",
        needs="lit",
        also="normal bulge volume shading",
    )
    shine: float = fields.number(
        0.0,
        "Shine",
        "How strongly the layer lights the floor and the props.",
        unit="×",
        hard=(0, 1e5),
        soft=(0, 4),
        group="light",
        also="light lamp illuminate floor cast",
    )
    shine_reach: float = fields.number(
        3.0,
        "Shine reach",
        "How far its light reaches.",
        unit="m",
        hard=(0.01, 1e5),
        soft=(0.5, 10),
        group="light",
        needs="shine",
        also="light radius range",
    )
    blend: Blend = fields.choice(
        Blend.ALPHA,
        "Blend",
        "Alpha covers what is behind; add puts its light on top; mix goes between them; multiply "
        "darkens, white being nothing; "
        "cutout is there or not.",
        also="additive alpha mode ink dark",
    )
    mix: Value = fields.value(
        0.5,
        "Mix",
        "From 0, covering, to 1, adding: a flame that becomes smoke.",
        along=ALONG,
        hard=(0, 1),
        soft=(0, 1),
        only=("blend", (Blend.MIX,)),
        also="additive alpha premultiplied",
        read_at=ReadAt.LOOK,
        column=fields.Column("mix", feature="MIXED"),
    )
    cutoff: float = fields.number(
        0.5,
        "Cutoff",
        "What is less opaque than this is not there.",
        hard=(0.001, 1),
        soft=(0.001, 1),
        only=("blend", (Blend.CUTOUT,)),
        also="threshold alpha test clip",
    )
    sort: Sort = fields.choice(
        Sort.FAR,
        "Sort",
        "Which particles are drawn first, inside this layer.",
        only=("blend", (Blend.ALPHA, Blend.MIX)),
        group="drawing",
        also="order depth back front",
    )
    order: int = fields.integer(
        0,
        "Order",
        "Layers of a higher order are drawn over lower ones; equal ones in the order of the timeline.",
        hard=(-1000, 1000),
        soft=(-10, 10),
        group="drawing",
        also="layer depth priority front behind",
    )
    nudge: float = fields.number(
        0.0,
        "Nudge",
        "Brings it towards the eye, so that it is not hidden by what it touches.",
        unit="m",
        hard=(-1e5, 1e5),
        soft=(-1, 1),
        group="drawing",
        also="offset depth bias camera",
    )
    soften: float = fields.number(
        0.0,
        "Soften",
        "Fades over this distance where it meets the floor and props.",
        unit="m",
        hard=(0, 1e5),
        soft=(0, 1),
        digits=3,
        group="drawing",
        also="soft depth fade intersect edge",
    )
    erode: Erode = Erode()
    bend: Bend = Bend()
    shimmer: Shimmer = Shimmer()
    ribbon: Ribbon = Ribbon()
    mesh: MeshLook = MeshLook()


NOISES = ("erode", "bend", "shimmer")


def used_noises(look: Look) -> dict[str, Noise]:
    """Return the noises that a look uses, by name."""
    found = {name: getattr(look, name) for name in NOISES}
    return {name: noise for name, noise in found.items() if noise.amount != Fixed(0.0)}


def texture_names(look: Look) -> tuple[str, ...]:
    """Return the names of the textures that a look uses, each once."""
    named = (look.texture, *(noise.texture for noise in used_noises(look).values()))
    return tuple(dict.fromkeys(name for name in named if name))

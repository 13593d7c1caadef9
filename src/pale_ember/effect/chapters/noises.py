"""Noise that eats, bends or shimmers a layer's picture."""

from __future__ import annotations

from ..kinds import Channel
from ..read_at import ReadAt
from ..rules import fields
from ..rules.part import Part
from ..values.values import Value

Pair = tuple[float, float]
ALONG = "life clock speed"


class Noise(Part):
    """A noise over a particle's picture; each particle lies at its own place on it."""

    amount: Value = fields.value(
        0.0,
        "Amount",
        "How strongly it acts.",
        along=ALONG,
        hard=(0, 100),
        soft=(0, 1),
        group="noise",
        also="strength",
    )
    texture: str = fields.texture(
        "",
        "Pattern",
        "The picture that it reads; none is a cloud.",
        needs="amount",
        group="noise",
        also="texture map",
    )
    channel: Channel = fields.choice(
        Channel.RED,
        "Channel",
        "Which of the picture's masks it reads; all is its brightness.",
        needs="amount",
        group="noise",
        also="mask packed",
    )
    tiles: Pair = fields.vec2(
        (1.0, 1.0),
        "Tiles",
        "How often the pattern fits across and up the picture.",
        hard=(-1000, 1000),
        soft=(0.25, 4),
        needs="amount",
        group="noise",
        also="repeat scale size",
    )
    pan: Pair = fields.vec2(
        (0.0, 0.0),
        "Pan",
        "How fast the pattern slides over the picture, to the right and up.",
        unit="/s",
        hard=(-1000, 1000),
        soft=(-2, 2),
        needs="amount",
        group="noise",
        also="scroll move slide speed",
    )


class Erode(Noise):
    """Eats the picture away where the noise is low."""

    amount: Value = fields.value(
        0.0,
        "Erode",
        "How much of the picture is eaten away: at 0 nothing, at 1 all of it.",
        along=ALONG,
        hard=(0, 1),
        soft=(0, 1),
        group="noise",
        also="dissolve burn away threshold vanish",
        read_at=ReadAt.LOOK,
        column=fields.Column("erode", feature="ERODES"),
    )
    edge: float = fields.number(
        0.2,
        "Edge",
        "How soft the border of what is eaten is.",
        hard=(0.001, 1),
        soft=(0.001, 1),
        needs="amount",
        group="noise",
        also="soft softness border",
    )
    inward: float = fields.number(
        0.5,
        "Inward",
        "How much it begins where the picture is thin, at its rim, and goes inward.",
        hard=(0, 1),
        soft=(0, 1),
        needs="amount",
        group="noise",
        also="edge first outside rim",
    )
    rim_color: str = fields.color(
        "#ffb060",
        "Rim colour",
        "The colour of the glow along the border.",
        needs="rim_intensity",
        group="noise",
        also="burning edge glow",
    )
    rim_intensity: float = fields.number(
        0.0,
        "Rim",
        "How bright the border glows.",
        unit="×",
        hard=(0, 1e5),
        soft=(0, 8),
        needs="amount",
        group="noise",
        also="burning edge glow bright",
    )


class Bend(Noise):
    """Moves the points of the picture."""

    amount: Value = fields.value(
        0.0,
        "Bend",
        "How far the picture's points are moved, as a share of its size.",
        along=ALONG,
        hard=(0, 10),
        soft=(0, 0.5),
        group="noise",
        also="distort wobble warp heat",
        read_at=ReadAt.LOOK,
        column=fields.Column("bend", feature="BENDS"),
    )


class Shimmer(Noise):
    """Makes the picture's light uneven."""

    amount: Value = fields.value(
        0.0,
        "Shimmer",
        "How much its light swells and drops over the picture.",
        along=ALONG,
        hard=(0, 10),
        soft=(0, 1),
        group="noise",
        also="flicker glitter uneven light",
        read_at=ReadAt.LOOK,
        column=fields.Column("shimmer", feature="SHIMMERS"),
    )

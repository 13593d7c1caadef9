"""The steps that give colours, make maps, and fill channels."""

from __future__ import annotations

from ..kinds import Channel
from ..rules import fields
from ..values.colors import Stop
from ..values.values import Value
from .base import Finisher, number, share


class Color(Finisher):
    """Gives colours by a gradient: of the light, or of the heat of a flow."""

    step: str = "color"
    gradient: tuple[Stop, ...] = fields.stops(
        (Stop(0.0, "#000000"), Stop(1.0, "#ffffff")),
        "Gradient",
        "Colours from dark to light, or from cold to hot.",
    )


class Normals(Finisher):
    """Makes a normal map from the light as height, for particles that are lit."""

    step: str = "normals"
    height: Value = number(0.5, "Height", "How high it bulges.", (0, 2), (0, 100))


class Pack(Finisher):
    """Puts what the steps gave into one channel; the next steps begin anew."""

    step: str = "pack"
    channel: Channel = fields.choice(Channel.RED, "Channel", "Which one.")


class Premultiply(Finisher):
    """Multiplies colours by what they cover, as many engines want them. It looks the same; any strength
    but 0 does all of it.
    """

    step: str = "premultiply"


class Unpremultiply(Finisher):
    """Divides colours by what they cover, so that they are whole again."""

    step: str = "unpremultiply"
    srgb: bool = fields.flag(
        False, "sRGB", "The colours were multiplied as sRGB values, not as light.", also="encoded gamma"
    )


class Bleed(Finisher):
    """Carries colours on under clear borders, so that no dark rim shows when the picture is made smaller."""

    step: str = "bleed"
    at: Value = share(0.5, "At", "What covers less than this takes its colour from what covers more.")

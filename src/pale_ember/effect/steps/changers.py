"""The steps that change what is below them."""

from __future__ import annotations

from ..kinds import Channel
from ..rules import fields
from ..values.values import Value
from .base import Changer, dice, number, share


class Levels(Changer):
    """What is dark becomes black, what is light white, with a bend between."""

    step: str = "levels"
    black: Value = share(0.0, "Black", "What is darker is black.")
    white: Value = share(1.0, "White", "What is lighter is white.")
    bend: Value = number(
        1.0, "Bend", "Above 1 the middle is darker, below it lighter.", (0.2, 5), (0.01, 100), also="gamma"
    )


class Threshold(Changer):
    """There or not."""

    step: str = "threshold"
    at: Value = share(0.5, "At", "What is lighter than this is there.")
    softness: Value = share(0.05, "Softness", "How soft its border is.")


class Invert(Changer):
    """Light becomes dark."""

    step: str = "invert"


class Blur(Changer):
    """Softens; borders go around, so that what tiles goes on to tile."""

    step: str = "blur"
    radius: Value = number(0.05, "Radius", "How far it softens.", (0, 0.5), (0, 1))


class Sharpen(Changer):
    """Makes borders crisper."""

    step: str = "sharpen"
    radius: Value = number(0.03, "Radius", "How wide the borders are that it sharpens.", (0, 0.2), (0, 1))
    amount: Value = number(1.0, "Amount", "How much crisper they become.", (0, 3), (0, 20))


class Warp(Changer):
    """Moves points along a tileable cloud."""

    step: str = "warp"
    amount: Value = number(0.15, "Amount", "How far points are moved.", (0, 1), (0, 4))
    across: int = fields.integer(
        3, "Across", "How many of its largest shapes fit across.", hard=(1, 64), soft=(1, 16)
    )
    octaves: int = fields.integer(3, "Octaves", "How many sizes of shapes.", hard=(1, 8), soft=(1, 8))
    evolve: Value = number(0.0, "Evolve", "How often it goes through all its changes.", (0, 4), (-1000, 1000))
    seed: int = dice("another warp")


class Swirl(Changer):
    """Turns the middle more than what is farther out."""

    step: str = "swirl"
    turn: Value = number(
        120.0, "Turn", "How far the middle is turned.", (-360, 360), (-36_000, 36_000), unit="°"
    )
    reach: Value = number(
        1.0, "Reach", "How far out it is still turned; above 1 what tiled no longer does.", (0, 1), (0.01, 4)
    )


class Polar(Changer):
    """Bends rows into rings, the lowest to the middle; or rings back into rows. What tiled no longer does."""

    step: str = "polar"
    back: bool = fields.flag(
        False, "Back", "Unrolls rings into rows instead.", also="inverse cartesian unwrap"
    )
    turn: Value = number(0.0, "Turn", "Turns the rings.", (-180, 180), (-36_000, 36_000), unit="°")


class Kaleidoscope(Changer):
    """Repeats one wedge all round. What tiled no longer does."""

    step: str = "kaleidoscope"
    count: int = fields.integer(
        6, "Count", "How many wedges there are.", hard=(1, 32), soft=(2, 12), also="symmetry mirrors"
    )
    mirror: bool = fields.flag(
        True, "Mirror", "Every second wedge is mirrored, so that they meet.", also="reflect"
    )
    turn: Value = number(0.0, "Turn", "Which wedge it is.", (-180, 180), (-36_000, 36_000), unit="°")


class Tile(Changer):
    """Blends each border into the one across, so that it tiles."""

    step: str = "tile"
    margin: Value = number(0.3, "Margin", "How much of the picture is blended.", (0.02, 0.5), (0.02, 0.5))


class Fade(Changer):
    """Fades to nothing at the borders."""

    step: str = "fade"
    margin: Value = number(0.25, "Margin", "How wide the fade is.", (0, 1), (0.01, 1))
    round: bool = fields.flag(True, "Round", "Fades to a circle instead of a square.")


class Outline(Changer):
    """Leaves only the border of what is there."""

    step: str = "outline"
    at: Value = share(0.5, "At", "What is lighter than this is inside.")
    width: Value = number(0.06, "Width", "How wide the line is.", (0, 0.3), (0.002, 1))
    softness: Value = share(0.5, "Softness", "How soft the line is.")


class Relief(Changer):
    """Lights what is there from one side, as if it stood out."""

    step: str = "relief"
    turn: Value = number(
        45.0,
        "Turn",
        "Where the light comes from; at 0 from the right, at 90 from above.",
        (-180, 180),
        (-36_000, 36_000),
        unit="°",
    )
    height: Value = number(0.5, "Height", "How much it stands out.", (0, 2), (-20, 20))


class Mask(Changer):
    """Multiplies by a channel that was packed before."""

    step: str = "mask"
    channel: Channel = fields.choice(Channel.RED, "Channel", "Which one.")

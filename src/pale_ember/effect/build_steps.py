"""The steps of a build: each makes something or changes what is below it."""

from __future__ import annotations

from typing import Any

from . import fields as f
from .colors import Stop
from .kinds import Burning, Channel, StepBlend
from .part import Part
from .values import Value

_ALONG = "frames"


def _number(default: float, label: str, help: str, soft: tuple[float, float], hard: tuple[float, float], **more: Any) -> Any:
    return f.value(default, label, help, along=_ALONG, soft=soft, hard=hard, **more)


def _share(default: float, label: str, help: str, **more: Any) -> Any:
    return _number(default, label, help, (0, 1), (0, 1), **more)


class Step(Part):
    """One step of a build. Lengths are shares of the picture's half size; curves run along the sheet's frames."""

    step: str = ""


class Maker(Step):
    """A step that makes something, from 0 to 1, and puts it over what is below."""

    blend: StepBlend = f.choice(StepBlend.MOST, "Blend", "How it is put over what the steps before it made.")
    strength: Value = _share(1.0, "Strength", "How much of it is there.")


class Changer(Step):
    """A step that changes what is below it."""

    strength: Value = _share(1.0, "Strength", "How much of the change is done.")


class Dot(Maker):
    """A round dot."""

    step: str = "dot"
    radius: Value = _number(0.9, "Radius", "How far it reaches.", (0, 1), (0, 4))
    softness: Value = _share(1.0, "Softness", "From a hard disc to one that fades from its middle.")


class Ring(Maker):
    """A ring."""

    step: str = "ring"
    radius: Value = _number(0.6, "Radius", "How far its line is from the middle.", (0, 1), (0, 4))
    width: Value = _number(0.15, "Width", "How wide its line is.", (0, 1), (0, 4))
    softness: Value = _share(1.0, "Softness", "How soft its line is.")


class Rays(Maker):
    """Rays from the middle."""

    step: str = "rays"
    count: int = f.integer(8, "Count", "How many rays.", hard=(1, 64), soft=(2, 16))
    reach: Value = _number(0.9, "Reach", "How long they are.", (0, 1), (0, 4))
    width: Value = _number(0.08, "Width", "How wide they are at their foot.", (0, 0.5), (0.001, 2))
    uneven: Value = _share(0.4, "Uneven", "How different they are in length and direction.")
    turn: Value = _number(0.0, "Turn", "Turns them all.", (-180, 180), (-36_000, 36_000), unit="°")
    seed: int = f.integer(0, "Seed", "Another seed, other rays.", hard=(0, 1_000_000), soft=(0, 100))


class Streak(Maker):
    """An upright streak, its head above."""

    step: str = "streak"
    length: Value = _number(0.9, "Length", "Half of its length.", (0, 1), (0, 4))
    width: Value = _number(0.2, "Width", "Half of its width.", (0, 1), (0.001, 4))
    taper: Value = _share(0.8, "Taper", "How much it thins towards its foot.")
    softness: Value = _share(1.0, "Softness", "From hard to soft.")


class Drop(Maker):
    """A drop with a round head below and a drawn-out tail."""

    step: str = "drop"
    size: Value = _number(0.45, "Size", "The radius of its head.", (0, 1), (0.01, 4))
    tail: Value = _number(0.8, "Tail", "How far its tail goes up.", (0, 1.5), (0, 4))
    rim: Value = _share(0.6, "Rim", "How much brighter its rim is than its middle.")


class Flake(Maker):
    """A flake of ice."""

    step: str = "flake"
    arms: int = f.integer(6, "Arms", "How many arms.", hard=(3, 12), soft=(3, 12))
    reach: Value = _number(0.9, "Reach", "How long its arms are.", (0, 1), (0, 4))
    width: Value = _number(0.06, "Width", "How wide its arms are.", (0, 0.3), (0.001, 1))
    branches: int = f.integer(3, "Branches", "How many side arms each arm has.", hard=(0, 8), soft=(0, 8))
    seed: int = f.integer(0, "Seed", "Another seed, another flake.", hard=(0, 1_000_000), soft=(0, 100))


class Slope(Maker):
    """A gradient from one side to the other."""

    step: str = "gradient"
    turn: Value = _number(0.0, "Turn", "Which way it rises; at 0 upwards.", (-180, 180), (-36_000, 36_000), unit="°")
    begin: Value = _number(0.0, "Begin", "Where it begins, as a share of the way.", (0, 1), (-4, 4))
    end: Value = _number(1.0, "End", "Where it is full.", (0, 1), (-4, 4))


class Cloud(Maker):
    """Tileable noise like cloud."""

    step: str = "cloud"
    across: int = f.integer(4, "Across", "How many of its largest shapes fit across.", hard=(1, 64), soft=(1, 16))
    octaves: int = f.integer(4, "Octaves", "How many sizes of shapes, each half as large as the one before.", hard=(1, 8), soft=(1, 8))
    roughness: Value = _share(0.5, "Roughness", "How strong small shapes are.")
    ridges: Value = _share(0.0, "Ridges", "From billows to sharp ridges.")
    evolve: Value = _number(0.0, "Evolve", "How often it goes through all its changes and comes round.", (0, 4), (-1000, 1000))
    seed: int = f.integer(0, "Seed", "Another seed, another cloud.", hard=(0, 1_000_000), soft=(0, 100))


class Cells(Maker):
    """Tileable cells."""

    step: str = "cells"
    across: int = f.integer(6, "Across", "How many cells fit across.", hard=(1, 48), soft=(1, 16))
    uneven: Value = _share(1.0, "Uneven", "From a grid to cells anywhere.")
    walls: Value = _share(0.0, "Walls", "From round cells to the walls between them.")
    evolve: Value = _number(0.0, "Evolve", "How often the cells go round their places.", (0, 4), (-1000, 1000))
    seed: int = f.integer(0, "Seed", "Another seed, other cells.", hard=(0, 1_000_000), soft=(0, 100))


class Flow(Maker):
    """A small simulation of hot gas, seen through: a flame, a puff or a ring."""

    step: str = "flow"
    kind: Burning = f.choice(Burning.PUFF, "Kind", "A flame that is fed, one puff that rolls and thins, or a ring that expands.")
    seconds: float = f.number(1.5, "Seconds", "How much time the sheet shows.", unit="s", hard=(0.05, 20), soft=(0.3, 4))
    ahead: float = f.number(0.0, "Ahead", "How much time passes before the first frame.", unit="s", hard=(0, 20), soft=(0, 3))
    source: float = f.number(0.34, "Source", "How large its source is.", hard=(0.02, 1), soft=(0.1, 0.6))
    height: float = f.number(-0.35, "Height", "How high the source's middle lies, from −1 to 1.", hard=(-1, 1), soft=(-0.8, 0.8))
    rise: float = f.number(1.6, "Rise", "How strongly heat rises.", hard=(-20, 20), soft=(0, 5), also="buoyancy up")
    draft: float = f.number(0.0, "Draft", "How fast all the air goes up, in half sizes a second.", hard=(-20, 20), soft=(0, 4), also="wind up flow")
    weight: float = f.number(0.15, "Weight", "How strongly smoke sinks.", hard=(-10, 10), soft=(0, 1), also="heavy sink")
    cooling: float = f.number(1.0, "Cooling", "How fast heat is lost.", unit="/s", hard=(0, 50), soft=(0, 4))
    thinning: float = f.number(0.0, "Thinning", "How fast smoke is lost.", unit="/s", hard=(0, 50), soft=(0, 2))
    curl: float = f.number(0.5, "Curl", "How much small whirls are kept alive.", hard=(0, 5), soft=(0, 1.5), also="vorticity swirl detail")
    stir: float = f.number(0.6, "Stir", "How unevenly it sets out.", hard=(0, 10), soft=(0, 2), also="random noise uneven")
    spread: float = f.number(0.6, "Spread", "How fast it drives apart at first.", hard=(-5, 10), soft=(0, 3), also="expand explode burst")
    seed: int = f.integer(0, "Seed", "Another seed, another flow.", hard=(0, 1_000_000), soft=(0, 100))
    loop: bool = f.flag(False, "Loop", "Its last frame leads to its first again.", also="seamless repeat")


class Levels(Changer):
    """What is dark becomes black, what is light white, with a bend between."""

    step: str = "levels"
    black: Value = _share(0.0, "Black", "What is darker is black.")
    white: Value = _share(1.0, "White", "What is lighter is white.")
    bend: Value = _number(1.0, "Bend", "Above 1 the middle is darker, below it lighter.", (0.2, 5), (0.01, 100), also="gamma")


class Threshold(Changer):
    """There or not."""

    step: str = "threshold"
    at: Value = _share(0.5, "At", "What is lighter than this is there.")
    softness: Value = _share(0.05, "Softness", "How soft its border is.")


class Invert(Changer):
    """Light becomes dark."""

    step: str = "invert"


class Blur(Changer):
    """Softens; borders go around, so that what tiles goes on to tile."""

    step: str = "blur"
    radius: Value = _number(0.05, "Radius", "How far it softens.", (0, 0.5), (0, 1))


class Warp(Changer):
    """Moves points along a tileable cloud."""

    step: str = "warp"
    amount: Value = _number(0.15, "Amount", "How far points are moved.", (0, 1), (0, 4))
    across: int = f.integer(3, "Across", "How many of its largest shapes fit across.", hard=(1, 64), soft=(1, 16))
    octaves: int = f.integer(3, "Octaves", "How many sizes of shapes.", hard=(1, 8), soft=(1, 8))
    evolve: Value = _number(0.0, "Evolve", "How often it goes through all its changes.", (0, 4), (-1000, 1000))
    seed: int = f.integer(0, "Seed", "Another seed, another warp.", hard=(0, 1_000_000), soft=(0, 100))


class Tile(Changer):
    """Blends each border into the one across, so that it tiles."""

    step: str = "tile"
    margin: Value = _number(0.3, "Margin", "How much of the picture is blended.", (0.02, 0.5), (0.02, 0.5))


class Fade(Changer):
    """Fades to nothing at the borders."""

    step: str = "fade"
    margin: Value = _number(0.25, "Margin", "How wide the fade is.", (0, 1), (0.01, 1))
    round: bool = f.flag(True, "Round", "Fades to a circle instead of a square.")


class Mask(Changer):
    """Multiplies by a channel that was packed before."""

    step: str = "mask"
    channel: Channel = f.choice(Channel.RED, "Channel", "Which one.")


class Color(Changer):
    """Gives colours by a gradient: of the light, or of the heat of a flow."""

    step: str = "color"
    gradient: tuple[Stop, ...] = f.stops(
        (Stop(0.0, "#000000"), Stop(1.0, "#ffffff")), "Gradient", "Colours from dark to light, or from cold to hot."
    )


class Normals(Changer):
    """Makes a normal map from the light as height, for particles that are lit."""

    step: str = "normals"
    height: Value = _number(0.5, "Height", "How high it bulges.", (0, 2), (0, 100))


class Pack(Changer):
    """Puts what the steps gave into one channel; the next steps begin anew."""

    step: str = "pack"
    channel: Channel = f.choice(Channel.RED, "Channel", "Which one.")


MAKERS: tuple[type[Maker], ...] = (Dot, Ring, Rays, Streak, Drop, Flake, Slope, Cloud, Cells, Flow)
CHANGERS: tuple[type[Changer], ...] = (Levels, Threshold, Invert, Blur, Warp, Tile, Fade, Mask, Color, Normals, Pack)
STEPS: dict[str, type[Step]] = {kind.default_of("step"): kind for kind in (*MAKERS, *CHANGERS)}

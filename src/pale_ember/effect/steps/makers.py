"""The steps that make something out of nothing."""

from __future__ import annotations

from ..rules import fields
from ..values.values import Value
from .base import Maker, dice, number, restless, share


class Dot(Maker):
    """A round dot."""

    step: str = "dot"
    radius: Value = number(0.9, "Radius", "How far it reaches.", (0, 1), (0, 4))
    softness: Value = share(1.0, "Softness", "From a hard disc to one that fades from its middle.")


class Ring(Maker):
    """A ring."""

    step: str = "ring"
    radius: Value = number(0.6, "Radius", "How far its line is from the middle.", (0, 1), (0, 4))
    width: Value = number(0.15, "Width", "How wide its line is.", (0, 1), (0, 4))
    softness: Value = share(1.0, "Softness", "How soft its line is.")


class Rays(Maker):
    """Rays from the middle."""

    step: str = "rays"
    count: int = fields.integer(8, "Count", "How many rays.", hard=(1, 64), soft=(2, 16))
    reach: Value = number(0.9, "Reach", "How long they are.", (0, 1), (0, 4))
    width: Value = number(0.08, "Width", "How wide they are at their foot.", (0, 0.5), (0.001, 2))
    uneven: Value = share(0.4, "Uneven", "How different they are in length and direction.")
    turn: Value = number(0.0, "Turn", "Turns them all.", (-180, 180), (-36_000, 36_000), unit="°")
    seed: int = dice("other rays")
    restless: bool = restless()


class Streak(Maker):
    """An upright streak, its head above."""

    step: str = "streak"
    length: Value = number(0.9, "Length", "Half of its length.", (0, 1), (0, 4))
    width: Value = number(0.2, "Width", "Half of its width.", (0, 1), (0.001, 4))
    taper: Value = share(0.8, "Taper", "How much it thins towards its foot.")
    softness: Value = share(1.0, "Softness", "From hard to soft.")


class Drop(Maker):
    """A drop with a round head below and a drawn-out tail."""

    step: str = "drop"
    size: Value = number(0.45, "Size", "The radius of its head.", (0, 1), (0.01, 4))
    tail: Value = number(0.8, "Tail", "How far its tail goes up.", (0, 1.5), (0, 4))
    rim: Value = share(0.6, "Rim", "How much brighter its rim is than its middle.")


class Flake(Maker):
    """A flake of ice."""

    step: str = "flake"
    arms: int = fields.integer(6, "Arms", "How many arms.", hard=(3, 12), soft=(3, 12))
    reach: Value = number(0.9, "Reach", "How long its arms are.", (0, 1), (0, 4))
    width: Value = number(0.06, "Width", "How wide its arms are.", (0, 0.3), (0.001, 1))
    branches: int = fields.integer(
        3, "Branches", "How many side arms each arm has.", hard=(0, 8), soft=(0, 8)
    )
    seed: int = dice("another flake")
    restless: bool = restless()


class Shard(Maker):
    """A splinter of glass or stone, with faces that catch the light differently."""

    step: str = "shard"
    sides: int = fields.integer(
        5, "Sides", "How many corners it has.", hard=(3, 12), soft=(3, 8), also="corners polygon"
    )
    reach: Value = number(0.85, "Reach", "How far its corners are from the middle.", (0, 1), (0, 4))
    slender: Value = share(0.35, "Slender", "From as wide as high to a needle.", also="narrow aspect")
    uneven: Value = share(0.5, "Uneven", "How irregular its corners are.")
    facets: Value = share(0.6, "Facets", "How differently its faces are lit.", also="faces bevel")
    turn: Value = number(0.0, "Turn", "Turns it.", (-180, 180), (-36_000, 36_000), unit="°")
    seed: int = dice("another shard")
    restless: bool = restless()


class Crack(Maker):
    """Cracks that run out from the middle and branch."""

    step: str = "crack"
    count: int = fields.integer(5, "Count", "How many set out from the middle.", hard=(1, 24), soft=(2, 12))
    reach: Value = number(0.85, "Reach", "How far they run.", (0, 1), (0, 4))
    width: Value = number(0.04, "Width", "How wide they are where they begin.", (0, 0.2), (0.001, 1))
    jagged: Value = share(0.5, "Jagged", "How much they turn on their way.")
    branches: int = fields.integer(3, "Branches", "How often each forks.", hard=(0, 8), soft=(0, 6))
    grown: Value = share(1.0, "Grown", "How much of their way they have run; a curve lets them grow.")
    seed: int = dice("other cracks")
    restless: bool = restless()


class Scorch(Maker):
    """A burnt mark: black in the middle, ragged and streaked at its rim."""

    step: str = "scorch"
    radius: Value = number(0.55, "Radius", "How far its burnt middle reaches.", (0, 1), (0, 4))
    ragged: Value = share(0.5, "Ragged", "How uneven its rim is.")
    streaks: Value = share(0.6, "Streaks", "How far streaks shoot out of it.", also="rays spatter")
    grain: Value = share(0.5, "Grain", "How much is left unburnt in it.", also="noise grit")
    seed: int = dice("another mark")
    restless: bool = restless()


class Bolt(Maker):
    """A bolt of lightning from above to below, with branches."""

    step: str = "bolt"
    sway: Value = number(0.25, "Sway", "How far it strays to the sides.", (0, 0.6), (0, 2))
    width: Value = number(0.035, "Width", "How wide it is.", (0, 0.2), (0.001, 1))
    glow: Value = share(0.5, "Glow", "How much light lies round it.", also="halo")
    jagged: Value = share(0.6, "Jagged", "From a soft bend to sharp corners.")
    branches: int = fields.integer(4, "Branches", "How many branches it has.", hard=(0, 16), soft=(0, 8))
    grown: Value = share(1.0, "Grown", "How much of its way it has come; a curve lets it strike.")
    seed: int = dice("another bolt")
    restless: bool = restless()


class Slope(Maker):
    """A gradient from one side to the other."""

    step: str = "gradient"
    turn: Value = number(
        0.0, "Turn", "Which way it rises; at 0 upwards.", (-180, 180), (-36_000, 36_000), unit="°"
    )
    begin: Value = number(0.0, "Begin", "Where it begins, as a share of the way.", (0, 1), (-4, 4))
    end: Value = number(1.0, "End", "Where it is full.", (0, 1), (-4, 4))


class Cloud(Maker):
    """Tileable noise like cloud."""

    step: str = "cloud"
    across: int = fields.integer(
        4, "Across", "How many of its largest shapes fit across.", hard=(1, 64), soft=(1, 16)
    )
    octaves: int = fields.integer(
        4,
        "Octaves",
        "How many sizes of shapes, each half as large as the one before.",
        hard=(1, 8),
        soft=(1, 8),
    )
    roughness: Value = share(0.5, "Roughness", "How strong small shapes are.")
    ridges: Value = share(0.0, "Ridges", "From billows to sharp ridges.")
    evolve: Value = number(
        0.0, "Evolve", "How often it goes through all its changes and comes round.", (0, 4), (-1000, 1000)
    )
    seed: int = dice("another cloud")
    restless: bool = restless()


class Cells(Maker):
    """Tileable cells."""

    step: str = "cells"
    across: int = fields.integer(6, "Across", "How many cells fit across.", hard=(1, 48), soft=(1, 16))
    uneven: Value = share(1.0, "Uneven", "From a grid to cells anywhere.")
    walls: Value = share(0.0, "Walls", "From round cells to the walls between them.")
    evolve: Value = number(0.0, "Evolve", "How often the cells go round their places.", (0, 4), (-1000, 1000))
    seed: int = dice("other cells")
    restless: bool = restless()


class Grain(Maker):
    """Tileable grain: salt, grit, dust."""

    step: str = "grain"
    across: int = fields.integer(48, "Across", "How many grains fit across.", hard=(1, 512), soft=(8, 256))
    density: Value = share(0.5, "Density", "What share of them is there.", also="amount count coverage")
    uneven: Value = share(0.7, "Uneven", "How different they are in brightness.")
    round: bool = fields.flag(True, "Round", "Round specks instead of squares.", also="dots pixels")
    seed: int = dice("other grain")
    restless: bool = restless()

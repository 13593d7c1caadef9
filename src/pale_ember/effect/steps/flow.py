"""The step that simulates hot gas, its sources, and what stands in its way."""

from __future__ import annotations

from pydantic import field_validator

from ..kinds import Burning
from ..rules import fields
from ..rules.part import Part, few
from .base import Maker, dice

MOST_SOURCES, MOST_OBSTACLES = 16, 32
_INSIDE = {"hard": (-1.5, 1.5), "soft": (-1, 1)}


class Source(Part):
    """One more place where gas comes from."""

    at: tuple[float, float] = fields.vec2(
        (0.0, 0.0), "At", "Its middle, right and up, from −1 to 1.", also="place position", **_INSIDE
    )
    radius: float = fields.number(
        0.15, "Radius", "How large it is.", hard=(0.02, 1), soft=(0.05, 0.5), also="size"
    )
    heat: float = fields.number(
        1.0, "Heat", "How hot its gas is.", hard=(0, 1), soft=(0, 1), also="temperature"
    )
    smoke: float = fields.number(
        1.0, "Smoke", "How dense its gas is.", hard=(0, 1), soft=(0, 1), also="density"
    )


class Obstacle(Part):
    """Something that gas flows round."""

    at: tuple[float, float] = fields.vec2(
        (0.0, 0.3), "At", "Its middle, right and up, from −1 to 1.", also="place position", **_INSIDE
    )
    extents: tuple[float, float] = fields.vec2(
        (0.2, 0.2),
        "Extents",
        "How far it reaches from its middle.",
        hard=(0.02, 2),
        soft=(0.05, 1),
        also="size width height",
    )
    turn: float = fields.number(
        0.0, "Turn", "Turns it.", unit="°", hard=(-36_000, 36_000), soft=(-180, 180), also="angle rotation"
    )
    round: bool = fields.flag(True, "Round", "An oval instead of a block.", also="ball box ellipse")


class Flow(Maker):
    """A small simulation of hot gas, seen through: a flame, a puff or a ring."""

    step: str = "flow"
    kind: Burning = fields.choice(
        Burning.PUFF, "Kind", "A flame that is fed, one puff that rolls and thins, or a ring that expands."
    )
    seconds: float = fields.number(
        1.5, "Seconds", "How much time the sheet shows.", unit="s", hard=(0.05, 20), soft=(0.3, 4)
    )
    ahead: float = fields.number(
        0.0, "Ahead", "How much time passes before the first frame.", unit="s", hard=(0, 20), soft=(0, 3)
    )
    source: float = fields.number(0.34, "Source", "How large its source is.", hard=(0.02, 1), soft=(0.1, 0.6))
    height: float = fields.number(
        -0.35, "Height", "How high the source's middle lies, from −1 to 1.", hard=(-1, 1), soft=(-0.8, 0.8)
    )
    side: float = fields.number(
        0.0, "Side", "How far to the right the source's middle lies.", hard=(-1, 1), soft=(-0.8, 0.8)
    )
    rise: float = fields.number(
        1.6, "Rise", "How strongly heat rises.", hard=(-20, 20), soft=(0, 5), also="buoyancy up"
    )
    draft: float = fields.number(
        0.0,
        "Draft",
        "How fast all the air goes up, in half sizes a second.",
        hard=(-20, 20),
        soft=(0, 4),
        also="wind up flow",
    )
    weight: float = fields.number(
        0.15, "Weight", "How strongly smoke sinks.", hard=(-10, 10), soft=(0, 1), also="heavy sink"
    )
    cooling: float = fields.number(
        1.0, "Cooling", "How fast heat is lost.", unit="/s", hard=(0, 50), soft=(0, 4)
    )
    thinning: float = fields.number(
        0.0, "Thinning", "How fast smoke is lost.", unit="/s", hard=(0, 50), soft=(0, 2)
    )
    curl: float = fields.number(
        0.5,
        "Curl",
        "How much small whirls are kept alive.",
        hard=(0, 5),
        soft=(0, 1.5),
        also="vorticity swirl detail",
    )
    stir: float = fields.number(
        0.6, "Stir", "How unevenly it sets out.", hard=(0, 10), soft=(0, 2), also="random noise uneven"
    )
    spread: float = fields.number(
        0.6,
        "Spread",
        "How fast it drives apart at first.",
        hard=(-5, 10),
        soft=(0, 3),
        also="expand explode burst",
    )
    seed: int = dice("another flow")
    loop: bool = fields.flag(
        False, "Loop", "Its last frame leads to its first again.", also="seamless repeat"
    )
    sources: tuple[Source, ...] = ()
    obstacles: tuple[Obstacle, ...] = ()

    @field_validator("sources", mode="before")
    @classmethod
    def _sources_are_few(cls, raw: object) -> object:
        return few(raw, MOST_SOURCES, "sources")

    @field_validator("obstacles", mode="before")
    @classmethod
    def _obstacles_are_few(cls, raw: object) -> object:
        return few(raw, MOST_OBSTACLES, "obstacles")

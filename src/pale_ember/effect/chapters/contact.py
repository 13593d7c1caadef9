"""What becomes of particles that meet the floor and the props, and what such events start."""

from __future__ import annotations

from collections.abc import Sequence

from ..kinds import FollowAim, OnHit, When
from ..read_at import ReadAt
from ..rules import fields
from ..rules.part import Part
from ..values.values import Value

_ALONG = "life clock speed"
# How many layers a chain of follow-ups may have, its first one included.
DEEPEST = 4


class Contact(Part):
    """How a particle meets the floor and the props."""

    enabled: bool = fields.flag(
        False,
        "Contact",
        "Particles meet the floor and the props instead of passing through them.",
        also="collision collide hit touch physics",
    )
    on_hit: OnHit = fields.choice(
        OnHit.BOUNCE,
        "On a hit",
        "It bounces, sticks (to a prop that moves: along with it), or vanishes.",
        needs="enabled",
        also="collision response stop kill die",
    )
    bounce: Value = fields.value(
        0.4,
        "Bounce",
        "How much of its speed into the surface it comes back with: at 1 as high as it fell.",
        along=_ALONG,
        hard=(0, 1),
        soft=(0, 1),
        needs="enabled",
        only=("on_hit", (OnHit.BOUNCE,)),
        also="restitution elastic spring",
        read_at=ReadAt.HIT,
    )
    friction: Value = fields.value(
        0.2,
        "Friction",
        "How strongly the surface holds it as it hits or slides; slopes up to this rise hold it fast.",
        along=_ALONG,
        hard=(0, 1),
        soft=(0, 1),
        needs="enabled",
        only=("on_hit", (OnHit.BOUNCE,)),
        also="slide rough grip",
        read_at=ReadAt.HIT,
    )
    wear: float = fields.number(
        0.0,
        "Wear",
        "How much of its lifetime each hit costs it.",
        hard=(0, 1),
        soft=(0, 1),
        needs="enabled",
        only=("on_hit", (OnHit.BOUNCE, OnHit.STICK)),
        also="life lost die damage",
    )
    reach: float = fields.number(
        0.0,
        "Reach",
        "How far from its middle it touches, as a share of its size: at 0.5 a round one lies on the floor.",
        hard=(0, 10),
        soft=(0, 1),
        digits=2,
        needs="enabled",
        also="radius size collision distance",
    )
    floor: bool = fields.flag(
        True, "Floor", "It meets the stage's floor.", needs="enabled", group="meets", also="ground plane"
    )
    props: bool = fields.flag(
        True,
        "Props",
        "It meets the stage's props.",
        needs="enabled",
        group="meets",
        also="objects colliders mesh",
    )


class Origin(Part):
    """Where a follow-up's particles come from: events of another layer's particles."""

    parent: str = fields.layer(
        "Parent",
        "The layer whose particles start these; none, and the layer emits by itself.",
        also="follow up sub-emitter source link",
    )
    when: When = fields.choice(
        When.HIT,
        "When",
        "At the birth, at each hit, at the death of a parent's particle, or all along its flight.",
        needs="parent",
        also="event trigger",
    )
    count: Value = fields.value(
        1.0,
        "Count",
        "How many are born of each event, a whole number of them.",
        along="clock",
        hard=(0, 10_000),
        soft=(0, 20),
        digits=1,
        needs="parent",
        also="number amount children",
    )
    rate: Value = fields.value(
        20.0,
        "Rate",
        "Events a second of each parent's flight; read at that parent's birth.",
        along="clock",
        unit="/s",
        hard=(0, 100_000),
        soft=(0, 100),
        digits=1,
        needs="parent",
        only=("when", (When.ALIVE,)),
        also="emission per second trail",
    )
    per_metre: Value = fields.value(
        0.0,
        "Per metre",
        "Events for each metre that a parent flies; read at that parent's birth.",
        along="clock",
        unit="/m",
        hard=(0, 100_000),
        soft=(0, 50),
        digits=1,
        needs="parent",
        only=("when", (When.ALIVE,)),
        also="distance trail path",
    )
    chance: float = fields.number(
        1.0,
        "Chance",
        "How likely each event is answered.",
        hard=(0, 1),
        soft=(0, 1),
        needs="parent",
        group="which events",
        also="probability random",
    )
    min_speed: float = fields.number(
        0.0,
        "Least speed",
        "Events of parents slower than this are left out.",
        unit="m/s",
        hard=(0, 1e5),
        soft=(0, 10),
        needs="parent",
        group="which events",
        also="minimum threshold velocity",
    )
    limit: int = fields.integer(
        1000,
        "Limit",
        "At most so many are born in one step; those beyond are refused and counted.",
        hard=(1, 1_000_000),
        soft=(1, 2000),
        needs="parent",
        group="which events",
        also="max maximum cap budget",
    )
    carry: Value = fields.value(
        0.0,
        "Inherit",
        "How much of the parent's velocity, as it comes to the event, they are given.",
        along="clock",
        unit="×",
        hard=(-100, 100),
        soft=(0, 1),
        needs="parent",
        group="from the parent",
        also="velocity carry motion",
    )
    take_color: bool = fields.flag(
        False,
        "Take colour",
        "Their colour is multiplied with the parent's at the event.",
        needs="parent",
        group="from the parent",
        also="color inherit tint",
    )
    take_size: bool = fields.flag(
        False,
        "Take size",
        "Their size counts in sizes of the parent at the event.",
        needs="parent",
        group="from the parent",
        also="scale inherit",
    )
    aim: FollowAim = fields.choice(
        FollowAim.OWN,
        "Axis",
        "Where the layer's axis points: its own way; as the parent travels; away from the surface that "
        "was hit; "
        "or as the parent's way is mirrored by it.",
        needs="parent",
        group="from the parent",
        also="direction normal reflect orientation",
    )


def wrong_link(links: Sequence[tuple[str, str]]) -> tuple[int, str] | None:
    """Return the index of the first layer whose parent can't be its parent, and why; None if all are well.

    Parameters
    ----------
    links : sequence of (str, str)
        The id of each layer, and of its parent; empty for none. A parent that isn't there starts nothing.
    """
    parents = dict(links)
    for at, (layer_id, parent) in enumerate(links):
        seen, depth = {layer_id}, 1
        while parent and parent in parents:
            if parent in seen:
                if parent == layer_id and depth == 1:
                    return at, "a layer can't follow itself; choose another parent."
                return (
                    at,
                    "this closes a loop: its parent follows it, in the end; choose a layer that doesn't.",
                )
            seen.add(parent)
            depth += 1
            if depth > DEEPEST:
                return (
                    at,
                    f"a chain may be {DEEPEST} layers deep, and this would be deeper; link it further up.",
                )
            parent = parents[parent]
    return None

"""What a layer meets, and what it follows, in words."""

from __future__ import annotations

from ...effect.effect import Layer
from ...effect.kinds import FollowAim, OnHit, When
from ...effect.values.values import Fixed
from ..widgets.arithmetic import shown
from .pieces import Piece, amount

_EVENT = {When.BIRTH: "the birth", When.HIT: "each hit", When.DEATH: "the death"}
_AIM = {
    FollowAim.TRAVEL: "along its way",
    FollowAim.SURFACE: "away from what was hit",
    FollowAim.MIRROR: "thrown back by what was hit",
}


def followed(layer: Layer, parent: str) -> list[Piece]:
    """Return how many are born of what of the parent, with what they have of it."""
    origin = layer.origin
    name = Piece(f"“{parent}”" if parent else "a layer that is gone", "origin.parent")
    many = amount(origin.count, digits=0)
    found = [Piece(many[0].upper() + many[1:], "origin.count")]
    if origin.when == When.ALIVE:
        rates = []
        if origin.rate != Fixed(0.0):
            rates.append(Piece(f"{amount(origin.rate, digits=1)} times a second", "origin.rate"))
        if origin.per_metre != Fixed(0.0):
            rates.append(Piece(f"{amount(origin.per_metre, digits=1)} times a metre", "origin.per_metre"))
        for i, rate in enumerate(rates):
            found += [Piece(" and " if i else " "), rate]
        found += [Piece(" "), Piece("along the flight", "origin.when"), Piece(" of each of "), name]
    else:
        found += [Piece(" at "), Piece(_EVENT[origin.when], "origin.when"), Piece(" of "), name]
    if origin.chance < 1.0:
        found += [
            Piece(", in "),
            Piece(f"{shown(origin.chance * 100, 0)} %", "origin.chance"),
            Piece(" of cases"),
        ]
    if origin.min_speed:
        found += [Piece(", if faster than "), Piece(f"{shown(origin.min_speed, 2)} m/s", "origin.min_speed")]
    if origin.aim in _AIM:
        found += [Piece(", "), Piece(_AIM[origin.aim], "origin.aim")]
    if origin.carry != Fixed(0.0):
        found += [Piece(", with "), Piece(f"{amount(origin.carry)} of its velocity", "origin.carry")]
    taken = [
        Piece(word, f"origin.take_{field}")
        for word, field in (("colour", "color"), ("size", "size"))
        if getattr(origin, f"take_{field}")
    ]
    for i, piece in enumerate(taken):
        found += [Piece(" and " if i else ", taking its "), piece]
    return found


def contact_words(layer: Layer) -> list[Piece]:
    """Return what becomes of particles that hit something."""
    contact = layer.contact
    if not contact.enabled:
        return []
    things = [Piece("floor", "contact.floor")] * contact.floor + [
        Piece("props", "contact.props")
    ] * contact.props
    if not things:
        return [Piece("They hit nothing", "contact.floor")]
    on = [things[0]] if len(things) == 1 else [things[0], Piece(" and "), things[1]]
    if contact.on_hit == OnHit.BOUNCE:
        found = [
            Piece("They "),
            Piece("bounce", "contact.on_hit"),
            Piece(" off "),
            *on,
            Piece(" with "),
            Piece(f"{amount(contact.bounce)} of their speed", "contact.bounce"),
        ]
        if contact.friction != Fixed(0.0):
            found += [
                Piece(", slide with "),
                Piece(f"{amount(contact.friction)} friction", "contact.friction"),
            ]
    else:
        word = "stick to" if contact.on_hit == OnHit.STICK else "vanish on"
        found = [Piece("They "), Piece(word, "contact.on_hit"), Piece(" "), *on]
    if contact.wear and contact.on_hit != OnHit.VANISH:
        found += [
            Piece(", losing "),
            Piece(f"{shown(contact.wear * 100, 0)} % of life", "contact.wear"),
            Piece(" at each hit"),
        ]
    return found

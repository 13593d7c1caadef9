"""Why a follow-up gives nothing, or less than it should: one sentence, and what mends it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..effect.editing.chains import parent_of
from ..effect.effect import Effect, Layer
from ..effect.errors import EffectError
from ..effect.kinds import When
from ..effect.rules.paths import FieldPath
from ..effect.values.values import Fixed
from ..simulation.follow_ups.schedule import FollowUpTally
from ..simulation.time.weight import needed_cap

# Parents that live longer than this, s, are said never to die.
NEVER_DIES = 300.0
# After so many deaths without a hit no hit is expected.
MISSED = 10
# A limit or cap that refuses more than this share is told.
EATEN = 0.5


@dataclass(frozen=True)
class LinkTrouble:
    """What is wrong with the link of a follow-up.

    Attributes
    ----------
    place : str
        The field that it is about, in the follow-up: such as ``layers[1].origin.when``.
    reason : str
        One sentence.
    short : str
        The same in two or three words, for a lane.
    mend : str
        What mends it, in words; empty if nothing does by itself.
    edits : tuple of (str, Any)
        The mend as edits of the effect.
    """

    place: str
    reason: str
    short: str
    mend: str = ""
    edits: tuple[tuple[str, Any], ...] = ()

    @property
    def error(self) -> EffectError:
        return EffectError(self.place, self.reason)


def link_trouble(effect: Effect, layer: Layer) -> LinkTrouble | None:
    """Return why a follow-up can't give anything, as far as the effect itself tells; None for what is
    well.
    """
    if not layer.origin.parent or not layer.enabled:
        return None
    at, origin = effect.index(layer.id), layer.origin
    path = FieldPath.of_layer(at, "origin")
    parent = parent_of(effect, layer)
    if parent is None:
        return LinkTrouble(
            f"{path}.parent",
            "the layer that it follows is gone; link it to another.",
            "parent gone",
            "Cut the thread",
            ((f"{path}.parent", ""),),
        )
    above = FieldPath.of_layer(effect.index(parent.id))
    if not parent.enabled:
        return LinkTrouble(
            f"{path}.parent",
            f"“{parent.name}” is disabled, so nothing starts these.",
            "parent disabled",
            "Enable it",
            ((f"{above}.enabled", True),),
        )
    if origin.count == Fixed(0.0):
        return LinkTrouble(
            f"{path}.count",
            "its count is 0, so no event gives any.",
            "count is 0",
            "Set it to 1",
            ((f"{path}.count", 1),),
        )
    if origin.chance == 0.0:
        return LinkTrouble(
            f"{path}.chance",
            "its chance is 0, so no event is answered.",
            "chance is 0",
            "Set it to 1",
            ((f"{path}.chance", 1),),
        )
    if origin.when == When.HIT:
        return _no_hits(effect, parent, above, path)
    if origin.when == When.ALIVE and origin.rate == Fixed(0.0) and origin.per_metre == Fixed(0.0):
        return LinkTrouble(
            f"{path}.rate",
            "it has no rate, by second or by metre.",
            "no rate",
            "20 a second",
            ((f"{path}.rate", 20),),
        )
    if origin.when == When.DEATH:
        low, _ = parent.launch.lifetime.bounds_at([0.0])
        if float(low[0]) >= NEVER_DIES and not parent.contact.enabled:
            words = f"“{parent.name}” lives for {float(low[0]):g} s and never dies in view."
            return LinkTrouble(
                f"{path}.when", words, "never dies", "Start at its birth", ((f"{path}.when", When.BIRTH),)
            )
    return None


def _no_hits(effect: Effect, parent: Layer, above: str, path: str) -> LinkTrouble | None:
    """Return why a parent never hits anything, if it doesn't."""
    touch, stage = parent.contact, effect.stage
    if not touch.enabled:
        return LinkTrouble(
            f"{path}.when",
            f"“{parent.name}” has no contact, so it never hits anything.",
            "contact is off",
            "Switch its contact on",
            ((f"{above}.contact.enabled", True),),
        )
    if not (stage.floor and touch.floor) and not (touch.props and any(prop.hit for prop in stage.props)):
        mend = ((f"{above}.contact.floor", True), ("stage.floor", True))
        return LinkTrouble(
            f"{path}.when",
            f"there is nothing that “{parent.name}” could hit.",
            "nothing to hit",
            "Let it meet the floor",
            mend,
        )
    return None


def _misses(effect: Effect, parent: Layer, path: str) -> LinkTrouble:
    """Say that a parent's particles die before they hit anything; where nothing draws them down, gravity
    mends it.
    """
    words = f"“{parent.name}” hits nothing before it dies."
    low, high = parent.flight.gravity.bounds_at([0.0, 0.5, 1.0])
    if effect.stage.gravity > 0.0 and max(float(low.max()), float(high.max())) <= 0.0:
        mend = ((FieldPath.of_layer(effect.index(parent.id), "flight.gravity"), 1),)
        return LinkTrouble(f"{path}.origin.when", words, "hits nothing", "Let it fall", mend)
    return LinkTrouble(f"{path}.origin.when", words, "hits nothing")


def link_trouble_seen(
    effect: Effect,
    layer: Layer,
    counts: dict[str, int],
    answer: FollowUpTally | None,
    above: dict[str, int] | None = None,
) -> LinkTrouble | None:
    """Return why a follow-up gave little in the last second of the simulation, after :func:`link_trouble`
    found nothing.

    Parameters
    ----------
    counts, above : dict
        The layer's, and its parent's, from :meth:`~..simulation.simulation.Simulation.counts`.
    answer : FollowUpTally or None
        What became of the parent's events.
    """
    if answer is None or not layer.enabled:
        return None
    path = FieldPath.of_layer(effect.index(layer.id))
    parent = parent_of(effect, layer)
    if (
        layer.origin.when == When.HIT
        and parent is not None
        and above
        and above.get("hits", 1) == 0
        and above.get("died", 0) >= MISSED
    ):
        return _misses(effect, parent, path)
    # Parents may gain speed, and hit late: nothing is a fault before some have done all that they do.
    done = above is None or above.get("died", 0) + above.get("hits", 0) >= MISSED
    if answer.events and answer.slow == answer.events and done:
        words = f"all events are of parents slower than {layer.origin.min_speed:g} m/s."
        field = f"{path}.origin.min_speed"
        return LinkTrouble(field, words, "all too slow", "No least speed", ((field, 0),))
    if answer.limited > EATEN * (answer.limited + answer.births):
        return _limited(layer, answer, f"{path}.origin.limit")
    refuses = counts.get("full", 0) > EATEN * max(counts.get("born", 0), 1)
    if refuses and counts.get("alive", 0) >= layer.emit.cap * 0.9:
        higher = needed_cap(effect, effect.index(layer.id), answer.each_second)
        words = f"its cap of {layer.emit.cap:,} is full, and {counts['full']:,} were refused."
        field = f"{path}.emit.cap"
        return LinkTrouble(field, words, "cap is full", f"Raise it to {higher:,}", ((field, higher),))
    return None


def _limited(layer: Layer, answer: FollowUpTally, field: str) -> LinkTrouble:
    whole = max(answer.limited + answer.births, 1)
    words = f"the limit for one step refuses {100 * answer.limited / whole:.0f} % of them."
    higher = min(layer.origin.limit * 10, 1_000_000)
    return LinkTrouble(field, words, "limit reached", f"Raise it to {higher:,}", ((field, higher),))

"""The layer that a new follow-up starts as, for each event: something small that is seen at once where it
happens.
"""

from __future__ import annotations

import math

from ..chapters.contact import Contact, Origin
from ..chapters.draws import Ribbon
from ..chapters.look import Look
from ..chapters.motion import Flight, Launch
from ..chapters.source import Birthplace, Emit
from ..effect import Layer
from ..kinds import Blend, DrawnAs, Facing, FollowAim, Join, OnHit, When
from ..values.colors import Flat, Gradient, Stop
from ..values.curves import Key
from ..values.values import Curve, Fixed, Spread

# Slower hits than this, m/s, start nothing.
SLOWEST = 0.3
# Alive at most in a start: who is followed by more is answered by chance.
MOST = 6000
_OUT = Curve((Key(0.0, 1.0), Key(0.5, 0.7), Key(1.0, 0.0)))


def follow_start(when: When, parent: Layer, each_second: float = 0.0) -> Layer:
    """Return a layer that follows another from an event on, in about its size.

    Parameters
    ----------
    each_second : float
        How many events its cap and chance are made for, /s; 0 if nobody knows.
    """
    return _for_so_many(_start(when, parent), each_second)


def _for_so_many(layer: Layer, each_second: float) -> Layer:
    """Return a start whose cap refuses none of so many events; of very many it answers some."""
    emit, origin = layer.emit, layer.origin
    each = float(origin.count.bounds_at([0.0])[1][0])
    alive = 1.3 * each_second * each * float(layer.launch.lifetime.bounds_at([0.0])[1][0])
    chance = 1.0 if alive <= MOST else max(round(MOST / alive, 2), 0.01)
    cap = max(emit.cap, -(-int(alive * chance) // 500) * 500)
    return layer.model_copy(
        update={
            "emit": emit.model_copy(update={"cap": cap}),
            "origin": origin.model_copy(update={"chance": chance}),
        }
    )


def _named(parent: Layer, what: str) -> str:
    """Return a name from the parent's; of a follow-up from what that is alone, or names grew along a
    chain.
    """
    words = [word for word in parent.name.split() if not word.isdigit()]
    whose = words[-1].capitalize() if parent.origin.parent and len(words) > 1 else parent.name
    return f"{whose} {what}"


def _tidy(number: float) -> float:
    """Return a number of two figures."""
    return float(f"{number:.2g}")


def _sizes(low: float, high: float) -> Spread:
    return Spread(_tidy(low), _tidy(high))


def _least_speed(parent: Layer) -> float:
    """Return from which speed on a hit starts something."""
    return SLOWEST if parent.contact.on_hit == OnHit.BOUNCE else 0.0


def _start(when: When, parent: Layer) -> Layer:
    low, high = parent.launch.size.bounds_at([0.0])
    size = _tidy(max((float(low[0]) + float(high[0])) / 2, 0.005))
    # Particles that give light start glints instead of drops.
    hit = _glint if parent.look.blend == Blend.ADD else _splash
    start = {When.BIRTH: _flash, When.HIT: hit, When.DEATH: _puff, When.ALIVE: _trail}[when]
    return start(parent, Origin(parent=parent.id, when=when), size)


def _flash(parent: Layer, origin: Origin, size: float) -> Layer:
    """A short light where something begins."""
    return Layer(
        name=_named(parent, "flash"),
        origin=origin,
        emit=Emit(rate=Fixed(0.0)),
        launch=Launch(lifetime=Fixed(0.18), speed=Fixed(0.0), size=Fixed(_tidy(size * 2.5))),
        look=Look(
            grow=Curve((Key(0.0, 0.4), Key(0.3, 1.0), Key(1.0, 0.7))),
            opacity=_OUT,
            color=Flat("#ffe0b0"),
            intensity=Fixed(2.5),
            blend=Blend.ADD,
        ),
    )


def _glint(parent: Layer, origin: Origin, size: float) -> Layer:
    """A light where something that gives light hits."""
    return Layer(
        name=_named(parent, "glint"),
        origin=origin.model_copy(update={"aim": FollowAim.SURFACE, "min_speed": _least_speed(parent)}),
        emit=Emit(rate=Fixed(0.0)),
        launch=Launch(
            lifetime=Spread(0.12, 0.25),
            speed=Fixed(0.0),
            size=_sizes(max(size * 2.0, 0.05), max(size * 4.0, 0.1)),
            angle=Spread(-180.0, 180.0),
        ),
        look=Look(
            grow=Curve((Key(0.0, 1.0), Key(1.0, 0.3))),
            opacity=_OUT,
            color=Flat("#ffd9a0"),
            intensity=Fixed(3.0),
            blend=Blend.ADD,
            nudge=_tidy(max(size * 3.0, 0.08)),
        ),
    )


def _splash(parent: Layer, origin: Origin, size: float) -> Layer:
    """Drops that a hit throws up."""
    return Layer(
        name=_named(parent, "splash"),
        origin=origin.model_copy(
            update={"count": Spread(4.0, 7.0), "aim": FollowAim.SURFACE, "min_speed": _least_speed(parent)}
        ),
        emit=Emit(rate=Fixed(0.0)),
        birthplace=Birthplace(fan=55.0),
        launch=Launch(
            lifetime=Spread(0.25, 0.45),
            speed=Spread(0.9, 2.0),
            size=_sizes(max(size * 0.3, 0.007), max(size * 0.6, 0.014)),
        ),
        flight=Flight(gravity=Fixed(1.0)),
        look=Look(
            opacity=_OUT,
            color=parent.look.color if isinstance(parent.look.color, Flat) else Flat("#f2e6d8"),
            facing=Facing.STREAK,
            streak=Fixed(0.02),
            blend=parent.look.blend if parent.look.blend in (Blend.ADD, Blend.ALPHA) else Blend.ADD,
        ),
    )


def _puff(parent: Layer, origin: Origin, size: float) -> Layer:
    """Smoke where something ends."""
    return Layer(
        name=_named(parent, "puff"),
        origin=origin.model_copy(update={"count": Spread(2.0, 3.0)}),
        emit=Emit(rate=Fixed(0.0)),
        birthplace=Birthplace(kind="ball", radius=_tidy(size * 0.3), aim="random"),
        launch=Launch(
            lifetime=Spread(0.6, 1.1),
            speed=Spread(0.05, 0.25),
            size=_sizes(size * 1.2, size * 2.0),
            angle=Spread(-180.0, 180.0),
        ),
        flight=Flight(gravity=Fixed(-0.03), drag=Fixed(1.5)),
        look=Look(
            grow=Curve((Key(0.0, 0.5), Key(1.0, 1.8))),
            opacity=Curve((Key(0.0, 0.0), Key(0.15, 0.4), Key(1.0, 0.0))),
            color=Flat("#a8a29a"),
        ),
    )


def _trail(parent: Layer, origin: Origin, size: float) -> Layer:
    """Smoke along the way."""
    return Layer(
        name=_named(parent, "trail"),
        origin=origin.model_copy(update={"rate": Fixed(30.0)}),
        emit=Emit(rate=Fixed(0.0)),
        birthplace=Birthplace(kind="ball", radius=_tidy(size * 0.15), aim="random"),
        launch=Launch(
            lifetime=Spread(0.4, 0.8), speed=Spread(0.0, 0.15), size=_sizes(size * 0.3, size * 0.6)
        ),
        flight=Flight(drag=Fixed(1.0)),
        look=Look(
            grow=Curve((Key(0.0, 1.0), Key(1.0, 0.3))),
            opacity=_OUT,
            color=Gradient((Stop(0.0, "#ffe6bc"), Stop(1.0, "#d06a28"))),
            intensity=Fixed(1.6),
            blend=Blend.ADD,
        ),
    )


def ribbon_start(parent: Layer, each_second: float = 0.0) -> Layer:
    """Return a layer that is a ribbon behind each particle of another: as wide as that, thinner and fainter
    with age.

    ``each_second`` is how many points its cap is made for.
    """
    low, high = parent.launch.size.bounds_at([0.0])
    size = _tidy(max((float(low[0]) + float(high[0])) / 2, 0.005))
    lived = float(parent.launch.lifetime.bounds_at([0.0])[1][0])
    gives_light = parent.look.blend in (Blend.ADD, Blend.MIX)
    color = (
        Gradient((Stop(0.0, "#ffe6bc"), Stop(0.4, "#ff9a4a"), Stop(1.0, "#8a2f16")))
        if gives_light
        else Flat("#b8b2aa")
    )
    layer = Layer(
        name=_named(parent, "ribbon"),
        origin=Origin(parent=parent.id, when=When.ALIVE, rate=Fixed(30.0)),
        emit=Emit(rate=Fixed(0.0)),
        launch=Launch(
            lifetime=Fixed(_tidy(min(max(lived * 0.4, 0.15), 1.0))),
            speed=Fixed(0.0),
            size=Fixed(_tidy(size * 0.7)),
        ),
        look=Look(
            draw=DrawnAs.RIBBON,
            ribbon=Ribbon(join=Join.PARENT),
            grow=Curve((Key(0.0, 1.0), Key(1.0, 0.25))),
            opacity=Curve((Key(0.0, 1.0 if gives_light else 0.7), Key(1.0, 0.0))),
            color=color,
            intensity=Fixed(1.6 if gives_light else 1.0),
            blend=Blend.ADD if gives_light else Blend.ALPHA,
            lit=0.0 if gives_light else 0.6,
        ),
    )
    return _for_so_many(layer, each_second)


def hits_each(parent: Layer) -> float:
    """Return about how often a particle that falls some metres hits fast enough for a start to follow."""
    if parent.contact.on_hit != OnHit.BOUNCE:
        return 1.0
    bounce = min(float(parent.contact.bounce.bounds_at([0.0])[1][0]), 0.95)
    return 1.0 + (math.log(SLOWEST / 6.0) / math.log(bounce) if bounce > 0.01 else 0.0)


def with_contact(parent: Layer) -> Layer:
    """Return a layer that meets the floor and the props, touching with about the half of its height that
    is seen.
    """
    contact = parent.contact
    update: dict[str, object] = {"enabled": True}
    if contact == Contact():
        update["reach"] = 0.35
    return parent.model_copy(update={"contact": contact.model_copy(update=update)})

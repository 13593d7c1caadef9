"""What each result of a layer depends on. Runs, filmstrips, measured lines and schedules all compare these
keys.

Each function returns a key. Equal keys mean the same births, the same flight or the same look; what can't
change a result is not in it, such as wind for a layer that takes none.
"""

from __future__ import annotations

from collections.abc import Iterator

from ...effect.chapters.look import Look, texture_names, used_noises
from ...effect.chapters.motion import Flight, Launch
from ...effect.chapters.source import Birthplace
from ...effect.editing.chains import follow_ups, parent_of
from ...effect.effect import Effect, Layer
from ...effect.kinds import (
    Across,
    Blend,
    DrawnAs,
    EmitterShape,
    Facing,
    Join,
    Lay,
    LayFrom,
    OnHit,
    PropKind,
    Stand,
    When,
)
from ...effect.read_at import ReadAt
from ...effect.rules.part import Part
from ...effect.values.values import Fixed, Value, Vec3Value

Key = tuple[object, ...]
NOTHING = Fixed(0.0)
STILL = Vec3Value(NOTHING, NOTHING, NOTHING)
# Fields that only drawing reads.
_DRAWN_ONLY = frozenset({"around_camera"})
# Fields that kernels read, but that count only under conditions of their own, which stand below.
_CONDITIONAL = frozenset({"carry", "gravity", "wind", "turbulence", "frame", "frame_rate", "mix", "streak"})


def _always_read(part: type[Part], *moments: ReadAt) -> tuple[str, ...]:
    """Return the fields of a part that always count: those that are read at some moments."""
    return tuple(
        name for name, rule in part.rules().items() if rule.read_at in moments and name not in _CONDITIONAL
    )


_LAUNCH = _always_read(Launch, ReadAt.BIRTH)
_PUSHES = _always_read(Flight, ReadAt.STEP)
_LOOK = _always_read(Look, ReadAt.FIRST_LOOK, ReadAt.LOOK)


def births(effect: Effect, layer: Layer) -> Key:
    """Return what the moments and numbers of a layer's births depend on."""
    if layer.origin.parent:
        return _followed(effect, layer)
    emit = layer.emit
    bursts = tuple(
        (burst.at, burst.count, burst.repeat, burst.every if burst.repeat > 1 else None, burst.chance)
        for burst in emit.bursts
    )
    way = (
        (emit.per_metre, layer.place.scale, layer.path) if layer.path and emit.per_metre != NOTHING else None
    )
    loop = (effect.duration, effect.repeat) if effect.loop else None
    return (
        effect.seed,
        layer.id,
        loop,
        effect.step_rate,
        layer.window.span(effect.duration),
        emit.rate,
        bursts,
        way,
    )


def _followed(effect: Effect, layer: Layer) -> Key:
    """Return what the births of a follow-up depend on: all that moves its parent, and what it takes of
    that one's look.
    """
    origin, parent = layer.origin, parent_of(effect, layer)
    if parent is None or not parent.enabled:
        return (effect.seed, layer.id, "nobody")
    loop = effect.duration if effect.loop else None
    along = (origin.rate, origin.per_metre, joins_parents(layer)) if origin.when == When.ALIVE else None
    named = (
        "parent",
        "when",
        "count",
        "chance",
        "min_speed",
        "limit",
        "carry",
        "take_color",
        "take_size",
        "aim",
    )
    taken = appearance(effect, parent) if origin.take_color or origin.take_size else None
    if taken is not None and takes(parent):
        taken += _followed(effect, parent)
    return (
        effect.seed,
        layer.id,
        loop,
        layer.window.span(effect.duration),
        along,
        layer.launch.carry,
        motion(effect, parent),
        taken,
        *(getattr(origin, name) for name in named),
    )


def joins_parents(layer: Layer) -> bool:
    """Return whether a layer's particles are joined to a ribbon for each of their parents."""
    return (
        bool(layer.origin.parent)
        and layer.look.draw == DrawnAs.RIBBON
        and layer.look.ribbon.join == Join.PARENT
    )


def needs_row(layer: Layer) -> bool:
    """Return whether a layer's particles know their place in a row."""
    return is_in_row(layer.birthplace)


def is_in_row(birthplace: Birthplace) -> bool:
    """Return whether births go along the birthplace in order."""
    return birthplace.in_row and birthplace.kind in (EmitterShape.LINE, EmitterShape.BOW)


def needs_laid(layer: Layer) -> bool:
    """Return whether a layer's particles know how long their ribbon was as they were laid down."""
    ribbon = layer.look.ribbon
    return layer.look.draw == DrawnAs.RIBBON and ribbon.lay == Lay.REPEAT and ribbon.lay_from == LayFrom.TAIL


def takes(layer: Layer) -> bool:
    """Return whether a layer's particles have colour or size of their parents."""
    return bool(layer.origin.parent) and (layer.origin.take_color or layer.origin.take_size)


def wanted(effect: Effect, layer: Layer) -> frozenset[When]:
    """Return which events of a layer start follow-ups."""
    return frozenset(child.origin.when for child in follow_ups(effect, layer.id) if child.enabled)


def needs_flight(effect: Effect, layer: Layer) -> bool:
    """Return whether a layer's particles know how long and how far they have flown."""
    return When.ALIVE in wanted(effect, layer)


def contact(effect: Effect, layer: Layer) -> Key:
    """Return what a layer's particles can meet, and what becomes of them there."""
    touch, stage = layer.contact, effect.stage
    if not touch.enabled:
        return ()
    props = tuple(
        (
            prop.kind,
            prop.mesh if prop.kind == PropKind.MESH else "",
            prop.position,
            prop.rotation,
            prop.size,
            prop.path,
        )
        for prop in (stage.props if touch.props else ())
        if prop.hit
    )
    moves = any(prop[-1] for prop in props)
    bounces = touch.on_hit == OnHit.BOUNCE
    return (
        touch.on_hit,
        touch.reach,
        touch.wear if touch.on_hit != OnHit.VANISH else None,
        touch.floor and stage.floor,
        props,
        (touch.bounce, touch.friction) if bounces else None,
        (effect.duration, effect.loop) if moves else None,
        # How large it is tells how far it reaches, and how fast it rolls.
        layer.launch.size,
        layer.look.grow,
        layer.place.scale,
        layer.flight.speed_range if along_speed((touch.bounce, touch.friction, layer.look.grow)) else None,
    )


def motion(effect: Effect, layer: Layer) -> Key:
    """Return what the places, velocities, lives and turns of a layer's particles depend on."""
    return (
        births(effect, layer),
        layer.emit.cap,
        effect.warm_up,
        layer.place,
        layer.path,
        *_birthplace(layer),
        *(getattr(layer.launch, name) for name in _LAUNCH),
        layer.launch.carry if layer.path else None,
        *_flight(effect, layer),
        needs_way(layer),
        needs_flight(effect, layer),
        takes(layer),
        joins_parents(layer),
        needs_laid(layer),
        is_swept(layer.birthplace, layer.look),
        _anchors(effect, layer),
        contact(effect, layer),
    )


def needs_way(layer: Layer) -> bool:
    """Return whether a layer is drawn along its particles' way."""
    look = layer.look
    if look.draw == DrawnAs.SPRITE:
        return look.facing in (Facing.STREAK, Facing.TRAVEL)
    return look.draw == DrawnAs.MESH and look.mesh.stand == Stand.TRAVEL


def is_swept(birthplace: Birthplace, look: Look) -> bool:
    """Return whether a layer's particles are born in the middle of its line: the band goes from end to
    end by itself.
    """
    return (
        birthplace.kind == EmitterShape.LINE
        and look.draw == DrawnAs.RIBBON
        and look.ribbon.across == Across.LINE
    )


def _anchors(effect: Effect, layer: Layer) -> Key:
    """Return what the ends of a layer's bow stand on, as far as it tells where."""
    place = layer.birthplace
    if place.kind != EmitterShape.BOW or layer.origin.parent:
        return ()
    found: list[object] = []
    for on in (place.start_on, place.end_on):
        kind, _, name = on.partition(":")
        if kind == "prop":
            prop = next((one for one in effect.stage.props if one.name == name), None)
            found.append(prop and (prop.position, prop.rotation, prop.path))
        elif kind == "layer":
            other = next((one for one in effect.layers if one.id == name), None)
            found.append(other and (other.place, other.path, other.window.span(effect.duration)))
    moves = any(found)
    return (*found, effect.duration if moves else None, effect.loop if moves else None)


def appearance(effect: Effect, layer: Layer) -> Key:
    """Return what else the size, colour and light of its particles depend on."""
    look = tuple(getattr(layer.look, name) for name in _LOOK)
    if layer.look.texture:
        look += (layer.look.frame, layer.look.frame_rate, layer.look.mirror)
    look += (layer.look.mix if layer.look.blend == Blend.MIX else None,)
    look += _drawn(layer)
    look += tuple((name, noise.amount, noise.pan) for name, noise in used_noises(layer.look).items())
    if layer.look.texture or used_noises(layer.look):
        look += ("dice",)
    reach = layer.flight.speed_range if along_speed(look) else None
    return (layer.launch.size, layer.launch.aspect, layer.place.scale, reach, *look)


def _drawn(layer: Layer) -> Key:
    """Return what the instances of a layer depend on by what its particles are drawn as."""
    look = layer.look
    if look.draw == DrawnAs.SPRITE:
        return (look.draw, look.facing, look.streak if look.facing == Facing.STREAK else None)
    if look.draw == DrawnAs.RIBBON:
        across = look.ribbon.across
        lies = across if across in (Across.AXIS, Across.LINE) else None
        return (look.draw, lies, layer.birthplace.extents[0] if across == Across.LINE else None)
    return (look.draw, look.mesh.mesh, look.mesh.stand, look.mesh.stretch, look.mesh.rim)


def drawing(effect: Effect, layer: Layer) -> Key:
    """Return what else a picture of it depends on, but for the stage."""
    box = layer.birthplace
    around = (box.kind, box.extents, layer.place.scale) if box.around_camera else None
    used = [effect.texture(name) for name in texture_names(layer.look)]
    beside = [
        effect.texture(name) for one in used if one is not None for name in (one.normals, one.motion) if name
    ]
    return (layer.look, around, tuple(used), tuple(beside))


def _birthplace(layer: Layer) -> Iterator[object]:
    place = layer.birthplace
    aims = layer.launch.speed != NOTHING
    for name in _counting(place):
        if name == "extents" and place.kind == EmitterShape.LINE:
            yield None if is_swept(layer.birthplace, layer.look) else place.extents[0]
        elif name in ("in_row", "glitter") and is_swept(layer.birthplace, layer.look):
            # In the middle there is only one place.
            yield None
        elif name not in _DRAWN_ONLY and (aims or name not in ("aim", "fan", "scatter")):
            yield getattr(place, name)


def _counting(part: Part) -> Iterator[str]:
    """Return the fields of a part that count, as their rules tell."""
    for name, rule in type(part).rules().items():
        if rule.counts_in(part):
            yield name


def _flight(effect: Effect, layer: Layer) -> Iterator[object]:
    """Yield what moves particles, as far as it counts."""
    flight, stage = layer.flight, effect.stage
    used = [getattr(flight, name) for name in _PUSHES]
    yield from used
    yield flight.follow if layer.path else None
    if flight.gravity != NOTHING and stage.gravity != 0.0:
        used.append(flight.gravity)
        yield "gravity", flight.gravity, stage.gravity
    if flight.wind != NOTHING and flight.drag != NOTHING and any(stage.wind):
        used.append(flight.wind)
        yield "wind", flight.wind, stage.wind, stage.gust, stage.gust_period if stage.gust else None
    if flight.turbulence != NOTHING:
        used.append(flight.turbulence)
        yield "turbulence", flight.turbulence, flight.eddy, flight.churn, flight.octaves
    yield flight.speed_range if along_speed(used) else None


def along_speed(values: tuple[object, ...] | list[object]) -> bool:
    """Return whether one of some values runs along speed."""
    for value in values:
        if isinstance(value, tuple):
            if along_speed(value):
                return True
            continue
        each = value if isinstance(value, Vec3Value) else (value,)
        if any(
            getattr(one, "along", "") == "speed"
            for one in each
            if isinstance(one, Value) or hasattr(one, "along")
        ):
            return True
    return False

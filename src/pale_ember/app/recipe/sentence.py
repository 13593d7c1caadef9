"""What a layer does, in plain words made from its values; each number leads to its field."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ...effect.chapters.source import SHIPPED_MESHES
from ...effect.effect import Layer
from ...effect.kinds import Across, Aim, DrawnAs, EmitterShape, Fill
from ...effect.textures import Texture
from ...effect.values.values import Fixed, Vec3Value
from ..widgets.arithmetic import shown
from .contact_words import contact_words, followed
from .look_words import look_words
from .pieces import Piece, amount

NOTHING = Piece("Nothing is born", "emit.rate")


def pieces(layer: Layer, textures: Sequence[Texture] = (), parent: str = "") -> list[Piece]:
    """Return the sentences in pieces; what is at its default and says nothing is left out.

    ``textures`` are the effect's: of a sheet it is told how many frames it has. ``parent`` is the name of the
    layer that it follows.
    """
    births = [*followed(layer, parent), *_place(layer)] if layer.origin.parent else _births(layer)
    if births == [NOTHING]:
        # Nothing is born, so there is nothing to tell.
        return [NOTHING, Piece(". Raise its rate, or add a burst.")]
    found = [*births, *_window(layer), *_launch(layer), Piece(".")]
    flight = _flight(layer)
    if flight:
        found += [Piece(" They "), *_listed(flight), Piece(".")]
    touch = contact_words(layer)
    if touch:
        found += [Piece(" "), *touch, Piece(".")]
    found += [Piece(" They "), *_listed(look_words(layer.look, textures)), Piece(".")]
    return found


def sentence(layer: Layer, textures: Sequence[Texture] = (), parent: str = "") -> str:
    """Return the sentences as plain text."""
    return "".join(piece.words for piece in pieces(layer, textures, parent))


def _births(layer: Layer) -> list[Piece]:
    """Return how many particles are born, and where."""
    emit = layer.emit
    found = []
    if emit.rate != Fixed(0.0):
        found.append(Piece(f"{amount(emit.rate, digits=1)} a second", "emit.rate"))
    if emit.per_metre != Fixed(0.0) and layer.path:
        found += ([Piece(" and ")] if found else []) + [
            Piece(f"{amount(emit.per_metre, digits=1)} a metre of its way", "emit.per_metre")
        ]
    if emit.bursts:
        count = len(emit.bursts)
        words = f"{count} bursts" if count > 1 else f"a burst of {amount(emit.bursts[0].count, digits=0)}"
        found += ([Piece(" and ")] if found else []) + [
            Piece(words if found else words[0].upper() + words[1:], "emit.bursts")
        ]
    if not found:
        return [NOTHING]
    return found + _place(layer)


def _place(layer: Layer) -> list[Piece]:
    """Return where they are born, and what that place does."""
    place = layer.birthplace
    found: list[Piece] = []
    if layer.origin.parent:
        if place.kind != EmitterShape.POINT:
            found += [Piece(", there "), *_where(layer)]
    else:
        found += [Piece(" born "), *_where(layer)]
    if place.around_camera and place.kind == EmitterShape.BOX and layer.look.draw != DrawnAs.RIBBON:
        found += [Piece(" that "), Piece("goes with the camera", "birthplace.around_camera")]
    if place.glitter and place.kind != EmitterShape.POINT:
        found += [Piece(", "), Piece("glittering all over it", "birthplace.glitter")]
    if layer.path:
        keys = len(layer.path)
        found += [Piece(" on a "), Piece(f"path of {keys} key{'' if keys == 1 else 's'}", "path")]
    return found


def _where(layer: Layer) -> list[Piece]:
    """Return the shape that particles are born in, each of its sizes leading to its own field."""
    place = layer.birthplace
    kind, size = place.kind, Piece(f"{shown(place.radius, 2)} m", "birthplace.radius")
    if kind == "point":
        return [Piece("at a point", "birthplace.kind")]
    if kind == "line":
        found = [
            Piece("along a line", "birthplace.kind"),
            Piece(" of "),
            Piece(f"{shown(place.extents[0], 2)} m", "birthplace.extents"),
        ]
        return found + ([Piece(", one behind the other", "birthplace.in_row")] if place.in_row else [])
    if kind == "bow":
        return _bow(layer)
    if kind == "mesh":
        mesh = place.mesh if place.mesh in SHIPPED_MESHES else Path(place.mesh).stem
        return [Piece("on the mesh ", "birthplace.kind"), Piece(mesh, "birthplace.mesh")]
    found = (
        [Piece({"skin": "on the skin", "rim": "on the rim"}[place.fill], "birthplace.fill"), Piece(" of ")]
        if place.fill != Fill.VOLUME
        else []
    )
    found.append(Piece(f"{'' if found else 'in '}a {kind}", "birthplace.kind"))
    if kind == "box":
        across = " × ".join(shown(e, 2) for e in place.extents)
        return [*found, Piece(" of "), Piece(f"{across} m", "birthplace.extents")]
    found += [Piece(" of "), size]
    if kind in ("cone", "cylinder"):
        found += [Piece(", "), Piece(f"{shown(place.height, 2)} m high", "birthplace.height")]
    return found


def _bow(layer: Layer) -> list[Piece]:
    """Return a bow, with what its ends stand on and how far from it they are born."""
    place = layer.birthplace
    found = [Piece("along a bow", "birthplace.kind")]
    for end, word in (("start", " from "), ("end", " to ")):
        on = "" if layer.origin.parent else getattr(place, f"{end}_on")
        if on.startswith("prop:"):
            found += [Piece(word), Piece(f"“{on[5:]}”", f"birthplace.{end}_on")]
        elif on:
            found += [Piece(word), Piece("another layer's place", f"birthplace.{end}_on")]
    if place.in_row:
        found.append(Piece(", one behind the other", "birthplace.in_row"))
    if place.stray:
        found += [Piece(", straying by "), Piece(f"{shown(place.stray, 3)} m", "birthplace.stray")]
    return found


def _window(layer: Layer) -> list[Piece]:
    begin, length = layer.window.begin, layer.window.length
    if not begin and length is None:
        return []
    found = [Piece(", "), Piece(f"from {shown(begin, 2)} s", "window.begin")]
    if length is not None:
        found += [Piece(" "), Piece(f"for {shown(length, 2)} s", "window.length")]
    return found


def _launch(layer: Layer) -> list[Piece]:
    """Return how particles set out: aim, speed, size, lifetime."""
    launch, place = layer.launch, layer.birthplace
    found = []
    if place.aim != Aim.AXIS:
        words = {"outward": ", facing outward", "inward": ", facing inward", "random": ", facing anywhere"}[
            place.aim
        ]
        found.append(Piece(words, "birthplace.aim"))
    if place.fan:
        found += [Piece(", fanned by "), Piece(f"{shown(place.fan, 1)}°", "birthplace.fan")]
    if place.scatter:
        found += [Piece(", scattered by "), Piece(f"{shown(place.scatter * 100, 0)} %", "birthplace.scatter")]
    rules = type(launch).default_of
    pushed = any(part != Fixed(0.0) for part in launch.push)
    for name, before, unit in (
        ("speed", ", setting out at ", "m/s"),
        ("size", ", ", "m wide" if layer.look.draw == DrawnAs.RIBBON else "m tall"),
        ("lifetime", ", living ", "s"),
    ):
        value = getattr(launch, name)
        if name == "size" and layer.look.draw == DrawnAs.RIBBON and layer.look.ribbon.across == Across.LINE:
            # As wide as its line is long.
            continue
        if name == "speed" and value == Fixed(0.0):
            if pushed:
                found += [Piece(", "), Piece("pushed off", "launch.push")]
                found += [Piece(f" {way}") for way in [_way(launch.push)] if way]
            else:
                found += [Piece(", starting "), Piece("at rest", "launch.speed")]
        elif value != rules(name):
            found += [Piece(before), Piece(amount(value, unit, 3 if name == "size" else 2), f"launch.{name}")]
    if pushed and launch.speed != Fixed(0.0):
        found += [Piece(", "), Piece("pushed off as well", "launch.push")]
    if launch.aspect != Fixed(1.0):
        found += [Piece(", "), Piece(f"{amount(launch.aspect, '×')} as wide as tall", "launch.aspect")]
    if launch.carry != Fixed(0.0) and layer.path:
        found += [Piece(", taking along "), Piece(f"{amount(launch.carry)} of its motion", "launch.carry")]
    return found


def _way(push: Vec3Value) -> str:
    """Return in words which way a push goes that goes one way only: up, down or sideways."""
    up = push.y.bounds_at([0.0])
    if any(part != Fixed(0.0) for part in (push.x, push.z)):
        return ""
    return "upward" if float(up[0][0]) >= 0 else "downward" if float(up[1][0]) <= 0 else ""


def _flight(layer: Layer) -> list[list[Piece]]:
    """Return what moves particles, a piece of sentence for each."""
    flight = layer.flight
    found: list[list[Piece]] = []

    def add(name: str, before: str, unit: str = "", sign: int = 1) -> None:
        now = getattr(flight, name)
        if now != Fixed(0.0):
            found.append([Piece(before), Piece(amount(now, unit, sign=sign), f"flight.{name}")])

    if layer.path and not flight.follow:
        found.append([Piece("stay behind", "flight.follow")])
    if flight.gravity != Fixed(0.0):
        pull = sum(float(side.sum()) for side in flight.gravity.bounds_at([0.0, 0.25, 0.5, 0.75, 1.0]))
        add("gravity", "fall with " if pull > 0 else "rise with ", "× gravity", 1 if pull > 0 else -1)
    add("drag", "are slowed by ", "/s of drag")
    if flight.drag != Fixed(0.0):
        if flight.wind == Fixed(1.0):
            found.append([Piece("drift "), Piece("with the wind", "flight.wind")])
        else:
            add("wind", "drift with ", "× the wind")
    if any(part != Fixed(0.0) for part in flight.thrust):
        found.append([Piece("are "), Piece("pushed along", "flight.thrust")])
    if any(part != Fixed(0.0) for part in flight.drift):
        found.append([Piece("are "), Piece("carried along", "flight.drift")])
    add("pull", "are pulled by ", "m/s²")
    add("swirl", "swirl by ", "m/s²")
    add("orbit", "orbit at ", "°/s")
    add("turbulence", "are stirred by ", "m/s²")
    if flight.pace != Fixed(1.0):
        found.append([Piece("go at "), Piece(amount(flight.pace, "× their pace"), "flight.pace")])
    add("top_speed", "keep under ", "m/s")
    add("spin", "spin at ", "°/s")
    return found


def _listed(rows: list[list[Piece]]) -> list[Piece]:
    """Return rows as a list in words: a, b and c."""
    found: list[Piece] = []
    for i, row in enumerate(rows):
        if i:
            found.append(Piece(" and " if i == len(rows) - 1 else ", "))
        found += row
    return found

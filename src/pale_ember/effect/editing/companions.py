"""Edits that go along with another, so that what it asks for is seen at once; all are one step."""

from __future__ import annotations

import re
from typing import Any

import numpy as np

from ..chapters.place import PathKey
from ..chapters.stage import Prop
from ..effect import Effect, Layer
from ..kinds import Across, DrawnAs, EmitterShape, Join, When
from ..rules.paths import FieldPath
from ..values.rotations import matrix_of

Edits = list[tuple[str, Any]]
_IN_LAYER = re.compile(r"layers\[(\d+)\]\.(.+)")
_PATH_KEY = re.compile(r"path\[(\d+)\]\.((?:position|rotation|scale).*)")
_PROP_NAME = re.compile(r"stage\.props\[(\d+)\]\.name")


def companions(before: Effect, path: str, value: Any) -> Edits:
    """Return what else to change where one field of an effect is given a value; mostly nothing."""
    renamed = _PROP_NAME.fullmatch(path)
    if renamed:
        return _renamed(before, int(renamed[1]), value)
    match = _IN_LAYER.fullmatch(path)
    if match is None or not 0 <= int(match[1]) < len(before.layers):
        return []
    layer, at, field = before.layers[int(match[1])], f"layers[{match[1]}]", match[2]
    if field == "birthplace.kind" and value == EmitterShape.BOW and layer.birthplace.kind != EmitterShape.BOW:
        return [(f"{at}.birthplace.in_row", True)]
    if field == "look.draw" and value != layer.look.draw:
        return _drawn(layer, at, value)
    if field == "look.ribbon.across" and value == Across.LINE and layer.birthplace.kind != EmitterShape.LINE:
        return [(f"{at}.birthplace.kind", EmitterShape.LINE)]
    key = _PATH_KEY.fullmatch(field)
    if key is not None:
        return _kept_closed(layer.path, at, int(key[1]), key[2], value)
    if field in ("birthplace.start_on", "birthplace.end_on"):
        end = field[11:-3]
        moved = {f"{end}_on": str(value), end: _at_anchor(before, layer, end, str(value))}
        place = layer.birthplace.model_copy(update=moved)
        pulls = _towards_each_other(before, layer.model_copy(update={"birthplace": place}))
        return [
            (f"{at}.birthplace.{end}", moved[end]),
            *((f"{at}.birthplace.{name}", pull) for name, pull in pulls),
        ]
    return []


def _drawn(layer: Layer, at: str, draw: Any) -> Edits:
    if draw == DrawnAs.RIBBON and layer.origin.parent and layer.origin.when == When.ALIVE:
        return [(f"{at}.look.ribbon.join", Join.PARENT)]
    if draw == DrawnAs.MESH and layer.look.lit == 0.0 and layer.look.blend not in ("add", "multiply"):
        # A body that nothing lights is a flat shape.
        return [(f"{at}.look.lit", 1.0)]
    return []


def _kept_closed(keys: tuple[PathKey, ...], at: str, index: int, field: str, value: Any) -> Edits:
    """Let the other end of a path that ends where it began go along, so that it stays closed."""
    last = len(keys) - 1
    if last < 2 or index not in (0, last):
        return []
    first, end = keys[0], keys[last]
    closed = (first.at, end.at) == (0.0, 1.0) and (first.position, first.rotation, first.scale) == (
        end.position,
        end.rotation,
        end.scale,
    )
    return [(f"{at}.path[{last - index}].{field}", value)] if closed else []


def _renamed(before: Effect, number: int, name: Any) -> Edits:
    """Let bows go on standing on a prop that is called otherwise from now on."""
    if not 0 <= number < len(before.stage.props):
        return []
    old = f"prop:{before.stage.props[number].name}"
    return [
        (FieldPath.of_layer(i, f"birthplace.{end}"), f"prop:{name}")
        for i, layer in enumerate(before.layers)
        for end in ("start_on", "end_on")
        if getattr(layer.birthplace, end) == old
    ]


def _at_anchor(before: Effect, layer: Layer, end: str, on: str) -> tuple[float, ...]:
    """Return where an end stands at first: on a prop's top, at a layer's centre, or, on nothing any more,
    where it stood.
    """
    thing = anchor_of(before, on)
    if isinstance(thing, Prop):
        return (0.0, thing.size[1], 0.0)
    if thing is not None:
        return (0.0, 0.0, 0.0)
    away = np.array(getattr(layer.birthplace, end))
    was = anchor_of(before, getattr(layer.birthplace, f"{end}_on"))
    if was is None:
        return tuple(float(x) for x in away)
    return tuple(round(float(x), 4) for x in _in_layer(before, layer, end))


def _in_layer(effect: Effect, layer: Layer, end: str) -> np.ndarray:
    """Return where an end of a bow is at rest, in the layer's axes."""
    away = np.array(getattr(layer.birthplace, end))
    thing = anchor_of(effect, getattr(layer.birthplace, f"{end}_on"))
    if thing is None:
        return away
    place, own = thing if isinstance(thing, Prop) else thing.place, layer.place
    world = np.array(place.position) + matrix_of(place.rotation) @ away - own.position
    return np.asarray(matrix_of(own.rotation).T @ world / own.scale)


def _towards_each_other(effect: Effect, layer: Layer) -> list[tuple[str, tuple[float, ...]]]:
    """Return the pulls of a bow that lead away from its other end, turned so that they lead there; they
    rise as before.
    """
    way = _in_layer(effect, layer, "end") - _in_layer(effect, layer, "start")
    flat = way * (1.0, 0.0, 1.0)
    far = float(np.linalg.norm(flat))
    found: list[tuple[str, tuple[float, ...]]] = []
    for name, sign in (("start_pull", 1.0), ("end_pull", -1.0)):
        pull = np.array(getattr(layer.birthplace, name))
        level = float(np.hypot(pull[0], pull[2]))
        if far > 1e-6 and sign * float(pull[[0, 2]] @ flat[[0, 2]]) < 0.0:
            x, _, z = flat / far * (sign * level)
            found.append((name, (round(float(x), 4), float(pull[1]), round(float(z), 4))))
    return found


def anchor_of(effect: Effect, on: str) -> Prop | Layer | None:
    """Return the prop or the layer that an end of a bow stands on; None if it isn't there."""
    kind, _, name = on.partition(":")
    if kind == "prop":
        return next((prop for prop in effect.stage.props if prop.name == name), None)
    return next((layer for layer in effect.layers if layer.id == name), None) if kind == "layer" else None


def reanchored(layer: Layer, ids: dict[str, str]) -> Layer:
    """Return a layer whose bow stands on the copies of the layers that it stood on, where there are some."""
    place, changed = layer.birthplace, {}
    for end in ("start_on", "end_on"):
        kind, _, name = getattr(place, end).partition(":")
        if kind == "layer" and name in ids:
            changed[end] = f"layer:{ids[name]}"
    return layer.model_copy(update={"birthplace": place.model_copy(update=changed)}) if changed else layer

"""Which lanes a layer has on an axis, and which it could have."""

from __future__ import annotations

from typing import NamedTuple

from ..effect.colors import ColorValue
from ..effect.effect import Layer
from ..effect.fields import Rule
from ..effect.values import Value, Vec3Value
from .tracks import parts_of

AXES = ("life", "clock", "speed")
# On the axis of life these are there from the start: they make the picture of a particle.
ALWAYS = ("look.grow", "look.opacity", "look.color", "look.intensity")
CHAPTERS = ("emit", "launch", "flight", "look")


class Choice(NamedTuple):
    """A property that may have a lane: its path in the layer, its rule, and whether it has a curve on the axis."""

    path: str
    rule: Rule
    used: bool


def choices(layer: Layer, axis: str) -> list[Choice]:
    """Return all properties of a layer that may run along an axis, in model order."""
    found = []
    for chapter in CHAPTERS:
        part = getattr(layer, chapter)
        for name, rule in type(part).rules().items():
            value = getattr(part, name)
            if isinstance(value, Value | Vec3Value | ColorValue) and axis in rule.along:
                used = any(one.along == axis for _, one in parts_of("", value))
                found.append(Choice(f"{chapter}.{name}", rule, used))
    return found


def lanes_of(layer: Layer, axis: str, added: set[str], order: list[str]) -> list[Choice]:
    """Return the lanes of a layer on an axis: what has a curve there, what is always there, and what was added.

    Parameters
    ----------
    added : set of str
        Paths in the layer of lanes that the artist asked for.
    order : list of str
        Paths in the order that the artist gave them; others follow in model order, colour behind opacity.
    """
    found = []
    for choice in choices(layer, axis):
        elsewhere = not choice.used and _has_curve(layer, choice.path)
        if choice.used or (((axis == "life" and choice.path in ALWAYS) or choice.path in added) and not elsewhere):
            found.append(choice)
    usual = [*ALWAYS, *(choice.path for choice in found if choice.path not in ALWAYS)]
    given = [path for path in order if path in usual]
    places = {path: i for i, path in enumerate([*given, *(path for path in usual if path not in given)])}
    return sorted(found, key=lambda choice: places[choice.path])


def _has_curve(layer: Layer, path: str) -> bool:
    chapter, _, name = path.partition(".")
    return any(one.along for _, one in parts_of("", getattr(getattr(layer, chapter), name)))

"""Which lanes a layer has on an axis, and which it could have."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from typing import Any, NamedTuple

from ...effect.chapters.look import NOISES, used_noises
from ...effect.chapters.source import Burst
from ...effect.effect import Layer
from ...effect.kinds import Blend, DrawnAs, Facing
from ...effect.rules.fields import Rule
from ...effect.values.colors import ColorValue
from ...effect.values.values import Fixed, Value, Vec3Value
from .tracks import parts_of

AXES = ("life", "clock", "speed")
# On the axis of life these are there from the start: they make the picture of a particle.
ALWAYS = ("look.grow", "look.opacity", "look.color", "look.intensity")
# Shown where an axis has no lane.
NOTHING = {
    "life": "Select a layer to shape its life.",
    "clock": "Nothing of this layer follows the clock yet. Add a lane with +, then click on its line.",
    "speed": "Nothing of this layer follows the speed yet. Add a lane with +, then click on its line.",
}
CHAPTERS = ("emit", "launch", "flight", "look")


class Choice(NamedTuple):
    """A property that may have a lane: its path in the layer, its rule, and whether it has a curve on the
    axis.
    """

    path: str
    rule: Rule
    used: bool


def choices(layer: Layer, axis: str) -> list[Choice]:
    """Return all properties of a layer that may run along an axis, in model order, the bursts' counts
    among them.
    """
    return [
        Choice(path, rule, any(one.along == axis for _, one in parts_of("", value)))
        for path, rule, value in _properties(layer)
        if axis in rule.along
    ]


def _properties(layer: Layer) -> Iterator[tuple[str, Rule, Any]]:
    """Give all Values of a layer with their paths in it and their rules."""
    for chapter in CHAPTERS:
        part = getattr(layer, chapter)
        for name, rule in type(part).rules().items():
            value = getattr(part, name)
            if isinstance(value, Value | Vec3Value | ColorValue):
                yield f"{chapter}.{name}", rule, value
        if chapter == "look":
            for name, rule in type(layer.look.mesh).rules().items():
                value = getattr(layer.look.mesh, name)
                if layer.look.draw == DrawnAs.MESH and isinstance(value, Value | Vec3Value):
                    yield f"look.mesh.{name}", rule, value
            for name in NOISES:
                noise = getattr(layer.look, name)
                yield f"look.{name}.amount", type(noise).rules()["amount"], noise.amount
        if chapter == "emit":
            rule = Burst.rules()["count"]
            for i, burst in enumerate(layer.emit.bursts):
                label = f"Burst {i + 1} count" if len(layer.emit.bursts) > 1 else "Burst count"
                yield f"emit.bursts[{i}].count", dataclasses.replace(rule, label=label), burst.count


def _appears(layer: Layer, path: str) -> bool:
    """Return whether a property's lane is there because the layer's look uses it."""
    look = layer.look
    noises = {f"look.{name}.amount" for name in used_noises(look)}
    return path in noises or {
        "look.frame": bool(look.texture) and look.frame != Fixed(0.0),
        "look.mix": look.blend == Blend.MIX,
        "look.streak": look.facing == Facing.STREAK and look.draw == DrawnAs.SPRITE,
        "look.mesh.stretch": any(part != Fixed(1.0) for part in look.mesh.stretch),
        "look.mesh.rim": look.mesh.rim != Fixed(0.0),
        "look.widen": look.widen != Fixed(1.0),
    }.get(path, False)


def property_of(layer: Layer, path: str) -> str:
    """Return the path of the property that a path in a layer leads to or into; empty if it is none."""
    return next(
        (known for known, _, _ in _properties(layer) if path == known or path.startswith(f"{known}[")), ""
    )


def lanes_of(layer: Layer, axis: str, added: set[str], order: list[str]) -> list[Choice]:
    """Return the lanes of a layer on an axis: what has a curve there, what is always there, and what was
    added.

    Parameters
    ----------
    added : set of str
        Paths in the layer of lanes that the artist asked for.
    order : list of str
        Paths in the order that the artist gave them; others follow in model order, colour behind opacity.
    """
    found = []
    curved = {
        path for path, _, value in _properties(layer) if any(one.along for _, one in parts_of("", value))
    }
    for choice in choices(layer, axis):
        elsewhere = not choice.used and choice.path in curved
        there = axis == "life" and (choice.path in ALWAYS or _appears(layer, choice.path))
        if choice.used or ((there or choice.path in added) and not elsewhere):
            found.append(choice)
    usual = [*ALWAYS, *(choice.path for choice in found if choice.path not in ALWAYS)]
    given = [path for path in order if path in usual]
    places = {path: i for i, path in enumerate([*given, *(path for path in usual if path not in given)])}
    return sorted(found, key=lambda choice: places[choice.path])

"""The numbered places in which a layer's Values reach the kernels, as the fields of the model declare them.

Each member of :class:`~...effect.slots.Slot` is a constant of this module: kernels can't read enumerations as
numbers.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from ...effect.effect import Layer
from ...effect.rules.fields import FieldKind, Rule
from ...effect.rules.part import Part
from ...effect.slots import Slot

globals().update({slot.name: int(slot) for slot in Slot})
COUNT = len(Slot)


def __getattr__(name: str) -> int:
    raise AttributeError(f"no slot is called {name}")


# Forms of a slot: level, spread, one of several numbers, then curve and band along life, along clock, along
# speed.
CONSTANT, SPREAD, ONE_OF, LIFE_CURVE, LIFE_BAND, CLOCK_CURVE, CLOCK_BAND, SPEED_CURVE, SPEED_BAND = range(9)

DEGREE = 0.017453292519943295


class SlotPlace(NamedTuple):
    """Where a slot's Value stands in a layer, the factor to the kernels' units, and whether it grows with
    the layer.
    """

    path: str
    factor: float = 1.0
    scaled: bool = False


def _declared(part: type[Part], at: str = "") -> Iterator[tuple[str, int, Rule]]:
    """Return the paths, slots and rules of all fields that have a slot, those of parts inside of a part
    too.
    """
    for name, rule in part.rules().items():
        if rule.slot is not None:
            yield at + name, int(rule.slot), rule
    for name in part.model_fields:
        inside = part.default_of(name)
        if isinstance(inside, Part):
            yield from _declared(type(inside), f"{at}{name}.")


_DECLARED = tuple(_declared(Layer))


def _places() -> Iterator[tuple[int, SlotPlace]]:
    """Return the slots of all fields but colours."""
    for path, slot, rule in _DECLARED:
        factor = DEGREE if rule.unit.startswith("°") else 1.0
        axes = (".x", ".y", ".z") if rule.kind == FieldKind.VEC3_VALUE else ("",)
        if rule.kind != FieldKind.COLOR_VALUE:
            yield from (
                (slot + i, SlotPlace(path + axis, factor, rule.scaled)) for i, axis in enumerate(axes)
            )


# By slot; those of colours apart, by their first of three.
SLOTS: dict[int, SlotPlace] = dict(_places())
COLOR_SLOTS = {slot: path for path, slot, rule in _DECLARED if rule.kind == FieldKind.COLOR_VALUE}

# Whether a slot is in metres, and so grows with the layer along its path.
LENGTHS = tuple(slot in SLOTS and SLOTS[slot].scaled for slot in range(COUNT))

# What decides a layer's motion; the rest is read only when a moment is drawn.
MOTION_SLOTS = range(Slot.LIFETIME, Slot.FRICTION + 1)
BIRTH_SLOTS = range(Slot.LIFETIME, Slot.CARRY + 1)
FLIGHT_SLOTS = range(Slot.GRAVITY, Slot.SPIN + 1)
LOOK_SLOTS = range(Slot.SIZE, COUNT)
# What is summed up step by step over a life.
SUMMED = frozenset(FLIGHT_SLOTS) - {int(Slot.TOP_SPEED)}

"""The numbered places, slots, in which a layer's Values reach the kernels.

They follow from the fields of the model that say when they are read (``read_at``): those of one moment stand
together, in the order of declaration. A field of three Values, or of a colour, takes three in a row. Each
slot's number is a constant of this module, because kernels can't read enumerations: ``GRAVITY``,
``PUSH_X``, ``TINT_R``; ``ERODE`` for ``look.erode.amount``.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from ...effect.effect import Layer
from ...effect.read_at import ReadAt
from ...effect.rules.fields import Column, FieldKind, Rule
from ...effect.rules.part import Part
from ..kernels import cache

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


def _declared(part: type[Part], at: str = "") -> Iterator[tuple[str, Rule]]:
    """Return the paths and rules of all fields that kernels read, those of parts inside of a part too."""
    for name, rule in part.rules().items():
        if rule.read_at is not None:
            yield at + name, rule
    for name in part.model_fields:
        inside = part.default_of(name)
        if isinstance(inside, Part):
            yield from _declared(type(inside), f"{at}{name}.")


# The Values of a field: the ends of their paths, and of their slots' names.
_ENDS = {
    FieldKind.VALUE: (("", ""),),
    FieldKind.VEC3_VALUE: ((".x", "_X"), (".y", "_Y"), (".z", "_Z")),
    FieldKind.COLOR_VALUE: (("", "_R"), ("", "_G"), ("", "_B")),
}


class Straight(NamedTuple):
    """What a column of instances holds as it is: the first slot of its field, how many numbers, and the
    field's path and rule. ``column`` is the rule's own.
    """

    slot: int
    parts: int
    path: str
    rule: Rule
    column: Column


# By slot, but for those of colours; and colours' paths by the first of their three slots.
SLOTS: dict[int, SlotPlace] = {}
COLOR_SLOTS: dict[int, str] = {}
# By the column's name.
STRAIGHT: dict[str, Straight] = {}
_numbers: dict[str, int] = {}
_read_at: list[ReadAt] = []


def _number(path: str, rule: Rule) -> None:
    """Give a field its slots."""
    *_, part, name = path.split(".")
    if rule.kind == FieldKind.COLOR_VALUE:
        COLOR_SLOTS[len(_read_at)] = path
    if rule.column is not None:
        STRAIGHT[rule.column.name] = Straight(len(_read_at), len(_ENDS[rule.kind]), path, rule, rule.column)
    for end, letter in _ENDS[rule.kind]:
        slot, constant = len(_read_at), (part if name == "amount" else name).upper() + letter
        if constant in _numbers:
            raise ValueError(f"two fields would have the slot {constant}; name one of them otherwise")
        if rule.kind != FieldKind.COLOR_VALUE:
            SLOTS[slot] = SlotPlace(path + end, DEGREE if rule.unit.startswith("°") else 1.0, rule.scaled)
        _numbers[constant] = slot
        assert rule.read_at is not None
        _read_at.append(rule.read_at)


for _path, _rule in sorted(_declared(Layer), key=lambda field: field[1].read_at or 0):
    _number(_path, _rule)
globals().update(_numbers)
COUNT = len(_read_at)


def __getattr__(name: str) -> int:
    raise AttributeError(f"no slot is called {name}")


def slots_at(read_at: ReadAt) -> slice:
    """Return the slots that are read at one moment."""
    first = _read_at.index(read_at)
    return slice(first, first + _read_at.count(read_at))


STEPPED = slots_at(ReadAt.STEP)
# Slots whose values are kept from the first look on.
KEPT = slots_at(ReadAt.FIRST_LOOK)

# Whether a slot is in metres, and so grows with the layer along its path.
LENGTHS = tuple(slot in SLOTS and SLOTS[slot].scaled for slot in range(COUNT))

# Slots that are summed step by step over a life.
SUMMED = frozenset(range(STEPPED.start, STEPPED.stop)) - {_numbers["TOP_SPEED"]}

# Kernels hold these as numbers, which the text of this file doesn't tell.
cache.note_constants("layout.slots", (_numbers, LENGTHS))

"""Pieces of a sentence, and numbers in words."""

from __future__ import annotations

from typing import NamedTuple

from ...effect.values.values import Band, Curve, Fixed, Spread, Value
from ..widgets.arithmetic import shown


class Piece(NamedTuple):
    """Some words, and the path (in the layer) of the field that they speak of; empty for none."""

    words: str
    path: str = ""


def amount(value: Value, unit: str = "", digits: int = 2, sign: int = 1) -> str:
    """Return a Value, times a sign, in words: a number, or the least and most that it takes."""
    behind = f" {unit}" if unit and unit[0] not in "/×°" else unit
    if isinstance(value, Fixed):
        ends = [value.number]
    elif isinstance(value, Spread):
        ends = [value.low, value.high]
    else:
        assert isinstance(value, Curve | Band)
        sides = [value.keys] if isinstance(value, Curve) else [value.low, value.high]
        ends = [key.y for side in sides for key in side]
    ends = [sign * end for end in ends]
    low, high = (shown(end, digits).replace("-", "−") for end in (min(ends), max(ends)))
    if low == high:
        return low + behind
    return f"{low}{' to ' if min(ends) < 0 else '–'}{high}{behind}"

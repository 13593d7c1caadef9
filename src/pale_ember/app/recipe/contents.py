"""What a field's value is to its controls: a number, a colour, a word for each."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt

from ...effect.values.colors import ColorSpread, Flat, OneOf, Stop
from ...effect.values.values import Fixed, Spread, Value, Vec3Value


def contents_of(value: Any, kind: str = "") -> list[Any]:
    """Return what each control of a field shows, in their order."""
    if isinstance(value, Vec3Value):
        return [content for part in value for content in contents_of(part)]
    if isinstance(value, Fixed):
        return [value.number]
    if isinstance(value, Flat):
        return [value.color]
    if isinstance(value, OneOf):
        return list(value.colors)
    if isinstance(value, Spread | ColorSpread):
        return [value.low, value.high]
    if isinstance(value, tuple):
        # Stops, files and frames are shown as a whole; a vector number by number.
        whole = not value or isinstance(value[0], Stop | str) or kind in ("pictures", "frames", "points")
        return [value] if whole else list(value)
    return [float("nan") if value is None else value]


def middle_of(value: Value) -> float:
    """Return one number for a value of any form: the middle of its range at the start."""
    low, high = value.bounds_at([0.0])
    return float(low[0] + high[0]) / 2


def any_content(value: Any) -> Any:
    """Return something to show of a field that holds different forms."""
    return middle_of(value) if isinstance(value, Value) else "#ffffff"


def check_state(on: bool, mixed: bool) -> Qt.CheckState:
    """Return the state of a check box."""
    if mixed:
        return Qt.CheckState.PartiallyChecked
    return Qt.CheckState.Checked if on else Qt.CheckState.Unchecked

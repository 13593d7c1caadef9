"""A single field's value on the clipboard, as JSON."""

from __future__ import annotations

import json
from typing import Any

from PyQt6.QtWidgets import QApplication

from ...effect.errors import EffectError
from ...effect.fields import Rule
from ...effect.reading import read_field
from ...effect.storage import _data as field_data

MARK = "pale-ember/field"
NONE = "there is no field on the clipboard; copy one from its menu."


def copy_field(rule: Rule, value: Any) -> None:
    """Put a field's value on the clipboard."""
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        data = {"format": MARK, "label": rule.label, "kind": rule.kind, "value": field_data(value, None)}
        clipboard.setText(json.dumps(data, ensure_ascii=False))


def pasted_field(rule: Rule) -> Any:
    """Return the value on the clipboard as a field takes it.

    A curve along an axis that the field doesn't have runs along the field's first one.

    Raises
    ------
    EffectError
        If there is none, or it doesn't fit the field.
    """
    clipboard = QApplication.clipboard()
    try:
        data = json.loads(clipboard.text() if clipboard is not None else "")
        if data["format"] != MARK:
            raise ValueError
        label, kind, value = str(data["label"])[:60], data["kind"], data["value"]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise EffectError("clipboard", NONE) from None
    if kind != rule.kind and {kind, rule.kind} != {"value", "number"}:
        raise EffectError("clipboard", f"{label} on the clipboard is of another kind than {rule.label}.")
    return read_field(rule, _fitted(value, rule))


def _fitted(data: Any, rule: Rule) -> Any:
    if isinstance(data, list):
        return [_fitted(part, rule) for part in data]
    if isinstance(data, dict) and data.get("along") is not None and data["along"] not in rule.along:
        return {**data, "along": rule.along[0]} if rule.along else data
    return data

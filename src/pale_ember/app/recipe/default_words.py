"""What the tip of a field's label says: what it does, and its default in words."""

from __future__ import annotations

import html
from typing import Any

from ...effect.rules.fields import Rule
from ...effect.storing.storage import field_data
from ..widgets import theme

# How a Value that is no plain number is called.
_FORMS = {"curve": "a curve", "band": "a band", "gradient": "a gradient", "one_of": "several colours"}


def label_tip(default: Any, rule: Rule) -> str:
    """Return the tip of a field's label, as rich text."""
    words = html.escape(default_words(default, rule))
    shown = f"<br><span style='color:{theme.DIM}'>Default {words}</span>" if words else ""
    return f"<b>{rule.label}</b><br>{rule.help}{shown}"


def default_words(default: Any, rule: Rule) -> str:
    """Return a field's default with its unit, in words; empty for an empty text.

    Parameters
    ----------
    default : Any
        As the model has it.
    """
    data = field_data(default, rule)
    if data is None:
        return "empty"
    if isinstance(data, bool):
        return "on" if data else "off"
    if data in ("", [], {}):
        return ""
    unit = rule.unit if rule.unit.startswith("°") else f" {rule.unit}"
    return f"{_plain(data)}{unit}".strip()


def _plain(data: Any) -> str:
    """Return a value of the file's form in words."""
    if isinstance(data, dict):
        if "spread" in data:
            low, high = data["spread"]
            return f"{low} to {high}"
        return next(words for name, words in _FORMS.items() if name in data)
    if isinstance(data, list | tuple):
        return ", ".join(map(_plain, data))
    return str(data)

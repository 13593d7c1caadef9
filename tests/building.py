"""Effects for tests."""

from __future__ import annotations

from typing import Any

from pale_ember.effect import Effect
from pale_ember.effect.effect import Layer as _Layer


def single(edits: dict[str, Any] | None = None, **whole: Any) -> Effect:
    """Return an effect of one layer called ``a``, with edits to the layer by path."""
    return effect_with({"a": edits or {}}, **whole)


def effect_with(layers: dict[str, dict[str, Any]], **whole: Any) -> Effect:
    """Return an effect of several layers; each has its name as its id."""
    effect = Effect(layers=tuple(_Layer(id=name, name=name) for name in layers), **whole)
    for i, edits in enumerate(layers.values()):
        for path, value in edits.items():
            effect = effect.edit(f"layers[{i}].{path}", value)
    return effect

"""A failed validation as one EffectError: the first wrong place and why."""

from __future__ import annotations

import typing
from typing import Any

from pydantic import ValidationError

from ..errors import EffectError, nearest, shown
from .part import Part


def refusal(wrong: ValidationError, start: str, model: type[Part]) -> EffectError:
    """Return the first problem of a failed validation.

    Parameters
    ----------
    wrong : ValidationError
    start : str
        Path to the model that was validated, empty for the whole effect.
    model : type
        That model.
    """
    first = wrong.errors(include_url=False)[0]
    loc = list(first["loc"])
    place = start + "".join(f"[{s}]" if isinstance(s, int) else f".{s}" for s in loc)
    context = first.get("ctx", {})
    place = (place + str(context.get("place", ""))).lstrip(".")
    kind = first["type"]
    if kind == "extra_forbidden":
        name = "".join(c if c.isprintable() else "?" for c in str(loc[-1]))
        if not place or not name.isidentifier():
            place = start + "".join(f"[{s}]" if isinstance(s, int) else f".{s}" for s in loc[:-1])
            place = place.lstrip(".") or "file"
            said = f"“{name[:60]}” is not known here; {nearest(name, _fields_at(model, loc[:-1]))}"
            return EffectError(
                place, said if name else "a name here is empty; " + nearest("", _fields_at(model, loc[:-1]))
            )
        place = place if len(name) <= 60 else place[: -len(name)] + name[:60] + "…"
        return EffectError(
            place, f"“{name[:60]}” is not known here; {nearest(name, _fields_at(model, loc[:-1]))}"
        )
    if "reason" in context:
        return EffectError(place, str(context["reason"]))
    if kind in ("model_type", "model_attributes_type", "dict_type"):
        return EffectError(place, f"this must be an object with named parts, not {shown(first['input'])}.")
    if kind in ("tuple_type", "list_type"):
        return EffectError(place, f"this must be a list, not {shown(first['input'])}.")
    if kind == "missing":
        return EffectError(place, "this is missing; add it.")
    return EffectError(place, f"{shown(first['input'])} doesn't fit here ({first['msg'].lower()}).")


def _fields_at(model: type[Part], loc: list[Any]) -> list[str]:
    """Return the field names of the model that a location leads to."""
    found: Any = model
    for step in loc:
        if isinstance(step, int):
            continue
        annotation = found.model_fields[step].annotation
        inner = [a for a in typing.get_args(annotation) if isinstance(a, type) and issubclass(a, Part)]
        found = inner[0] if inner else annotation
    return list(found.model_fields)

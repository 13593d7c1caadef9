"""The JSON Schema of an effect file, made from the model's own rules."""

from __future__ import annotations

import typing
from typing import Any

from ..effect import FORMAT, VERSION, Effect
from ..rules.descriptions import description_of
from ..rules.fields import HUGE, FieldKind, Rule
from ..rules.part import Part
from ..rules.reading import MOST_FILES, MOST_KEYS
from ..steps import STEPS, Step
from ..textures import MOST_STEPS
from ..values.colors import MOST_COLORS
from .storage import field_data


def effect_schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of an effect file."""
    schema = _part_schema(Effect)
    schema["properties"]["format"] = {"const": FORMAT}
    schema["properties"]["version"] = {"type": "integer", "minimum": 1, "maximum": VERSION}
    schema["properties"]["step_rate"] |= {"enum": [30, 60, 120]}
    schema["required"] = ["format", "version"]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Pale Ember effect", **schema}


def _part_schema(model: type[Part]) -> dict[str, Any]:
    """Return the JSON Schema of a part."""
    rules = model.rules()
    properties: dict[str, Any] = {}
    for name, info in model.model_fields.items():
        rule = rules.get(name)
        if rule is not None:
            properties[name] = _described(rule, model.default_of(name))
            continue
        items = [a for a in typing.get_args(info.annotation) if isinstance(a, type) and issubclass(a, Part)]
        if items == [Step]:
            properties[name] = {
                "type": "array",
                "maxItems": MOST_STEPS,
                "items": {"oneOf": [_step_schema(kind) for kind in STEPS.values()]},
            }
        elif items and type(None) in typing.get_args(info.annotation):
            properties[name] = {"anyOf": [_part_schema(items[0]), {"type": "null"}]}
        elif items:
            properties[name] = {"type": "array", "items": _part_schema(items[0])}
        elif isinstance(info.annotation, type) and issubclass(info.annotation, Part):
            properties[name] = _part_schema(info.annotation)
        else:
            properties[name] = {}
    return {
        "type": "object",
        "description": description_of(model),
        "properties": properties,
        "additionalProperties": False,
    }


def _step_schema(kind: type[Step]) -> dict[str, Any]:
    found = _part_schema(kind)
    found["properties"]["step"] = {"const": kind.default_of("step")}
    return {**found, "required": ["step"]}


def _described(rule: Rule, default: Any) -> dict[str, Any]:
    unit = f" ({rule.unit})" if rule.unit else ""
    return {
        "title": rule.label,
        "description": rule.help + unit,
        "default": field_data(default, rule),
        **_shape(rule),
    }


# Kinds of fields that hold a word.
_WORDS = (
    FieldKind.TEXT,
    FieldKind.MESH,
    FieldKind.LAYER,
    FieldKind.ANCHOR,
    FieldKind.TEXTURE,
    FieldKind.PICTURE,
    FieldKind.POINTS,
)


def _shape(rule: Rule) -> dict[str, Any]:
    """Return the JSON Schema of what a field takes."""
    number = _number(rule)
    color = {"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$"}
    share = {"type": "number", "minimum": 0, "maximum": 1}
    along = {"enum": list(rule.along)}
    triple = {"type": "array", "minItems": 3, "maxItems": 3}
    if rule.kind == FieldKind.NUMBER:
        return {"anyOf": [number, {"type": "null"}]} if rule.optional else number
    if rule.kind == FieldKind.INTEGER:
        return {**number, "type": "integer"}
    if rule.kind == FieldKind.VEC3:
        return {**triple, "items": number}
    if rule.kind == FieldKind.FLAG:
        return {"type": "boolean"}
    if rule.kind == FieldKind.CHOICE:
        return {"enum": list(rule.choices)}
    if rule.kind in _WORDS:
        return {"type": "string"}
    if rule.kind == FieldKind.PICTURES:
        return {"type": "array", "items": {"type": "string"}, "maxItems": MOST_FILES}
    if rule.kind == FieldKind.FRAMES:
        return {
            "type": "array",
            "items": {"type": "integer", "minimum": 0, "maximum": MOST_FILES - 1},
            "maxItems": MOST_FILES,
        }
    if rule.kind == FieldKind.COLOR:
        return color
    if rule.kind == FieldKind.VEC2:
        return {**triple, "minItems": 2, "maxItems": 2, "items": number}
    if rule.kind == FieldKind.STOPS:
        return _list({"type": "array", "prefixItems": [share, color], "minItems": 2, "maxItems": 2})
    if rule.kind == FieldKind.COLOR_VALUE:
        stops = _list({"type": "array", "prefixItems": [share, color], "minItems": 2, "maxItems": 2})
        one_of = _object(
            {"one_of": {"type": "array", "items": color, "minItems": 1, "maxItems": MOST_COLORS}}, "one_of"
        )
        return {"anyOf": [color, one_of, *_forms(color, "gradient", stops, along)]}
    key_object = {
        "type": "object",
        "properties": {
            "x": share,
            "y": number,
            "ease": {"enum": ["smooth", "linear", "hold", "free"]},
            "in": {"type": "number"},
            "out": {"type": "number"},
        },
        "required": ["x", "y"],
        "additionalProperties": False,
    }
    pair = {"type": "array", "prefixItems": [share, number], "minItems": 2, "maxItems": 2}
    value = {"anyOf": [number, *_forms(number, "curve", _list({"anyOf": [pair, key_object]}), along)]}
    return {**triple, "items": value} if rule.kind == FieldKind.VEC3_VALUE else value


def _number(rule: Rule) -> dict[str, Any]:
    found: dict[str, Any] = {"type": "number"}
    if rule.hard[0] > -HUGE:
        found["minimum"] = rule.hard[0]
    if rule.hard[1] < HUGE:
        found["maximum"] = rule.hard[1]
    return found


def _list(items: dict[str, Any]) -> dict[str, Any]:
    return {"type": "array", "items": items, "minItems": 1, "maxItems": MOST_KEYS}


def _forms(
    end: dict[str, Any], curve: str, keys: dict[str, Any], along: dict[str, Any]
) -> list[dict[str, Any]]:
    """Return the spread, the curve and the band form."""
    two = {"type": "array", "minItems": 2, "maxItems": 2}
    return [
        _object({"spread": {**two, "items": end}}, "spread"),
        _object({curve: keys, "along": along}, curve),
        _object({"band": {**two, "items": keys}, "along": along}, "band"),
    ]


def _object(properties: dict[str, Any], required: str) -> dict[str, Any]:
    return {"type": "object", "properties": properties, "required": [required], "additionalProperties": False}

"""Older versions of the file, brought up to the present one step at a time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..effect import FORMAT, VERSION
from ..errors import EffectError, shown


def _noon(data: dict[str, Any]) -> dict[str, Any]:
    """The backdrop of daylight is called noon; an effect of version 1 looked through its floor."""
    stage = data.get("stage")
    if isinstance(stage, dict) and stage.get("backdrop") == "day":
        data = {**data, "stage": {**stage, "backdrop": "noon"}}
    return data


def _as_it_is(data: dict[str, Any]) -> dict[str, Any]:
    """The next version has more steps, fields or forms; what this one had means the same."""
    return data


def _right_and_up(data: dict[str, Any]) -> dict[str, Any]:
    """A positive pan slid to the left and down; premultiplied files were read as sRGB values times alpha."""
    found = dict(data)
    if isinstance(data.get("layers"), list):
        found["layers"] = [_with_pans_turned(layer) for layer in data["layers"]]
    if isinstance(data.get("textures"), list):
        found["textures"] = [
            {**one, "cover": "premultiplied_srgb"}
            if isinstance(one, dict) and one.get("cover") == "premultiplied"
            else one
            for one in data["textures"]
        ]
    return found


def _with_pans_turned(layer: Any) -> Any:
    look = layer.get("look") if isinstance(layer, dict) else None
    if not isinstance(look, dict):
        return layer
    turned = _with_pan_turned(look)
    for name in ("erode", "bend", "shimmer"):
        if name in look:
            turned = {**turned, name: _with_pan_turned(look[name])}
    return {**layer, "look": turned}


def _with_pan_turned(part: Any) -> Any:
    pan = part.get("pan") if isinstance(part, dict) else None
    if not isinstance(pan, list) or not all(
        isinstance(one, int | float) and not isinstance(one, bool) for one in pan
    ):
        return part
    return {**part, "pan": [-one if one else one for one in pan]}


# From version n to n + 1. Each takes the file's data and returns it changed.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: _noon,
    2: _as_it_is,
    3: _as_it_is,
    4: _as_it_is,
    5: _right_and_up,
    6: _as_it_is,
}


def migrated(
    data: dict[str, Any],
    steps: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = MIGRATIONS,
    newest: int = VERSION,
) -> dict[str, Any]:
    """Return a file's data as the present version has it; refuse what is newer or of another kind."""
    if "format" not in data:
        raise EffectError(
            "format", f"this is missing, so the file may not be an effect; it must say “{FORMAT}”."
        )
    if data["format"] != FORMAT:
        raise EffectError("format", f"{shown(data['format'])} is not an effect; it must say “{FORMAT}”.")
    version = data.get("version")
    if isinstance(version, bool) or not isinstance(version, int) or version < 1:
        raise EffectError("version", f"this must be a whole number from 1 to {newest}, not {shown(version)}.")
    if version > newest:
        raise EffectError(
            "version",
            f"this file is of version {shown(version)}, made by a newer Pale Ember; this one reads up "
            f"to {newest}.",
        )
    while version < newest:
        data = {**steps[version](data), "version": version + 1}
        version += 1
    return data

"""Older versions of the file, brought up to the present one step at a time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from .effect import FORMAT, VERSION
from .errors import EffectError, shown


def _noon(data: dict[str, Any]) -> dict[str, Any]:
    """The backdrop of daylight is called noon; an effect of version 1 looked through its floor."""
    stage = data.get("stage")
    if isinstance(stage, dict) and stage.get("backdrop") == "day":
        data = {**data, "stage": {**stage, "backdrop": "noon"}}
    return data


def _as_it_is(data: dict[str, Any]) -> dict[str, Any]:
    """The next version has more steps and fields; what this one had means the same."""
    return data


# From version n to n + 1. Each takes the file's data and returns it changed.
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _noon, 2: _as_it_is, 3: _as_it_is, 4: _as_it_is}


def migrated(
    data: dict[str, Any],
    steps: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = MIGRATIONS,
    newest: int = VERSION,
) -> dict[str, Any]:
    """Return a file's data as the present version has it; refuse what is newer or of another kind."""
    if "format" not in data:
        raise EffectError("format", f"this is missing, so the file may not be an effect; it must say “{FORMAT}”.")
    if data["format"] != FORMAT:
        raise EffectError("format", f"{shown(data['format'])} is not an effect; it must say “{FORMAT}”.")
    version = data.get("version")
    if isinstance(version, bool) or not isinstance(version, int) or version < 1:
        raise EffectError("version", f"this must be a whole number from 1 to {newest}, not {shown(version)}.")
    if version > newest:
        raise EffectError(
            "version",
            f"this file is of version {shown(version)}, made by a newer Pale Ember; this one reads up to {newest}.",
        )
    while version < newest:
        data = {**steps[version](data), "version": version + 1}
        version += 1
    return data

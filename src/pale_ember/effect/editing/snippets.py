"""Layers and keys as texts of their own, written as in a file: what a clipboard carries from effect to
effect.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from ..effect import FORMAT, VERSION, Effect, Layer, new_id
from ..errors import EffectError
from ..rules.fields import FieldKind, Rule
from ..rules.reading import key_data, read_field
from ..storing.storage import parse_effect, part_data, pretty
from ..textures import Texture
from ..values.colors import Stop

LAYERS, KEYS, FIELD, CHAPTER = (f"pale-ember/{what}" for what in ("layers", "keys", "field", "chapter"))
KINDS = {
    "pale-ember/steps": "steps",
    LAYERS: "layers",
    KEYS: "keys",
    FIELD: "field",
    CHAPTER: "chapter",
    FORMAT: "effect",
}


def snippet_kind(text: str) -> str:
    """Return what a text holds: ``layers``, ``keys``, ``field``, ``chapter``, ``steps`` or ``effect``;
    empty if none of these.
    """
    if not text.lstrip().startswith("{") or "pale-ember/" not in text[:4000]:
        return ""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        return ""
    return KINDS.get(str(data.get("format", "")), "") if isinstance(data, dict) else ""


def layers_text(layers: Iterable[Layer], textures: Iterable[Texture] = ()) -> str:
    """Return layers, and textures that they wear, as text."""
    data: dict[str, Any] = {
        "format": LAYERS,
        "version": VERSION,
        "layers": [part_data(layer) for layer in layers],
    }
    worn = [part_data(texture) for texture in textures]
    return pretty(data | ({"textures": worn} if worn else {}), 0) + "\n"


def parse_layers(text: str) -> Effect:
    """Return an effect of the layers and textures in a text that :func:`layers_text` or a whole file gave;
    layers get ids.

    Raises
    ------
    EffectError
        If it is neither, or something in it is wrong.
    """
    kind = snippet_kind(text)
    if kind not in ("layers", "effect"):
        raise EffectError(
            "clipboard", "there is no layer on the clipboard; copy one with Ctrl+C in the timeline."
        )
    data = json.loads(text)
    if kind == "layers":
        layers = data.get("layers")
        rows = [one for one in layers if isinstance(one, dict)] if isinstance(layers, list) else []
        fresh = {str(one["id"]): new_id() for one in rows if one.get("id")}
        given = dict(fresh)
        for one in rows:
            origin = one.get("origin")
            if isinstance(origin, dict) and str(origin.get("parent")) in fresh:
                origin["parent"] = fresh[str(origin["parent"])]
            place = one.get("birthplace")
            if isinstance(place, dict):
                for end in ("start_on", "end_on"):
                    kind, _, name = str(place.get(end, "")).partition(":")
                    if kind == "layer" and name in fresh:
                        place[end] = f"layer:{fresh[name]}"
            # One without an id, or with another's, gets its own all the same.
            one["id"] = given.pop(str(one.get("id")), None) or new_id()
        worn = {"textures": data["textures"]} if "textures" in data else {}
        data = {"format": FORMAT, "version": data.get("version", VERSION), "layers": layers, **worn}
    return parse_effect(json.dumps(data))


@dataclass(frozen=True)
class KeyRun:
    """Keys or stops of one line: the path of its Value in the layer, its side, and the points."""

    path: str
    side: int
    points: tuple[Any, ...]


def keys_text(runs: Sequence[KeyRun]) -> str:
    """Return keys and stops of some lines as text."""
    rows: list[dict[str, Any]] = []
    for run in runs:
        row: dict[str, Any] = {"path": run.path, "side": run.side}
        if run.points and isinstance(run.points[0], Stop):
            row["stops"] = [[stop.x, stop.color] for stop in run.points]
        else:
            row["keys"] = [key_data(key) for key in run.points]
        rows.append(row)
    return pretty({"format": KEYS, "lines": rows}, 0) + "\n"


def parse_keys(text: str) -> list[KeyRun]:
    """Return what :func:`keys_text` wrote.

    Raises
    ------
    EffectError
        If the text is something else, or something in it is wrong.
    """
    if snippet_kind(text) != "keys":
        raise EffectError(
            "clipboard", "there are no keys on the clipboard; copy some with Ctrl+C in the life strip."
        )
    anywhere = ("life", "clock", "speed", "frames")
    found = []
    for row in json.loads(text).get("lines", ()):
        if not isinstance(row, dict) or not isinstance(row.get("path"), str) or row.get("side") not in (0, 1):
            raise EffectError("clipboard", "the keys on the clipboard are damaged; copy them again.")
        if "stops" in row:
            points = read_field(
                Rule(FieldKind.COLOR_VALUE, "", "", along=anywhere), {"gradient": row["stops"]}
            ).stops
        else:
            points = read_field(
                Rule(FieldKind.VALUE, "", "", along=anywhere), {"curve": row.get("keys")}
            ).keys
        found.append(KeyRun(row["path"], row["side"], points))
    if not found:
        raise EffectError(
            "clipboard", "there are no keys on the clipboard; copy some with Ctrl+C in the life strip."
        )
    return found

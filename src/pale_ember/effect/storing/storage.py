"""Effects as text and as files: only what differs from the defaults, short things on one line."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..chapters.source import SHIPPED_MESHES
from ..effect import Effect
from ..errors import EffectError, shown
from ..rules.fields import FieldKind, Rule
from ..rules.part import Part
from ..rules.reading import color_data, plain, points_text, value_data
from ..rules.refusals import refusal
from ..values.colors import ColorValue, Stop
from ..values.values import Value, Vec3Value
from .migrations import migrated
from .whole_files import read_regular, write_whole

ALWAYS = {"format", "version", "name", "id", "step"}
LARGEST = 64 << 20
WIDTH = 100


def part_data(part: Part) -> dict[str, Any]:
    """Return a part as plain data, leaving out what is at its default."""
    found: dict[str, Any] = {}
    rules = type(part).rules()
    for name in type(part).model_fields:
        now = getattr(part, name)
        if name not in ALWAYS and now == type(part).default_of(name):
            continue
        found[name] = field_data(now, rules.get(name))
    return found


def field_data(now: Any, rule: Rule | None) -> Any:
    """Return a field's value as plain data, as files have it."""
    if isinstance(now, Part):
        return part_data(now)
    if rule is not None and rule.kind == FieldKind.POINTS:
        return points_text(now)
    if isinstance(now, Vec3Value):
        return [field_data(part, rule) for part in now]
    if isinstance(now, Value | ColorValue):
        data = value_data(now) if isinstance(now, Value) else color_data(now)
        if isinstance(data, dict) and rule and data.get("along") == rule.along[0]:
            del data["along"]
        return data
    if isinstance(now, Stop):
        return [plain(now.x), now.color]
    if isinstance(now, tuple):
        return [field_data(part, rule) for part in now]
    return plain(now) if isinstance(now, float) else now


def effect_text(effect: Effect) -> str:
    """Return an effect as the text of its file."""
    return pretty(part_data(effect), 0) + "\n"


def pretty(data: Any, depth: int) -> str:
    """Return plain data as JSON: what is short on one line, unless objects lie in it.

    Parameters
    ----------
    data : dict, list, str, float, int, bool or None
    depth : int
        How deep it lies in a whole; at 0 a dict or list is always laid out.
    """
    return _laid_out(data, depth)[0]


def _laid_out(data: Any, depth: int) -> tuple[str, str]:
    """Return data as it is laid out, and all on one line; each part of it is written once."""
    if isinstance(data, dict):
        names, parts = (
            [f"{_one_line(name)}: " for name in data],
            [_laid_out(value, depth + 1) for value in data.values()],
        )
        structured, ends = any(isinstance(value, dict) for value in data.values()), "{}"
    elif isinstance(data, list):
        names, parts, structured, ends = (
            [""] * len(data),
            [_laid_out(value, depth + 1) for value in data],
            False,
            "[]",
        )
    else:
        flat = _one_line(data)
        return flat, flat
    flat = ends[0] + ", ".join(name + part[1] for name, part in zip(names, parts, strict=True)) + ends[1]
    if not parts or (len(flat) + 2 * depth <= WIDTH and not structured and depth > 0):
        return flat, flat
    inner = "\n" + "  " * (depth + 1)
    rows = ",".join(inner + name + part[0] for name, part in zip(names, parts, strict=True))
    return ends[0] + rows + "\n" + "  " * depth + ends[1], flat


_one_line = json.JSONEncoder(ensure_ascii=False).encode


def parse_effect(text: str | bytes) -> Effect:
    """Return the effect that a file's text describes.

    Raises
    ------
    EffectError
        With the place and one sentence, whatever is wrong.
    """
    if isinstance(text, bytes):
        try:
            text = text.decode("utf-8-sig")
        except UnicodeDecodeError as wrong:
            raise EffectError(
                f"byte {wrong.start}", "the file is not UTF-8 text; save it as UTF-8."
            ) from None
    try:
        data = json.loads(text, parse_constant=_no_constant, object_pairs_hook=_no_twins)
    except json.JSONDecodeError as wrong:
        reason = wrong.msg[0].lower() + wrong.msg[1:]
        raise EffectError(
            f"line {wrong.lineno}, column {wrong.colno}", f"the file is not whole JSON: {reason}."
        ) from None
    except RecursionError:
        raise EffectError("file", "brackets are nested too deeply for an effect.") from None
    except EffectError:
        raise
    except ValueError:
        raise EffectError("file", "a number in the file has too many digits to be read.") from None
    except MemoryError:
        raise EffectError("file", "there is not enough memory to read the file.") from None
    if not isinstance(data, dict):
        raise EffectError("file", "an effect is an object in braces, {…}; this file holds something else.")
    try:
        return Effect.model_validate(migrated(data))
    except ValidationError as wrong:
        raise refusal(wrong, "", Effect) from None
    except RecursionError:
        raise EffectError("file", "brackets are nested too deeply for an effect.") from None


def _no_constant(word: str) -> float:
    raise EffectError("file", f"{word} is not a number that can be used; give a finite one.")


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """Return an object's pairs as a dictionary; refuse names that stand twice or can't be written."""
    found: dict[str, Any] = {}
    for name, value in pairs:
        if any(0xD800 <= ord(c) < 0xE000 for c in name):
            raise EffectError(
                "file",
                f"a name in it ({shown(name, 40)}) holds half a character (a lone surrogate); type it anew.",
            )
        if name in found:
            raise EffectError(
                f"“{shown(name, 60)[1:-1]}”", "this name stands twice in one object; take one of them out."
            )
        found[name] = value
    return found


def load_effect(path: str | os.PathLike[str]) -> Effect:
    """Return the effect in a file.

    Raises
    ------
    EffectError
        If the file can't be read or is wrong; nothing else is raised.
    """
    return effect_in(read_regular(path, LARGEST), path)


def effect_in(data: bytes, path: str | os.PathLike[str]) -> Effect:
    """Return the effect in a file's bytes; what it names lies where the file does."""
    folder = Path(os.path.abspath(path)).parent
    return with_files(parse_effect(data), lambda file: os.path.normpath(folder / file))


def save_effect(effect: Effect, path: str | os.PathLike[str]) -> None:
    """Write an effect to a file, whole or not at all.

    Raises
    ------
    EffectError
        If it can't be written; what was there before stays.
    """
    folder = str(Path(os.path.realpath(path)).parent)
    write_whole(
        path, effect_text(with_files(effect, lambda file: _as_seen_from(folder, file))).encode("utf-8")
    )


def with_files(effect: Effect, name: Callable[[str], str]) -> Effect:
    """Return the effect with each file that it names called otherwise; shipped meshes keep their names."""
    textures = tuple(texture.with_files(name) for texture in effect.textures)
    if any(new is not old for new, old in zip(textures, effect.textures, strict=True)):
        effect = effect.model_copy(update={"textures": textures})
    stage = effect.stage
    if stage.picture and name(stage.picture) != stage.picture:
        stage = stage.model_copy(update={"picture": name(stage.picture)})
    props = tuple(
        prop.model_copy(update={"mesh": name(prop.mesh)})
        if prop.mesh and prop.mesh not in SHIPPED_MESHES
        else prop
        for prop in stage.props
    )
    if props != stage.props:
        stage = stage.model_copy(update={"props": props})
    if stage is not effect.stage:
        effect = effect.model_copy(update={"stage": stage})
    layers = list(effect.layers)
    for i, layer in enumerate(layers):
        mesh = layer.birthplace.mesh
        if mesh and mesh not in SHIPPED_MESHES and (called := name(mesh)) != mesh:
            place = layer.birthplace.model_copy(update={"mesh": called})
            layers[i] = layer = layer.model_copy(update={"birthplace": place})
        mesh = layer.look.mesh.mesh
        if mesh and mesh not in SHIPPED_MESHES and (called := name(mesh)) != mesh:
            body = layer.look.mesh.model_copy(update={"mesh": called})
            layers[i] = layer.model_copy(update={"look": layer.look.model_copy(update={"mesh": body})})
    return effect if tuple(layers) == effect.layers else effect.model_copy(update={"layers": tuple(layers)})


def _as_seen_from(folder: str, file: str) -> str:
    """Return a file's path from a folder if it lies in it or beside it, so that both may be moved
    together.
    """
    whole = os.path.abspath(file)
    return (
        os.path.relpath(whole, folder)
        if whole.startswith(os.path.dirname(folder).rstrip("/") + "/")
        else whole
    )

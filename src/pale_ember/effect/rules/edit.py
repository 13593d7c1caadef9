"""Edits: a path and a value give a new Effect that shares all that did not change."""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence
from typing import Any, TypeVar

from pydantic import ValidationError

from ..errors import EffectError, nearest
from ..values.colors import ColorValue
from ..values.values import Value, Vec3Value
from .part import Part
from .reading import color_data, value_data
from .refusals import refusal

STEP = re.compile(r"\.?([A-Za-z_][A-Za-z_0-9]*)|\[(\d{1,6})\]")
Step = str | int
Owner = TypeVar("Owner", bound=Part)


@functools.lru_cache(maxsize=4096)
def parse_path(path: str) -> tuple[Step, ...]:
    """Return a path's steps: ``layers[0].emit.rate`` gives ``("layers", 0, "emit", "rate")``."""
    steps: list[Step] = []
    at = 0
    while at < len(path):
        found = STEP.match(path, at)
        if found is None or (at == 0 and path[0] in ".["):
            raise EffectError(path, f"this is not a path; it breaks off at “{path[at:][:20]}”.")
        steps.append(found[1] if found[1] else int(found[2]))
        at = found.end()
    if not steps:
        raise EffectError("", "the path is empty; name a field, such as layers[0].emit.rate.")
    return tuple(steps)


def written(steps: Sequence[Step]) -> str:
    """Return steps as a path."""
    return "".join(f"[{s}]" if isinstance(s, int) else f".{s}" for s in steps).lstrip(".")


def get(part: Part, path: str) -> Any:
    """Return what is at a path inside a part, such as an effect: a model, a Value, a number."""
    found: Any = part
    steps = parse_path(path)
    for at, step in enumerate(steps):
        # The window asks for hundreds of fields at each edit: what all but every step does goes first.
        if isinstance(found, Part) and step in _names_of(type(found)):
            found = getattr(found, str(step))
            continue
        # A part of a Vec3Value is a Value, not the plain data that deeper steps are taken in.
        whole = isinstance(found, Vec3Value) and step in (0, 1, 2)
        found = list(found)[int(step)] if whole else _child(found, steps, at)
    return found


@functools.cache
def _names_of(kind: type[Part]) -> frozenset[str]:
    """Return the names of a part's fields."""
    return frozenset(kind.model_fields)


def edited(part: Owner, path: str, value: Any) -> Owner:
    """Return a part, such as an effect, with what is at a path inside it replaced; see
    :meth:`Effect.edit`.
    """
    return _replaced(part, parse_path(path), 0, value)  # type: ignore[no-any-return]


def _replaced(node: Any, steps: Sequence[Step], at: int, value: Any) -> Any:
    """Return a node with what the steps from ``at`` on lead to replaced."""
    step = steps[at]
    old = _child(node, steps, at)
    new = value if at == len(steps) - 1 else _replaced(old, steps, at + 1, value)
    if new is old:
        return node
    node = _plain(node)
    if isinstance(node, Part):
        assert isinstance(step, str)
        return _with_field(node, step, new, steps[:at])
    if isinstance(node, dict):
        return {**node, step: new}
    assert isinstance(node, list | tuple) and isinstance(step, int)
    return type(node)((*node[:step], new, *node[step + 1 :]))


def _with_field(node: Part, name: str, new: Any, done: Sequence[Step]) -> Part:
    fields = {key: getattr(node, key) for key in type(node).model_fields}
    fields[name] = new
    try:
        read = getattr(type(node).model_validate(fields), name)
    except ValidationError as wrong:
        raise refusal(wrong, written(done), type(node)) from None
    old = getattr(node, name)
    kept = _kept(old, read)
    # Validation makes new objects of all fields; only the one that was meant is taken from it.
    return node if kept is old else node.model_copy(update={name: kept})


def _kept(old: Any, new: Any) -> Any:
    """Return the old object where the new one is equal, so that comparing by identity finds no change."""
    if type(new) is type(old) and new == old:
        return old
    if isinstance(old, Vec3Value) and isinstance(new, Vec3Value):
        return Vec3Value(*(_kept(a, b) for a, b in zip(old, new, strict=True)))
    # A stop or a key is a tuple too, but one with names.
    if type(old) is tuple and type(new) is tuple:
        return tuple(_kept(a, b) for a, b in zip(old, new)) + new[len(old) :]
    return new


def _child(node: Any, steps: Sequence[Step], at: int) -> Any:
    """Return what the step at an index leads to; Values are walked as their plain data."""
    step = steps[at]
    node = _plain(node)
    if isinstance(node, Part):
        fields = type(node).model_fields
        if step not in fields:
            raise EffectError(
                written(steps[: at + 1]), f"there is no such field; {nearest(str(step), list(fields))}"
            )
        return getattr(node, str(step))
    if isinstance(node, dict):
        if step not in node:
            raise EffectError(
                written(steps[: at + 1]),
                f"there is nothing of this name; {nearest(str(step), map(str, node))}",
            )
        return node[step]
    if isinstance(node, list | tuple):
        if not isinstance(step, int) or step >= len(node):
            raise EffectError(
                written(steps[: at + 1]), f"{written(steps[:at])} has {len(node)} entries, counted from 0."
            )
        return node[step]
    raise EffectError(written(steps[: at + 1]), f"{written(steps[:at])} has no parts.")


def _plain(node: Any) -> Any:
    if isinstance(node, Value | Vec3Value):
        return value_data(node)
    return color_data(node) if isinstance(node, ColorValue) else node

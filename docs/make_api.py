"""Prints the page of the Python API from the docstrings: ``python docs/make_api.py > docs/api.md``."""

from __future__ import annotations

import dataclasses
import inspect
import re
from types import ModuleType
from typing import Any

from pale_ember import checks, effect, simulation
from pale_ember.files import figures, pictures

PAGES: tuple[tuple[ModuleType, tuple[str, ...]], ...] = (
    (
        effect,
        (
            "load_effect",
            "parse_effect",
            "save_effect",
            "effect_text",
            "get",
            "Effect",
            "Layer",
            "EffectError",
        ),
    ),
    (simulation, ("Simulation", "Particles")),
    (checks, ("find_problems",)),
    (figures, ("stats",)),
    (pictures, ("render_file", "filmstrip_file")),
)
# What a part of the model inherits from its base is no business of this page.
METHODS: dict[str, tuple[str, ...]] = {
    "Effect": ("edit", "layer", "index", "texture"),
    "Layer": (),
    "EffectError": (),
}


def signature(item: Any) -> str:
    """Return how a function or class is called, as one would write it."""
    plain = re.sub(r"'([^']*)'", r"\1", str(inspect.signature(item)))
    return re.sub(r"<[^<>]*(<\w+>)?[^<>]* at 0x\w+>", "…", plain)


def described(item: Any) -> str:
    """Return a docstring with its sections as the page shows them."""
    lines = inspect.getdoc(item) or ""
    return lines.replace("``", "`").replace(":meth:", "").replace(":class:", "").replace(":func:", "")


def block(text: str) -> str:
    """Return a docstring as Markdown: its first lines as text, its sections as they are aligned."""
    head, line, rest = text.partition("\n\n")
    return head + (f"\n\n```text\n{rest}\n```" if line else "")


def entry(name: str, item: Any) -> list[str]:
    """Return the lines of a function or class, and of its methods."""
    if not inspect.isclass(item):
        return [f"### `{name}{signature(item)}`", "", block(described(item)), ""]
    takes = "" if name in METHODS or dataclasses.is_dataclass(item) else signature(item)
    found = [f"### class `{name}{takes}`", "", block(described(item)), ""]
    for method in METHODS.get(name, tuple(vars(item))):
        member = inspect.getattr_static(item, method)
        if method.startswith("_") or not callable(getattr(item, method)):
            continue
        found += [f"#### `{method}{signature(getattr(item, method))}`", "", block(described(member)), ""]
    return found


def page() -> str:
    """Return the whole page."""
    found = [
        "# The Python API",
        "",
        "Made from the docstrings by `docs/make_api.py`. Layers are named by id, or by name.",
        "",
    ]
    for module, names in PAGES:
        found += [f"## `{module.__name__}`", "", block(described(module)), ""]
        for name in names:
            found += entry(name, getattr(module, name))
    return "\n".join(found).rstrip() + "\n"


if __name__ == "__main__":
    print(page(), end="")

"""The artist's own curve shapes, as files beside each other."""

from __future__ import annotations

import json
import os
from pathlib import Path

import platformdirs

from ..effect.errors import EffectError
from ..effect.rules.fields import FieldKind, Rule
from ..effect.rules.reading import key_data, read_field
from ..effect.storing.whole_files import read_regular, write_whole
from ..effect.values.curves import Keys
from ..effect.values.values import Curve
from .library import file_for, free_among

MARK = "pale-ember/shape"
LARGEST = 1 << 20
_RULE = Rule(FieldKind.VALUE, "Shape", "", along=("life",))


def shapes_folder() -> Path:
    """Return where the artist's own shapes are kept; ``PALE_EMBER_SHAPES`` names another place."""
    return Path(
        os.environ.get("PALE_EMBER_SHAPES") or Path(platformdirs.user_data_dir("pale-ember")) / "shapes"
    )


def own_shapes() -> tuple[dict[str, Keys], list[str]]:
    """Return the artist's own shapes by name, and a sentence for each file that is wrong."""
    found, wrong = {}, []
    for path in sorted(shapes_folder().glob("*.json")):
        try:
            name, keys = _read(path)
            found[name] = keys
        except (OSError, ValueError, KeyError, TypeError, RecursionError) as problem:
            wrong.append(f"{path.name} is left out of the shapes: it is no shape file ({problem}).")
        except EffectError as problem:
            wrong.append(f"{path.name} is left out of the shapes. {problem}")
    return found, wrong


def _read(path: Path) -> tuple[str, Keys]:
    data = json.loads(read_regular(path, LARGEST))
    if not isinstance(data, dict) or data.get("format") != MARK or not isinstance(data.get("name"), str):
        raise ValueError(f"its format is not “{MARK}”")
    value = read_field(_RULE, {"curve": data["keys"]})
    assert isinstance(value, Curve)
    return data["name"][:60], value.keys


def keep_shape(name: str, keys: Keys) -> Path:
    """Save a shape in the unit square as one of the artist's own; one whose name is taken gets a number.

    Raises
    ------
    EffectError
        If the file can't be written.
    """
    name = free_among(name, own_shapes()[0])
    path = file_for(shapes_folder(), name, ".json", "shape")
    data = {"format": MARK, "name": name, "keys": [key_data(key) for key in keys]}
    write_whole(path, (json.dumps(data, ensure_ascii=False, indent=2) + "\n").encode())
    return path

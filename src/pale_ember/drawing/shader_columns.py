"""The lines of shaders that declare what particles carry, made from the model's columns.

A vertex shader gets a column as ``in_`` and its name: an attribute where the particles of a layer differ in
it, else a uniform. A column that names a feature is passed on to the fragment shader, under that feature, as
``its_`` and its name; such a column is one number.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from ..effect.kinds import DrawnAs
from ..simulation.layout.instances import ALWAYS, NAMES, WITH_COLOR, parts_of
from ..simulation.layout.slots import STRAIGHT

# All that a layer's particles may share.
OPTIONAL = tuple(name for name in NAMES if name not in ALWAYS)
# Columns that are read along a band, one value for each point. Colour, opacity and intensity are one there.
ALONG_BANDS = (
    "frame",
    *(
        name
        for name, straight in STRAIGHT.items()
        if straight.parts == 1
        and name not in WITH_COLOR
        and (not straight.rule.draws or DrawnAs.RIBBON in straight.rule.draws)
    ),
)
# Attributes of meshes, packed in fours where possible: their number is limited. ``size.x`` is the
# first number of ``size``.
_PACKED = {
    "place_width": ("place", "size.x"),
    "turn": ("turn",),
    "stretch_height": ("stretch", "size.y"),
    "light": ("color", "opacity"),
    "more": ("intensity", "frame", "mix", "rim_light"),
    "noise": ("erode", "bend", "shimmer", "lived"),
    "dice": ("dice",),
}
MESH_ATTRIBUTES: dict[str, tuple[str, ...]] = _PACKED | {
    name: (name,) for name in STRAIGHT if not any(name in packed for packed in _PACKED.values())
}
# The feature under which each is passed on.
PASSED = {name: straight.column.feature for name, straight in STRAIGHT.items() if straight.column.feature}
_MARK = re.compile(r"^( *)//: (columns|each out|each in|pass on)$", re.MULTILINE)


def wide(part: str) -> int:
    """Return how many numbers a packed part is."""
    return 1 if "." in part else parts_of(part)


def _type(parts: int) -> str:
    return "float" if parts == 1 else f"vec{parts}"


def _carried_or_shared(names: tuple[str, ...]) -> list[str]:
    """Return declarations of columns: read from instances, or one value for all."""
    return [
        line
        for name in names
        for line in (
            f"#ifdef {name.upper()}",
            f"in {_type(parts_of(name))} in_{name};",
            "#else",
            f"uniform {_type(parts_of(name))} in_{name};",
            "#endif",
        )
    ]


def _unpacked() -> list[str]:
    """Return the attributes of meshes, and what each part of them is called."""
    lines = []
    for attribute, parts in MESH_ATTRIBUTES.items():
        at, alone = 0, parts == (attribute,)
        lines.append(f"in {_type(sum(map(wide, parts)))} in_{attribute};")
        for part in () if alone else parts:
            lines.append(f"#define in_{part.replace('.', '_')} in_{attribute}.{'xyzw'[at : at + wide(part)]}")
            at += wide(part)
    return lines


_COLUMNS: dict[str, Callable[[], list[str]]] = {
    # An angle that all share is told by its cosine and sine.
    "particle.vert": lambda: _carried_or_shared(tuple(name for name in OPTIONAL if name != "angle")),
    "ribbon.vert": lambda: _carried_or_shared(ALONG_BANDS),
    "mesh.vert": _unpacked,
}


def with_columns(shader: str, source: str) -> str:
    """Return a shader's source with its marks, such as ``//: columns``, replaced by what they stand for.

    Parameters
    ----------
    shader : str
        Its file's name without the ending, such as ``particle.vert``.
    """

    def lines(mark: re.Match[str]) -> str:
        indent, kind = mark[1], mark[2]
        if kind == "columns":
            return "\n".join(_COLUMNS[shader]())
        found = []
        for name, feature in PASSED.items():
            line = f"its_{name} = in_{name};" if kind == "pass on" else f"EACH {kind[5:]} float its_{name};"
            found += [f"#ifdef {feature}", indent + line, "#endif"]
        return "\n".join(found)

    return _MARK.sub(lines, source)

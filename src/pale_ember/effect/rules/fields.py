"""What each field of the model says of itself: kind, unit, limits, label and help.

The property panel, the JSON Schema, the tooltips and the reference page are made from these rules, and
every value that enters the model is read by its rule.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, NamedTuple

from pydantic import Field

from ..read_at import ReadAt
from ..values.colors import Flat, Stop
from ..values.values import Fixed, Value, Vec3Value

HUGE = 1e9


class FieldKind(StrEnum):
    """What kind of thing a field holds; each has a reader, a control and a place in the schema."""

    VALUE = "value"
    VEC3_VALUE = "vec3_value"
    COLOR_VALUE = "color_value"
    NUMBER = "number"
    INTEGER = "integer"
    VEC2 = "vec2"
    VEC3 = "vec3"
    COLOR = "color"
    STOPS = "stops"
    FLAG = "flag"
    CHOICE = "choice"
    MESH = "mesh"
    LAYER = "layer"
    ANCHOR = "anchor"
    TEXTURE = "texture"
    PICTURE = "picture"
    PICTURES = "pictures"
    POINTS = "points"
    FRAMES = "frames"
    TEXT = "text"


class Column(NamedTuple):
    """Numbers that each particle carries to the graphics card, if they differ among a layer's particles.

    Parameters
    ----------
    name : str
        The column's name in instances; shaders know it as ``in_`` and the name.
    neutral : float
        What stands there for layers that don't use the field.
    feature : str
        The shaders' feature under which the fragment shader gets it, as ``its_`` and the name; empty if it
        doesn't. It is defined wherever the number isn't neutral.
    """

    name: str
    neutral: float = 0.0
    feature: str = ""


@dataclass(frozen=True)
class Rule:
    """What a field takes, and what it says of itself.

    Attributes
    ----------
    kind : FieldKind
    hard : (float, float)
        Limits that are refused when passed, both ends allowed.
    soft : (float, float)
        The range that a drag covers at ease; typing may pass it.
    along : tuple of str
        The axes that a curve of this field may run along, each an ``Along``; the first is the usual one.
    choices : tuple of StrEnum
        The members of a choice's enumeration.
    digits : int
        Decimals that the panel shows.
    only : (str, tuple of str) or None
        A field beside this one, and the values of it for which this field counts.
    group : str
        What it is put away under while it is at its default; empty for what is always in view.
    also : str
        Other words that people look for it by.
    needs : str
        A field beside this one that must be in use for this one to count.
    lines : int
        How many lines a text is typed in.
    draws : tuple of DrawnAs
        What a layer's particles must be drawn as for the field to count; empty for all.
    read_at : ReadAt or None
        When kernels read the Value; None if none does. Its slots follow from this and from the order of
        declaration.
    scaled : bool
        Whether it is a length, or a speed or acceleration of one, and so grows with its layer's scale.
    column : Column or None
        Where what is drawn carries the Value as it is; None if nothing does.
    cost : float
        About what it takes more for a particle in a step where it isn't at its default, s.
    """

    kind: FieldKind
    label: str
    help: str
    unit: str = ""
    hard: tuple[float, float] = (-HUGE, HUGE)
    soft: tuple[float, float] = (0.0, 1.0)
    along: tuple[str, ...] = ()
    digits: int = 2
    choices: tuple[StrEnum, ...] = ()
    only: tuple[str, tuple[str, ...]] | None = None
    optional: bool = False
    group: str = ""
    also: str = ""
    needs: str = ""
    lines: int = 1
    draws: tuple[StrEnum, ...] = ()
    read_at: ReadAt | None = None
    scaled: bool = False
    column: Column | None = None
    cost: float = 0.0

    @property
    def words(self) -> str:
        """Return what can be chosen, as words."""
        return " ".join(self.choices)

    def counts_in(self, part: Any) -> bool:
        """Return whether the field counts in a part, given the one beside it that rules it."""
        return self.only is None or getattr(part, self.only[0]) in self.only[1]


def _field(default: Any, rule: Rule) -> Any:
    return Field(default=default, description=rule.help, json_schema_extra={"rule": rule})  # type: ignore[dict-item]


def value(default: float | Value, label: str, help: str, *, along: str = "clock life", **more: Any) -> Any:
    """Declare a Value field; ``along`` names the axes that its curves may run along."""
    start = default if isinstance(default, Value) else Fixed(float(default))
    return _field(start, Rule(FieldKind.VALUE, label, help, along=tuple(along.split()), **more))


STILL = Vec3Value(Fixed(0.0), Fixed(0.0), Fixed(0.0))


def vec3_value(
    label: str, help: str, *, along: str = "clock life", start: Vec3Value = STILL, **more: Any
) -> Any:
    """Declare a field of three Values, zero by default."""
    return _field(start, Rule(FieldKind.VEC3_VALUE, label, help, along=tuple(along.split()), **more))


def color_value(default: str, label: str, help: str, *, along: str, **more: Any) -> Any:
    """Declare a ColorValue field."""
    return _field(Flat(default), Rule(FieldKind.COLOR_VALUE, label, help, along=tuple(along.split()), **more))


def number(default: float | None, label: str, help: str, **more: Any) -> Any:
    """Declare a plain number."""
    return _field(default, Rule(FieldKind.NUMBER, label, help, optional=default is None, **more))


def integer(default: int, label: str, help: str, **more: Any) -> Any:
    """Declare a whole number."""
    return _field(default, Rule(FieldKind.INTEGER, label, help, digits=0, **more))


def vec3(default: tuple[float, float, float], label: str, help: str, **more: Any) -> Any:
    """Declare three plain numbers."""
    return _field(default, Rule(FieldKind.VEC3, label, help, **more))


def vec2(default: tuple[float, float], label: str, help: str, **more: Any) -> Any:
    """Declare two plain numbers."""
    return _field(default, Rule(FieldKind.VEC2, label, help, **more))


def color(default: str, label: str, help: str, **more: Any) -> Any:
    """Declare a plain colour."""
    return _field(default, Rule(FieldKind.COLOR, label, help, **more))


def stops(default: tuple[Stop, ...], label: str, help: str, **more: Any) -> Any:
    """Declare a plain gradient."""
    return _field(default, Rule(FieldKind.STOPS, label, help, **more))


def texture(default: str, label: str, help: str, **more: Any) -> Any:
    """Declare the name of one of the effect's textures."""
    return _field(default, Rule(FieldKind.TEXTURE, label, help, **more))


def picture(default: str, label: str, help: str, **more: Any) -> Any:
    """Declare a picture file."""
    return _field(default, Rule(FieldKind.PICTURE, label, help, **more))


def pictures(label: str, help: str, **more: Any) -> Any:
    """Declare a list of picture files."""
    return _field((), Rule(FieldKind.PICTURES, label, help, **more))


def points(label: str, help: str, **more: Any) -> Any:
    """Declare points of a stroke: x, y and pressure each."""
    return _field((), Rule(FieldKind.POINTS, label, help, **more))


def frames(label: str, help: str, **more: Any) -> Any:
    """Declare a list of a sheet's frames, by number."""
    return _field((), Rule(FieldKind.FRAMES, label, help, **more))


def flag(default: bool, label: str, help: str, **more: Any) -> Any:
    """Declare a yes or no."""
    return _field(default, Rule(FieldKind.FLAG, label, help, **more))


def choice(default: StrEnum, label: str, help: str, **more: Any) -> Any:
    """Declare one word out of those of the default's own enumeration."""
    return _field(default, Rule(FieldKind.CHOICE, label, help, choices=tuple(type(default)), **more))


def mesh(default: str, label: str, help: str, **more: Any) -> Any:
    """Declare a mesh: the name of a shipped one, or a file."""
    return _field(default, Rule(FieldKind.MESH, label, help, **more))


def layer(label: str, help: str, **more: Any) -> Any:
    """Declare the id of another layer; none by default."""
    return _field("", Rule(FieldKind.LAYER, label, help, **more))


def anchor(label: str, help: str, **more: Any) -> Any:
    """Declare what something stands on: ``prop:`` and a prop's name, or ``layer:`` and a layer's id;
    nothing by default.
    """
    return _field("", Rule(FieldKind.ANCHOR, label, help, **more))


def text(default: str, label: str, help: str, **more: Any) -> Any:
    """Declare a text."""
    return _field(default, Rule(FieldKind.TEXT, label, help, **more))

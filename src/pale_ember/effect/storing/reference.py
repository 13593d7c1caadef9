"""The reference page of all fields, made from the model's own rules."""

from __future__ import annotations

import json

from ..chapters.contact import Contact, Origin
from ..chapters.look import Look
from ..chapters.motion import Flight, Launch
from ..chapters.noises import Bend, Erode, Shimmer
from ..chapters.place import PathKey, Place
from ..chapters.source import Birthplace, Burst, Emit, Window
from ..chapters.stage import Camera, Light, Prop, Stage
from ..effect import Effect, Layer
from ..rules.descriptions import description_of
from ..rules.fields import HUGE, FieldKind, Rule
from ..rules.part import Part
from ..steps import STEPS
from ..textures import Build, Texture
from .storage import field_data

SECTIONS: tuple[tuple[str, type[Part]], ...] = (
    ("Effect", Effect),
    ("Stage", Stage),
    ("Light", Light),
    ("Prop", Prop),
    ("Camera", Camera),
    ("Texture", Texture),
    ("Build", Build),
    *((f"Step: {name}", kind) for name, kind in STEPS.items()),
    ("Layer", Layer),
    ("Place", Place),
    ("Path key", PathKey),
    ("Window", Window),
    ("Emit", Emit),
    ("Burst", Burst),
    ("Birthplace", Birthplace),
    ("Launch", Launch),
    ("Flight", Flight),
    ("Look", Look),
    ("Erode", Erode),
    ("Bend", Bend),
    ("Shimmer", Shimmer),
    ("Contact", Contact),
    ("Origin", Origin),
)

KINDS = {
    "value": "Value",
    "vec3_value": "Vec3Value",
    "color_value": "ColorValue",
    "number": "number",
    "integer": "whole number",
    "vec3": "Vec3",
    "flag": "yes or no",
    "choice": "choice",
    "vec2": "two numbers",
    "color": "colour",
    "stops": "gradient",
    "mesh": "mesh",
    "layer": "layer id",
    "anchor": "prop or layer",
    "texture": "texture",
    "picture": "picture file",
    "pictures": "picture files",
    "points": "points",
    "frames": "frames",
    "text": "text",
}


def reference_page() -> str:
    """Return the page as Markdown."""
    rows = [
        "# Fields",
        "",
        "Made by `pale-ember reference` from the model. A Value is fixed, a spread, a curve or a band; "
        "a ColorValue may be one of several colours too.",
        "",
    ]
    for title, model in SECTIONS:
        rows += [f"## {title}", "", description_of(model), ""]
        rows += [
            "| field | label | kind | unit | default | limits | along | what it does |",
            "|---|---|---|---|---|---|---|---|",
        ]
        for name, rule in model.rules().items():
            # As it is in a file.
            default = json.dumps(field_data(model.default_of(name), rule), ensure_ascii=False)
            cells = (
                f"`{name}`",
                rule.label,
                _kind(rule),
                rule.unit,
                f"`{default}`",
                _limits(rule),
                ", ".join(rule.along),
                rule.help,
            )
            rows.append("| " + " | ".join(cells) + " |")
        rows.append("")
    return "\n".join(rows)


def _kind(rule: Rule) -> str:
    return ", ".join(rule.choices) if rule.choices else KINDS[rule.kind]


def _limits(rule: Rule) -> str:
    """Return a field's limits in words; empty where it has none."""
    if rule.kind in (
        FieldKind.FLAG,
        FieldKind.CHOICE,
        FieldKind.MESH,
        FieldKind.LAYER,
        FieldKind.ANCHOR,
        FieldKind.TEXT,
        FieldKind.COLOR_VALUE,
        FieldKind.COLOR,
        FieldKind.STOPS,
        FieldKind.TEXTURE,
        FieldKind.PICTURE,
        FieldKind.PICTURES,
        FieldKind.POINTS,
        FieldKind.FRAMES,
    ):
        return ""
    low, high = (f"{end:g}" if abs(end) < HUGE else "" for end in rule.hard)
    return f"{low}…{high}" if low or high else ""

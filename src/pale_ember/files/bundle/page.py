"""The page of a bundle that says what it holds and what each field means."""

from __future__ import annotations

import html
import json
from collections.abc import Iterable, Iterator
from typing import Any

from ...effect.effect import Effect, Layer
from ...effect.rules.fields import Rule
from ...effect.rules.part import Part
from ...effect.storing.storage import effect_text, field_data
from .page_words import CONVENTIONS, FORMS, STEP, STYLE


def page_of(
    effect: Effect,
    figures: dict[str, Any],
    textures: list[dict[str, Any]],
    meshes: list[dict[str, Any]],
    tables: list[dict[str, Any]],
    more: dict[str, str],
) -> bytes:
    """Return the page as HTML that needs nothing besides itself.

    Parameters
    ----------
    effect : Effect
        As it is in the bundle.
    more : dict
        Which of ``player``, ``runtime`` and ``vectors`` there are.
    """
    parts = [
        f"<h1>{_safe(effect.name)}</h1>",
        f"<p>{_safe(effect.notes)}</p>" if effect.notes else "",
        _contents(effect, more, bool(meshes)),
        _figures(figures),
        _textures(textures),
        _meshes(meshes),
        f"<h2>How to read it</h2>{CONVENTIONS}{FORMS}{STEP}",
        _tables(tables),
        "<h2>Layers</h2><p>What each layer has that differs from the defaults; all else is at the "
        "default of <code>effect.schema.json</code>.</p>",
        *(_layer(layer, i) for i, layer in enumerate(effect.layers)),
        "<h2>The effect’s own fields</h2>",
        _fields(effect, "", {"layers", "textures"}),
    ]
    body = "\n".join(part for part in parts if part)
    head = f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{_safe(effect.name)}</title>'
    return (
        f'{head}<meta name="viewport" '
        f'content="width=device-width"><style>{STYLE}</style></head>\n<body><main>\n{body}\n</main></body></html>\n'.encode()
    )


def _safe(what: object) -> str:
    return html.escape(str(what))


def _table(heads: tuple[str, ...], rows: Iterable[tuple[str, ...]]) -> str:
    """Return a table of cells that are HTML already."""
    head = "".join(f"<th>{one}</th>" for one in heads)
    body = "".join("<tr>" + "".join(f"<td>{cell}</td>" for cell in row) + "</tr>\n" for row in rows)
    return f"<div class=wide><table><tr>{head}</tr>\n{body}</table></div>"


def _contents(effect: Effect, more: dict[str, str], meshes: bool) -> str:
    """Return the table of a bundle's files."""
    rows = [
        (
            "effect.json",
            "The effect itself, as an artist built it; short, and made to be read and compared. Pale "
            "Ember opens it.",
        ),
        (
            "effect.schema.json",
            "The JSON Schema of that file, with the meaning, unit, default and limits of every field.",
        ),
        (
            "bundle.json",
            "What is in this bundle, for programs: textures, meshes, figures, bounds, and each file "
            "with its SHA-256. Its schema is bundle.schema.json.",
        ),
        (
            "tables.json",
            "Every curve and gradient, evenly sampled, for engines that don’t want to evaluate keys.",
        ),
    ]
    if "player" in more:
        rows.append(
            (
                f'<a href="{more["player"]}">{more["player"]}</a>',
                "Plays the effect in any browser with WebGL 2, from baked particles. It needs no other "
                "file and no network. For one picture: "
                "<code>player.html#t=1.5&amp;paused&amp;size=960x600</code>.",
            )
        )
    if "runtime" in more:
        rows.append(
            (
                more["runtime"].rpartition("/")[0] + "/",
                "Plain code that simulates a layer, and numbers that prove another runtime right.",
            )
        )
    if effect.textures:
        rows.append(("textures/", "Pictures, ready for a game."))
    if meshes:
        rows.append(("meshes/", "Meshes as binary glTF, in metres."))
    if any(texture.files() for texture in effect.textures) or "sources/" in effect_text(effect):
        rows.append(("sources/", "The pictures and meshes that the effect itself names, as they came."))
    return "<h2>What is here</h2>" + _table(
        ("file", "what it is"),
        [(f"<code>{name}</code>" if "<" not in name else name, words) for name, words in rows],
    )


def _figures(figures: dict[str, Any]) -> str:
    """Return the table of the layers' figures."""
    heads = (
        "layer",
        "born",
        "born/s",
        "died",
        "hits",
        "refused",
        "alive, most",
        "alive, mean",
        "cap",
        "bounds, m",
    )
    rows = [
        (
            _safe(row["name"]),
            f"{row['born']:,}",
            f"{row['born_per_second']:g}",
            f"{row['died']:,}",
            f"{row['hits']:,}",
            f"{row['refused']:,}",
            f"{row['peak']:,}",
            f"{row['mean']:.1f}",
            f"{row['cap']:,}",
            _box(row["bounds"]),
        )
        for row in figures["layers"]
    ]
    said = (
        f"Over {figures['duration']:g} s at most {figures['peak']:,} particles are alive at once, "
        f"{figures['mean']:.1f} in the mean. "
    )
    said += (
        f"Textures take {figures['texture_memory'] / 2**20:.2f} MB unpacked, smaller copies included. "
        f"Bounds of all: {_box(figures['bounds'])}."
    )
    return f"<h2>What it costs</h2><p>{said}</p>" + _table(heads, rows)


def _box(box: Any) -> str:
    if box is None:
        return "nothing is drawn"
    return "; ".join(f"{axis} {low:.2f}…{high:.2f}" for axis, low, high in zip("xyz", *box, strict=True))


def _textures(rows: list[dict[str, Any]]) -> str:
    """Return the table of textures."""
    if not rows:
        return ""
    cells = [
        (
            f"<code>{_safe(row['file'])}</code>",
            f"{_safe(row['texture'])}, {row['kind']}",
            f"{row['size'][0]} × {row['size'][1]}",
            f"{row['frames']} in {row['columns']} × {row['rows']}" if row["frames"] > 1 else "one",
            row["encoding"],
            row["cover"],
            f"{row['format']}{_decibels(row)}",
            " ".join(row["swizzle"]),
            _safe(row["why"]),
        )
        for row in rows
    ]
    heads = (
        "file",
        "texture",
        "pixels",
        "frames",
        "colours",
        "cover",
        "stored as",
        "red green blue alpha are",
        "why",
    )
    words = (
        "<p>Frames go row by row from the upper left. Where red, green, blue or alpha are a number they "
        "are so everywhere; <code>z</code> is √(1 − x² − y²).</p>"
    )
    return "<h2>Textures</h2>" + words + _table(heads, cells)


def _decibels(row: dict[str, Any]) -> str:
    return f", {row['psnr']:.1f} dB" if "psnr" in row else ""


def _meshes(rows: list[dict[str, Any]]) -> str:
    """Return the table of meshes."""
    if not rows:
        return ""
    cells = [
        (
            f"<code>{_safe(row['file'])}</code>",
            row["use"],
            str(row["parts"]),
            f"{row['triangles']:,}",
            _safe(", ".join(row["worn_by"])),
        )
        for row in rows
    ]
    return "<h2>Meshes</h2>" + _table(("file", "use", "parts", "triangles", "worn by"), cells)


def _tables(tables: list[dict[str, Any]]) -> str:
    """Return the table of baked curves."""
    if not tables:
        return ""
    rows = [
        (
            f"<code>{row['path']}</code>",
            row["along"],
            str(row["samples"]),
            f"{row['range'][0]:g}…{row['range'][1]:g}",
            f"{row['error']:.2g}",
        )
        for row in tables
    ]
    return "<h2>Sampled curves and gradients</h2>" + _table(
        ("path", "along", "samples", "range", "error at most"), rows
    )


def _layer(layer: Layer, index: int) -> str:
    state = "" if layer.enabled else " (not enabled)"
    return (
        f"<h3>{_safe(layer.name)}{state} <small><code>layers[{index}]</code>, id {layer.id}</small></h3>"
        + _fields(layer, "", set())
    )


def _fields(part: Part, path: str, leave: set[str]) -> str:
    """Return the table of a part's fields that are in use."""
    rows = [
        (
            f"<code>{_safe(where)}</code>",
            _safe(rule.label),
            f"<code>{_safe(_value(value, rule))}</code>",
            rule.unit,
            _safe(rule.help),
        )
        for where, rule, value in in_use(part, path, leave)
    ]
    return (
        _table(("field", "name", "value", "unit", "meaning"), rows)
        if rows
        else "<p>All at their defaults.</p>"
    )


def in_use(part: Part, path: str, leave: set[str]) -> Iterator[tuple[str, Rule, Any]]:
    """Yield the fields in a part that are not at their defaults: path, rule and value."""
    rules = type(part).rules()
    for name in type(part).model_fields:
        if name in leave:
            continue
        value, where = getattr(part, name), f"{path}.{name}".lstrip(".")
        if isinstance(value, Part):
            yield from in_use(value, where, set())
        elif isinstance(value, tuple) and value and all(isinstance(one, Part) for one in value):
            for i, one in enumerate(value):
                yield from in_use(one, f"{where}[{i}]", set())
        elif name in rules and value != type(part).default_of(name):
            yield where, rules[name], value


def _value(value: Any, rule: Rule) -> str:
    said = json.dumps(field_data(value, rule), ensure_ascii=False)
    return said if len(said) <= 160 else said[:157] + "…"

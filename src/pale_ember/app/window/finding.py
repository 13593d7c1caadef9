"""All that can be found by typing: commands, fields of every chapter, layers."""

from __future__ import annotations

import functools

from PyQt6.QtGui import QAction

from ...effect.editing.build_moves import named
from ...effect.rules.descriptions import description_of
from ...effect.steps import STEPS
from ..recipe.chapter_table import CHAPTERS
from ..texture_bench.step_panel import fields_of
from ..widgets.finder import Finding
from .command_rows import COMMANDS
from .command_words import OTHER_WORDS
from .workplace import Workplace

# These words rather mean a command.
COMMAND_NOUNS = ("layer",)


def findings(place: Workplace, actions: dict[str, QAction]) -> list[Finding]:
    """Return what can be found now."""
    found = []
    for command in COMMANDS:
        action = actions[command.name]
        if action.isEnabled():
            keys = action.shortcut().toString()
            found.append(
                Finding(
                    action.text(),
                    command.group.lower(),
                    keys,
                    command.tip,
                    OTHER_WORDS.get(command.name, ""),
                    action.trigger,
                )
            )
    found += _on_bench(place)
    here = place.session.layer is not None
    for chapter, sections in CHAPTERS.items():
        for section in sections:
            if section.in_layer and not here:
                continue
            if section.is_list:
                go = functools.partial(_go, place, section.at, section.in_layer)
                found.append(Finding(section.word, chapter, "", "", section.also, go))
                continue
            where = f"{chapter} · {section.title}" if section.title else chapter
            if section.title and section.title.lower() not in COMMAND_NOUNS:
                first = functools.partial(_go, place, section.fields()[0][1], section.in_layer)
                found.append(Finding(section.title, chapter, "", "", "", first))
            for _, at, rule in section.fields():
                go = functools.partial(_go, place, at, section.in_layer)
                found.append(
                    Finding(rule.label, where, "", rule.help, f"{rule.also} {rule.group}", go, rule.words)
                )
    for texture in place.session.effect.textures:
        found.append(
            Finding(
                texture.name,
                "texture, to the bench",
                "",
                "",
                "picture sheet",
                functools.partial(place.bench.open, texture.name),
            )
        )
    for layer in place.session.effect.layers:
        found.append(
            Finding(layer.name, "layer", "", "", layer.group, functools.partial(_select, place, layer.id))
        )
    return found


def _on_bench(place: Workplace) -> list[Finding]:
    """Return the steps that can be added, and the fields of those that there are, while a texture is on
    the bench.
    """
    bench = place.bench
    if not bench.is_open:
        return []
    found = [
        Finding(
            name.capitalize(),
            "add a step",
            "",
            description_of(kind),
            "new step",
            functools.partial(bench.add, name),
        )
        for name, kind in STEPS.items()
    ]
    for i, step in enumerate(bench.steps):
        for name, rule in fields_of(step):
            path = bench.step_path(name, i)
            where = f"step {i + 1} · {named(step)}"
            found.append(
                Finding(
                    rule.label,
                    where,
                    "",
                    rule.help,
                    rule.also,
                    functools.partial(_go_on_bench, place, path),
                    rule.words,
                )
            )
    return found


def _go_on_bench(place: Workplace, path: str) -> None:
    place.panels.show("recipe")
    place.step_panel.go_to(path)


def _select(place: Workplace, layer_id: str) -> None:
    place.bench.close()
    place.session.select(layer_id)


def _go(place: Workplace, at: str, in_layer: bool) -> None:
    # The effect's fields are in view on the stage alone.
    place.bench.close()
    place.panels.show("recipe")
    place.recipe.go_to(at, in_layer)

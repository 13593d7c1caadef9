"""All that can be found by typing: commands, fields of every chapter, layers."""

from __future__ import annotations

import functools

from PyQt6.QtGui import QAction

from ..recipe.chapter_table import CHAPTERS
from ..widgets.finder import Finding
from .command_rows import COMMANDS
from .workplace import Workplace


def findings(place: Workplace, actions: dict[str, QAction]) -> list[Finding]:
    """Return what can be found now."""
    found = []
    for command in COMMANDS:
        action = actions[command.name]
        if action.isEnabled():
            keys = action.shortcut().toString()
            found.append(Finding(action.text(), command.group.lower(), keys, command.tip, "", action.trigger))
    here = place.session.layer is not None
    for chapter, sections in CHAPTERS.items():
        for section in sections:
            if section.is_list or (section.in_layer and not here):
                continue
            where = f"{chapter} · {section.title}" if section.title else chapter
            for _, at, rule in section.fields():
                go = functools.partial(_go, place, at, section.in_layer)
                found.append(Finding(rule.label, where, "", rule.help, f"{rule.also} {rule.group}", go))
    for layer in place.session.effect.layers:
        found.append(
            Finding(layer.name, "layer", "", "", layer.group, functools.partial(place.session.select, layer.id))
        )
    return found


def _go(place: Workplace, at: str, in_layer: bool) -> None:
    place.panels.show("recipe")
    place.recipe.go_to(at, in_layer)

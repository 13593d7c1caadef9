"""Copying, pasting and resetting a whole chapter of a layer, by way of the clipboard as JSON."""

from __future__ import annotations

import json
from typing import Any

from ...effect.editing.snippets import CHAPTER
from ...effect.effect import Layer
from ...effect.rules.edit import get
from ...effect.rules.part import Part
from ...effect.rules.paths import FieldPath
from ...effect.storing.storage import field_data
from ...effect.textures import Texture
from ..session.clipboard import clipboard_text, put_text
from ..session.session import Session
from .chapter_table import CHAPTERS
from .recipe import Recipe

# A paste never changes these: they belong to the one layer.
OWN = ("id", "name")


class ChapterClip:
    """What can be done with the chapter that the recipe shows; it is taken as a whole, whatever it holds."""

    def __init__(self, session: Session, recipe: Recipe) -> None:
        self.session, self.recipe = session, recipe

    def _paths(self, name: str) -> list[str]:
        """Return the paths in a layer of all that a chapter holds; none for the effect's own."""
        found: list[str] = []
        for section in CHAPTERS[name]:
            if not section.in_layer or section.model is Texture:
                continue
            if section.model is Layer:
                found += [one for one in section.only if one not in OWN]
            # A list inside a part that is taken anyway goes with it.
            elif not any(section.at.startswith(f"{one}.") for one in found):
                found.append(section.at)
        return found

    def _here(self) -> tuple[str, list[str]]:
        name = self.recipe.chapter
        paths = self._paths(name)
        if not paths:
            self.session.said.emit(
                "The effect's own fields can't be copied between layers; choose another chapter."
            )
        return name, paths

    def copy(self) -> None:
        """Put the chapter on the clipboard."""
        name, paths = self._here()
        if self.session.layer is None or not paths:
            return
        parts = {
            path: field_data(get(self.session.effect, self.session.layer_path(path)), None) for path in paths
        }
        put_text(
            json.dumps({"format": CHAPTER, "chapter": name, "parts": parts}, ensure_ascii=False, indent=2)
        )
        self.session.said.emit(f"{name} of {self.session.layer.name} is copied.")

    def paste(self) -> None:
        """Give the selected layers the chapter on the clipboard, whichever that is, as one step."""
        if self.session.layer is None:
            return
        try:
            data = json.loads(clipboard_text())
            name, parts = data["chapter"], dict(data["parts"])
            if data["format"] != CHAPTER or not set(parts) <= set(self._paths(name)):
                raise ValueError
        except (ValueError, KeyError, TypeError, RecursionError):
            self.session.said.emit("There is no chapter on the clipboard; copy one with Ctrl+Alt+C.")
            return
        self._give(f"Paste {name}", parts)

    def reset(self) -> None:
        """Set the chapter in view back to its defaults in all selected layers, as one step."""
        name, paths = self._here()
        if self.session.layer is not None and paths:
            self._give(f"Reset {name}", {path: self._default(path) for path in paths})

    def _default(self, path: str) -> Any:
        """Return the default of the field or chapter at a path in a layer."""
        where = FieldPath(path).owner
        owner = Layer if not where else type(get(self.session.effect, self.session.layer_path(where)))
        default = owner.model_fields[FieldPath(path).field].default
        return {} if isinstance(default, Part) else default

    def _give(self, said: str, parts: dict[str, Any]) -> None:
        path = self.session.layer_path
        edits = [
            (path(at, layer_id), data) for layer_id in self.session.chosen_first for at, data in parts.items()
        ]
        self.session.document.end_merge()
        self.session.edit_many(edits, said)

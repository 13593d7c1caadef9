"""Copying, pasting and resetting a whole chapter of a layer, by way of the clipboard as JSON."""

from __future__ import annotations

import json

from PyQt6.QtWidgets import QApplication

from ...effect.edit import get
from ...effect.part import Part
from ...effect.storage import part_data
from ..session.session import Session
from .recipe import CHAPTERS, Recipe

MARK = "pale-ember/chapter"


class ChapterClip:
    """What can be done with the chapter that the recipe shows."""

    def __init__(self, session: Session, recipe: Recipe) -> None:
        self.session, self.recipe = session, recipe

    def _chapter(self) -> tuple[str, list[str]]:
        """Return the chapter in view and the paths of its parts in the layer; none for the effect's own."""
        name = list(CHAPTERS)[max(self.recipe.buttons.checkedId(), 0)]
        paths = [
            section.at for section in CHAPTERS[name] if section.in_layer and section.at and section.at != "emit.bursts"
        ]
        if not paths:
            self.session.said.emit("The effect's own fields can't be copied between layers; choose another chapter.")
        return name, paths

    def copy(self) -> None:
        """Put the chapter on the clipboard."""
        name, paths = self._chapter()
        clipboard = QApplication.clipboard()
        if self.session.layer is None or not paths or clipboard is None:
            return
        parts = {path: part_data(get(self.session.effect, self.session.layer_path(path))) for path in paths}
        clipboard.setText(json.dumps({"format": MARK, "chapter": name, "parts": parts}, ensure_ascii=False, indent=2))
        self.session.said.emit(f"{name} of {self.session.layer.name} is copied.")

    def paste(self) -> None:
        """Give the selected layer the chapter on the clipboard, whichever that is, as one step."""
        clipboard = QApplication.clipboard()
        if self.session.layer is None or clipboard is None:
            return
        try:
            data = json.loads(clipboard.text())
            name, parts = data["chapter"], dict(data["parts"])
            known = {s.at for s in CHAPTERS[name] if s.in_layer}
            if data["format"] != MARK or not set(parts) <= known:
                raise ValueError
        except (ValueError, KeyError, TypeError, RecursionError):
            self.session.said.emit("There is no chapter on the clipboard; copy one with Ctrl+Alt+C.")
            return
        self._give(f"Paste {name}", parts)

    def reset(self) -> None:
        """Set the chapter in view back to its defaults, as one step."""
        name, paths = self._chapter()
        if self.session.layer is not None and paths:
            self._give(f"Reset {name}", {path: {} for path in paths})

    def _give(self, said: str, parts: dict[str, object]) -> None:
        merge = f"chapter {said}"
        self.session.document.end_merge()
        for path, data in parts.items():
            whole = self.session.layer_path(path)
            kind = type(get(self.session.effect, whole))
            assert issubclass(kind, Part)
            if not self.session.edit(whole, data, said, merge):
                break
        self.session.document.end_merge()

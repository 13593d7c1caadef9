"""The open effect, its file and its history. No Qt here."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...effect.effect import Effect

MOST_STEPS = 500


@dataclass
class Entry:
    """One state in the history, what led to it, and what was selected when it was left."""

    name: str
    effect: Effect
    merge: str
    selection: Any = None


class Document:
    """A list of effects; undo is the one before. Nothing else changes it."""

    def __init__(self, effect: Effect, path: Path | None = None, called: str = "") -> None:
        self.path = path
        # Its name while it has no file; empty for the effect's own name.
        self.called = called
        self.history = [Entry("Open", effect, "")]
        self.index = 0
        self.saved: Effect | None = effect
        # How many steps of undo are kept.
        self.most_steps = MOST_STEPS

    @property
    def effect(self) -> Effect:
        return self.history[self.index].effect

    @property
    def dirty(self) -> bool:
        """Return whether the effect differs from what was saved or opened."""
        return self.effect is not self.saved and self.effect != self.saved

    @property
    def title(self) -> str:
        return self.path.stem if self.path is not None else self.called or self.effect.name

    def apply(self, effect: Effect, name: str, merge: str = "") -> bool:
        """Take an edited effect as the newest state; return whether it differs from the one before.

        Parameters
        ----------
        name : str
            What the undo list says.
        merge : str
            Edits with the same key in one go (a drag, a run of nudges) become one step.
        """
        if effect == self.effect:
            return False
        del self.history[self.index + 1 :]
        last = self.history[-1]
        # The saved state must stay reachable, so a step that was saved is not grown further.
        if merge and last.merge == merge and last.effect is not self.saved:
            last.effect = effect
            if len(self.history) > 1 and self.history[-2].effect == effect:
                self.history.pop()
        else:
            self.history.append(Entry(name, effect, merge))
            del self.history[: max(len(self.history) - 1 - self.most_steps, 0)]
        self.index = len(self.history) - 1
        return True

    def give_up(self, effect: Effect) -> bool:
        """Take back what led here from an effect, as if it had not been; return whether it was something."""
        if effect is self.effect:
            return False
        if self.index > 0 and self.history[self.index - 1].effect is effect:
            del self.history[self.index :]
            self.index -= 1
            return True
        return self.apply(effect, self.history[self.index].name)

    def end_merge(self) -> None:
        """Let the next edit be a step of its own, whatever its key."""
        self.history[self.index].merge = ""

    def go(self, index: int) -> bool:
        """Go to a state of the history; return whether there is such a one and it is another."""
        if not 0 <= index < len(self.history) or index == self.index:
            return False
        self.end_merge()
        self.index = index
        # The next edit is a new step, even if this state was made by a drag of the same thing.
        self.end_merge()
        return True

    def undo(self) -> bool:
        return self.go(self.index - 1)

    def redo(self) -> bool:
        return self.go(self.index + 1)

    @property
    def undo_name(self) -> str:
        return self.history[self.index].name if self.index > 0 else ""

    @property
    def redo_name(self) -> str:
        return self.history[self.index + 1].name if self.index + 1 < len(self.history) else ""

    def mark_saved(self, path: Path) -> None:
        self.path = path
        self.saved = self.effect
        self.end_merge()

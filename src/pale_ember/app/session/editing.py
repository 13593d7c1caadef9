"""Edits of the open effect: one way in, with names, merging, undo, and drags that can be given up."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ...effect.editing.companions import companions
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.rules.paths import FieldPath
from ..widgets.escape import EscapeGuard
from .document import Document
from .form_memory import FormMemory


class Editing(QObject):
    """The document, what is selected in it, and all ways of changing it."""

    effect_changed = pyqtSignal()  # another effect, document or saved state
    selection_changed = pyqtSignal()
    clock_changed = pyqtSignal()  # time, playing, speed
    moment_changed = pyqtSignal()  # newly simulated particles
    levels_changed = pyqtSignal()  # more is known of the layers' past
    textures_changed = pyqtSignal()  # a texture has come, gone, or is being made
    shown_changed = pyqtSignal()  # camera, backdrop, lone layers
    cursor_changed = pyqtSignal()  # the age cursor, or the particle that it follows
    haste_changed = pyqtSignal()  # whether a drag makes pictures hurry
    said = pyqtSignal(str)  # a sentence for the artist

    def __init__(self, effect: Effect) -> None:
        super().__init__()
        self.document = Document(effect)
        self.selected = effect.layers[0].id if effect.layers else ""
        self.others: set[str] = set()
        self.alone: set[str] = set()
        self.path_key = 0
        self.forms = FormMemory()
        self._undo_steps = self.document.most_steps
        self._escape = EscapeGuard()

    def ask(self) -> None:
        """Wish for the moment in view; what simulates says how."""
        raise NotImplementedError

    # The document

    @property
    def effect(self) -> Effect:
        return self.document.effect

    @property
    def layer(self) -> Layer | None:
        """Return the selected layer."""
        at = self.effect.index(self.selected)
        return self.effect.layers[at] if at >= 0 else None

    @property
    def chosen(self) -> list[str]:
        """Return the ids of all selected layers, in their order."""
        wanted = self.others | {self.selected}
        return [layer.id for layer in self.effect.layers if layer.id in wanted]

    @property
    def chosen_others(self) -> list[str]:
        """Return the ids of the selected layers besides the one that is shown."""
        return [layer_id for layer_id in self.chosen if layer_id != self.selected]

    @property
    def chosen_first(self) -> list[str]:
        """Return the ids of all selected layers, the one that is shown before the others."""
        return ([self.selected] if self.layer is not None else []) + self.chosen_others

    def layer_of(self, path: str) -> str:
        """Return the id of the layer that a path leads into; empty if into none."""
        at = FieldPath(path).layer
        return "" if at is None else self.effect.layers[at].id

    def layer_path(self, rest: str = "", layer_id: str = "") -> str:
        """Return the path of a layer (the selected one by default), or of something in it."""
        return FieldPath.of_layer(self.effect.index(layer_id or self.selected), rest)

    def set_undo_steps(self, steps: int) -> None:
        """Keep so many steps of the history."""
        self._undo_steps = self.document.most_steps = steps

    def edit(self, path: str, value: Any, name: str, merge: str = "") -> bool:
        """Change one value; a refusal is said, not raised. Return whether it was taken."""
        return self.edit_many([(path, value)], name, merge)

    def edit_many(self, edits: list[tuple[str, Any]], name: str, merge: str = "") -> bool:
        """Change several values as one step, all or none; a refusal is said. Return whether they were
        taken.
        """
        return self._edit(edits, [], name, merge)

    def edit_chosen(self, edits: list[tuple[str, Any]], name: str, merge: str = "") -> bool:
        """Change values of the selected layer as one step; the others that are selected get the same.

        A burst or key that another layer doesn't have is left out there.
        """
        also = [
            (self.layer_path(FieldPath(path).in_layer, other), value)
            for other in self.chosen_others
            for path, value in edits
            if FieldPath(path).in_layer
        ]
        return self._edit(edits, also, name, merge)

    def _edit(self, edits: list[tuple[str, Any]], also: list[tuple[str, Any]], name: str, merge: str) -> bool:
        """Make all edits or none, and those of ``also`` that can be made."""
        effect = self.effect
        try:
            for path, value in edits:
                along = companions(effect, path, value)
                effect = effect.edit(path, value)
                for other, theirs in along:
                    effect = effect.edit(other, theirs)
        except EffectError as wrong:
            self.said.emit(wrong.sentence)
            return False
        for path, value in also:
            with contextlib.suppress(EffectError):
                along = companions(effect, path, value)
                effect = effect.edit(path, value)
                for other, theirs in along:
                    effect = effect.edit(other, theirs)
        self.apply(effect, name, merge)
        return True

    def apply(self, effect: Effect, name: str, merge: str = "") -> None:
        """Take an edited effect."""
        self._remember_selection()
        if self.document.apply(effect, name, merge):
            self.effect_is_another()

    def apply_and_select(self, effect: Effect, name: str, selected: str) -> None:
        """Take an effect without some layers, and select one of those that are left."""
        self._remember_selection()
        self.selected, self.others = selected, set()
        self.document.apply(effect, name)
        self.effect_is_another()
        self.selection_changed.emit()

    def begin_drag(self, given_up: Callable[[], None]) -> None:
        """Let Esc take back all edits from now to :meth:`end_drag`; ``given_up`` is called then."""
        effect = self.effect
        self.document.end_merge()

        def cancel() -> None:
            self.give_up(effect)
            given_up()

        self._escape.begin(cancel)

    @property
    def is_dragging(self) -> bool:
        """Return whether something is dragged that Esc would take back."""
        return self._escape.is_watching

    def give_up(self, effect: Effect) -> None:
        """Take back what led here from an effect, as if it had not been."""
        if self.document.give_up(effect):
            self.effect_is_another()

    def end_drag(self) -> None:
        """End a drag: what it did is one step."""
        self._escape.end()
        self.document.end_merge()

    def undo(self) -> None:
        self._go_back_or_on(self.document.undo)

    def redo(self) -> None:
        self._go_back_or_on(self.document.redo)

    @property
    def _selection(self) -> tuple[str, frozenset[str], int]:
        return self.selected, frozenset(self.others), self.path_key

    def _remember_selection(self) -> None:
        self.document.history[self.document.index].selection = self._selection

    def _go_back_or_on(self, go: Callable[[], bool]) -> None:
        """Go to the state before or behind, and select what was selected when it was left."""
        self._remember_selection()
        there = {layer.id for layer in self.effect.layers}
        if not go():
            return
        kept = self.document.history[self.document.index].selection
        here = {layer.id for layer in self.effect.layers}
        before = self._selection
        # Where the layer in view goes on, the artist's own selection does.
        if kept is not None and (self.selected not in here or kept[0] in here - there):
            self.selected, self.others, self.path_key = kept[0], set(kept[1]) & here, kept[2]
        self.effect_is_another()
        if self._selection != before:
            self.selection_changed.emit()

    def effect_is_another(self) -> None:
        """Let go of layers that are gone, and tell that the effect has changed."""
        here = {layer.id for layer in self.effect.layers}
        self.others &= here
        if self.alone and not self.alone <= here:
            # Some layers that were shown alone are gone; if none is left, all layers are shown again.
            self.alone &= here
            self.shown_changed.emit()
        if self.effect.index(self.selected) < 0:
            self.selected = self.effect.layers[-1].id if self.effect.layers else ""
            self.effect_changed.emit()
            self.selection_changed.emit()
        else:
            self.effect_changed.emit()
        self.ask()

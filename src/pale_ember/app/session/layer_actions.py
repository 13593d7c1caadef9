"""What is done to layers: adding, copying, moving, grouping, deleting, showing."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ...effect.editing.layers import (
    Step,
    add_layer,
    add_layers,
    duplicate_layers,
    duplicate_stepped,
    group_layers,
    move_layers,
    remove_layer,
)
from ...effect.editing.texture_moves import with_textures
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.textures import Texture
from .selecting import Selecting


class LayerActions(Selecting):
    """Each is one step of undo, for all selected layers."""

    def __init__(self, effect: Effect) -> None:
        super().__init__(effect)
        self.folded: set[str] = set()

    def add(self, layer: Layer, textures: Sequence[Texture] = ()) -> None:
        """Add a layer, with the textures that it wears, behind the selected one and select it."""
        at = self.effect.index(self.selected) + 1 if self.selected else None

        def added() -> Effect:
            effect, layers = with_textures(self.effect, (layer,), textures)
            return add_layer(effect, layers[0], at)

        self._arrange(added, f"Add {layer.name}")

    def duplicate(self) -> None:
        """Copy the selected layers, each right behind itself; the copies are selected."""
        if self.layer is None:
            return
        chosen = self.chosen

        self._arrange(lambda: duplicate_layers(self.effect, chosen), f"Duplicate {self._said(chosen)}")

    def _said(self, ids: list[str]) -> str:
        return self.effect.layer(ids[0]).name if len(ids) == 1 else f"{len(ids)} layers"

    def _arrange(self, make: Callable[[], Effect], name: str) -> None:
        """Take an effect with more layers, and select those; that there are too many is said."""
        try:
            effect = make()
        except EffectError as wrong:
            self.said.emit(wrong.sentence)
            return
        before = {layer.id for layer in self.effect.layers}
        fresh = [layer.id for layer in effect.layers if layer.id not in before]
        if self.alone:
            # Nothing is born unseen.
            self.alone |= set(fresh)
        self.apply(effect, name)
        self.select(fresh[0])
        if len(fresh) > 1:
            self.others = set(fresh[1:])
            self.selection_changed.emit()

    def remove(self) -> None:
        """Delete the selected layers; the one that takes their place is selected."""
        if self.layer is None:
            return
        chosen, gone = self.chosen, self.effect
        at = self.effect.index(chosen[0])
        for layer_id in chosen:
            gone = remove_layer(gone, layer_id)
        name = f"Delete {self._said(chosen)}"
        rest = gone.layers
        self._remember_selection()
        self.selected, self.others = rest[min(at, len(rest) - 1)].id if rest else "", set()
        self.document.apply(gone, name)
        self.effect_is_another()
        self.selection_changed.emit()

    def toggle_folded(self, group: str) -> None:
        """Fold a group of the timeline into one lane, or unfold it."""
        self.folded ^= {group}
        self.shown_changed.emit()

    def move(self, layer_id: str, to: int) -> None:
        """Move a layer before the one that stands at an index; one of several selected takes them along."""
        ids = self.chosen if layer_id in self.chosen else [layer_id]
        if self.effect.index(layer_id) >= 0:
            moved = move_layers(self.effect, ids, to)
            if [layer.id for layer in moved.layers] != [layer.id for layer in self.effect.layers]:
                self.apply(moved, f"Move {self._said(ids)}")

    def shift(self, by: int) -> None:
        """Move the selected layers one place up (-1) or down (1), all together."""
        places = [self.effect.index(layer_id) for layer_id in self.chosen]
        if places:
            self.move(self.selected, places[0] - 1 if by < 0 else places[-1] + 2)

    def add_many(self, layers: Sequence[Layer], name: str, textures: Sequence[Texture] = ()) -> None:
        """Add layers, with the textures that they wear, behind the selected one, as one step, and select
        them.
        """
        at = self.effect.index(self.chosen[-1]) + 1 if self.chosen else len(self.effect.layers)

        def added() -> Effect:
            effect, dressed = with_textures(self.effect, layers, textures)
            return add_layers(effect, dressed, at)

        if layers:
            self._arrange(added, name)

    def repeat_stepped(self, count: int, step: Step) -> None:
        """Add copies of the selected layers, each one step further than the one before."""
        chosen = self.chosen
        if chosen and count > 0:
            name = f"Duplicate {self._said(chosen)} with an offset"
            self._arrange(lambda: duplicate_stepped(self.effect, chosen, count, step), name)

    def group(self, name: str) -> None:
        """Put the selected layers into a group; an empty name takes them out of theirs."""
        chosen = self.chosen
        if chosen:
            said = f"Group {self._said(chosen)}" if name else f"Take {self._said(chosen)} out of the group"
            self.apply(group_layers(self.effect, set(chosen), name), said)

    # What is shown

    def is_shown(self, layer_id: str) -> bool:
        """Return whether a layer is drawn: while some are shown alone, no other is."""
        return layer_id in self.alone if self.alone else True

    def toggle_enabled(self, *ids: str) -> None:
        """Take layers out of the effect for a while, or all back in if none of them is in it; it is saved
        with it.
        """
        layers = [layer for layer in self.effect.layers if layer.id in ids]
        on = not any(layer.enabled for layer in layers)
        edits = [(self.layer_path("enabled", layer.id), on) for layer in layers]
        if edits:
            self.edit_many(
                edits, f"{'Enable' if on else 'Disable'} {self._said([layer.id for layer in layers])}"
            )

    def toggle_alone(self, *ids: str) -> None:
        """Show only these layers, or all again."""
        self.alone = set() if self.alone == set(ids) else set(ids)
        self.shown_changed.emit()
        self.ask()

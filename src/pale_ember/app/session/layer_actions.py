"""What is done to layers: adding, copying, moving, grouping, deleting, showing."""

from __future__ import annotations

from collections.abc import Sequence

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
from ...effect.textures import Texture
from .selecting import Selecting


class LayerActions:
    """Each is one step of undo, for all selected layers.

    Attributes
    ----------
    folded : set of str
        The groups that the timeline shows as one lane.
    """

    def __init__(self, session: Selecting) -> None:
        self._session = session
        self.folded: set[str] = set()

    def add(self, layer: Layer, textures: Sequence[Texture] = ()) -> None:
        """Add a layer, with the textures that it wears, behind the selected one and select it."""
        session = self._session
        at = session.effect.index(session.selected) + 1 if session.selected else None

        def added() -> Effect:
            effect, layers = with_textures(session.effect, (layer,), textures)
            return add_layer(effect, layers[0], at)

        session.add_and_select(added, f"Add {layer.name}")

    def duplicate(self) -> None:
        """Copy the selected layers, each right behind itself; the copies are selected."""
        session = self._session
        if session.layer is None:
            return
        chosen = session.chosen

        session.add_and_select(
            lambda: duplicate_layers(session.effect, chosen),
            f"Duplicate {session.said_of(chosen)}",
        )

    def remove(self) -> None:
        """Delete the selected layers; the one that takes their place is selected."""
        session = self._session
        if session.layer is None:
            return
        chosen, gone = session.chosen, session.effect
        at = session.effect.index(chosen[0])
        for layer_id in chosen:
            gone = remove_layer(gone, layer_id)
        name = f"Delete {session.said_of(chosen)}"
        rest = gone.layers
        selected = rest[min(at, len(rest) - 1)].id if rest else ""
        session.apply_and_select(gone, name, selected)

    def toggle_folded(self, group: str) -> None:
        """Fold a group of the timeline into one lane, or unfold it."""
        self.folded ^= {group}
        self._session.shown_changed.emit()

    def move(self, layer_id: str, to: int) -> None:
        """Move a layer before the one that stands at an index; one of several selected takes them along."""
        session = self._session
        ids = session.chosen if layer_id in session.chosen else [layer_id]
        if session.effect.index(layer_id) >= 0:
            moved = move_layers(session.effect, ids, to)
            if [layer.id for layer in moved.layers] != [layer.id for layer in session.effect.layers]:
                session.apply(moved, f"Move {session.said_of(ids)}")

    def shift(self, by: int) -> None:
        """Move the selected layers one place up (-1) or down (1), all together."""
        session = self._session
        places = [session.effect.index(layer_id) for layer_id in session.chosen]
        if places:
            self.move(session.selected, places[0] - 1 if by < 0 else places[-1] + 2)

    def add_many(self, layers: Sequence[Layer], name: str, textures: Sequence[Texture] = ()) -> None:
        """Add layers, with the textures that they wear, behind the selected one, as one step, and select
        them.
        """
        session = self._session
        at = session.effect.index(session.chosen[-1]) + 1 if session.chosen else len(session.effect.layers)

        def added() -> Effect:
            effect, dressed = with_textures(session.effect, layers, textures)
            return add_layers(effect, dressed, at)

        if layers:
            session.add_and_select(added, name)

    def repeat_stepped(self, count: int, step: Step) -> None:
        """Add copies of the selected layers, each one step further than the one before."""
        session = self._session
        chosen = session.chosen
        if chosen and count > 0:
            name = f"Duplicate {session.said_of(chosen)} with an offset"
            session.add_and_select(lambda: duplicate_stepped(session.effect, chosen, count, step), name)

    def group(self, name: str) -> None:
        """Put the selected layers into a group; an empty name takes them out of theirs."""
        session = self._session
        chosen = session.chosen
        if chosen:
            said = (
                f"Group {session.said_of(chosen)}"
                if name
                else f"Take {session.said_of(chosen)} out of the group"
            )
            session.apply(group_layers(session.effect, set(chosen), name), said)

    def toggle_enabled(self, *ids: str) -> None:
        """Take layers out of the effect for a while, or all back in if none of them is in it; it is saved
        with it.
        """
        session = self._session
        layers = [layer for layer in session.effect.layers if layer.id in ids]
        on = not any(layer.enabled for layer in layers)
        edits = [(session.layer_path("enabled", layer.id), on) for layer in layers]
        if edits:
            session.edit_many(
                edits,
                f"{'Enable' if on else 'Disable'} {session.said_of([layer.id for layer in layers])}",
            )

"""Links between layers: making, moving, copying and cutting what makes one follow another."""

from __future__ import annotations

from ...checks.links import LinkTrouble, link_trouble, link_trouble_seen
from ...effect.editing.chains import descendants, refusal_of_link
from ...effect.editing.follow_starts import follow_start, hits_each, ribbon_start, with_contact
from ...effect.editing.layers import add_layers, move_layers, with_origin
from ...effect.editing.texture_moves import with_textures, worn_by
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.kinds import When
from ...effect.rules.paths import FieldPath
from ...simulation.time.population import BORN, HITS
from .selecting import Selecting

# Words for each event, and for where a follow-up starts, in the order of a lane's ports.
AT_EVENT = {
    When.BIRTH: "at the birth",
    When.ALIVE: "along the flight",
    When.HIT: "at each hit",
    When.DEATH: "at the death",
}
SAID = {When.BIRTH: "births", When.HIT: "hits", When.DEATH: "deaths", When.ALIVE: "flight"}


class Linking:
    """Each is one step of undo."""

    def __init__(self, session: Selecting) -> None:
        self._session = session

    def add_follow_up(self, when: When, parent_id: str = "") -> None:
        """Add a layer that follows one (the selected one by default), and is seen at once; contact comes
        with hits.
        """
        session = self._session
        parent = self._layer_of(parent_id or session.selected)
        if parent is None:
            return
        start = follow_start(when, parent, self._events_each_second(parent, when))

        def added() -> Effect:
            effect = self._ready(session.effect, parent, when)
            return add_layers(effect, (start,), _behind(effect, parent.id))

        before = session.effect
        session.add_and_select(added, f"Follow the {SAID[when]} of {parent.name}")
        if session.effect is not before:
            self._tell_contact(parent, when)

    def add_ribbon(self, parent_id: str = "") -> None:
        """Add a layer that is a ribbon behind each particle of one (the selected one by default)."""
        session = self._session
        parent = self._layer_of(parent_id or session.selected)
        if parent is None:
            return
        start = ribbon_start(parent, self._events_each_second(parent, When.ALIVE))
        session.add_and_select(
            lambda: add_layers(session.effect, (start,), _behind(session.effect, parent.id)),
            f"Ribbon behind {parent.name}",
        )

    def _events_each_second(self, parent: Layer, when: When) -> float:
        """Return about how many events of a kind a layer has in a second, by what was seen of it last."""
        moment = self._session.moment
        hits = (moment.each_second(parent.id, HITS) or 0.0) if when == When.HIT else 0.0
        if when == When.ALIVE:
            return 30.0 * moment.counts.get(parent.id, {}).get("alive", 0)
        births = moment.each_second(parent.id, BORN) or 0.0
        return hits or births * (hits_each(parent) if when == When.HIT else 1.0)

    def add_to_follow(self, ready: Effect, name: str) -> None:
        """Add the follow-ups of a ready effect, with the textures that they wear, to the selected layer."""
        session = self._session
        parent = session.layer
        own = tuple(layer for layer in ready.layers if layer.origin.parent)
        if parent is None or not own:
            return
        roots = {layer.id for layer in ready.layers if not layer.origin.parent}
        first = next((layer for layer in own if layer.origin.parent in roots), own[0])

        def added() -> Effect:
            effect, layers = with_textures(session.effect, own, worn_by(ready, own))
            linked = [
                with_origin(layer, parent=parent.id) if layer.origin.parent in roots else layer
                for layer in layers
            ]
            effect = self._ready(effect, parent, first.origin.when)
            return add_layers(effect, linked, effect.index(parent.id) + 1)

        session.add_and_select(added, f"Add {name} to {parent.name}")
        self._tell_contact(parent, first.origin.when)

    def link(self, child_id: str, parent_id: str, when: When | None = None) -> bool:
        """Let a layer follow another; without an event it keeps its own. Return whether that could be."""
        session = self._session
        child, parent = self._layer_of(child_id), self._layer_of(parent_id)
        if child is None or parent is None:
            return False
        when = when or child.origin.when
        why = refusal_of_link(session.effect, child_id, parent_id)
        if why:
            session.said.emit(f"“{child.name}” can't follow “{parent.name}”: {why}")
            return False
        if child.origin.parent == parent_id and child.origin.when == when:
            return True
        effect = self._ready(session.effect, parent, when)
        at = effect.index(child_id)
        origin = {"parent": parent_id, "when": when}
        try:
            for name, value in origin.items():
                effect = effect.edit(FieldPath.of_layer(at, f"origin.{name}"), value)
        except EffectError as wrong:
            session.said.emit(wrong.sentence)
            return False
        # Under its parent, with all that follow it.
        own = {child_id, *(layer.id for layer in descendants(effect, child_id))}
        effect = move_layers(effect, sorted(own, key=effect.index), _behind(effect, parent_id, own))
        session.apply(effect, f"{child.name} follows the {SAID[when]} of {parent.name}")
        self._tell_contact(parent, when)
        return True

    def copy_link(self, child_id: str, parent_id: str, when: When | None = None) -> None:
        """Let a copy of a follow-up follow another layer."""
        session = self._session
        child = self._layer_of(child_id)
        if child is None or self._layer_of(parent_id) is None:
            return
        copy = with_origin(child, parent=parent_id, when=when or child.origin.when)

        def copied() -> Effect:
            parent = session.effect.layer(parent_id)
            effect = self._ready(session.effect, parent, copy.origin.when)
            return add_layers(effect, (copy,), _behind(effect, parent_id))

        session.add_and_select(copied, f"Copy {child.name} to {session.effect.layer(parent_id).name}")

    def set_event(self, child_id: str, when: When) -> None:
        """Let a follow-up start at another event of the same parent."""
        child = self._layer_of(child_id)
        if child is not None and child.origin.parent:
            self.link(child_id, child.origin.parent, when)

    def cut_link(self, child_id: str) -> None:
        """Let a follow-up follow nobody: it emits by itself."""
        session = self._session
        child = self._layer_of(child_id)
        if child is not None and child.origin.parent:
            session.edit(session.layer_path("origin.parent", child_id), "", f"Cut {child.name} off")

    def trouble_of(self, layer: Layer) -> LinkTrouble | None:
        """Return why a follow-up gives nothing, or little."""
        session = self._session
        if not layer.origin.parent:
            return None
        found = link_trouble(session.effect, layer)
        if found is not None:
            return found
        counts = session.moment.counts
        return link_trouble_seen(
            session.effect,
            layer,
            counts.get(layer.id, {}),
            session.moment.answers.get(layer.id),
            counts.get(layer.origin.parent),
        )

    def mend_link(self, layer_id: str) -> None:
        """Do what mends a follow-up's link."""
        layer = self._layer_of(layer_id)
        trouble = self.trouble_of(layer) if layer is not None else None
        if layer is not None and trouble is not None and trouble.edits:
            self._session.edit_many(list(trouble.edits), f"{trouble.mend} for {layer.name}")

    def _layer_of(self, layer_id: str) -> Layer | None:
        session = self._session
        at = session.effect.index(layer_id)
        return session.effect.layers[at] if at >= 0 else None

    def _ready(self, effect: Effect, parent: Layer, when: When) -> Effect:
        """Return an effect whose parent hits, if hits are wanted of it."""
        if when != When.HIT or parent.contact.enabled:
            return effect
        return effect.edit(
            FieldPath.of_layer(effect.index(parent.id), "contact"), with_contact(parent).contact
        )

    def _tell_contact(self, parent: Layer, when: When) -> None:
        if when == When.HIT and not parent.contact.enabled:
            self._session.said.emit(
                f"“{parent.name}” has contact now, so that it hits the floor and the props."
            )


def _behind(effect: Effect, parent_id: str, without: set[str] | frozenset[str] = frozenset()) -> int:
    """Return the index behind a layer and all that follow it, but for some."""
    family = [parent_id, *(layer.id for layer in descendants(effect, parent_id) if layer.id not in without)]
    return max(effect.index(layer_id) for layer_id in family) + 1

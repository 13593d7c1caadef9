"""What is selected: layers, a path key, an age, a particle that is followed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from ...drawing import Moment
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...simulation.births.schedule import Birth
from ...simulation.layout.payload_columns import PLACE
from ...simulation.motion.path import Pose, pose_at_event
from .editing import Editing


class Picked(NamedTuple):
    """A particle that is followed: its layer, its birth and the moment of that, s, and its lifetime, s."""

    layer_id: str
    birth: Birth
    born: float
    lifetime: float


class Selecting(Editing):
    """Selects, and moves the one age cursor."""

    def __init__(self, effect: Effect) -> None:
        super().__init__(effect)
        self.moment = Moment(0.0, ())
        self.time = 0.0
        self.playing = True
        self.cursor = 0.0
        self.cursor_shown = False
        self._pinned = 0.0
        self.picked: Picked | None = None
        self._event: tuple[str, tuple[float, ...], float] = ("", (), 0.0)

    def show_event(self, layer_id: str, given: tuple[float, ...], reach: float) -> bool:
        """Take the event that the shown particle of a follow-up comes from, and how far that flies, m; return
        whether it is another than before.
        """
        event = (layer_id, given, reach)
        another, self._event = event[:2] != self._event[:2], event
        return another

    def event_pose(self, layer: Layer, clock: float) -> Pose | None:
        """Return where a follow-up's birthplace stands at the event of its shown particle; None if
        nothing started it yet.
        """
        layer_id, given, _ = self._event
        return pose_at_event(layer, clock, given) if given and layer_id == layer.id else None

    @property
    def event_ball(self) -> tuple[tuple[float, ...], float] | None:
        """Return the place of that event, and a radius that holds what comes of it, m; None if the
        selected layer has none.
        """
        layer_id, given, reach = self._event
        return (given[PLACE : PLACE + 3], max(reach, 0.02)) if given and layer_id == self.selected else None

    @property
    def phase(self) -> float:
        """Return the time inside the present loop, s."""
        duration = self.effect.duration
        return self.time % duration if self.effect.loop else self.time

    def select(self, layer_id: str, how: str = "only") -> None:
        """Select a layer: it ``only``, ``also`` (or no longer), or all ``upto`` it from the one selected
        first.
        """
        if self.effect.index(layer_id) < 0:
            return
        before = (self.selected, self.others)
        ids = [layer.id for layer in self.effect.layers]
        if how == "upto" and self.selected in ids:
            a, b = sorted((ids.index(self.selected), ids.index(layer_id)))
            self.others = set(ids[a : b + 1]) - {self.selected}
        elif how == "also" and layer_id == self.selected:
            if self.others:
                self.selected = min(self.others, key=ids.index)
                self.others = self.others - {self.selected}
        elif how == "also":
            self.others = self.others ^ {layer_id}
        else:
            self.selected, self.others = layer_id, set()
        if (self.selected, self.others) != before:
            if self.picked is not None and self.picked.layer_id != self.selected:
                self.pick(None)
            self.selection_changed.emit()
            if not self.playing:
                # A moment tells more about the selected layer's particles; that is now another layer.
                self.ask()

    def stretch_selection(self, by: int) -> None:
        """Grow or shrink the selection by one layer at its moving end, the one away from the first
        selected.
        """
        ids = [layer.id for layer in self.effect.layers]
        if not ids:
            return
        here, places = ids.index(self.selected), [ids.index(x) for x in self.chosen]
        end = places[0] if places[0] < here else places[-1]
        to = min(max(end + by, 0), len(ids) - 1)
        self.others = set(ids[min(here, to) : max(here, to) + 1]) - {self.selected}
        self.selection_changed.emit()

    def select_all(self) -> None:
        self.others = {layer.id for layer in self.effect.layers} - {self.selected}
        self.selection_changed.emit()

    def select_next(self, by: int) -> None:
        if self.effect.layers:
            at = (self.effect.index(self.selected) + by) % len(self.effect.layers)
            self.select(self.effect.layers[at].id)

    def choose_path_key(self, index: int) -> None:
        """Show one key of the selected layer's path as the chosen one."""
        if index != self.path_key:
            self.path_key = index
            self.shown_changed.emit()

    def clock_of_layer(self) -> float:
        """Return the selected layer's clock, 0…1 of its window, at the moment in view."""
        layer, duration = self.layer, self.effect.duration
        if layer is None:
            return 0.0
        begin, length = layer.window.span(duration)
        return min(max((self.phase - begin) / max(length, 1e-9), 0.0), 1.0)

    def said_of(self, ids: Sequence[str]) -> str:
        """Return what some layers are called in the list of undo steps."""
        return self.effect.layer(ids[0]).name if len(ids) == 1 else f"{len(ids)} layers"

    def add_and_select(self, make: Callable[[], Effect], name: str) -> None:
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

    # What is shown

    def is_shown(self, layer_id: str) -> bool:
        """Return whether a layer is drawn: while some are shown alone, no other is."""
        return layer_id in self.alone if self.alone else True

    def toggle_alone(self, *ids: str) -> None:
        """Show only these layers, or all again."""
        self.alone = set() if self.alone == set(ids) else set(ids)
        self.shown_changed.emit()
        self.ask()

    # The age cursor

    def point_at(self, share: float | None) -> None:
        """Put the cursor where the mouse is; None puts it back to where it was pinned."""
        if self.picked is not None:
            return
        self._put_cursor(self._pinned if share is None else share, share is not None)

    def pin_cursor(self, share: float) -> None:
        """Put the cursor somewhere for good; a particle that was followed is let go."""
        self._pinned = share
        self.pick(None)
        self._put_cursor(share, True)

    def _put_cursor(self, share: float, shown: bool) -> None:
        if (share, shown) != (self.cursor, self.cursor_shown):
            self.cursor, self.cursor_shown = share, shown
            self.cursor_changed.emit()

    def pick(self, picked: Picked | None) -> None:
        """Follow a particle with the cursor, or none."""
        if picked == self.picked:
            return
        self.picked = picked
        if picked is None:
            self._put_cursor(self._pinned, False)
        else:
            self.select(picked.layer_id)
            self._follow()
        self.cursor_changed.emit()

    def _follow(self) -> None:
        """Put the cursor to the age that the followed particle has at the moment in view."""
        picked = self.picked
        if picked is not None:
            share = (self.moment.time - picked.born) / max(picked.lifetime, 1e-9)
            self._pinned = min(max(share, 0.0), 1.0)
            self._put_cursor(self._pinned, True)

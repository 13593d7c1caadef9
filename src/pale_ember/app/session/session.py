"""What the window works on: the document, the selection, the clock, and what is shown. One object, few signals."""

from __future__ import annotations

import dataclasses
import time
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from ...drawing import Moment
from ...effect.effect import Camera, Effect, Layer
from ...effect.errors import EffectError
from ...effect.layers import (
    Step,
    add_layer,
    duplicate_layer,
    duplicate_stepped,
    group_layers,
    move_layers,
    remove_layer,
)
from ...simulation.births import Birth
from ..widgets.escape import EscapeGuard
from .document import Document
from .form_memory import FormMemory
from .player import Player


class Picked(NamedTuple):
    """A particle that is followed: its layer, its birth and the moment of that, s, and its lifetime, s."""

    layer_id: str
    birth: Birth
    born: float
    lifetime: float


SPEEDS = (0.25, 0.5, 1.0, 2.0)
TICK = 16


class Session(QObject):
    """Edits go in here; everything in the window shows what it holds."""

    effect_changed = pyqtSignal()  # another effect, document or saved state
    selection_changed = pyqtSignal()
    clock_changed = pyqtSignal()  # time, playing, speed
    moment_changed = pyqtSignal()  # newly simulated particles
    levels_changed = pyqtSignal()  # more is known of the layers' past
    shown_changed = pyqtSignal()  # camera, backdrop, lone layers
    cursor_changed = pyqtSignal()  # the age cursor, or the particle that it follows
    haste_changed = pyqtSignal()  # whether a drag makes pictures hurry
    said = pyqtSignal(str)  # a sentence for the artist

    def __init__(self, effect: Effect) -> None:
        super().__init__()
        self.document = Document(effect)
        self.selected = effect.layers[0].id if effect.layers else ""
        self.others: set[str] = set()
        self.folded: set[str] = set()
        self.path_key = 0
        # Along whose axes the stage's handles go: the world's or the layer's.
        self.handle_axes = "world"
        self.strip_axis = "life"
        self.cursor = 0.0
        self.cursor_shown = False
        # While a key is dragged, pictures hurry.
        self.hasty = False
        self._pinned = 0.0
        self.picked: Picked | None = None
        self.time = 0.0
        self.playing = True
        self.speed = 1.0
        self.alone: set[str] = set()
        self.camera: Camera = effect.stage.camera
        self.moment = Moment(0.0, ())
        self.moment_number = 0
        self.asked_number = 0
        self.milliseconds = 0.0
        self.forms = FormMemory()
        self._undo_steps = self.document.most_steps
        self._escape = EscapeGuard()
        self.player = Player()
        # They come from another thread, so Qt queues them.
        self.player.arrived.connect(self._take_moment)
        self.player.learned.connect(self._take_levels)
        self.player.failed.connect(self.said)
        self.player.preparing.connect(self._prepare)
        self.preparing: tuple[int, int, str] = (0, 1, "")
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._last = time.perf_counter()
        self._timer.start(TICK)

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
        if not path.startswith("layers["):
            return ""
        return self.effect.layers[int(path[7 : path.index("]")])].id

    def layer_path(self, rest: str = "", layer_id: str = "") -> str:
        """Return the path of a layer (the selected one by default), or of something in it."""
        at = self.effect.index(layer_id or self.selected)
        return f"layers[{at}]" + (f".{rest}" if rest else "")

    def open(self, document: Document) -> None:
        """Show another document from its beginning."""
        self.document = document
        document.most_steps = self._undo_steps
        self.selected = self.effect.layers[0].id if self.effect.layers else ""
        self.alone, self.others, self.folded = set(), set(), set()
        self.picked, self.cursor_shown = None, False
        self.camera = self.effect.stage.camera
        self.time = 0.0
        self.effect_changed.emit()
        self.selection_changed.emit()
        self.shown_changed.emit()
        self.clock_changed.emit()
        self._ask()

    def set_undo_steps(self, steps: int) -> None:
        """Keep so many steps of the history."""
        self._undo_steps = self.document.most_steps = steps

    def edit(self, path: str, value: Any, name: str, merge: str = "") -> bool:
        """Change one value; a refusal is said, not raised. Return whether it was taken."""
        try:
            effect = self.effect.edit(path, value)
        except EffectError as wrong:
            self.said.emit(wrong.reason[:1].upper() + wrong.reason[1:])
            return False
        self.apply(effect, name, merge)
        return True

    def edit_many(self, edits: list[tuple[str, Any]], name: str, merge: str = "") -> bool:
        """Change several values as one step, all or none; a refusal is said. Return whether they were taken."""
        effect = self.effect
        try:
            for path, value in edits:
                effect = effect.edit(path, value)
        except EffectError as wrong:
            self.said.emit(wrong.reason[:1].upper() + wrong.reason[1:])
            return False
        self.apply(effect, name, merge)
        return True

    def edit_chosen(self, edits: list[tuple[str, Any]], name: str, merge: str = "") -> bool:
        """Change values of the selected layer as one step; the others that are selected get the same.

        A burst or key that another layer doesn't have is left out there.
        """
        every = list(edits)
        for other in self.chosen_others:
            for path, value in edits:
                there = self.layer_path(path.partition("].")[2], other)
                try:
                    self.effect.edit(there, value)
                except EffectError:
                    continue
                every.append((there, value))
        return self.edit_many(every, name, merge)

    def apply(self, effect: Effect, name: str, merge: str = "") -> None:
        """Take an edited effect."""
        self._remember_selection()
        if self.document.apply(effect, name, merge):
            self.effect_is_another()

    def begin_drag(self, given_up: Callable[[], None]) -> None:
        """Let Esc take back all edits from now to :meth:`end_drag`; ``given_up`` is called then."""
        effect = self.effect
        self.document.end_merge()

        def cancel() -> None:
            if self.document.give_up(effect):
                self.effect_is_another()
            given_up()

        self._escape.begin(cancel)

    def end_drag(self) -> None:
        """End a drag: what it did is one step."""
        self._escape.end()
        self.document.end_merge()

    def undo(self) -> None:
        self._go_back_or_on(self.document.undo)

    def redo(self) -> None:
        self._go_back_or_on(self.document.redo)

    def _remember_selection(self) -> None:
        entry = self.document.history[self.document.index]
        entry.selection = (self.selected, frozenset(self.others), self.path_key)

    def _go_back_or_on(self, go: Callable[[], bool]) -> None:
        """Go to the state before or behind, and select what was selected when it was left."""
        self._remember_selection()
        there = {layer.id for layer in self.effect.layers}
        if not go():
            return
        kept = self.document.history[self.document.index].selection
        here = {layer.id for layer in self.effect.layers}
        before = (self.selected, frozenset(self.others), self.path_key)
        # Where the layer in view goes on, the artist's own selection does.
        if kept is not None and (self.selected not in here or kept[0] in here - there):
            self.selected, self.others, self.path_key = kept[0], set(kept[1]) & here, kept[2]
        self.effect_is_another()
        if (self.selected, frozenset(self.others), self.path_key) != before:
            self.selection_changed.emit()

    def effect_is_another(self) -> None:
        here = {layer.id for layer in self.effect.layers}
        self.others &= here
        if self.alone and not self.alone <= here:
            # What was shown alone is gone; the rest of it stays alone, or all is shown again.
            self.alone &= here
            self.shown_changed.emit()
        if self.effect.index(self.selected) < 0:
            self.selected = self.effect.layers[-1].id if self.effect.layers else ""
            self.effect_changed.emit()
            self.selection_changed.emit()
        else:
            self.effect_changed.emit()
        self._ask()

    # Layers

    def add(self, layer: Layer) -> None:
        """Add a layer behind the selected one and select it."""
        at = self.effect.index(self.selected) + 1 if self.selected else None
        self._arranged(add_layer(self.effect, layer, at), f"Add {layer.name}")

    def duplicate(self) -> None:
        """Copy the selected layers, each right behind itself; the copies are selected."""
        if self.layer is None:
            return
        chosen, effect = self.chosen, self.effect
        for layer_id in chosen:
            effect = duplicate_layer(effect, layer_id)
        self._arranged(effect, f"Duplicate {self._said(chosen)}")

    def _said(self, ids: list[str]) -> str:
        return self.effect.layer(ids[0]).name if len(ids) == 1 else f"{len(ids)} layers"

    def _arranged(self, effect: Effect, name: str) -> None:
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

    def add_many(self, layers: Sequence[Layer], name: str) -> None:
        """Add layers behind the selected one, as one step, and select them."""
        at = self.effect.index(self.chosen[-1]) + 1 if self.chosen else len(self.effect.layers)
        effect = self.effect
        for i, layer in enumerate(layers):
            effect = add_layer(effect, layer, at + i)
        if layers:
            self._arranged(effect, name)

    def repeat_stepped(self, count: int, step: Step) -> None:
        """Add copies of the selected layers, each one step further than the one before."""
        chosen = self.chosen
        if chosen and count > 0:
            self._arranged(duplicate_stepped(self.effect, chosen, count, step), f"Duplicate {self._said(chosen)} with an offset")

    def group(self, name: str) -> None:
        """Put the selected layers into a group; an empty name takes them out of theirs."""
        chosen = self.chosen
        if chosen:
            said = f"Group {self._said(chosen)}" if name else f"Take {self._said(chosen)} out of the group"
            self.apply(group_layers(self.effect, set(chosen), name), said)

    def select(self, layer_id: str, how: str = "only") -> None:
        """Select a layer: it ``only``, ``also`` (or no longer), or all ``upto`` it from the one selected first."""
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
                # What is told of the selected layer's particles is wanted of this one now.
                self._ask()

    def stretch_selection(self, by: int) -> None:
        """Grow or shrink the selection by one layer at its moving end, the one away from the first selected."""
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

    # What is shown

    def is_shown(self, layer_id: str) -> bool:
        """Return whether a layer is drawn: while some are shown alone, no other is."""
        return layer_id in self.alone if self.alone else True

    def toggle_enabled(self, *ids: str) -> None:
        """Take layers out of the effect for a while, or all back in if none of them is in it; it is saved with it."""
        layers = [layer for layer in self.effect.layers if layer.id in ids]
        on = not any(layer.enabled for layer in layers)
        edits = [(self.layer_path("enabled", layer.id), on) for layer in layers]
        if edits:
            self.edit_many(edits, f"{'Enable' if on else 'Disable'} {self._said([layer.id for layer in layers])}")

    def toggle_alone(self, *ids: str) -> None:
        """Show only these layers, or all again."""
        self.alone = set() if self.alone == set(ids) else set(ids)
        self.shown_changed.emit()
        self._ask()

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

    def hurry(self, hasty: bool) -> None:
        """Let pictures be quick rather than fine while something is dragged; afterwards all is shown in full."""
        if hasty != self.hasty:
            self.hasty = hasty
            self.haste_changed.emit()
            if not hasty:
                self.effect_changed.emit()

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

    def look_from(self, camera: Camera) -> None:
        self.camera = camera
        self.shown_changed.emit()

    # The clock

    @property
    def phase(self) -> float:
        """Return the time inside the present loop, s."""
        duration = self.effect.duration
        return self.time % duration if self.effect.loop else self.time

    def play(self, playing: bool) -> None:
        """Play or pause; at the end of an effect that doesn't loop, play from its beginning."""
        if playing and self.is_over and self.time > 0.0:
            self.time = 0.0
        self.playing = playing
        self._last = time.perf_counter()
        if not playing and self.moment_number > 0:
            # Stop where the picture is.
            self.time = self.moment.time
        self.clock_changed.emit()
        self._ask()

    @property
    def is_over(self) -> bool:
        """Return whether an effect that doesn't loop has come to its end, with nothing alive any more."""
        if self.effect.loop or self.time <= self.effect.duration:
            return False
        return self.moment.alive == 0 or self.time > self.effect.duration * 4

    def set_speed(self, speed: float) -> None:
        self.speed = speed
        self.clock_changed.emit()

    def seek(self, moment: float) -> None:
        """Go to a time; playing goes on from there."""
        self.time = max(0.0, moment)
        self._last = time.perf_counter()
        self.clock_changed.emit()
        self._ask()

    def step(self, steps: int) -> None:
        """Stop and go on, or back, by single steps."""
        self.playing = False
        rate = self.effect.step_rate
        self.seek(max(0, round(self.time * rate) + steps) / rate)

    def _tick(self) -> None:
        if not self.playing or self.moment_number < self.asked_number:
            # While the last wish is still being worked on there is nothing to add to it.
            return
        now = time.perf_counter()
        passed, self._last = min(now - self._last, 0.1), now
        self.time += passed * self.speed
        if self.is_over:
            # It is shown once; play begins again.
            self.play(False)
            return
        self.clock_changed.emit()
        self._ask()

    def _ask(self) -> None:
        unseen = frozenset(layer.id for layer in self.effect.layers if not self.is_shown(layer.id))
        self.asked_number = self.player.ask(self.effect, self.time, unseen, self.selected)

    @property
    def is_late(self) -> bool:
        """Return whether the moment that is wanted isn't there yet."""
        return self.moment_number < self.asked_number

    def way(self) -> float:
        """Return how far the simulation is on its way to the moment that is wanted, 0…1."""
        return self.player.reached / max(self.time, 1e-9) if self.time > 0 else 1.0

    def stop_on_the_way(self) -> None:
        """Stop a simulation that takes long where it is, and look at that."""
        if self.is_late:
            self.playing = False
            self.seek(min(self.player.reached, self.time))

    def _prepare(self, done: int, total: int, what: str) -> None:
        self.preparing = (done, total, what)
        self.shown_changed.emit()

    def _take_moment(self, moment: Moment, number: int, taken: float) -> None:
        self.moment = moment
        self.moment_number = number
        self.milliseconds = taken
        self.moment_changed.emit()
        if self.picked is not None:
            self._follow()

    def _take_levels(self, levels: Any) -> None:
        self.moment = dataclasses.replace(self.moment, levels=levels)
        self.levels_changed.emit()

    def end(self) -> None:
        self._timer.stop()
        self.player.end()

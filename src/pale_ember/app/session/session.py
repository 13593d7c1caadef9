"""What the window works on: the document, the selection, the clock, and what is shown. One object, few signals."""

from __future__ import annotations

import dataclasses
import time
from typing import Any, NamedTuple

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from ...drawing import Moment
from ...effect.effect import Camera, Effect, Layer
from ...effect.errors import EffectError
from ...effect.layers import add_layer, duplicate_layer, group_layers, move_layer, remove_layer
from ...simulation.births import Birth
from .document import Document
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
    shown_changed = pyqtSignal()  # camera, backdrop, hidden and lone layers
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
        self.hidden: set[str] = set()
        self.alone: set[str] = set()
        self.camera: Camera = effect.stage.camera
        self.moment = Moment(0.0, ())
        self.moment_number = 0
        self.asked_number = 0
        self.milliseconds = 0.0
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

    def layer_path(self, rest: str = "", layer_id: str = "") -> str:
        """Return the path of a layer (the selected one by default), or of something in it."""
        at = self.effect.index(layer_id or self.selected)
        return f"layers[{at}]" + (f".{rest}" if rest else "")

    def open(self, document: Document) -> None:
        """Show another document from its beginning."""
        self.document = document
        self.selected = self.effect.layers[0].id if self.effect.layers else ""
        self.hidden, self.alone, self.others, self.folded = set(), set(), set(), set()
        self.picked, self.cursor_shown = None, False
        self.camera = self.effect.stage.camera
        self.time = 0.0
        self.effect_changed.emit()
        self.selection_changed.emit()
        self.shown_changed.emit()
        self.clock_changed.emit()
        self._ask()

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

    def apply(self, effect: Effect, name: str, merge: str = "") -> None:
        """Take an edited effect."""
        if self.document.apply(effect, name, merge):
            self._effect_is_another()

    def undo(self) -> None:
        if self.document.undo():
            self._effect_is_another()

    def redo(self) -> None:
        if self.document.redo():
            self._effect_is_another()

    def _effect_is_another(self) -> None:
        self.others &= {layer.id for layer in self.effect.layers}
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
        self.apply(effect, name)
        fresh = [layer.id for layer in effect.layers if layer.id not in before]
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
        self.selected = rest[min(at, len(rest) - 1)].id if rest else ""
        self.apply(gone, name)
        self.selection_changed.emit()

    def toggle_folded(self, group: str) -> None:
        """Fold a group of the timeline into one lane, or unfold it."""
        self.folded ^= {group}
        self.shown_changed.emit()

    def move(self, layer_id: str, to: int) -> None:
        if self.effect.index(layer_id) not in (-1, to):
            name = self.effect.layer(layer_id).name
            self.apply(move_layer(self.effect, layer_id, to), f"Move {name}")

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
        return layer_id in self.alone if self.alone else layer_id not in self.hidden

    def toggle_hidden(self, *ids: str) -> None:
        """Hide layers, or show them again if all of them are hidden."""
        hide = not set(ids) <= self.hidden
        self.hidden = self.hidden | set(ids) if hide else self.hidden - set(ids)
        self.shown_changed.emit()
        self._ask()

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
        self.playing = playing
        self._last = time.perf_counter()
        if not playing:
            # Stop where the picture is.
            self.time = self.moment.time
        self.clock_changed.emit()
        self._ask()

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
        effect = self.effect
        if (
            not effect.loop
            and self.time > effect.duration
            and (self.moment.alive == 0 or self.time > effect.duration * 4)
        ):
            self.time = 0.0
        self.clock_changed.emit()
        self._ask()

    def _ask(self) -> None:
        unseen = frozenset(layer.id for layer in self.effect.layers if not self.is_shown(layer.id))
        self.asked_number = self.player.ask(self.effect, self.time, unseen, self.selected)

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

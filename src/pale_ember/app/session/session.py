"""What the window works on: the document, the selection, the clock, and what is shown. One object, few
signals.
"""

from __future__ import annotations

import dataclasses
import time
from typing import Any

from PyQt6.QtCore import Qt, QTimer, pyqtSignal

from ...drawing import Moment
from ...drawing.environment import Environment, environment_of
from ...drawing.moment import dressed
from ...effect.chapters.stage import Camera
from ...effect.effect import Effect
from ...effect.kinds import DrawnAs, EmitterShape
from ...files.chosen_pictures import ChosenPictures, trusted_from
from ...files.texture_pool import TexturePool
from ...files.textures import BACKDROP
from ...simulation.meshes.drawn import is_known
from ...simulation.meshes.faces import known_faces
from ...simulation.motion.prop_poses import prop_clock
from .document import Document
from .layer_actions import LayerActions
from .linking import Linking
from .player import Player
from .selecting import Selecting

SPEEDS = (0.25, 0.5, 1.0, 2.0)
TICK = 16
# How often it is asked whether a texture has come, ms.
TEXTURES_MS = 250
# A simulation that takes longer than this, s, shows its progress and can be stopped.
LONG = 0.5


class Session(Selecting):
    """Edits go in here; everything in the window shows what it holds.

    Attributes
    ----------
    layers : LayerActions
        What is done to the selected layers.
    links : Linking
        What is done to links between layers.
    """

    _textures_came = pyqtSignal()

    def __init__(self, effect: Effect) -> None:
        super().__init__(effect)
        self.layers, self.links = LayerActions(self), Linking(self)
        # Along whose axes the stage's handles go: the world's or the layer's.
        self.handle_axes = "world"
        self.strip_axis = "life"
        # The prop that has handles, by its number; -1 for none.
        self.prop = -1
        # While a key is dragged, pictures hurry.
        self.hasty = False
        self.speed = 1.0
        # Whether it is kept where particles hit, to be seen.
        self.watches_hits = False
        self._late_since = 0.0
        self.camera: Camera = effect.stage.camera
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
        self.chosen_pictures = ChosenPictures()
        self.textures = TexturePool(self._trusts, self._textures_came.emit)
        # It comes from the pool's thread, so Qt queues it: what is made is seen at once.
        self._textures_came.connect(self._look_at_textures)
        self._textures_known = 0
        self._texture_timer = QTimer(self)
        self._texture_timer.timeout.connect(self._look_at_textures)
        self._texture_timer.start(TEXTURES_MS)
        self.effect_changed.connect(self._take_textures)
        self._take_textures()
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._last = time.perf_counter()
        self._timer.start(TICK)

    def open(self, document: Document) -> None:
        """Show another document from its beginning."""
        self.document = document
        document.most_steps = self._undo_steps
        self.selected = self.effect.layers[0].id if self.effect.layers else ""
        self.alone, self.others, self.layers.folded = set(), set(), set()
        self.picked, self.cursor_shown = None, False
        self.camera = self.effect.stage.camera
        self.time = 0.0
        self.effect_changed.emit()
        self.selection_changed.emit()
        self.shown_changed.emit()
        self.clock_changed.emit()
        self.ask()

    def hurry(self, hasty: bool) -> None:
        """Let pictures be quick rather than fine while something is dragged; afterwards all is shown in
        full.
        """
        if hasty != self.hasty:
            self.hasty = hasty
            self.haste_changed.emit()
            if not hasty:
                self.effect_changed.emit()

    def look_from(self, camera: Camera) -> None:
        self.camera = camera
        self.shown_changed.emit()

    # The clock

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
        self.ask()

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
        self.ask()

    def step(self, steps: int) -> None:
        """Stop and go on, or back, by single steps."""
        self.playing = False
        rate = self.effect.step_rate
        self.seek(max(0, round(self.time * rate) + steps) / rate)

    def _tick(self) -> None:
        """Move the clock on while it plays, and ask for that moment."""
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
        self.ask()

    def ask(self) -> None:
        if not self.is_late:
            self._late_since = time.monotonic()
        unseen = frozenset(layer.id for layer in self.effect.layers if not self.is_shown(layer.id))
        self.asked_number = self.player.ask(self.effect, self.time, unseen, self.selected, self.watches_hits)

    @property
    def is_late(self) -> bool:
        """Return whether the moment that is wanted isn't there yet."""
        return self.moment_number < self.asked_number

    @property
    def takes_long(self) -> bool:
        """Return whether the moment that is wanted has been on its way so long that the stage says it."""
        return self.is_late and time.monotonic() - self._late_since >= LONG

    @property
    def waits_for_mesh(self) -> bool:
        """Return whether the selected layer's mesh is being read for the simulation; nobody should read
        it meanwhile.
        """
        layer = self.layer
        if layer is None or not self.is_late:
            return False
        born_on_unknown = (
            layer.birthplace.kind == EmitterShape.MESH and known_faces(layer.birthplace.mesh) is None
        )
        return born_on_unknown or (layer.look.draw == DrawnAs.MESH and not is_known(layer.look.mesh.mesh))

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
        self.moment = dressed(moment, self.effect, self.textures.state.ready)
        self.moment_number = number
        self._late_since = time.monotonic()
        self.milliseconds = taken
        self.moment_changed.emit()
        if self.picked is not None:
            self._follow()

    def watch_hits(self, on: bool) -> None:
        """Let it be known where particles hit, or no longer."""
        self.watches_hits = on
        self.shown_changed.emit()
        self.ask()

    def choose_prop(self, index: int) -> None:
        """Let the stage's handles be those of a prop, by its number; below 0 those of the layer."""
        if index != self.prop:
            self.prop = index
            self.selection_changed.emit()

    # Textures

    def _trusts(self, path: str) -> bool:
        """Return whether a picture may be read: it lies with the effect, or was chosen by the artist."""
        home = self.document.path
        return trusted_from(None if home is None else home.parent, self.chosen_pictures)(path)

    def choose_picture(self, path: str) -> None:
        """Remember that the artist chose a picture file; it may be read from now on, in whatever effect."""
        self.chosen_pictures.add(path)
        self.textures.look_again()

    def _take_textures(self) -> None:
        self.textures.take(self.effect)
        self._look_at_textures()

    def _look_at_textures(self) -> None:
        if self.textures.version == self._textures_known:
            return
        self._textures_known = self.textures.version
        self.moment = dressed(self.moment, self.effect, self.textures.state.ready)
        self.textures_changed.emit()

    def environment(self, grid: bool = True, bare: bool = False) -> Environment:
        """Return the stage as it is drawn."""
        return environment_of(
            self.effect.stage,
            grid,
            bare,
            self.textures.state.ready.get(BACKDROP),
            clock=prop_clock(self.effect, self.moment.time),
        )

    def _take_levels(self, levels: Any) -> None:
        self.moment = dataclasses.replace(self.moment, levels=levels)
        self.levels_changed.emit()

    def end(self) -> None:
        # Another window must get its own Esc.
        self._escape.end()
        self._timer.stop()
        self._texture_timer.stop()
        self.textures.close()
        self.player.end()

"""What is on the bench: a texture, the step in view, and how its picture is looked at."""

from __future__ import annotations

import json
from enum import StrEnum

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...effect.build_moves import as_build, halved, named, new_step, read_steps, steps_data, unpacked
from ...effect.effect import Effect, Layer
from ...effect.errors import EffectError
from ...effect.kinds import Channel
from ...effect.look import texture_names
from ...effect.steps import Picture, Step
from ...effect.texture_moves import free_texture_name, with_textures
from ...effect.textures import MOST_FRAMES, Build, Texture
from ...files.textures import read_trusted
from ...textures.prepared import Prepared
from ...textures.sheets import find_layout
from ..recipe.plays import first_play
from ..session.clipboard import clipboard_text, put_text
from ..session.session import Session

# Frames a second that a sheet plays on the bench.
RATE = 12.0
NEW_SIZE = 256


class Look(StrEnum):
    """How large the picture is shown."""

    FIT = "fit"
    PIXELS = "pixels"
    GAME = "in the game"


class Bench(QObject):
    """One texture at a time; every edit goes through the session, so that undo and the file know it.

    Attributes
    ----------
    name : str
        The texture's; empty while the bench is closed.
    index : int
        The step in view; -1 for none.
    """

    opened = pyqtSignal()  # opened or closed
    changed = pyqtSignal()  # another texture, step or build
    looked = pyqtSignal()  # channel, size, tiles or frame

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.name, self.index = "", -1
        self.channel, self.look, self.tiled = Channel.ALL, Look.FIT, False
        self._place = -1
        self._since = 0.0
        self._shown: Texture | None = None
        self._frame = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._turn_over)
        session.effect_changed.connect(self._follow)
        session.cursor_changed.connect(self._pointed)
        session.textures_changed.connect(self._made)

    # What is on it

    @property
    def is_open(self) -> bool:
        return bool(self.name)

    @property
    def texture(self) -> Texture | None:
        return self.session.effect.texture(self.name) if self.name else None

    @property
    def build(self) -> Build | None:
        """Return the build that is worked on; None for a texture that is a file."""
        texture = self.texture
        return texture.build if texture is not None and not texture.file else None

    @property
    def steps(self) -> tuple[Step, ...]:
        build = self.build
        return build.steps if build is not None else ()

    @property
    def step(self) -> Step | None:
        return self.steps[self.index] if 0 <= self.index < len(self.steps) else None

    @property
    def ready(self) -> Prepared | None:
        return self.session.textures.state.ready.get(self.name)

    @property
    def memory(self) -> float:
        """Return the bytes that the whole texture takes on the graphics card, even while a coarse one is shown."""
        ready, build = self.ready, self.build
        if ready is None:
            return 0.0
        wide, high = ready.size
        share = build.size**2 / max(wide * high, 1) if build is not None else 1.0
        return ready.memory * share * self.frames / max(ready.frames, 1)

    @property
    def wearers(self) -> list[Layer]:
        """Return the layers that wear the texture, the selected one first."""
        found = [layer for layer in self.session.effect.layers if self.name in texture_names(layer.look)]
        return sorted(found, key=lambda layer: layer.id != self.session.selected)

    def path(self, rest: str = "") -> str:
        """Return the path of the texture in the effect, or of something in it."""
        at = next((i for i, texture in enumerate(self.session.effect.textures) if texture.name == self.name), 0)
        return f"textures[{at}]" + (f".{rest}" if rest else "")

    def step_path(self, rest: str, index: int = -1) -> str:
        """Return the path of something in a step, by default the one in view."""
        return self.path(f"build.steps[{max(self.index if index < 0 else index, 0)}].{rest}")

    # Opening

    def open(self, name: str) -> None:
        """Put a texture on the bench."""
        if self.session.effect.texture(name) is None:
            return
        was = self.is_open
        self.session.textures.want_showing()
        self.name = name
        self._place = self._at(name)
        self._shown = self.texture
        self.index = len(self.steps) - 1
        if not was:
            self._timer.start(round(1000 / RATE))
            self.opened.emit()
        self.changed.emit()
        self.looked.emit()

    def open_for_layer(self) -> None:
        """Put what the selected layer wears on the bench; a layer without a texture gets one to begin with."""
        session = self.session
        layer = session.layer
        worn = "" if layer is None else layer.look.texture
        if session.effect.texture(worn) is None:
            worn = next((texture.name for texture in session.effect.textures), "") if layer is None else self.begin()
        if worn:
            self.open(worn)

    def begin(self) -> str:
        """Let the selected layers wear a new build without steps, and return its name."""
        session = self.session
        layer = session.layer
        name = free_texture_name(session.effect, layer.name.lower() if layer is not None else "texture")
        fresh = Texture(name=name, build=Build(size=NEW_SIZE))
        try:
            effect = session.effect.edit("textures", (*session.effect.textures, fresh))
            for layer_id in session.chosen_first:
                effect = effect.edit(session.layer_path("look.texture", layer_id), name)
        except EffectError as wrong:
            session.said.emit(wrong.sentence)
            return ""
        session.apply(effect, f"New texture {name}")
        return name

    def close(self) -> None:
        if self.is_open:
            self.name, self.index, self._shown = "", -1, None
            self._timer.stop()
            self.opened.emit()

    def select(self, index: int) -> None:
        """Look at another step."""
        index = min(max(index, -1), len(self.steps) - 1)
        if index != self.index:
            self.index = index
            self.session.document.end_merge()
            self.changed.emit()

    def _at(self, name: str) -> int:
        return next((i for i, texture in enumerate(self.session.effect.textures) if texture.name == name), -1)

    def _follow(self) -> None:
        """Go along with renaming; close when the texture is gone."""
        if not self.is_open:
            return
        textures = self.session.effect.textures
        if self.texture is None:
            renamed = textures[self._place] if 0 <= self._place < len(textures) else None
            before = self._shown
            if renamed is None or before is None or renamed.model_copy(update={"name": before.name}) != before:
                self.close()
                return
            self.name = renamed.name
        self._place = self._at(self.name)
        before, self._shown = self._shown, self.texture
        if self._shown is before:
            return
        self.index = min(self.index, len(self.steps) - 1)
        if self.index < 0 and self.steps:
            self.index = 0
        self.changed.emit()

    # Frames

    @property
    def frames(self) -> int:
        """Return how many frames stay on the sheet."""
        texture = self.texture
        return 1 if texture is None else max(texture.count, 1)

    @property
    def kept(self) -> tuple[int, ...]:
        """Return which of the frames that are made stay on the sheet, in their order."""
        texture, build = self.texture, self.build
        return build.kept(texture.made) if build is not None and texture is not None else tuple(range(self.frames))

    @property
    def plays(self) -> bool:
        return self.is_open and self.session.playing and self.frames > 1 and not self.session.cursor_shown

    @property
    def frame(self) -> int:
        """Return the frame of the sheet in view."""
        if self.plays:
            return self._frame % self.frames
        texture = self.texture
        made = round(self.session.cursor * ((texture.made if self.build is not None and texture is not None else self.frames) - 1))
        kept = self.kept
        return min(range(len(kept)), key=lambda i: abs(kept[i] - made), default=0)

    def show_frame(self, index: int) -> None:
        """Stop at a frame of the sheet."""
        kept = self.kept
        if not kept:
            return
        texture = self.texture
        made = texture.made if self.build is not None and texture is not None else len(kept)
        self.session.pin_cursor(kept[index % len(kept)] / max(made - 1, 1))

    def _turn_over(self) -> None:
        if self.plays:
            self._frame = (self._frame + 1) % self.frames
            self.looked.emit()

    def _pointed(self) -> None:
        if self.is_open:
            self.looked.emit()

    def _made(self) -> None:
        if self.is_open:
            self.looked.emit()

    def look_at(self, channel: Channel | None = None, look: Look | None = None, tiled: bool | None = None) -> None:
        """Show another channel, at another size, tiled or not."""
        self.channel = self.channel if channel is None else channel
        self.look = self.look if look is None else look
        self.tiled = self.tiled if tiled is None else tiled
        self.looked.emit()

    # Edits of steps

    def give(self, steps: tuple[Step, ...], name: str, index: int, merge: str = "") -> bool:
        """Give the build other steps, as one step of undo, and look at one of them."""
        before = self.index
        # Whoever hears of the edit finds the right step in view.
        self.index = index
        if self.session.edit(self.path("build.steps"), steps, name, merge):
            self.index = min(index, len(self.steps) - 1)
            self.changed.emit()
            return True
        self.index = before
        return False

    def add(self, kind: str) -> None:
        """Add a step behind the one in view."""
        texture = self.texture
        if texture is None:
            return
        if self.build is None:
            self.turn_into_build()
            if self.build is None:
                return
        at = self.index + 1
        self.give((*self.steps[:at], new_step(kind), *self.steps[at:]), f"Add {kind}", at)

    def remove(self) -> None:
        if self.step is not None:
            at = self.index
            self.give((*self.steps[:at], *self.steps[at + 1 :]), f"Delete {self.steps[at].step}", min(at, len(self.steps) - 2))

    def duplicate(self) -> None:
        if self.step is not None:
            at = self.index
            self.give((*self.steps[: at + 1], self.steps[at], *self.steps[at + 1 :]), f"Duplicate {self.steps[at].step}", at + 1)

    def move(self, index: int, to: int) -> None:
        """Let a step stand before the one that is at a place now."""
        rest = [step for i, step in enumerate(self.steps) if i != index]
        at = min(max(to if to <= index else to - 1, 0), len(rest))
        if at != index:
            rest.insert(at, self.steps[index])
            self.give(tuple(rest), f"Move {self.steps[index].step}", at)

    def shift(self, by: int) -> None:
        """Move the step in view one place up (-1) or down (1)."""
        if self.step is not None and 0 <= self.index + by < len(self.steps):
            self.move(self.index, self.index + by if by < 0 else self.index + 2)

    def toggle(self, index: int = -1) -> None:
        """Switch a step off, or on again."""
        at = self.index if index < 0 else index
        if 0 <= at < len(self.steps):
            on = not self.steps[at].on
            self.session.edit(self.step_path("on", at), on, f"{named(self.steps[at])} {'on' if on else 'off'}")

    def copy(self) -> None:
        if self.step is not None:
            put_text(json.dumps(steps_data([self.step]), ensure_ascii=False, indent=2))
            self.session.said.emit(f"{named(self.step)} is copied.")

    def cut(self) -> None:
        self.copy()
        self.remove()

    def paste(self) -> None:
        """Put the steps on the clipboard behind the one in view."""
        try:
            fresh = read_steps(json.loads(clipboard_text()))
        except (EffectError, ValueError, RecursionError) as wrong:
            words = wrong.sentence if isinstance(wrong, EffectError) else "There are no steps on the clipboard; copy some with Ctrl+C on the bench."
            self.session.said.emit(f"Not pasted. {words}")
            return
        at = self.index + 1
        said = named(fresh[0]).lower() if len(fresh) == 1 else f"{len(fresh)} steps"
        self.give((*self.steps[:at], *fresh, *self.steps[at:]), f"Paste {said}", at + len(fresh) - 1)

    def roll(self) -> None:
        """Throw other dice: the step's own, or the whole build's."""
        step = self.step
        if step is not None and "seed" in type(step).rules():
            self.session.edit(self.step_path("seed"), (getattr(step, "seed") + 1) % 1_000_000, f"Other dice for {step.step}")  # noqa: B009
        elif self.build is not None:
            self.session.edit(self.path("build.seed"), (self.build.seed + 1) % 1_000_000, "Other dice for the build")

    # Edits of the whole

    def replace(self, texture: Texture, name: str) -> None:
        """Let another texture stand in the place of this one, under its name."""
        if self.texture is not None:
            self.index = len(texture.build.steps) - 1 if texture.build is not None else -1
            self.session.edit(self.path(), texture.model_copy(update={"name": self.name}), name)
            self.changed.emit()

    def turn_into_build(self) -> None:
        """Let a file's texture become a build whose first step brings the file in."""
        texture, ready = self.texture, self.ready
        if texture is not None and self.build is None:
            size = ready.size if ready is not None and texture.file else (NEW_SIZE, NEW_SIZE)
            fresh = as_build(texture, size) if texture.file else texture.model_copy(update={"build": Build(size=NEW_SIZE)})
            self.replace(fresh, f"Turn {self.name} into a build")

    def halve(self) -> None:
        """Make the build's frames the next smaller power of two."""
        build = self.build
        if build is not None:
            self.session.edit(self.path("build.size"), halved(build.size), f"Halve {self.name}")

    def unpack(self) -> None:
        """Add a texture of its own for each channel that holds a mask."""
        texture = self.texture
        if texture is None:
            return
        masks = unpacked(texture)
        if not masks:
            self.session.said.emit(f"“{texture.name}” has nothing packed; a step of the kind pack fills a channel.")
            return
        try:
            effect = _with_all(self.session.effect, masks)
        except EffectError as wrong:
            self.session.said.emit(f"Not unpacked. {wrong.sentence}")
            return
        self.session.apply(effect, f"Unpack {texture.name}")
        self.session.said.emit(f"{len(masks)} mask{'' if len(masks) == 1 else 's'} of “{texture.name}” are textures of their own now.")

    def add_texture(self, texture: Texture, name: str) -> None:
        """Add a texture to the effect, let the selected layers wear it if they wear none, and put it on the bench."""
        session = self.session
        fresh = texture.model_copy(update={"name": free_texture_name(session.effect, texture.name)})
        try:
            effect = session.effect.edit("textures", (*session.effect.textures, fresh))
        except EffectError as wrong:
            session.said.emit(wrong.sentence)
            return
        session.apply(effect, name)
        self.open(fresh.name)

    def find_layout(self) -> None:
        """Cut the step's sheet apart as it seems to be laid out, and give each of its frames one of the build's."""
        step, texture = self.step, self.texture
        if not isinstance(step, Picture) or not step.files or texture is None:
            return
        try:
            found = find_layout(read_trusted(step.files[0], "files", self.session.textures.trusted).pixels)
        except EffectError as wrong:
            self.session.said.emit(wrong.sentence)
            return
        each = found.columns * found.rows
        values = {"columns": found.columns, "rows": found.rows, "count": 0 if found.frames == each else found.frames,
                  "margin": found.margin, "gap": found.gap}  # fmt: skip
        edits: list[tuple[str, object]] = [(self.step_path(name), value) for name, value in values.items()]
        count = min(found.frames * len(step.files), MOST_FRAMES)
        edits.append((self.path("frames"), count if count > 1 else 0))
        if self.session.edit_many(edits, "Find the layout"):
            self.session.said.emit(f"{found.columns} × {found.rows}, {found.frames} frames.")

    def wear(self) -> None:
        """Let the selected layers wear what is on the bench."""
        session, texture = self.session, self.texture
        layer = session.layer
        if texture is None or layer is None:
            return
        values = {"texture": texture.name, **first_play(texture, layer.look)}
        session.edit_chosen([(session.layer_path(f"look.{name}"), value) for name, value in values.items()], f"Wear {texture.name}")
        self.changed.emit()

    def set_order(self, order: tuple[int, ...], name: str) -> None:
        """Let other frames stay on the sheet, or in another order."""
        texture = self.texture
        if self.build is None or texture is None or not order:
            return
        plain = order == tuple(range(texture.made))
        self.session.edit(self.path("build.order"), () if plain else order, name)


def _with_all(effect: Effect, textures: tuple[Texture, ...]) -> Effect:
    for texture in textures:
        named_free = texture.model_copy(update={"name": free_texture_name(effect, texture.name)})
        effect, _ = with_textures(effect, (), (named_free,))
    return effect

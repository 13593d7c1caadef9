"""What is done on the bench: to steps, to the sheet, and to whole textures."""

from __future__ import annotations

import json

from ...effect.editing.build_moves import as_build, halved, named, new_step, read_steps, steps_data, unpacked
from ...effect.editing.texture_moves import free_texture_name, with_textures
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.steps import Step
from ...effect.steps.pictures import Picture
from ...effect.textures import MOST_FRAMES, Build, Texture
from ...files.textures import read_trusted
from ...textures.sheets import find_layout
from ..recipe.plays import first_play
from ..session.clipboard import clipboard_text, put_text
from .on_the_bench import OnTheBench

NEW_SIZE = 256


class Bench(OnTheBench):
    """One texture at a time; every edit goes through the session, so that undo and the file know it."""

    def open_for_layer(self) -> None:
        """Put what the selected layer wears on the bench; a layer without a texture gets one to begin
        with.
        """
        session = self.session
        layer = session.layer
        worn = "" if layer is None else layer.look.texture
        if session.effect.texture(worn) is None:
            worn = (
                next((texture.name for texture in session.effect.textures), "")
                if layer is None
                else self.begin()
            )
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

    # Edits of steps

    def give(self, steps: tuple[Step, ...], name: str, index: int, merge: str = "") -> bool:
        """Give the build other steps, as one step of undo, and look at one of them."""
        before = self.index
        # Set before the edit is announced, so that listeners see the right step.
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
            self.give(
                (*self.steps[:at], *self.steps[at + 1 :]),
                f"Delete {self.steps[at].step}",
                min(at, len(self.steps) - 2),
            )

    def duplicate(self) -> None:
        if self.step is not None:
            at = self.index
            self.give(
                (*self.steps[: at + 1], self.steps[at], *self.steps[at + 1 :]),
                f"Duplicate {self.steps[at].step}",
                at + 1,
            )

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
            self.session.edit(
                self.step_path("on", at), on, f"{named(self.steps[at])} {'on' if on else 'off'}"
            )

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
            words = (
                wrong.sentence
                if isinstance(wrong, EffectError)
                else "There are no steps on the clipboard; copy some with Ctrl+C on the bench."
            )
            self.session.said.emit(f"Not pasted. {words}")
            return
        at = self.index + 1
        said = named(fresh[0]).lower() if len(fresh) == 1 else f"{len(fresh)} steps"
        self.give((*self.steps[:at], *fresh, *self.steps[at:]), f"Paste {said}", at + len(fresh) - 1)

    def roll(self) -> None:
        """Throw other dice: the step's own, or the whole build's."""
        step = self.step
        if step is not None and "seed" in type(step).rules():
            self.session.edit(
                self.step_path("seed"),
                (getattr(step, "seed") + 1) % 1_000_000,  # noqa: B009
                f"Other dice for {step.step}",
            )
        elif self.build is not None:
            self.session.edit(
                self.path("build.seed"), (self.build.seed + 1) % 1_000_000, "Other dice for the build"
            )

    # Edits of the whole

    def replace(self, texture: Texture, name: str, beside: tuple[Texture, ...] = ()) -> None:
        """Let another texture stand in the place of this one, under its name; those that it names come
        along.
        """
        if self.texture is None:
            return
        try:
            effect, _ = with_textures(self.session.effect, (), beside)
            effect = effect.edit(self.path(), texture.model_copy(update={"name": self.name}))
        except EffectError as wrong:
            self.session.said.emit(wrong.sentence)
            return
        self.index = len(texture.build.steps) - 1 if texture.build is not None else -1
        self.session.apply(effect, name)
        self.changed.emit()

    def turn_into_build(self) -> None:
        """Let a file's texture become a build whose first step brings the file in."""
        texture, ready = self.texture, self.ready
        if texture is not None and self.build is None:
            size = ready.size if ready is not None and texture.file else (NEW_SIZE, NEW_SIZE)
            fresh = (
                as_build(texture, size)
                if texture.file
                else texture.model_copy(update={"build": Build(size=NEW_SIZE)})
            )
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
            self.session.said.emit(
                f"“{texture.name}” has nothing packed; a step of the kind pack fills a channel."
            )
            return
        try:
            effect = _with_all(self.session.effect, masks)
        except EffectError as wrong:
            self.session.said.emit(f"Not unpacked. {wrong.sentence}")
            return
        self.session.apply(effect, f"Unpack {texture.name}")
        self.session.said.emit(
            f"{len(masks)} mask{'' if len(masks) == 1 else 's'} of “{texture.name}” are textures of "
            "their own now."
        )

    def add_texture(self, texture: Texture, name: str) -> None:
        """Add a texture to the effect, let the selected layers wear it if they wear none, and put it on
        the bench.
        """
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
        """Cut the step's sheet apart as it seems to be laid out, and give each of its frames one of the
        build's.
        """
        step, texture = self.step, self.texture
        if not isinstance(step, Picture) or not step.files or texture is None:
            return
        try:
            found = find_layout(
                read_trusted(step.files[0], "files", self.session.textures.trusted, step.layer).pixels
            )
        except EffectError as wrong:
            self.session.said.emit(wrong.sentence)
            return
        each = found.columns * found.rows
        values = {
            "columns": found.columns,
            "rows": found.rows,
            "count": 0 if found.frames == each else found.frames,
            "margin": found.margin,
            "gap": found.gap,
        }
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
        session.edit_chosen(
            [(session.layer_path(f"look.{name}"), value) for name, value in values.items()],
            f"Wear {texture.name}",
        )
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

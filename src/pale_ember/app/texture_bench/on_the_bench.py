"""What is on the bench: a texture, the step in view, and how its picture is looked at."""

from __future__ import annotations

from enum import StrEnum

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...effect.chapters.look import texture_names
from ...effect.effect import Layer
from ...effect.kinds import Channel
from ...effect.steps import Step
from ...effect.textures import Build, Texture
from ...textures.prepared import Prepared
from ..session.session import Session

# Frames a second that a sheet plays on the bench.
RATE = 12.0


class Look(StrEnum):
    """How large the picture is shown."""

    FIT = "fit"
    PIXELS = "pixels"
    GAME = "in the game"


class OnTheBench(QObject):
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
        session.clock_changed.connect(self._clock)
        self._was_playing = session.playing
        self._document = session.document

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
        """Return the bytes that the whole texture takes on the graphics card, even while a coarse one is
        shown.
        """
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
        at = next(
            (i for i, texture in enumerate(self.session.effect.textures) if texture.name == self.name), 0
        )
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
        self._document = self.session.document
        self._place = self._at(name)
        self._shown = self.texture
        self.index = len(self.steps) - 1
        if not was:
            self._timer.start(round(1000 / RATE))
            self.opened.emit()
        self.changed.emit()
        self.looked.emit()

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
        if self.session.document is not self._document:
            # Another effect may have a texture of this name; it is another one all the same.
            self.close()
            return
        textures = self.session.effect.textures
        if self.texture is None:
            renamed = textures[self._place] if 0 <= self._place < len(textures) else None
            before = self._shown
            if (
                renamed is None
                or before is None
                or renamed.model_copy(update={"name": before.name}) != before
            ):
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
        return (
            build.kept(texture.made)
            if build is not None and texture is not None
            else tuple(range(self.frames))
        )

    @property
    def plays(self) -> bool:
        return self.is_open and self.session.playing and self.frames > 1 and not self.session.cursor_shown

    @property
    def frame(self) -> int:
        """Return the frame of the sheet in view."""
        if self.plays:
            return self._frame % self.frames
        texture = self.texture
        made = round(
            self.session.cursor
            * ((texture.made if self.build is not None and texture is not None else self.frames) - 1)
        )
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

    def _clock(self) -> None:
        """Let a sheet that stood at a frame play again, once play is begun."""
        playing, before = self.session.playing, self._was_playing
        self._was_playing = playing
        if self.is_open and playing and not before:
            self.session.point_at(None)

    def _pointed(self) -> None:
        if self.is_open:
            self.looked.emit()

    def _made(self) -> None:
        if self.is_open:
            self.looked.emit()

    def look_at(
        self, channel: Channel | None = None, look: Look | None = None, tiled: bool | None = None
    ) -> None:
        """Show another channel, at another size, tiled or not."""
        self.channel = self.channel if channel is None else channel
        self.look = self.look if look is None else look
        self.tiled = self.tiled if tiled is None else tiled
        self.looked.emit()

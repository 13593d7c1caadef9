"""Small pictures of a build after each of its steps, made in a thread; the newest wish counts."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from ...effect.errors import EffectError
from ...effect.textures import Texture
from ...files.textures import Trusted, files_for, states_of
from ...newest import Newest
from ...textures.making.build import Making
from ...textures.making.memory import BuildMemory
from ...textures.making.stages import after_each


def as_rgb(pixels: NDArray[np.uint8]) -> QImage:
    """Return red, green, blue as an image."""
    high, wide = pixels.shape[:2]
    return QImage(pixels.tobytes(), wide, high, wide * 3, QImage.Format.Format_RGB888).copy()


class StepPictures(QObject):
    """Gives a list of pictures, one for each step, whenever they are made."""

    made = pyqtSignal(object, object)  # the texture, and its list of images

    def __init__(self, side: int, trusted: Trusted, parent: QObject) -> None:
        super().__init__(parent)
        self.side, self.trusted = side, trusted
        self._memory = BuildMemory()
        self._newest = Newest("steps", self._answer)

    def ask(self, texture: Texture, share: float) -> None:
        """Wish for pictures of a texture's steps in a frame, 0…1 of those that are made."""
        self._newest.ask((texture, share))

    def end(self) -> None:
        """Stop the thread."""
        self._newest.end()

    def _answer(self, wish: tuple[Texture, float], overtaken: Callable[[], bool]) -> None:
        """Make the picture after each step, and send them unless another is wanted by then."""
        texture, share = wish
        if texture.build is None:
            return
        try:
            files = files_for(texture.build, self.trusted)
        except EffectError:
            files = {}  # what is wrong with them stands beside the step
        how = Making(lambda _: overtaken(), files, states_of(texture, self.trusted), self._memory)
        found = after_each(texture, self.side, share, how, overtaken)
        if found is not None:
            self.made.emit(texture, [as_rgb(one) for one in found])

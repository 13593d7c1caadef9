"""Small pictures of a build after each of its steps, made in a thread; the newest wish counts."""

from __future__ import annotations

import threading

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from ...effect.errors import EffectError
from ...effect.textures import Texture
from ...files.textures import Trusted, files_for, states_of
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
        self._lock = threading.Condition()
        self._wish: tuple[Texture, float] | None = None
        self._ended = False
        self._memory = BuildMemory()
        self._thread: threading.Thread | None = None

    def ask(self, texture: Texture, share: float) -> None:
        """Wish for pictures of a texture's steps in a frame, 0…1 of those that are made."""
        with self._lock:
            self._wish = (texture, share)
            self._lock.notify()
            if self._thread is None and not self._ended:
                self._thread = threading.Thread(target=self._work, daemon=True, name="steps")
                self._thread.start()

    def end(self) -> None:
        """Stop the thread."""
        with self._lock:
            self._ended = True
            self._lock.notify()
        if self._thread is not None:
            self._thread.join(5.0)

    def _overtaken(self) -> bool:
        return self._ended or self._wish is not None

    def _work(self) -> None:
        while True:
            with self._lock:
                while self._wish is None and not self._ended:
                    self._lock.wait()
                if self._ended or self._wish is None:
                    return
                (texture, share), self._wish = self._wish, None
            if texture.build is None:
                continue
            try:
                files = files_for(texture.build, self.trusted)
            except EffectError:
                files = {}  # what is wrong with them stands beside the step
            how = Making(lambda _: self._overtaken(), files, states_of(texture, self.trusted), self._memory)
            found = after_each(texture, self.side, share, how, self._overtaken)
            if found is not None:
                self.made.emit(texture, [as_rgb(one) for one in found])

"""Pixels as pictures, and pictures as bytes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QBuffer, QIODevice
from PyQt6.QtGui import QImage, QPixmap

from ..widgets import theme


def blank_image(size: tuple[int, int]) -> QImage:
    """Return a dark picture, where nothing can be drawn."""
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(theme.color(theme.ASH_0))
    return image


def png_of(image: QImage | QPixmap) -> bytes:
    """Return a picture as the bytes of a PNG."""
    data = QBuffer()
    data.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(data, "PNG")
    return data.data().data()


def as_image(pixels: NDArray[np.uint8], clear: bool = False) -> QImage:
    """Return pixels from the upper left, blue first, as an image in the same memory; ``clear`` ones are
    premultiplied.
    """
    height, width = pixels.shape[:2]
    form = QImage.Format.Format_ARGB32_Premultiplied if clear else QImage.Format.Format_RGB32
    image = QImage(pixels.data, width, height, width * 4, form)  # type: ignore[call-overload]
    # The memory lives as long as the image.
    image.pixels = pixels
    return image  # type: ignore[no-any-return]

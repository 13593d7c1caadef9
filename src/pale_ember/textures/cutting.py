"""How a sheet is cut into frames, and frames are laid out as a sheet."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray


class Grid(NamedTuple):
    """Columns and rows of a sheet, pixels around it and pixels between its frames."""

    columns: int
    rows: int
    margin: int = 0
    gap: int = 0

    def frame_size(self, wide: int, high: int) -> tuple[int, int]:
        """Return the width and height of a frame; below 1 where a picture is too small to be cut so."""
        inner = lambda long, parts: (long - 2 * self.margin - (parts - 1) * self.gap) // parts  # noqa: E731
        return inner(wide, self.columns), inner(high, self.rows)  # type: ignore[no-untyped-call]

    def cut(self, pixels: NDArray[Any], index: int) -> NDArray[Any]:
        """Return one frame, counted row by row from the upper left; all of a picture that is too small to
        be cut.
        """
        wide, high = self.frame_size(pixels.shape[1], pixels.shape[0])
        if wide < 1 or high < 1:
            return pixels
        row, column = divmod(index % (self.columns * self.rows), self.columns)
        x, y = self.margin + column * (wide + self.gap), self.margin + row * (high + self.gap)
        return pixels[y : y + high, x : x + wide]


def grid_for(frames: int, padding: int = 0) -> Grid:
    """Return the squarest grid for so many frames, with clear pixels round each."""
    columns = math.ceil(math.sqrt(frames))
    return Grid(columns, math.ceil(frames / columns), padding, 2 * padding)


def laid_out(frames: NDArray[Any], padding: int = 0) -> NDArray[Any]:
    """Return frames, (n, h, w, c), as one sheet, row by row from the upper left."""
    count, high, wide, parts = frames.shape
    grid = grid_for(count, padding)
    cell = (high + 2 * padding, wide + 2 * padding)
    sheet = np.zeros((grid.rows * cell[0], grid.columns * cell[1], parts), frames.dtype)
    for i, frame in enumerate(frames):
        row, column = divmod(i, grid.columns)
        y, x = row * cell[0] + padding, column * cell[1] + padding
        sheet[y : y + high, x : x + wide] = frame
    return sheet

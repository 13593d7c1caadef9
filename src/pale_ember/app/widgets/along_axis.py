"""The base of the widgets along the life strip's axis: filmstrip, axis and lanes."""

from __future__ import annotations

from PyQt6.QtCore import QRectF

# The room at the left, for names, and at the right, pixels.
HEAD, RIGHT = 132, 10
# Of the room at the left, what the numbers of a lane's scale take.
SCALE = 34


class AlongAxis:
    """A widget of which a part, ``plot``, goes from the axis's beginning to its end."""

    @property
    def plot(self) -> QRectF:
        raise NotImplementedError

    def x_of(self, share: float) -> float:
        """Return where a share of the axis is, pixels."""
        return self.plot.left() + share * self.plot.width()

    def share_of(self, x: float) -> float:
        """Return the share of the axis at a place, kept inside 0…1."""
        return min(max((x - self.plot.left()) / self.plot.width(), 0.0), 1.0)

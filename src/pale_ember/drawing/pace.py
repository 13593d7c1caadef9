"""How large a picture is drawn while it moves: on a graphics card always in full; where OpenGL is the processor's
work, at a share of its size that keeps up. What stands still is drawn in full anyway."""

from __future__ import annotations

SHARES = (1.0, 0.71, 0.5, 0.35)
# Of the 33 ms that a picture may take, what is left for drawing it beside all else that the window does, ms.
MOVING, DRAGGED = 20.0, 11.0
# A larger share is tried once so many pictures in a row would have had time for it.
PATIENCE = 12
ROOM = 0.8


class Pace:
    """Picks the share of a picture's size from how long the last ones took.

    Parameters
    ----------
    is_software : bool
        Whether OpenGL is the processor's work.
    budget : float
        ms for drawing one picture.
    """

    def __init__(self, is_software: bool, budget: float = MOVING) -> None:
        self.budget = budget
        self._at = 0
        self._held = not is_software
        self._easy = 0

    @property
    def share(self) -> float:
        """Return the share of the picture's width and height."""
        return SHARES[self._at]

    def took(self, milliseconds: float) -> None:
        """Take note of how long a picture of the present share took."""
        if self._held:
            return
        if milliseconds > self.budget and self._at < len(SHARES) - 1:
            # Time goes with the number of pixels: as far down as that tells at once.
            while self._at < len(SHARES) - 1 and milliseconds > self.budget:
                milliseconds *= (SHARES[self._at + 1] / self.share) ** 2
                self._at += 1
            self._easy = 0
        elif self._at > 0 and milliseconds * (SHARES[self._at - 1] / self.share) ** 2 <= ROOM * self.budget:
            self._easy += 1
            if self._easy >= PATIENCE:
                self._at, self._easy = self._at - 1, 0
        else:
            self._easy = 0

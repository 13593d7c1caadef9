"""How large a picture is drawn while it moves: on a graphics card always in full; where OpenGL is the
processor's work, at a share of its size that keeps up. What stands still is drawn in full anyway.
"""

from __future__ import annotations

SHARES = (1.0, 0.71, 0.5, 0.35)
# Of the 33 ms that a picture may take, what is left for drawing it beside all else that the window does, ms.
MOVING, DRAGGED = 20.0, 11.0
# A larger share is tried once so many pictures in a row say that it has time; what was too slow is not tried
# again for so many.
PATIENCE, MEMORY = 12, 240
# Of a picture's time, what doesn't go with its size, where nothing better is known; and the room left for the
# next.
FIXED, ROOM = 0.3, 0.9


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
        self._easy = self._count = 0
        # For each share, when it was last too slow.
        self._slow: dict[int, int] = {}
        self._last: list[float] = []
        self._new = 2

    @property
    def share(self) -> float:
        """Return the share of the picture's width and height."""
        return SHARES[self._at]

    def took(self, milliseconds: float) -> None:
        """Take note of how long a picture of the present share took."""
        if self._held:
            return
        self._count += 1
        if self._new:
            # The first picture of a size makes targets and shaders as well.
            self._new -= 1
            return
        # The middle of three: a single long one is the machine's.
        self._last = [*self._last[-2:], milliseconds]
        milliseconds = sorted(self._last)[len(self._last) // 2]
        if milliseconds > self.budget and self._at < len(SHARES) - 1:
            self._slow[self._at] = self._count
            # By as much as was measured, in one go.
            while self._at < len(SHARES) - 1 and milliseconds > self.budget:
                milliseconds = self._at_share(milliseconds, self._at + 1)
                self._at += 1
            self._easy, self._last, self._new = 0, [], 1
        elif self._at > 0 and self._may_grow(milliseconds):
            self._easy += 1
            if self._easy >= PATIENCE:
                self._at, self._easy, self._last, self._new = self._at - 1, 0, [], 1
        else:
            self._easy = 0

    def _at_share(self, milliseconds: float, other: int) -> float:
        """Return about how long the same picture takes at another share."""
        return milliseconds * (FIXED + (1.0 - FIXED) * (SHARES[other] / self.share) ** 2)

    def _may_grow(self, milliseconds: float) -> bool:
        larger = self._at - 1
        lately = self._count - self._slow.get(larger, -MEMORY) < MEMORY
        return not lately and self._at_share(milliseconds, larger) <= ROOM * self.budget

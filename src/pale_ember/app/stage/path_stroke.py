"""A path drawn over the stage by one stroke of the mouse, at the pace of the hand."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt

from ...effect.chapters.path import evaluate_path
from ...effect.chapters.place import PathKey
from ...effect.effect import Layer
from ...effect.kinds import PathEase
from ...simulation.motion.path import pose_at
from ..session.session import Session
from .handles import Handle, dragged_to, path_handle
from .view import StageView

Floats = NDArray[np.float64]
# The error that leaving out a key may cause, as a share of the stroke's extent; the most keys.
TOLERANCE, MOST_KEYS = 0.012, 24
# Between two keys, of the whole stroke.
LEAST_BETWEEN = 1e-4
_strokes = itertools.count(1)


class PathStroke:
    """Waits for a stroke, and gives the selected layers the path that it draws.

    The path lies in the plane through the layer's place that faces the camera, or, seen from above, on the
    level of its place.
    """

    def __init__(self, session: Session, stage: StageView) -> None:
        self.session, self.stage = session, stage
        self.waits = False
        self._handle: Handle | None = None
        self._rows: list[tuple[float, float, float, float]] = []
        self._merge, self._began = "", 0.0

    @property
    def draws(self) -> bool:
        return self._handle is not None

    def begin(self) -> None:
        """Wait for the stroke."""
        layer = self.session.layer
        if layer is None:
            return
        if layer.origin.parent:
            self.session.said.emit(
                "A follow-up starts where its parent's events are; draw the path of that one."
            )
            return
        self.waits = True
        self.stage.setCursor(Qt.CursorShape.CrossCursor)
        self.session.said.emit(
            "Draw the path with the mouse, at the pace that it should have; Esc leaves it."
        )

    def end(self) -> None:
        """Wait no longer; what was drawn stays."""
        self.waits, self._handle, self._rows = False, None, []
        self.stage.setCursor(Qt.CursorShape.ArrowCursor)
        self.stage.touch_up()

    def take(self, where: QPointF, moment: float) -> bool:
        """Begin the stroke at a pixel and a moment of the hand's, s, if one is waited for; return whether
        it is.
        """
        layer = self.session.layer
        if not self.waits or layer is None:
            return False
        self.waits = False
        self._handle = path_handle(pose_at(layer.model_copy(update={"path": ()}), 0.0), self.session.camera)
        self._merge, self._began, self._rows = f"stroke {next(_strokes)}", moment, []
        self.session.begin_drag(self.end)
        self._add(where, 0.0)
        return True

    def drag(self, where: QPointF, moment: float) -> None:
        """Draw on to a pixel."""
        self._add(where, moment - self._began)
        if len(self._rows) > 1:
            self._give()

    def release(self) -> None:
        """End the stroke."""
        if self.draws:
            self.session.end_drag()
            self.end()

    def _add(self, where: QPointF, at: float) -> None:
        assert self._handle is not None
        size = max(self.stage.width(), 1), max(self.stage.height(), 1)
        place = dragged_to(self._handle, self.session.camera, size, where.x(), where.y())
        if place is not None:
            x, y, z = self._handle.value_at(place)
            # Two in one moment would be no way.
            last = self._rows[-1][0] if self._rows else -1.0
            self._rows.append((max(at, last + 1e-4), x, y, z))

    def _give(self) -> None:
        layer: Layer | None = self.session.layer
        if layer is not None:
            # Others that are selected get the same, each about its own place.
            self.session.edit_chosen(
                [(self.session.layer_path("path"), keys_of_stroke(np.array(self._rows)))],
                "Draw a path",
                self._merge,
            )


def keys_of_stroke(rows: Floats) -> tuple[PathKey, ...]:
    """Return the few keys of a path through moments and places.

    Parameters
    ----------
    rows : (n, 4) array
        Seconds, rising, and x, y, z; n is at least 2.

    Notes
    -----
    By leaving out whatever lies near the line between what is kept, in time as in space (D. H. Douglas,
    T. K. Peucker, 1973).
    """
    clock, places = (rows[:, 0] - rows[0, 0]) / (rows[-1, 0] - rows[0, 0]), rows[:, 1:]
    reach = float(np.linalg.norm(np.ptp(places, axis=0)))
    tolerance, pace = TOLERANCE * reach, clock
    kept = _kept(pace, places, tolerance)
    if len(kept) > MOST_KEYS:
        # A hand that stops and starts again and again: where it went comes before how fast.
        gone = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(places, axis=0), axis=1))])
        pace = gone / max(float(gone[-1]), 1e-12)
        kept = _kept(pace, places, tolerance)
    while len(kept) > MOST_KEYS:
        tolerance *= 1.3
        kept = _kept(pace, places, tolerance)
    digits = max(0, 3 - int(np.floor(np.log10(max(reach, 1e-6)))))
    found: list[PathKey] = []
    for number, i in enumerate(kept):
        # However long the hand rested, no key is at the moment of another.
        latest = 1.0 - LEAST_BETWEEN * (len(kept) - 1 - number)
        at = min(max(float(clock[i]), found[-1].at + LEAST_BETWEEN if found else 0.0), latest)
        found.append(
            PathKey(at=round(at, 4), position=tuple(round(float(part), digits) for part in places[i]))
        )
    smooth = tuple(found)
    fine = np.linspace(0.0, 1.0, 400)
    way = np.stack([np.interp(fine, clock, places[:, axis]) for axis in range(3)], axis=1)
    off = np.linalg.norm(evaluate_path(smooth, fine)[:, :3] - way, axis=1).max()
    # Where the hand stops or turns sharply, a smooth way would swing out.
    return (
        smooth
        if off <= 4.0 * tolerance
        else tuple(key.model_copy(update={"ease": PathEase.LINEAR}) for key in smooth)
    )


def _kept(clock: Floats, places: Floats, tolerance: float) -> list[int]:
    """Return the rows without which a way at an even pace between its neighbours would be too far off."""
    kept = {0, len(clock) - 1}
    waiting = [(0, len(clock) - 1)]
    while waiting:
        first, last = waiting.pop()
        if last - first < 2:
            continue
        share = ((clock[first + 1 : last] - clock[first]) / (clock[last] - clock[first]))[:, None]
        off = np.linalg.norm(
            places[first + 1 : last] - (places[first] + (places[last] - places[first]) * share), axis=1
        )
        worst = int(off.argmax())
        if off[worst] > tolerance:
            middle = first + 1 + worst
            kept.add(middle)
            waiting += [(first, middle), (middle, last)]
    return sorted(kept)

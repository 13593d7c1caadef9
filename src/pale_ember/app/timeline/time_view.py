"""The stretch of time that the timeline shows, and where a moment falls on it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from ..session.session import Session

HEAD = 200
RIGHT = 12
# No closer than so many steps over the whole width.
FEWEST_STEPS = 6


class TimeView(QObject):
    """From which second, and over how many, the timeline looks; the same for ruler and lanes."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.zoom = 1.0
        self._start = 0.0

    @property
    def duration(self) -> float:
        return self.session.effect.duration

    @property
    def span(self) -> float:
        """Return how many seconds are in view."""
        return self.duration / self.zoom

    @property
    def start(self) -> float:
        return min(max(self._start, 0.0), self.duration - self.span)

    @property
    def key(self) -> tuple[float, float]:
        """Return what tells this view from another."""
        return self.start, self.span

    def x_of(self, time: float, width: float) -> float:
        """Return the pixel of a moment in a widget of some width."""
        return HEAD + (time - self.start) / self.span * max(width - HEAD - RIGHT, 10)

    def time_of(self, x: float, width: float) -> float:
        """Return the moment at a pixel, kept inside the effect."""
        time = self.start + (x - HEAD) / max(width - HEAD - RIGHT, 10) * self.span
        return min(max(time, 0.0), self.duration)

    def zoom_at(self, factor: float, time: float) -> None:
        """Zoom by a factor; the moment stays where it is."""
        closest = max(self.duration * self.session.effect.step_rate / FEWEST_STEPS, 1.0)
        share = (time - self.start) / self.span
        self.zoom = min(max(self.zoom * factor, 1.0), closest)
        self._start = time - share * self.span
        self._start = self.start
        self.changed.emit()

    def scroll(self, seconds: float) -> None:
        before = self.start
        self._start = self.start + seconds
        self._start = self.start
        if self._start != before:
            self.changed.emit()

    def show_all(self) -> None:
        self.zoom, self._start = 1.0, 0.0
        self.changed.emit()

    def keep_in_view(self, time: float) -> None:
        """Turn a page if a moment is out of view."""
        if self.zoom > 1.0 and not self.start <= time <= self.start + self.span:
            self.scroll(time - self.start - 0.02 * self.span)

"""The keys that are held in the life strip, over all of its lanes, and what is done to them together."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from typing import Any, Protocol

from PyQt6.QtCore import QObject, pyqtSignal

from ...effect.rules.edit import get
from ...effect.rules.fields import Rule
from ...effect.values.colors import Stop
from ...effect.values.curve_edits import moved, room, scaled, with_ease
from ...effect.values.curves import Key
from ..session.session import Session
from .tracks import Track, TrackId, tracks_of, with_points

_strokes = itertools.count(1)
GRID = 0.05
# How near, in pixels, a dragged key must come to a place to stay there.
CATCH = 5.0
Held = tuple[str, int, int]


class LaneLike(Protocol):
    """What the selection needs of a lane."""

    path: str
    rule: Rule

    @property
    def value(self) -> Any: ...
    @property
    def reach(self) -> float: ...


class KeySelection(QObject):
    """Keys by path, side and index. Every edit of several lanes is one step of undo.

    Attributes
    ----------
    held : set
        What is selected; ``main`` is the one that was clicked last.
    guide : float or None
        Where a dragged key was caught by the grid or by another lane's key.
    stroke : str
        What the edits of one drag have in common; empty between drags.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, lanes: Callable[[], Iterable[LaneLike]]) -> None:
        super().__init__()
        self.session, self.lanes = session, lanes
        self.held: set[Held] = set()
        self.main: Held | None = None
        self.guide: float | None = None
        self.stroke = ""
        self._base: dict[TrackId, Any] = {}

    # What there is

    def tracks(self) -> dict[TrackId, Track]:
        """Return all lines of the lanes in view."""
        return {track.id: track for lane in self.lanes() for track in tracks_of(lane.path, lane.value)}

    def by_track(self) -> dict[TrackId, set[int]]:
        """Return the held keys' indices by line."""
        found: dict[TrackId, set[int]] = {}
        for path, side, index in self.held:
            found.setdefault((path, side), set()).add(index)
        return found

    def points(self) -> list[tuple[Held, Any]]:
        """Return the held keys and stops, without those that were deleted meanwhile."""
        tracks = self.tracks()
        return [
            (held, tracks[held[:2]].points[held[2]])
            for held in sorted(self.held)
            if held[:2] in tracks and held[2] < len(tracks[held[:2]].points)
        ]

    def lane_of(self, path: str) -> LaneLike | None:
        return next(
            (lane for lane in self.lanes() if path == lane.path or path.startswith(lane.path + "[")), None
        )

    # Taking

    def take(self, held: Held, also: bool = False) -> None:
        """Hold a key: it alone, or with those held already (or no longer)."""
        if also and held in self.held and len(self.held) > 1:
            self.held = self.held - {held}
            self.main = next(iter(self.held))
        else:
            self.held = (self.held if also else set()) | {held}
            self.main = held
        self.changed.emit()

    def take_all(self, keys: Iterable[Held], also: bool = False) -> None:
        """Hold several keys."""
        self.held = (self.held if also else set()) | set(keys)
        if self.main not in self.held:
            self.main = min(self.held) if self.held else None
        self.changed.emit()

    def let_go(self) -> None:
        if self.held:
            self.held, self.main = set(), None
            self.changed.emit()

    def refresh(self) -> None:
        """Let go of keys that were deleted."""
        there = {held for held, _ in self.points()}
        if there != self.held:
            self.held = there
            self.main = self.main if self.main in there else (min(there) if there else None)
            self.changed.emit()

    # Changing

    def give(self, changes: dict[TrackId, Any], name: str, merge: str = "") -> bool:
        """Replace the keys of some lines, as one step."""
        values: dict[str, Any] = {}
        for (path, side), points in changes.items():
            value = values.get(path)
            values[path] = with_points(
                get(self.session.effect, path) if value is None else value, side, points
            )
        return self.session.edit_chosen(list(values.items()), name, merge or self.stroke)

    def begin(self) -> None:
        """Start a drag: what follows until :meth:`end` is one step."""
        self.stroke = f"keys {next(_strokes)}"
        self.begin_again()
        self.session.begin_drag(self._given_up)
        self.session.hurry(True)

    def _given_up(self) -> None:
        """Forget the drag: Esc took it back."""
        self.stroke, self._base, self.guide = "", {}, None
        self.session.hurry(False)
        self.refresh()
        self.changed.emit()

    def begin_again(self) -> None:
        """Let the drag begin at the present keys; it stays one step with the edits before."""
        self._base = {track_id: track.points for track_id, track in self.tracks().items()}

    def end(self) -> None:
        self.stroke, self._base, self.guide = "", {}, None
        self.session.hurry(False)
        self.session.end_drag()
        self.changed.emit()

    @property
    def dragging(self) -> bool:
        return bool(self.stroke)

    def drag(self, right: float, up: float, catch: float) -> None:
        """Move the held keys from where they were at the drag's beginning.

        Parameters
        ----------
        right : float
            In shares of the axis.
        up : float
            In shares of a lane's height.
        catch : float
            How near a share must come to be caught; 0 for not at all.
        """
        chosen = self.by_track()
        base = {track_id: self._base[track_id] for track_id in chosen if track_id in self._base}
        rooms = [room(_as_keys(points), chosen[track_id]) for track_id, points in base.items()]
        right, self.guide = self._caught(right, catch, chosen)
        right = min(max(right, -min(r[0] for r in rooms)), *(r[1] for r in rooms)) if rooms else 0.0
        changes = {}
        for track_id, points in base.items():
            changes[track_id] = self._moved(track_id, points, chosen[track_id], right, up)
        self.give(changes, self._name("Move"))

    def _moved(self, track_id: TrackId, points: Any, chosen: set[int], right: float, up: float) -> Any:
        lane = self.lane_of(track_id[0])
        rise = 0.0 if lane is None else up * lane.reach
        return self._back(track_id, points, moved(_as_keys(points), chosen, right, rise), chosen)

    def _back(self, track_id: TrackId, points: Any, keys: Any, chosen: set[int]) -> Any:
        """Return changed keys as what they came from: stops with their colours, or keys within their
        field's limits.
        """
        if isinstance(points[0], Stop):
            return [Stop(key.x, stop.color) for key, stop in zip(keys, points, strict=True)]
        return self.limited(track_id[0], keys, chosen)

    def limited(self, path: str, keys: Any, chosen: Iterable[int]) -> Any:
        """Return keys of which the chosen stay within what their field allows, in round numbers."""
        lane = self.lane_of(path)
        low, high = lane.rule.hard if lane is not None else (-1e9, 1e9)
        found = list(keys)
        for i in chosen:
            found[i] = found[i]._replace(
                x=round(found[i].x, 4), y=float(f"{min(max(found[i].y, low), high):.6g}")
            )
        return tuple(found)

    def _caught(
        self, right: float, catch: float, chosen: dict[TrackId, set[int]]
    ) -> tuple[float, float | None]:
        """Return the way that brings the main key to the nearest grid line or other key, and that place."""
        if self.main is None or catch <= 0.0 or self.main[:2] not in self._base:
            return right, None
        x = self._base[self.main[:2]][self.main[2]].x
        others = {
            round(point.x, 6)
            for track_id, points in self._base.items()
            for i, point in enumerate(points)
            if i not in chosen.get(track_id, set())
        }
        grid = {round(i * GRID, 6) for i in range(round(1 / GRID) + 1)}
        # Another key catches before the grid does.
        for places in (others, grid):
            near = min(places, key=lambda place: abs(place - x - right), default=None)
            if near is not None and abs(near - x - right) <= catch:
                return near - x, near
        return right, None

    def stretch(self, about: float, wide: float) -> None:
        """Scale the ages of the held keys about an age, from where they were at the drag's beginning."""
        self._scale((about, 0.0), wide, 1.0, "Stretch")

    def heighten(self, high: float) -> None:
        """Scale the values of the held keys about 0, from what they were at the drag's beginning."""
        self._scale((0.0, 0.0), 1.0, high, "Scale")

    def _scale(self, about: tuple[float, float], wide: float, high: float, name: str) -> None:
        changes: dict[TrackId, Any] = {}
        for track_id, chosen in self.by_track().items():
            points = self._base.get(track_id)
            if points is None:
                continue
            keys = scaled(_as_keys(points), chosen, about, max(wide, 1e-3), high)
            changes[track_id] = self._back(track_id, points, keys, chosen)
        self.give(changes, self._name(name))

    def nudge(self, right: float, up: float) -> None:
        """Move the held keys a little; ``up`` in shares of a lane's height."""
        self.begin_again()
        self.stroke = "nudge keys"
        self.drag(right, up, 0.0)
        self.stroke, self._base = "", {}

    def set_numbers(
        self,
        x: Callable[[float], float] | None = None,
        y: Callable[[float], float] | None = None,
        merge: str = "",
    ) -> None:
        """Give each held key the number that a function makes of its own; ages stay between the
        neighbours.
        """
        tracks, changes = self.tracks(), {}
        for track_id, chosen in self.by_track().items():
            points = list(tracks[track_id].points)
            for i in sorted(chosen):
                point = points[i]
                if x is not None:
                    low = points[i - 1].x if i > 0 else 0.0
                    high = next((p.x for j, p in enumerate(points) if j > i and j not in chosen), 1.0)
                    points[i] = point = point._replace(x=round(min(max(x(point.x), low), high), 6))
                if y is not None and isinstance(point, Key):
                    points[i] = point._replace(y=y(point.y))
            if not isinstance(points[0], Stop):
                points = list(self.limited(track_id[0], points, chosen))
            changes[track_id] = points
        self.give(changes, self._name("Set"), merge)

    def set_ease(self, ease: str) -> None:
        """Give all held keys an ease; those that become free keep their slopes."""
        tracks = self.tracks()
        changes = {
            track_id: with_ease(tracks[track_id].points, chosen, ease)
            for track_id, chosen in self.by_track().items()
            if tracks[track_id].points and isinstance(tracks[track_id].points[0], Key)
        }
        if changes:
            self.give(changes, self._name(f"Ease {ease}"))

    def set_slopes(self, held: Held, arrive: float | None, leave: float | None) -> None:
        """Give one free key other slopes, in value per whole life."""
        points = list(self.tracks()[held[:2]].points)
        key = points[held[2]]
        points[held[2]] = key._replace(
            ease="free",
            in_slope=key.in_slope if arrive is None else float(f"{arrive:.6g}"),
            out_slope=key.out_slope if leave is None else float(f"{leave:.6g}"),
        )
        self.give({held[:2]: points}, self._name("Slope"))

    def set_color(self, color: str, merge: str = "") -> None:
        """Give all held stops a colour."""
        tracks, changes = self.tracks(), {}
        for track_id, chosen in self.by_track().items():
            points = tracks[track_id].points
            if points and isinstance(points[0], Stop):
                changes[track_id] = [
                    Stop(stop.x, color) if i in chosen else stop for i, stop in enumerate(points)
                ]
        if changes:
            self.give(changes, "Colour of stop", merge)

    def delete(self) -> None:
        """Delete the held keys; of each line one stays."""
        tracks, changes = self.tracks(), {}
        for track_id, chosen in self.by_track().items():
            points = tracks[track_id].points
            left = [point for i, point in enumerate(points) if i not in chosen]
            changes[track_id] = left or [points[0]]
        if changes and self.give(changes, self._name("Delete")):
            self.let_go()

    def _name(self, what: str) -> str:
        lanes = {lane.rule.label for path, _, _ in self.held if (lane := self.lane_of(path)) is not None}
        count = len(self.held)
        where = f" of {next(iter(lanes)).lower()}" if len(lanes) == 1 else f" in {len(lanes)} lanes"
        return f"{what} {'key' if count == 1 else f'{count} keys'}{where}"


def _as_keys(points: Any) -> tuple[Key, ...]:
    return tuple(point if isinstance(point, Key) else Key(point.x, 0.0) for point in points)

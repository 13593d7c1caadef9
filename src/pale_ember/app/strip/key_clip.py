"""Keys and stops that are copied from lines and pasted into lines."""

from __future__ import annotations

from typing import Any

from ...effect.editing.snippets import KeyRun
from ...effect.rules.paths import FieldPath
from ...effect.values.colors import Stop
from .key_selection import Held, KeySelection, LaneLike
from .tracks import TrackId, tracks_of


def held_runs(keys: KeySelection) -> list[KeyRun]:
    """Return the held keys and stops as they are copied."""
    tracks = keys.tracks()
    return [
        KeyRun(FieldPath(path).in_owner, side, tuple(tracks[path, side].points[i] for i in sorted(chosen)))
        for (path, side), chosen in sorted(keys.by_track().items())
    ]


def paste_runs(keys: KeySelection, runs: list[KeyRun], lane: LaneLike, at: float | None) -> bool:
    """Put copied keys among those of their lanes; those of one line go into the lane in focus, whichever it
    is.

    Parameters
    ----------
    at : float or None
        Where the first of them comes to stand; None for where it was.
    """
    tracks = keys.tracks()
    first = min(point.x for run in runs for point in run.points)
    last = max(point.x for run in runs for point in run.points)
    by = 0.0 if at is None else min(at - first, 1.0 - last)
    changes: dict[TrackId, Any] = {}
    fresh: set[Held] = set()
    for run in runs:
        home = run.path if run.path.startswith("textures[") else keys.session.layer_path(run.path)
        here = (home, run.side) if len(runs) > 1 else _line_for(keys, lane, run.side)
        track = tracks.get(here)
        if track is None or type(track.points[0]) is not type(run.points[0]):
            continue
        points = [point._replace(x=round(point.x + by, 6)) for point in run.points]
        places = {round(point.x, 4) for point in points}
        kept = [point for point in track.points if round(point.x, 4) not in places]
        merged = sorted([*kept, *points], key=lambda point: point.x)
        new = [i for i, point in enumerate(merged) if any(point is one for one in points)]
        if not isinstance(merged[0], Stop):
            merged = list(keys.limited(here[0], merged, new))
        changes[here] = tuple(merged)
        fresh |= {(*here, i) for i in new}
    if not changes or not keys.give(changes, "Paste keys"):
        return False
    keys.take_all(fresh)
    return True


def _line_for(keys: KeySelection, lane: LaneLike, side: int) -> TrackId:
    """Return the line of a lane that keys of one line are pasted into: the held one, or its first."""
    if keys.main is not None and keys.lane_of(keys.main[0]) is lane:
        return keys.main[:2]
    lines = [track.id for track in tracks_of(lane.path, lane.value)]
    return next((one for one in lines if one[1] == side), lines[0] if lines else (lane.path, 0))

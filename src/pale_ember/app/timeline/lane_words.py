"""What the lanes of the timeline say of what is under the mouse."""

from __future__ import annotations

from ...effect.effect import Effect
from ..session.linking import AT_EVENT
from ..session.session import Session
from .geometry import Spot
from .rows import burst_moments


def spot_words(spot: Spot, session: Session, duration: float) -> str:
    """Return what can be done with what is at a spot; "" where nothing is said."""
    group = spot.row is not None and spot.row.is_group
    what = "the layers of this group" if group else "this layer"
    return {
        "alone": f"Show {what} alone" + ("" if group else " (S)"),
        "eye": f"Enable or disable {what}{'' if group else ' (H)'}; it is saved with the effect",
        "head": "Click to select its layers, or the triangle to fold it; double-click to rename"
        if group
        else "Drag to reorder, double-click to rename; Shift or Ctrl selects several",
        "begin": "Drag to change when it begins, in all selected layers",
        "end": "Drag to change when it ends, in all selected layers",
        "bar": "Drag to move its window, with those of all selected layers; Alt for no snapping",
        "pip": _burst_words(spot, session.effect, duration),
        "port": _port_words(spot),
        "thread": "Drag to another lane to follow that, with Ctrl a copy does; off the "
        "lanes to cut it. Click for more",
        "mend": _mend_words(spot, session),
    }.get(spot.part, "")


def _port_words(spot: Spot) -> str:
    if spot.row is None or spot.when is None:
        return ""
    return (
        f"Drag to another lane, and it starts {AT_EVENT[spot.when]} of these particles; to empty "
        "space, and a new layer does"
    )


def _mend_words(spot: Spot, session: Session) -> str:
    trouble = (
        session.links.trouble_of(session.effect.layers[spot.row.first]) if spot.row is not None else None
    )
    return "" if trouble is None else f"{trouble.reason[:1].upper()}{trouble.reason[1:]} {trouble.mend}"


def _burst_words(spot: Spot, effect: Effect, duration: float) -> str:
    if spot.row is None or spot.burst < 0:
        return ""
    moments = burst_moments(effect.layers[spot.row.first], duration)
    fires = next((fires for b, turn, _, fires in moments if (b, turn) == (spot.burst, spot.turn)), True)
    if not fires:
        return (
            "This burst comes when the window is over, so it never fires: drag it back, or the "
            "window's end on"
        )
    return "Drag to move the burst" if spot.turn == 0 else "Drag to change the pause between its turns"

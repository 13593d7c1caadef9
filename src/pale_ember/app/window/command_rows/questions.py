"""What several commands ask before they can be given."""

from __future__ import annotations

from ..workplace import Workplace


def is_layer_there(w: Workplace) -> bool:
    """Return whether a layer is selected."""
    return w.session.layer is not None


def place_of_selected(w: Workplace) -> int:
    """Return the place of the selected layer among all."""
    return w.session.effect.index(w.session.selected)


def are_several(w: Workplace) -> bool:
    """Return whether the effect has more layers than one."""
    return len(w.session.effect.layers) > 1

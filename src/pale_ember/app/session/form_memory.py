"""What a field had in each of its forms, so that going to another form and back loses nothing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...effect.values.forms import form_of


class FormMemory:
    """Remembers for each field the value that it had in each form, as long as it isn't edited otherwise."""

    def __init__(self) -> None:
        # By layer and path: the value that the last change of form gave, and those of the forms before it.
        self._known: dict[tuple[str, str], tuple[Any, dict[str, Any]]] = {}

    def turned(self, place: tuple[str, str], now: Any, form: str, turn: Callable[[], Any]) -> Any:
        """Return a field's value in another form: the one that it had there, or what ``turn`` makes of it.

        Parameters
        ----------
        place : (str, str)
            The layer's id and the field's path in it.
        now : Value or ColorValue
            What the field holds.
        """
        given, before = self._known.get(place, (None, {}))
        if now != given:
            # Edited since: what it had before means nothing any more.
            before = {}
        before = {**before, form_of(now): now}
        kept = before.get(form)
        new = kept if kept is not None and kept.along in ("", now.along or kept.along) else turn()
        self._known[place] = (new, before)
        return new

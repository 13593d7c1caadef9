"""Whether the selected layers have the same in one place."""

from __future__ import annotations

from typing import Any

from ...effect.errors import EffectError
from ...effect.rules.edit import get
from ...effect.rules.paths import FieldPath
from ..session.session import Session


class Mixed:
    """Looks it up once for each effect and selection: painting asks for it often."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._known: tuple[Any, tuple[str, ...], bool] | None = None

    def at(self, path: str, value: Any) -> bool:
        """Return whether another selected layer has something else than a value at a path of the one in
        view.
        """
        session = self.session
        effect, others = session.effect, tuple(session.chosen_others)
        if self._known is None or self._known[0] is not effect or self._known[1] != others:
            rest = FieldPath(path).in_layer
            self._known = (effect, others, any(self._differs(rest, other, value) for other in others))
        return self._known[2]

    def _differs(self, rest: str, other: str, value: Any) -> bool:
        try:
            return bool(get(self.session.effect, self.session.layer_path(rest, other)) != value)
        except EffectError:
            return False  # a burst that the other layer doesn't have

"""Paths into an effect, such as ``layers[2].look.erode.amount``, and what they say."""

from __future__ import annotations

import re

_LAYER = re.compile(r"layers\[(\d{1,6})\]\.?")
_ITEM = re.compile(r"\[(\d{1,6})\]")


class FieldPath(str):
    """A path into an effect, or into a layer of it. It is a string, and can be used as one."""

    __slots__ = ()

    @classmethod
    def of_layer(cls, at: int, rest: str = "") -> FieldPath:
        """Return the path of the layer at an index, or of ``rest`` inside of it."""
        return cls(f"layers[{at}].{rest}" if rest else f"layers[{at}]")

    @property
    def layer(self) -> int | None:
        """Return the index of the layer that it leads into; None if it leads into none."""
        found = _LAYER.match(self)
        return int(found[1]) if found else None

    @property
    def in_layer(self) -> FieldPath:
        """Return the path inside its layer; empty if it leads into none."""
        found = _LAYER.match(self)
        return FieldPath(self[found.end() :] if found else "")

    @property
    def in_owner(self) -> FieldPath:
        """Return the path inside its layer; of what is in no layer, the whole path."""
        return self.in_layer or self

    @property
    def chapter(self) -> str:
        """Return its first name, without an index: ``look``, ``path``."""
        return re.split(r"[.\[]", self, maxsplit=1)[0]

    @property
    def field(self) -> str:
        """Return its last name, without an index."""
        return self.rpartition(".")[2].partition("[")[0]

    @property
    def owner(self) -> FieldPath:
        """Return the path of the part that its last name stands in; empty for a name alone."""
        return FieldPath(self.rpartition(".")[0])

    @property
    def item(self) -> int | None:
        """Return the first index in it: of ``path[2].position`` 2; None if there is none."""
        found = _ITEM.search(self)
        return int(found[1]) if found else None

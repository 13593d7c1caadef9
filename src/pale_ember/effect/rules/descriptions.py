"""What a class says of itself in one sentence, for pages and tooltips."""

from __future__ import annotations

import inspect


def description_of(kind: type) -> str:
    """Return the first paragraph of a class's docstring on one line; "" without one."""
    return " ".join((inspect.getdoc(kind) or "").split("\n\n")[0].split())

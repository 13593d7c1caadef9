"""The steps of a build: each makes something or changes what is below it.

A step is a class in one of the modules of this room; menus show them in the order in which they stand there.
"""

from __future__ import annotations

from types import ModuleType
from typing import TypeVar

from . import changers, drawn, finishers, flow, makers, pictures
from .base import Changer, Finisher, Maker, Step

Kind = TypeVar("Kind", bound=Step)


def _declared(kind: type[Kind], *modules: ModuleType) -> tuple[type[Kind], ...]:
    """Return the steps of a kind that modules declare, in their order."""
    return tuple(
        one
        for module in modules
        for one in vars(module).values()
        if isinstance(one, type) and issubclass(one, kind) and one.__module__ == module.__name__
    )


MAKERS = _declared(Maker, makers, flow, drawn, pictures)
CHANGERS = _declared(Changer, changers)
FINISHERS = _declared(Finisher, finishers)
STEPS: dict[str, type[Step]] = {kind.default_of("step"): kind for kind in (*MAKERS, *CHANGERS, *FINISHERS)}

__all__ = ["CHANGERS", "FINISHERS", "MAKERS", "STEPS", "Changer", "Finisher", "Maker", "Step"]

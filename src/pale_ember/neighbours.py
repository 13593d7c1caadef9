"""Finds what registers itself: modules of a room that nobody imports by name."""

from __future__ import annotations

import functools
import importlib
import pkgutil


@functools.cache
def import_neighbours(module: str) -> None:
    """Import all modules that lie in a room beside one, in the order of their names."""
    room = module.rpartition(".")[0]
    for found in pkgutil.iter_modules(importlib.import_module(room).__path__):
        importlib.import_module(f"{room}.{found.name}")

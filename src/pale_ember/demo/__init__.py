"""Saltglass Kiln: a glass-maker's yard on a winter salt marsh."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from ..effect.effect import Effect
from ..effect.storing.storage import parse_effect


def kiln_mouth() -> Effect:
    """Return the fire in the kiln's mouth: core, tongues, pale embers, heat smoke."""
    return demo("kiln-mouth")


NAMES = (
    "kiln-mouth",
    "chimney",
    "quench",
    "sleet",
    "marsh-mist",
    "lantern",
    "flask",
    "rake",
    "wisp",
    "arc",
    "column",
)


def demo(name: str) -> Effect:
    """Return a demo effect by its name, one of ``NAMES``."""
    return parse_effect((resources.files(__package__) / f"{name}.ember").read_bytes())


def layers_folder() -> Path:
    """Return the folder of the shipped starting layers."""
    return Path(str(resources.files(__package__) / "layers"))

"""What all steps of a build have in common, and how their fields are declared."""

from __future__ import annotations

from typing import Any

from ..kinds import StepBlend
from ..rules import fields
from ..rules.part import Part
from ..values.values import Value

ALONG = "frames"


def number(
    default: float, label: str, help: str, soft: tuple[float, float], hard: tuple[float, float], **more: Any
) -> Any:
    """Declare a Value whose curves run along the sheet's frames."""
    return fields.value(default, label, help, along=ALONG, soft=soft, hard=hard, **more)


def share(default: float, label: str, help: str, **more: Any) -> Any:
    """Declare such a Value from 0 to 1."""
    return number(default, label, help, (0, 1), (0, 1), **more)


def dice(what: str) -> Any:
    """Declare a step's own seed."""
    return fields.integer(
        0, "Seed", f"Another seed, {what}.", hard=(0, 1_000_000), soft=(0, 100), also="random dice variation"
    )


def restless() -> Any:
    """Declare whether a step throws other dice in each frame."""
    return fields.flag(
        False,
        "Restless",
        "Other dice in each frame, so that each is another of its kind.",
        also="flicker animate variation random frames",
    )


class Step(Part):
    """One step of a build. Lengths are shares of the picture's half size; curves run along the sheet's
    frames.
    """

    step: str = ""
    on: bool = fields.flag(True, "On", "A step that is off is left out.", also="enabled mute hide skip")
    strength: Value = share(
        1.0, "Strength", "How much of it is there, or is done.", also="amount opacity mix"
    )


class Maker(Step):
    """A step that makes something, from 0 to 1, and puts it over what is below."""

    blend: StepBlend = fields.choice(
        StepBlend.MOST, "Blend", "How it is put over what the steps before it made."
    )


class Changer(Step):
    """A step that changes what is below it."""

    blend: StepBlend = fields.choice(
        StepBlend.REPLACE, "Blend", "How what it gives is put over what was there before it."
    )


class Finisher(Step):
    """A step that changes colours, makes maps or fills channels; what is below stays as it is."""

"""Effect, Stage and Layer: the whole of what a file holds."""

from __future__ import annotations

import re
import secrets
from typing import Any

from pydantic import field_validator, model_validator
from pydantic_core import PydanticCustomError

from . import fields as f
from .chapters import Flight, Launch, Look
from .errors import EffectError, shown
from .kinds import Backdrop
from .part import Part, few
from .source import MOST_PATH_KEYS, Birthplace, Emit, PathKey, Place, Triple, Window

FORMAT = "pale-ember/effect"
VERSION = 1
MOST_LAYERS = 256
ID = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
ID_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


class Camera(Part):
    """From where the stage is seen when the effect is opened, and rendered."""

    target: Triple = f.vec3(
        (0.0, 0.8, 0.0), "Target", "The point that is looked at.", unit="m", soft=(-5, 5), also="look at centre"
    )
    distance: float = f.number(
        4.0,
        "Distance",
        "How far the eye is from the target.",
        unit="m",
        hard=(0.01, 100_000),
        soft=(1, 30),
        also="zoom far",
    )
    yaw: float = f.number(
        25.0, "Yaw", "The eye's turn round the target.", unit="°", soft=(-180, 180), digits=0, also="turn orbit rotate"
    )
    pitch: float = f.number(
        10.0,
        "Pitch",
        "The eye's height over the target.",
        unit="°",
        hard=(-90, 90),
        soft=(-90, 90),
        digits=0,
        also="tilt height rotate",
    )
    view: float = f.number(
        40.0,
        "View angle",
        "How wide the camera sees, from top to bottom.",
        unit="°",
        hard=(1, 150),
        soft=(15, 90),
        digits=0,
        also="fov field of view lens angle",
    )


class Stage(Part):
    """What surrounds the effect."""

    wind: Triple = f.vec3(
        (0.0, 0.0, 0.0),
        "Wind",
        "The air's own motion, for layers that take it.",
        unit="m/s",
        hard=(-1000, 1000),
        soft=(-10, 10),
        also="breeze air blow",
    )
    gust: float = f.number(
        0.0,
        "Gusts",
        "How far the wind swells and drops, as a share of itself.",
        hard=(0, 10),
        soft=(0, 1),
        group="gusts",
        also="wind turbulence variation",
    )
    gust_period: float = f.number(
        3.0,
        "Gust period",
        "How long a gust takes to come and go.",
        unit="s",
        hard=(0.01, 3600),
        soft=(0.5, 10),
        group="gusts",
        also="wind time frequency",
        needs="gust",
    )
    gravity: float = f.number(
        9.81,
        "Gravity",
        "How fast things fall, for layers that take it.",
        unit="m/s²",
        hard=(-1000, 1000),
        soft=(0, 20),
        also="fall weight",
    )
    backdrop: Backdrop = f.choice(
        Backdrop.NIGHT, "Backdrop", "What stands behind the effect.", also="background night day sky"
    )
    camera: Camera = Camera()


class Layer(Part):
    """One visual job of an effect: one emitter and all its particles."""

    id: str = f.text("", "Id", "Names the layer for good; never shown to be changed.")
    name: str = f.text("Layer", "Name", "What the layer is called.", also="title label")
    group: str = f.text(
        "", "Group", "Neighbours of the same group fold into one lane of the timeline.", also="folder fold"
    )
    enabled: bool = f.flag(
        True,
        "Enabled",
        "A layer that is not enabled neither emits nor is drawn.",
        also="on off hide visible active eye",
    )
    place: Place = Place()
    path: tuple[PathKey, ...] = ()
    window: Window = Window()
    emit: Emit = Emit()
    birthplace: Birthplace = Birthplace()
    launch: Launch = Launch()
    flight: Flight = Flight()
    look: Look = Look()

    @field_validator("path", mode="before")
    @classmethod
    def _keys_are_few(cls, raw: object) -> object:
        return few(raw, MOST_PATH_KEYS, "path keys")

    @field_validator("path")
    @classmethod
    def _keys_are_sorted(cls, keys: tuple[PathKey, ...]) -> tuple[PathKey, ...]:
        return tuple(sorted(keys, key=lambda key: key.at))

    @field_validator("id")
    @classmethod
    def _id_is_plain(cls, raw: str) -> str:
        if raw and not ID.fullmatch(raw):
            reason = f"{shown(raw)} is not an id; use up to 40 small letters, digits and hyphens."
            raise PydanticCustomError("id", "{reason}", {"reason": reason})
        return raw


class Effect(Part):
    """A whole effect. Nothing changes it; :meth:`edit` gives another."""

    format: str = FORMAT
    version: int = VERSION
    name: str = f.text("Untitled", "Name", "What the effect is called.", also="title")
    notes: str = f.text("", "Notes", "Anything worth telling whoever opens the file.", lines=4, also="comment text description")
    duration: float = f.number(
        4.0,
        "Duration",
        "How long the effect runs, or one loop of it.",
        unit="s",
        hard=(0.05, 3600),
        soft=(0.5, 20),
        also="length time loop seconds",
    )
    loop: bool = f.flag(True, "Loop", "Starts over when its duration has passed.", also="repeat again endless")
    repeat: bool = f.flag(
        False,
        "Repeat",
        "Every loop is the same, dice, gusts and eddies included, so that a baked loop closes; else each throws new "
        "dice. Loops match to the bit when the duration is a whole number of steps.",
        also="seamless same bake",
    )
    warm_up: float = f.number(
        0.0,
        "Warm-up",
        "Simulated before time 0, so that it starts in full swing. Without loop, only what the rate gives at first "
        "is there by then.",
        unit="s",
        hard=(0, 600),
        soft=(0, 10),
        also="start full ahead before",
    )
    seed: int = f.integer(
        1, "Seed", "Another seed, other dice.", hard=(0, 4_294_967_295), soft=(0, 100), also="random dice variation"
    )
    step_rate: int = f.integer(
        60,
        "Step rate",
        "Simulation steps each second: 30, 60 or 120.",
        unit="Hz",
        hard=(30, 120),
        soft=(30, 120),
        also="fps frames quality simulation",
    )
    stage: Stage = Stage()
    layers: tuple[Layer, ...] = ()

    @field_validator("step_rate")
    @classmethod
    def _step_rate_is_known(cls, raw: int) -> int:
        if raw not in (30, 60, 120):
            raise PydanticCustomError("rate", "{reason}", {"reason": f"{raw} is not a step rate; take 30, 60 or 120."})
        return raw

    @field_validator("layers", mode="before")
    @classmethod
    def _layers_are_few(cls, raw: object) -> object:
        return few(raw, MOST_LAYERS, "layers")

    @model_validator(mode="after")
    def _layers_have_own_ids(self) -> Effect:
        seen: dict[str, int] = {}
        for i, layer in enumerate(self.layers):
            reason = ""
            if not layer.id:
                reason = "this layer has no id; give it one that no other layer has."
            elif layer.id in seen:
                reason = f"“{layer.id}” is the id of layers[{seen[layer.id]}] too; give one of them another."
            if reason:
                raise PydanticCustomError("id", "{reason}", {"reason": reason, "place": f".layers[{i}].id"})
            seen[layer.id] = i
        return self

    def edit(self, path: str, value: Any) -> Effect:
        """Return the effect with one part changed; all else is shared.

        Parameters
        ----------
        path : str
            Such as ``layers[0].emit.rate``, or deeper into a Value: ``layers[0].look.grow.curve[1]``.
        value : Any
            Plain data as in the file, or model objects.

        Raises
        ------
        EffectError
            If the path leads nowhere or the value doesn't fit there.
        """
        from .edit import edit

        return edit(self, path, value)

    def layer(self, name: str) -> Layer:
        """Return the layer of an id or, failing that, the only one of a name."""
        for layer in self.layers:
            if layer.id == name:
                return layer
        named = [layer for layer in self.layers if layer.name == name]
        if len(named) == 1:
            return named[0]
        if named:
            raise EffectError(name, f"{len(named)} layers are called “{name}”; use the id of one.")
        raise EffectError(
            name, f"no layer has this name or id; there are {', '.join(x.name for x in self.layers) or 'none'}."
        )

    def index(self, layer_id: str) -> int:
        """Return the index of a layer; -1 if there is none of that id."""
        return next((i for i, layer in enumerate(self.layers) if layer.id == layer_id), -1)


def new_id() -> str:
    """Return an id that no layer had before (eight letters out of 31, from the system's randomness)."""
    return "".join(secrets.choice(ID_LETTERS) for _ in range(8))

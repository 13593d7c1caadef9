"""Effect, Stage and Layer: the whole of what a file holds."""

from __future__ import annotations

import re
import secrets
from typing import Any

from pydantic import field_validator, model_validator
from pydantic_core import PydanticCustomError

from .chapters.contact import Contact, Origin, wrong_link
from .chapters.look import Look
from .chapters.motion import Flight, Launch
from .chapters.place import Place
from .chapters.source import Birthplace, Emit, PathKeys, Window
from .chapters.stage import Stage
from .errors import EffectError, shown
from .rules import fields
from .rules.edit import edited
from .rules.part import Part, few
from .textures import MOST_TEXTURES, Texture

FORMAT = "pale-ember/effect"
VERSION = 7
MOST_LAYERS = 256
ID = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
ID_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


class Layer(Part):
    """One visual job of an effect: one emitter and all its particles."""

    id: str = fields.text("", "Id", "Names the layer for good; never shown to be changed.")
    name: str = fields.text("Layer", "Name", "What the layer is called.", also="title label")
    group: str = fields.text(
        "", "Group", "Neighbours of the same group fold into one lane of the timeline.", also="folder fold"
    )
    enabled: bool = fields.flag(
        True,
        "Enabled",
        "A layer that is not enabled neither emits nor is drawn.",
        also="on off hide visible active eye",
    )
    place: Place = Place()
    path: PathKeys = ()
    window: Window = Window()
    origin: Origin = Origin()
    emit: Emit = Emit()
    birthplace: Birthplace = Birthplace()
    launch: Launch = Launch()
    flight: Flight = Flight()
    look: Look = Look()
    contact: Contact = Contact()

    @field_validator("origin", mode="before")
    @classmethod
    def _no_origin_is_none(cls, raw: object) -> object:
        return Origin() if raw is None else raw

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
    name: str = fields.text("Untitled", "Name", "What the effect is called.", also="title")
    notes: str = fields.text(
        "",
        "Notes",
        "Anything worth telling whoever opens the file.",
        lines=4,
        also="comment text description",
    )
    duration: float = fields.number(
        4.0,
        "Duration",
        "How long the effect runs, or one loop of it.",
        unit="s",
        hard=(0.05, 3600),
        soft=(0.5, 20),
        also="length time loop seconds",
    )
    loop: bool = fields.flag(
        True, "Loop", "Starts over when its duration has passed.", also="repeat again endless"
    )
    repeat: bool = fields.flag(
        False,
        "Repeat",
        "Every loop is the same, dice, gusts and eddies included, so that a baked loop closes; else "
        "each throws new "
        "dice. Loops match to the bit when the duration is a whole number of steps and no cap refuses "
        "births.",
        also="seamless same bake",
    )
    warm_up: float = fields.number(
        0.0,
        "Warm-up",
        "Simulated before time 0, so that it starts in full swing. With loop it is the "
        "end of the loop before, curves along the clock included; without, only what the rate gives at "
        "first is there by then.",
        unit="s",
        hard=(0, 600),
        soft=(0, 10),
        also="start full ahead before",
    )
    seed: int = fields.integer(
        1,
        "Seed",
        "Another seed, other dice.",
        hard=(0, 4_294_967_295),
        soft=(0, 100),
        also="random dice variation",
    )
    step_rate: int = fields.integer(
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
    textures: tuple[Texture, ...] = ()

    @field_validator("step_rate")
    @classmethod
    def _step_rate_is_known(cls, raw: int) -> int:
        if raw not in (30, 60, 120):
            raise PydanticCustomError(
                "rate", "{reason}", {"reason": f"{raw} is not a step rate; take 30, 60 or 120."}
            )
        return raw

    @field_validator("layers", mode="before")
    @classmethod
    def _layers_are_few(cls, raw: object) -> object:
        return few(raw, MOST_LAYERS, "layers")

    @field_validator("textures", mode="before")
    @classmethod
    def _textures_are_few(cls, raw: object) -> object:
        return few(raw, MOST_TEXTURES, "textures")

    @model_validator(mode="after")
    def _textures_have_own_names(self) -> Effect:
        """Refuse textures without a name, and two of one name."""
        seen: dict[str, int] = {}
        for i, texture in enumerate(self.textures):
            if not texture.name or texture.name in seen:
                first = seen.get(texture.name, 0)
                reason = (
                    f"“{texture.name}” is the name of textures[{first}] too; give one of them another."
                    if texture.name
                    else "this texture has no name; give it one that no other texture has."
                )
                raise PydanticCustomError(
                    "name", "{reason}", {"reason": reason, "place": f".textures[{i}].name"}
                )
            seen[texture.name] = i
        return self

    @model_validator(mode="after")
    def _layers_have_own_ids(self) -> Effect:
        """Refuse layers without an id, and two of one id."""
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

    @model_validator(mode="after")
    def _chains_end(self) -> Effect:
        wrong = wrong_link([(layer.id, layer.origin.parent) for layer in self.layers])
        if wrong is not None:
            at, reason = wrong
            place = f".layers[{at}].origin.parent"
            raise PydanticCustomError("chain", "{reason}", {"reason": reason, "place": place})
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
        return edited(self, path, value)

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
            name,
            f"no layer has this name or id; there are {', '.join(x.name for x in self.layers) or 'none'}.",
        )

    def texture(self, name: str) -> Texture | None:
        """Return the texture of a name; None if there is none."""
        return next((texture for texture in self.textures if texture.name == name), None)

    def index(self, layer_id: str) -> int:
        """Return the index of a layer; -1 if there is none of that id."""
        return next((i for i, layer in enumerate(self.layers) if layer.id == layer_id), -1)


def new_id() -> str:
    """Return an id that no layer had before (eight letters out of 31, from the system's randomness)."""
    return "".join(secrets.choice(ID_LETTERS) for _ in range(8))

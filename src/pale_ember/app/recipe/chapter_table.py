"""Which fields stand in which chapter."""

from __future__ import annotations

from dataclasses import dataclass

from ...effect.chapters.contact import Contact, Origin
from ...effect.chapters.draws import MeshLook, Ribbon
from ...effect.chapters.look import Look
from ...effect.chapters.motion import Flight, Launch
from ...effect.chapters.noises import Bend, Erode, Shimmer
from ...effect.chapters.place import PathKey, Place
from ...effect.chapters.source import Birthplace, Burst, Emit, Window
from ...effect.chapters.stage import Camera, Light, Prop, Stage
from ...effect.effect import Effect, Layer
from ...effect.rules.fields import Rule
from ...effect.rules.part import Part
from ...effect.textures import Texture


@dataclass(frozen=True)
class Section:
    """Fields of one model under a heading; ``at`` is its path, in the layer or in the effect, ``also``
    other words for a list.
    """

    title: str
    at: str
    model: type[Part]
    in_layer: bool = True
    only: tuple[str, ...] = ()
    also: str = ""

    @property
    def word(self) -> str:
        """Return what it is called where its chapter doesn't say it."""
        return self.title or f"{self.model.__name__}s"

    @property
    def is_list(self) -> bool:
        """Return whether a layer has any number of these parts."""
        return self.at == FOLLOWERS or self.model in (Burst, PathKey, Prop, Texture)

    def fields(self) -> list[tuple[str, str, Rule]]:
        """Return name, path and rule of each field that is shown."""
        return [
            (name, f"{self.at}.{name}".lstrip("."), rule)
            for name, rule in self.model.rules().items()
            if name != "id" and (not self.only or name in self.only)
        ]


# Not a field: the list of the layers that follow this one.
FOLLOWERS = "followers"

CHAPTERS: dict[str, tuple[Section, ...]] = {
    "Emit": (
        Section("", "emit", Emit),
        Section("Bursts", "emit.bursts", Burst, also="burst at once pulse explosion puff"),
        Section("Window", "window", Window),
    ),
    "Birthplace": (
        Section("", "birthplace", Birthplace),
        Section("Place", "place", Place),
        Section("Path", "path", PathKey, also="path keys motion move trajectory animate travel circle"),
    ),
    "Launch": (Section("", "launch", Launch),),
    "Flight": (Section("", "flight", Flight),),
    "Look": (
        Section("", "look", Look, only=("draw",)),
        Section("", "look.ribbon", Ribbon),
        Section("", "look.mesh", MeshLook),
        Section("", "look", Look, only=tuple(name for name in Look.rules() if name != "draw")),
        Section("", "look.erode", Erode),
        Section("", "look.bend", Bend),
        Section("", "look.shimmer", Shimmer),
        Section(
            "", "textures", Texture, also="sheet columns rows frames file sequence normal map filter edges"
        ),
        Section("Layer", "", Layer, only=("name", "group", "enabled")),
    ),
    "Contact": (Section("", "contact", Contact),),
    "Follow-ups": (
        Section("", "origin", Origin),
        Section("What follows", FOLLOWERS, Origin, also="sub-emitter follow-up children subemitter"),
    ),
    "Effect": (
        Section(
            "",
            "",
            Effect,
            False,
            ("name", "duration", "loop", "repeat", "warm_up", "seed", "step_rate", "notes"),
        ),
        Section("Stage", "stage", Stage, False),
        Section("Light", "stage.light", Light, False),
        Section(
            "Props", "stage.props", Prop, False, also="object collider box ball obstacle wall model mesh"
        ),
        Section("Camera", "stage.camera", Camera, False),
    ),
}


def chapter_of(path: str, in_layer: bool) -> int | None:
    """Return the number of the chapter where the field, or the list, of a path stands; None if it stands
    in none.
    """
    owner = path.partition("[")[0]
    for index, sections in enumerate(CHAPTERS.values()):
        for section in sections:
            if section.in_layer == in_layer and (
                owner == section.at if section.is_list else any(at == path for _, at, _ in section.fields())
            ):
                return index
    return None

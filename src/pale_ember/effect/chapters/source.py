"""Where a layer's particles come from: its place and path, its window, emit and birthplace."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, BeforeValidator, field_validator

from ..kinds import Aim, DrawnAs, EmitterShape, Fill
from ..rules import fields
from ..rules.part import Part, few
from ..values.values import Value
from .place import PathKey, Triple

SHIPPED_MESHES = ("ball", "box", "cone", "cylinder", "dome", "plane", "ring", "rocks", "shards", "torus")
ROUND = (EmitterShape.BALL, EmitterShape.DOME, EmitterShape.CONE, EmitterShape.CYLINDER, EmitterShape.RING)


class Window(Part):
    """When the layer emits, inside the effect's duration."""

    begin: float = fields.number(
        0.0,
        "Begin",
        "The moment in each loop at which the layer starts to emit.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 4),
        also="delay start offset time",
    )
    length: float | None = fields.number(
        None,
        "Length",
        "For how long the layer emits; to the end of the effect when empty.",
        unit="s",
        hard=(0.001, 3600),
        soft=(0.1, 4),
        also="duration end stop",
    )

    def span(self, duration: float) -> tuple[float, float]:
        """Return when the window begins and how long it is, cut at the effect's duration; s."""
        begin = min(self.begin, duration)
        rest = max(duration - begin, 0.0)
        return begin, rest if self.length is None else min(self.length, rest)


class Burst(Part):
    """Particles that are born all at one moment."""

    at: float = fields.number(
        0.0,
        "At",
        "When it fires, after the window begins; at the window's end or later it never does.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 4),
        also="time delay moment when",
    )
    count: Value = fields.value(
        20,
        "Count",
        "How many are born; drawn anew each time it fires.",
        along="clock",
        hard=(0, 1_000_000),
        soft=(0, 100),
        digits=0,
        also="amount number many",
    )
    repeat: int = fields.integer(
        1,
        "Repeat",
        "How often it fires in all.",
        hard=(1, 10_000),
        soft=(1, 10),
        group="more",
        also="again times loop cycles",
    )
    every: float = fields.number(
        0.5,
        "Every",
        "The pause from one firing to the next.",
        unit="s",
        hard=(0.001, 3600),
        soft=(0.05, 2),
        group="more",
        also="interval pause period",
        needs="repeat",
    )
    chance: float = fields.number(
        1.0,
        "Chance",
        "How likely each firing is to happen.",
        hard=(0, 1),
        soft=(0, 1),
        group="more",
        also="probability random likely",
    )


MOST_BURSTS = 256
MOST_PATH_KEYS = 256


def _few_keys(raw: object) -> object:
    return few(raw, MOST_PATH_KEYS, "path keys")


def _sorted_keys(keys: tuple[PathKey, ...]) -> tuple[PathKey, ...]:
    return tuple(sorted(keys, key=lambda key: key.at))


# The keys of a path, by their moments.
PathKeys = Annotated[tuple[PathKey, ...], BeforeValidator(_few_keys), AfterValidator(_sorted_keys)]


class Emit(Part):
    """How many particles are born, and when."""

    rate: Value = fields.value(
        20,
        "Rate",
        "Particles born each second, evenly spaced in time; a spread is drawn once for each loop.",
        along="clock",
        unit="/s",
        hard=(0, 10_000_000),
        soft=(0, 200),
        digits=1,
        also="emission per second amount density spawn many frequency",
    )
    per_metre: Value = fields.value(
        0,
        "Per metre",
        "Particles born for each metre that the layer travels along its path.",
        along="clock",
        unit="/m",
        hard=(0, 1_000_000),
        soft=(0, 50),
        digits=1,
        group="travel",
        also="distance trail path metre",
    )
    bursts: tuple[Burst, ...] = ()
    cap: int = fields.integer(
        2000,
        "Cap",
        "The most that may be alive at once; births beyond it are refused and counted.",
        hard=(1, 4_000_000),
        soft=(100, 20_000),
        also="max maximum limit most count refused",
    )

    @field_validator("bursts", mode="before")
    @classmethod
    def _bursts_are_few(cls, raw: object) -> object:
        return few(raw, MOST_BURSTS, "bursts")


class Birthplace(Part):
    """Where particles are born, and which way they face. The layer's axis is its own +Y."""

    kind: EmitterShape = fields.choice(
        EmitterShape.POINT,
        "Kind",
        "The shape that particles are born in.",
        also="shape sphere circle square origin source emitter beam",
    )
    radius: float = fields.number(
        0.5,
        "Radius",
        "The shape's radius; for a cone, that of its base.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 5),
        only=("kind", ROUND),
        also="size width",
    )
    tube: float = fields.number(
        0.1,
        "Tube",
        "The radius of the ring's tube.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 1),
        only=("kind", (EmitterShape.RING,)),
        also="thickness",
    )
    height: float = fields.number(
        1.0,
        "Height",
        "How far the shape goes up along its axis.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 5),
        only=("kind", (EmitterShape.CONE, EmitterShape.CYLINDER)),
        also="length tall",
    )
    extents: Triple = fields.vec3(
        (1.0, 1.0, 1.0),
        "Extents",
        "The full width, height and depth; a line uses the width alone.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 5),
        only=("kind", (EmitterShape.BOX, EmitterShape.LINE)),
        also="size width depth box",
    )
    angle: float = fields.number(
        20.0,
        "Angle",
        "How far the cone's side leans outward from its axis.",
        unit="°",
        hard=(0, 89),
        soft=(0, 60),
        digits=1,
        only=("kind", (EmitterShape.CONE,)),
        also="lean slope opening",
    )
    arc: float = fields.number(
        360.0,
        "Arc",
        "How much of the full turn around the axis is used.",
        unit="°",
        hard=(0, 360),
        soft=(0, 360),
        digits=0,
        only=("kind", ROUND),
        group="part of it",
        also="sector slice degrees portion",
    )
    mesh: str = fields.mesh(
        "ball",
        "Mesh",
        "A shipped mesh, or a file: OBJ, glTF, GLB, STL or PLY. Born evenly over its surface; outward "
        "is its normal.",
        only=("kind", (EmitterShape.MESH,)),
        also="model object obj gltf",
    )
    mesh_scale: float = fields.number(
        1.0,
        "Mesh scale",
        "Multiplies the mesh's own size.",
        unit="×",
        hard=(0.00001, 100_000),
        soft=(0.1, 4),
        only=("kind", (EmitterShape.MESH,)),
        also="size",
    )
    start: Triple = fields.vec3(
        (-0.5, 0.0, 0.0),
        "Start",
        "Where the bow begins; from the foot of what it stands on, if anything.",
        unit="m",
        hard=(-1e5, 1e5),
        soft=(-3, 3),
        only=("kind", (EmitterShape.BOW,)),
        also="end beam from point position",
    )
    end: Triple = fields.vec3(
        (0.5, 0.0, 0.0),
        "End",
        "Where the bow ends; from the foot of what it stands on, if anything.",
        unit="m",
        hard=(-1e5, 1e5),
        soft=(-3, 3),
        only=("kind", (EmitterShape.BOW,)),
        also="target beam to point position",
    )
    start_pull: Triple = fields.vec3(
        (0.2, 0.35, 0.0),
        "Start pull",
        "Which way, and how strongly, the bow is drawn as it leaves its start.",
        unit="m",
        hard=(-1e5, 1e5),
        soft=(-2, 2),
        only=("kind", (EmitterShape.BOW,)),
        also="tangent handle curve arc",
    )
    end_pull: Triple = fields.vec3(
        (-0.2, 0.35, 0.0),
        "End pull",
        "Which way, and how strongly, the bow is drawn before it comes to its end.",
        unit="m",
        hard=(-1e5, 1e5),
        soft=(-2, 2),
        only=("kind", (EmitterShape.BOW,)),
        also="tangent handle curve arc",
    )
    start_on: str = fields.anchor(
        "Start on",
        "What the start stands on and goes along with: a prop, or another layer's place and path.",
        only=("kind", (EmitterShape.BOW,)),
        group="stands on",
        also="attach beam target follow prop layer",
    )
    end_on: str = fields.anchor(
        "End on",
        "What the end stands on and goes along with: a prop, or another layer's place and path.",
        only=("kind", (EmitterShape.BOW,)),
        group="stands on",
        also="attach beam target follow prop layer",
    )
    stray: float = fields.number(
        0.0,
        "Stray",
        "How far off the bow they may be born, sideways; nearer towards its ends. With glitter, "
        "elsewhere at each step.",
        unit="m",
        hard=(0, 1e5),
        soft=(0, 0.5),
        digits=3,
        only=("kind", (EmitterShape.BOW,)),
        also="jitter lightning width thickness noise",
    )
    in_row: bool = fields.flag(
        False,
        "In a row",
        "Births go along it in order: a burst from its start to its end, a rate as the window's time "
        "goes; else at random.",
        only=("kind", (EmitterShape.LINE, EmitterShape.BOW)),
        group="in motion",
        also="order sequence beam along ordered",
    )
    fill: Fill = fields.choice(
        Fill.VOLUME,
        "Fill",
        "Born inside the shape, on its surface, or on its edge.",
        only=("kind", (EmitterShape.BOX, *ROUND)),
        also="surface skin edge volume shell",
    )
    aim: Aim = fields.choice(Aim.AXIS, "Aim", "Which way particles set out.", also="direction facing outward")
    fan: float = fields.number(
        0.0,
        "Fan",
        "Spreads the aim evenly over a cone of this half-angle.",
        unit="°",
        hard=(0, 180),
        soft=(0, 90),
        digits=1,
        group="aiming",
        also="wide cone angle",
    )
    scatter: float = fields.number(
        0.0,
        "Scatter",
        "Mixes the aim with a random direction.",
        hard=(0, 1),
        soft=(0, 1),
        group="aiming",
        also="random noise direction spread",
    )
    around_camera: bool = fields.flag(
        False,
        "With camera",
        "The box goes with what the camera looks at: whoever is in it sees its weather on all sides.",
        only=("kind", (EmitterShape.BOX,)),
        draws=(DrawnAs.SPRITE, DrawnAs.MESH),
        group="in motion",
        also="follow weather rain snow view",
    )
    glitter: bool = fields.flag(
        False,
        "Glitter",
        "At every step each particle is put at a new random place of the shape.",
        only=("kind", (EmitterShape.BOX, EmitterShape.LINE, EmitterShape.BOW, EmitterShape.MESH, *ROUND)),
        group="in motion",
        also="jitter sparkle flicker random",
    )

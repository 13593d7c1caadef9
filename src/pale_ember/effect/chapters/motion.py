"""What becomes of a particle: launch and flight."""

from __future__ import annotations

from ..kinds import DrawnAs
from ..read_at import ReadAt
from ..rules import fields
from ..rules.part import Part
from ..values.values import Spread, Value, Vec3Value

# About what a particle takes more in a step where its velocity is turned or held, s.
TURNED = 100e-9


class Launch(Part):
    """What each particle gets at birth."""

    lifetime: Value = fields.value(
        Spread(1.0, 1.5),
        "Lifetime",
        "How long a particle lives.",
        along="clock",
        unit="s",
        hard=(0.001, 3600),
        soft=(0.05, 5),
        also="life duration age time seconds long",
        read_at=ReadAt.BIRTH,
    )
    speed: Value = fields.value(
        1.0,
        "Speed",
        "How fast it sets out along its aim.",
        along="clock",
        unit="m/s",
        hard=(-1e5, 1e5),
        soft=(0, 10),
        also="velocity fast initial start",
        read_at=ReadAt.BIRTH,
        scaled=True,
    )
    push: Vec3Value = fields.vec3_value(
        "Push",
        "Velocity added at birth, along the layer's own X, Y and Z.",
        along="clock",
        unit="m/s",
        hard=(-1e5, 1e5),
        soft=(-5, 5),
        group="at the start",
        also="velocity direction initial shoot",
        read_at=ReadAt.BIRTH,
        scaled=True,
    )
    carry: Value = fields.value(
        0.0,
        "Carry",
        "How much of the emitter's own velocity it is given; a layer that is followed moves it along "
        "as well.",
        along="clock",
        unit="×",
        hard=(-100, 100),
        soft=(0, 1),
        group="at the start",
        also="moving emitter motion inherit",
        read_at=ReadAt.BIRTH,
    )
    size: Value = fields.value(
        0.2,
        "Size",
        "Its height at birth.",
        along="clock",
        unit="m",
        hard=(0, 1e5),
        soft=(0, 2),
        digits=3,
        also="scale big small radius start",
        read_at=ReadAt.FIRST_LOOK,
        scaled=True,
    )
    aspect: Value = fields.value(
        1.0,
        "Aspect",
        "Its width as a share of its height.",
        along="clock",
        unit="×",
        hard=(0, 1000),
        soft=(0.1, 4),
        group="shape",
        also="stretch width ratio wide",
        read_at=ReadAt.FIRST_LOOK,
    )
    angle: Value = fields.value(
        0.0,
        "Angle",
        "How far it is turned at birth.",
        draws=(DrawnAs.SPRITE, DrawnAs.MESH),
        along="clock",
        unit="°",
        hard=(-36_000, 36_000),
        soft=(-180, 180),
        digits=0,
        group="shape",
        also="rotate rotation turn orientation",
        read_at=ReadAt.BIRTH,
    )


class Flight(Part):
    """What moves a particle once it is born."""

    follow: bool = fields.flag(
        True,
        "Follow",
        "Particles move with the layer along its path; else they stay in the world.",
        group="path",
        also="local world space attach parent",
    )
    gravity: Value = fields.value(
        0.0,
        "Gravity",
        "How many times the stage's gravity pulls it down; below zero it rises.",
        along="life clock speed",
        unit="×",
        hard=(-1000, 1000),
        soft=(-1, 1),
        group="pushes",
        also="fall weight down rise buoyancy",
        read_at=ReadAt.STEP,
    )
    drag: Value = fields.value(
        0.0,
        "Drag",
        "How fast it gives up its speed to the air.",
        along="life clock speed",
        unit="/s",
        hard=(0, 1000),
        soft=(0, 8),
        group="air",
        also="damping friction slow resistance",
        read_at=ReadAt.STEP,
        cost=TURNED,
    )
    wind: Value = fields.value(
        0.0,
        "Wind",
        "How much of the stage's wind it is carried along by; acts through drag.",
        along="life clock speed",
        hard=(0, 10),
        soft=(0, 1),
        group="air",
        also="breeze blow air",
        read_at=ReadAt.STEP,
    )
    thrust: Vec3Value = fields.vec3_value(
        "Thrust",
        "A steady push along the layer's own X, Y and Z.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(-10, 10),
        group="pushes",
        also="force acceleration direction",
        read_at=ReadAt.STEP,
        scaled=True,
    )
    drift: Vec3Value = fields.vec3_value(
        "Drift",
        "Moves it without touching its velocity, along the layer's own X, Y and Z.",
        along="life clock speed",
        unit="m/s",
        hard=(-1e5, 1e5),
        soft=(-5, 5),
        group="pushes",
        also="velocity move carry offset",
        read_at=ReadAt.STEP,
        scaled=True,
        cost=TURNED,
    )
    pull: Value = fields.value(
        0.0,
        "Pull",
        "Draws it to the layer's centre; below zero pushes it away.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(-10, 10),
        group="centre",
        also="attract gravity point radial force",
        read_at=ReadAt.STEP,
        scaled=True,
        cost=TURNED,
    )
    swirl: Value = fields.value(
        0.0,
        "Swirl",
        "Pushes it round the layer's axis; one that is right on the axis, to a side of its own.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(-10, 10),
        group="centre",
        also="vortex rotate spin whirl",
        read_at=ReadAt.STEP,
        scaled=True,
        cost=TURNED,
    )
    orbit: Value = fields.value(
        0.0,
        "Orbit",
        "Turns its position and velocity round the layer's axis.",
        along="life clock speed",
        unit="°/s",
        hard=(-36_000, 36_000),
        soft=(-360, 360),
        digits=0,
        group="centre",
        also="rotate circle revolve vortex",
        read_at=ReadAt.STEP,
        cost=TURNED,
    )
    turbulence: Value = fields.value(
        0.0,
        "Turbulence",
        "How strongly moving eddies stir it: the root mean square of their push.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(0, 10),
        group="eddies",
        also="noise curl random wobble chaos",
        read_at=ReadAt.STEP,
        scaled=True,
    )
    eddy: float = fields.number(
        0.5,
        "Eddy size",
        "The width of the largest eddies.",
        unit="m",
        hard=(0.001, 10_000),
        soft=(0.1, 4),
        group="eddies",
        also="noise scale frequency",
        needs="turbulence",
    )
    churn: float = fields.number(
        1.0,
        "Churn",
        "How fast the eddies change.",
        unit="/s",
        hard=(0, 1000),
        soft=(0, 4),
        group="eddies",
        also="noise speed evolve",
        needs="turbulence",
    )
    octaves: int = fields.integer(
        2,
        "Octaves",
        "How many sizes of eddies, each half as wide as the one before.",
        hard=(1, 4),
        soft=(1, 4),
        group="eddies",
        also="noise detail",
        needs="turbulence",
    )
    pace: Value = fields.value(
        1.0,
        "Pace",
        "How fast it goes along its way: multiplies how far its velocity carries it, and leaves the "
        "velocity as it is.",
        along="life clock speed",
        unit="×",
        hard=(-1000, 1000),
        soft=(0, 2),
        group="limits",
        also="speed velocity slow fast time",
        read_at=ReadAt.STEP,
        cost=TURNED,
    )
    top_speed: Value = fields.value(
        0.0,
        "Top speed",
        "It is never faster than this. A fixed 0 sets no limit; a curve that comes to 0 stops it.",
        along="life clock speed",
        unit="m/s",
        hard=(0, 1e6),
        soft=(0, 20),
        group="limits",
        also="max maximum velocity limit clamp",
        read_at=ReadAt.STEP,
        scaled=True,
        cost=TURNED,
    )
    speed_range: float = fields.number(
        5.0,
        "Speed range",
        "Curves along speed reach their end at this speed; it grows with the layer's scale.",
        unit="m/s",
        hard=(0.001, 1e6),
        soft=(0.5, 20),
        group="limits",
        also="maximum velocity axis",
    )
    spin: Value = fields.value(
        0.0,
        "Spin",
        "How fast it turns as seen.",
        draws=(DrawnAs.SPRITE, DrawnAs.MESH),
        along="life clock speed",
        unit="°/s",
        hard=(-36_000, 36_000),
        soft=(-360, 360),
        digits=0,
        group="turning",
        also="rotate rotation turn angular",
        read_at=ReadAt.STEP,
    )

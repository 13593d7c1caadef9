"""The chapters of a layer: emit, birthplace, launch, flight, look; its place and its window."""

from __future__ import annotations

from pydantic import field_validator

from . import fields as f
from .colors import ColorValue
from .part import Part, few
from .values import Spread, Value, Vec3Value

Triple = tuple[float, float, float]
ROUND = ("ball", "dome", "cone", "cylinder", "ring")


class Place(Part):
    """Where the layer stands in the effect."""

    position: Triple = f.vec3((0.0, 0.0, 0.0), "Position", "Where the layer's centre stands.", unit="m", soft=(-5, 5))
    rotation: Triple = f.vec3(
        (0.0, 0.0, 0.0),
        "Rotation",
        "Turns the layer about X, then Y, then Z. At zero its axis points up.",
        unit="°",
        soft=(-180, 180),
        digits=1,
    )
    scale: float = f.number(
        1.0, "Scale", "Multiplies every length of the layer: birthplace, speeds, pushes and sizes.",
        unit="×", hard=(0.0001, 10_000), soft=(0.1, 4),
    )  # fmt: skip


class Window(Part):
    """When the layer emits, inside the effect's duration."""

    begin: float = f.number(
        0.0,
        "Begin",
        "The moment in each loop at which the layer starts to emit.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 4),
    )
    length: float | None = f.number(
        None, "Length", "For how long the layer emits; to the end of the effect when empty.",
        unit="s", hard=(0.001, 3600), soft=(0.1, 4),
    )  # fmt: skip


class Burst(Part):
    """Particles that are born all at one moment."""

    at: float = f.number(0.0, "At", "When it fires, after the window begins.", unit="s", hard=(0, 3600), soft=(0, 4))
    count: Value = f.value(
        20, "Count", "How many are born; drawn anew each time it fires.", along="clock",
        hard=(0, 1_000_000), soft=(0, 100), digits=0,
    )  # fmt: skip
    repeat: int = f.integer(1, "Repeat", "How often it fires in all.", hard=(1, 10_000), soft=(1, 10))
    every: float = f.number(
        0.5, "Every", "The pause from one firing to the next.", unit="s", hard=(0.001, 3600), soft=(0.05, 2)
    )
    chance: float = f.number(1.0, "Chance", "How likely each firing is to happen.", hard=(0, 1), soft=(0, 1))


MOST_BURSTS = 256


class Emit(Part):
    """How many particles are born, and when."""

    rate: Value = f.value(
        20, "Rate", "Particles born each second, evenly spaced in time.", along="clock",
        unit="/s", hard=(0, 10_000_000), soft=(0, 200), digits=1,
    )  # fmt: skip
    bursts: tuple[Burst, ...] = ()
    cap: int = f.integer(
        2000, "Cap", "The most that may be alive at once; births beyond it are refused and counted.",
        hard=(1, 4_000_000), soft=(100, 20_000),
    )  # fmt: skip

    @field_validator("bursts", mode="before")
    @classmethod
    def _bursts_are_few(cls, raw: object) -> object:
        return few(raw, MOST_BURSTS, "bursts")


class Birthplace(Part):
    """Where particles are born, and which way they face. The layer's axis is its own +Y."""

    kind: str = f.choice(
        "point", "point ball dome box cone cylinder ring line", "Kind", "The shape that particles are born in."
    )
    radius: float = f.number(
        0.5,
        "Radius",
        "The shape's radius; for a cone, that of its base.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 5),
        only=("kind", ROUND),
    )
    tube: float = f.number(
        0.1,
        "Tube",
        "The radius of the ring's tube.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 1),
        only=("kind", ("ring",)),
    )
    height: float = f.number(
        1.0,
        "Height",
        "How far the shape goes up along its axis.",
        unit="m",
        hard=(0, 100_000),
        soft=(0, 5),
        only=("kind", ("cone", "cylinder")),
    )
    extents: Triple = f.vec3(
        (1.0, 1.0, 1.0), "Extents", "The full width, height and depth; a line uses the width alone.",
        unit="m", hard=(0, 100_000), soft=(0, 5), only=("kind", ("box", "line")),
    )  # fmt: skip
    angle: float = f.number(
        20.0,
        "Angle",
        "How far the cone's side leans outward from its axis.",
        unit="°",
        hard=(0, 89),
        soft=(0, 60),
        digits=1,
        only=("kind", ("cone",)),
    )
    arc: float = f.number(
        360.0,
        "Arc",
        "How much of the full turn around the axis is used.",
        unit="°",
        hard=(0, 360),
        soft=(0, 360),
        digits=0,
        only=("kind", ROUND),
    )
    fill: str = f.choice(
        "volume",
        "volume skin rim",
        "Fill",
        "Born inside the shape, on its surface, or on its edge.",
        only=("kind", ("box", *ROUND)),
    )
    aim: str = f.choice("axis", "axis outward inward random", "Aim", "Which way particles set out.")
    fan: float = f.number(
        0.0,
        "Fan",
        "Spreads the aim evenly over a cone of this half-angle.",
        unit="°",
        hard=(0, 180),
        soft=(0, 90),
        digits=1,
    )
    scatter: float = f.number(0.0, "Scatter", "Mixes the aim with a random direction.", hard=(0, 1), soft=(0, 1))


class Launch(Part):
    """What each particle gets at birth."""

    lifetime: Value = f.value(
        Spread(1.0, 1.5),
        "Lifetime",
        "How long a particle lives.",
        along="clock",
        unit="s",
        hard=(0.001, 3600),
        soft=(0.05, 5),
    )
    speed: Value = f.value(
        1.0, "Speed", "How fast it sets out along its aim.", along="clock", unit="m/s", hard=(-1e5, 1e5), soft=(0, 10)
    )
    push: Vec3Value = f.vec3_value(
        "Push",
        "Velocity added at birth, along the layer's own X, Y and Z.",
        along="clock",
        unit="m/s",
        hard=(-1e5, 1e5),
        soft=(-5, 5),
    )
    size: Value = f.value(
        0.2, "Size", "Its height at birth.", along="clock", unit="m", hard=(0, 1e5), soft=(0, 2), digits=3
    )
    aspect: Value = f.value(
        1.0, "Aspect", "Its width as a share of its height.", along="clock", unit="×", hard=(0, 1000), soft=(0.1, 4)
    )
    angle: Value = f.value(
        0.0,
        "Angle",
        "How far it is turned at birth.",
        along="clock",
        unit="°",
        hard=(-36_000, 36_000),
        soft=(-180, 180),
        digits=0,
    )


class Flight(Part):
    """What moves a particle once it is born."""

    gravity: Value = f.value(
        0.0,
        "Gravity",
        "How many times the stage's gravity pulls it down; below zero it rises.",
        along="life clock speed",
        unit="×",
        hard=(-1000, 1000),
        soft=(-1, 1),
    )
    drag: Value = f.value(
        0.0,
        "Drag",
        "How fast it gives up its speed to the air.",
        along="life clock speed",
        unit="/s",
        hard=(0, 1000),
        soft=(0, 8),
    )
    wind: Value = f.value(
        0.0,
        "Wind",
        "How much of the stage's wind it is carried along by; acts through drag.",
        along="life clock speed",
        hard=(0, 10),
        soft=(0, 1),
    )
    thrust: Vec3Value = f.vec3_value(
        "Thrust",
        "A steady push along the layer's own X, Y and Z.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(-10, 10),
    )
    drift: Vec3Value = f.vec3_value(
        "Drift",
        "Moves it without touching its velocity, along the layer's own X, Y and Z.",
        along="life clock speed",
        unit="m/s",
        hard=(-1e5, 1e5),
        soft=(-5, 5),
    )
    pull: Value = f.value(
        0.0,
        "Pull",
        "Draws it to the layer's centre; below zero pushes it away.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(-10, 10),
    )
    swirl: Value = f.value(
        0.0,
        "Swirl",
        "Pushes it round the layer's axis.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(-10, 10),
    )
    orbit: Value = f.value(
        0.0,
        "Orbit",
        "Turns its position and velocity round the layer's axis.",
        along="life clock speed",
        unit="°/s",
        hard=(-36_000, 36_000),
        soft=(-360, 360),
        digits=0,
    )
    turbulence: Value = f.value(
        0.0,
        "Turbulence",
        "How strongly moving eddies stir it.",
        along="life clock speed",
        unit="m/s²",
        hard=(-1e5, 1e5),
        soft=(0, 10),
    )
    eddy: float = f.number(
        0.5, "Eddy size", "The width of the largest eddies.", unit="m", hard=(0.001, 10_000), soft=(0.1, 4)
    )
    churn: float = f.number(1.0, "Churn", "How fast the eddies change.", unit="/s", hard=(0, 1000), soft=(0, 4))
    octaves: int = f.integer(
        2, "Octaves", "How many sizes of eddies, each half as wide as the one before.", hard=(1, 4), soft=(1, 4)
    )
    top_speed: Value = f.value(
        0.0,
        "Top speed",
        "It is never faster than this; 0 sets no limit.",
        along="life clock speed",
        unit="m/s",
        hard=(0, 1e6),
        soft=(0, 20),
    )
    speed_range: float = f.number(
        5.0,
        "Speed range",
        "Curves along speed reach their end at this speed.",
        unit="m/s",
        hard=(0.001, 1e6),
        soft=(0.5, 20),
    )
    spin: Value = f.value(
        0.0,
        "Spin",
        "How fast it turns as seen.",
        along="life clock speed",
        unit="°/s",
        hard=(-36_000, 36_000),
        soft=(-360, 360),
        digits=0,
    )


class Look(Part):
    """How a particle is drawn, as a soft dot that faces the camera."""

    grow: Value = f.value(
        1.0,
        "Grow",
        "Multiplies the size as life goes on.",
        along="life clock speed",
        unit="×",
        hard=(0, 1e5),
        soft=(0, 3),
    )
    tint: ColorValue = f.color_value(
        "#ffffff", "Tint", "A colour given at birth, multiplied with the colour along life.", along="clock"
    )
    color: ColorValue = f.color_value("#ffffff", "Colour", "The colour as life goes on.", along="life clock speed")
    opacity: Value = f.value(
        1.0,
        "Opacity",
        "How much of what is behind it hides; for added light, how much light it gives.",
        along="life clock speed",
        hard=(0, 1),
        soft=(0, 1),
    )
    intensity: Value = f.value(
        1.0,
        "Intensity",
        "Multiplies its light; above 1 it glows.",
        along="life clock speed",
        unit="×",
        hard=(0, 1e5),
        soft=(0, 8),
    )
    blend: str = f.choice(
        "alpha", "alpha add", "Blend", "Alpha covers what is behind; add puts its light on top of it."
    )
    sort: str = f.choice(
        "far",
        "far old young none",
        "Sort",
        "Which particles are drawn first, inside this layer.",
        only=("blend", ("alpha",)),
    )
    order: int = f.integer(
        0,
        "Order",
        "Layers of a higher order are drawn over lower ones; equal ones in the order of the timeline.",
        hard=(-1000, 1000),
        soft=(-10, 10),
    )

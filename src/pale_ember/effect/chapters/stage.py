"""What surrounds the effect: air, light, floor, props, and from where it is seen."""

from __future__ import annotations

from pydantic import field_validator

from ..kinds import Backdrop, PropKind
from ..rules import fields
from ..rules.part import Part, few
from .place import Triple
from .source import PathKeys

MOST_PROPS = 64


class Camera(Part):
    """From where the stage is seen when the effect is opened, and rendered."""

    target: Triple = fields.vec3(
        (0.0, 0.8, 0.0),
        "Target",
        "The point that is looked at.",
        unit="m",
        soft=(-5, 5),
        also="look at centre",
    )
    distance: float = fields.number(
        4.0,
        "Distance",
        "How far the eye is from the target.",
        unit="m",
        hard=(0.01, 100_000),
        soft=(1, 30),
        also="zoom far",
    )
    yaw: float = fields.number(
        25.0,
        "Yaw",
        "The eye's turn round the target.",
        unit="°",
        soft=(-180, 180),
        digits=0,
        also="turn orbit rotate",
    )
    pitch: float = fields.number(
        10.0,
        "Pitch",
        "The eye's height over the target.",
        unit="°",
        hard=(-90, 90),
        soft=(-90, 90),
        digits=0,
        also="tilt height rotate",
    )
    view: float = fields.number(
        40.0,
        "View angle",
        "How wide the camera sees, from top to bottom.",
        unit="°",
        hard=(1, 150),
        soft=(15, 90),
        digits=0,
        also="fov field of view lens angle",
    )


class Light(Part):
    """The stage's key light and sky: the backdrop's own, turned, tinted, stronger or weaker."""

    yaw: float = fields.number(
        -50.0,
        "Yaw",
        "From which side the key light comes.",
        unit="°",
        soft=(-180, 180),
        digits=0,
        also="direction sun turn",
    )
    pitch: float = fields.number(
        40.0,
        "Pitch",
        "How high the key light stands.",
        unit="°",
        hard=(-90, 90),
        soft=(0, 90),
        digits=0,
        also="direction sun height",
    )
    color: str = fields.color("#ffffff", "Colour", "Tints the backdrop's key light.", also="sun tint")
    strength: float = fields.number(
        1.0,
        "Strength",
        "How strong the key light is, times the backdrop's.",
        unit="×",
        hard=(0, 1000),
        soft=(0, 3),
        also="sun bright intensity",
    )
    sky: float = fields.number(
        1.0,
        "Sky",
        "How strong the light from all around is, times the backdrop's.",
        unit="×",
        hard=(0, 1000),
        soft=(0, 3),
        also="ambient fill bright",
    )


class Prop(Part):
    """A thing on the stage."""

    name: str = fields.text("Prop", "Name", "What it is called.", also="title label")
    kind: PropKind = fields.choice(PropKind.BOX, "Kind", "Its shape.", also="shape form")
    mesh: str = fields.mesh(
        "", "Mesh", "A shipped mesh, or a file.", only=("kind", (PropKind.MESH,)), also="file model import"
    )
    position: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Position",
        "Where the middle of its foot stands.",
        unit="m",
        soft=(-5, 5),
        also="place location move",
    )
    rotation: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Rotation",
        "Turns it about X, then Y, then Z.",
        unit="°",
        soft=(-180, 180),
        digits=1,
        also="turn rotate angle",
    )
    size: Triple = fields.vec3(
        (1.0, 1.0, 1.0),
        "Size",
        "Its width, height and depth; a mesh is stretched to it.",
        unit="m",
        hard=(0.001, 10_000),
        soft=(0.1, 4),
        also="scale dimensions",
    )
    color: str = fields.color("#8a8580", "Colour", "What it is painted with.", also="paint material")
    seen: bool = fields.flag(True, "Seen", "One that is not seen hides nothing.", also="visible hide show")
    hit: bool = fields.flag(
        True,
        "Hit",
        "Particles of layers with contact meet it; else they pass through.",
        also="collision collide solid contact",
    )
    path: PathKeys = ()


class Stage(Part):
    """What surrounds the effect."""

    wind: Triple = fields.vec3(
        (0.0, 0.0, 0.0),
        "Wind",
        "The air's own motion, for layers that take it.",
        unit="m/s",
        hard=(-1000, 1000),
        soft=(-10, 10),
        also="breeze air blow",
    )
    gust: float = fields.number(
        0.0,
        "Gusts",
        "How far the wind swells and drops, as a share of itself.",
        hard=(0, 10),
        soft=(0, 1),
        group="gusts",
        also="wind turbulence variation",
    )
    gust_period: float = fields.number(
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
    gravity: float = fields.number(
        9.81,
        "Gravity",
        "How fast things fall, for layers that take it.",
        unit="m/s²",
        hard=(-1000, 1000),
        soft=(0, 20),
        also="fall weight",
    )
    floor: bool = fields.flag(
        True, "Floor", "A floor at height 0 hides what is below it.", also="ground plane"
    )
    backdrop: Backdrop = fields.choice(
        Backdrop.NIGHT, "Backdrop", "What stands behind the effect.", also="background night day sky noon"
    )
    picture: str = fields.picture(
        "",
        "Picture",
        "A picture file to stand behind; one twice as wide as high goes all around.",
        only=("backdrop", (Backdrop.PICTURE,)),
        also="panorama image file photograph",
    )
    exposure: float = fields.number(
        0.0,
        "Exposure",
        "Brighter or darker, in doublings of the light.",
        unit="stops",
        hard=(-20, 20),
        soft=(-4, 4),
        also="bright dark stops ev",
    )
    glow: float = fields.number(
        0.24,
        "Glow",
        "How much of the light is spread, as lenses and eyes do.",
        hard=(0, 1),
        soft=(0, 1),
        group="glow",
        also="bloom halo bright",
    )
    glow_reach: float = fields.number(
        0.5,
        "Glow reach",
        "How wide it is spread, as a share of the picture.",
        hard=(0, 1),
        soft=(0, 1),
        group="glow",
        needs="glow",
        also="bloom radius size",
    )
    figure: bool = fields.flag(
        False, "Figure", "A person-sized figure to judge size by.", also="person human scale mannequin size"
    )
    light: Light = Light()
    props: tuple[Prop, ...] = ()
    camera: Camera = Camera()

    @field_validator("props", mode="before")
    @classmethod
    def _props_are_few(cls, raw: object) -> object:
        return few(raw, MOST_PROPS, "props")

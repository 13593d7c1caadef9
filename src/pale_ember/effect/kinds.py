"""The enumerations that fields choose from. Each stands here once; every room that acts on one handles
all its members.
"""

from __future__ import annotations

from enum import StrEnum


def code_of(member: StrEnum) -> int:
    """Return an enumeration's member as compiled code takes it: its place among all."""
    return tuple(type(member)).index(member)


class EmitterShape(StrEnum):
    """The shape that particles are born in."""

    POINT = "point"
    BALL = "ball"
    DOME = "dome"
    BOX = "box"
    CONE = "cone"
    CYLINDER = "cylinder"
    RING = "ring"
    LINE = "line"
    BOW = "bow"
    MESH = "mesh"


class Fill(StrEnum):
    """Which part of the shape they are born in."""

    VOLUME = "volume"
    SKIN = "skin"
    RIM = "rim"


class Aim(StrEnum):
    """Which way they set out."""

    AXIS = "axis"
    OUTWARD = "outward"
    INWARD = "inward"
    RANDOM = "random"


class PathEase(StrEnum):
    """How the way from one key of a path to the next goes."""

    SMOOTH = "smooth"
    LINEAR = "linear"
    HOLD = "hold"


class Blend(StrEnum):
    """How a particle is put over what is behind it."""

    ALPHA = "alpha"
    ADD = "add"
    MIX = "mix"
    MULTIPLY = "multiply"
    CUTOUT = "cutout"


class Sort(StrEnum):
    """Which particles of a layer are drawn first."""

    FAR = "far"
    OLD = "old"
    YOUNG = "young"
    NONE = "none"


class Backdrop(StrEnum):
    """The backdrop of the stage."""

    NIGHT = "night"
    DUSK = "dusk"
    OVERCAST = "overcast"
    NOON = "noon"
    GREY = "grey"
    BLACK = "black"
    CHECKER = "checker"
    PICTURE = "picture"


class Along(StrEnum):
    """What a curve runs along."""

    LIFE = "life"
    CLOCK = "clock"
    SPEED = "speed"


class DrawnAs(StrEnum):
    """What a particle is drawn as."""

    SPRITE = "sprite"
    RIBBON = "ribbon"
    MESH = "mesh"


class Join(StrEnum):
    """Which particles a ribbon joins."""

    LAYER = "layer"
    PARENT = "parent"


class Across(StrEnum):
    """Which way a ribbon's width goes."""

    CAMERA = "camera"
    FLAT = "flat"
    AXIS = "axis"
    LINE = "line"


class Lay(StrEnum):
    """How a texture lies along a ribbon."""

    STRETCH = "stretch"
    REPEAT = "repeat"


class LayFrom(StrEnum):
    """What the texture along a ribbon keeps to."""

    HEAD = "head"
    TAIL = "tail"


class Stand(StrEnum):
    """Which way a mesh is turned."""

    LAYER = "layer"
    TRAVEL = "travel"
    TUMBLE = "tumble"


class Faces(StrEnum):
    """Which sides of a mesh's faces are drawn."""

    BOTH = "both"
    OUTER = "outer"
    INNER = "inner"


class Facing(StrEnum):
    """Which way a particle's picture is turned."""

    CAMERA = "camera"
    STREAK = "streak"
    UPRIGHT = "upright"
    FLAT = "flat"
    TRAVEL = "travel"


class Channel(StrEnum):
    """Which part of a picture is read: all of it, or one of the masks packed in it."""

    ALL = "all"
    RED = "red"
    GREEN = "green"
    BLUE = "blue"
    ALPHA = "alpha"


class FrameEnd(StrEnum):
    """What comes behind the last frame of a sheet."""

    AROUND = "around"
    HOLD = "hold"


class Cover(StrEnum):
    """How a picture's colours and its alpha belong together: premultiplied ones are light times cover,
    and then encoded.
    """

    STRAIGHT = "straight"
    PREMULTIPLIED = "premultiplied"


class CoverOfFile(StrEnum):
    """How they do in a picture file that is read: others multiply the encoded values."""

    STRAIGHT = "straight"
    PREMULTIPLIED = "premultiplied"
    PREMULTIPLIED_SRGB = "premultiplied_srgb"


class PropKind(StrEnum):
    """The shape of a prop."""

    BOX = "box"
    BALL = "ball"
    CYLINDER = "cylinder"
    MESH = "mesh"


class StepBlend(StrEnum):
    """How what a step makes is put over what the steps before it made."""

    REPLACE = "replace"
    ADD = "add"
    SUBTRACT = "subtract"
    MULTIPLY = "multiply"
    MOST = "most"
    LEAST = "least"


class PictureFit(StrEnum):
    """How a picture file is put into a frame."""

    WHOLE = "whole"
    FILL = "fill"
    STRETCH = "stretch"


class Burning(StrEnum):
    """What a flow step simulates."""

    FLAME = "flame"
    PUFF = "puff"
    RING = "ring"


class OnHit(StrEnum):
    """What becomes of a particle that meets floor or props."""

    BOUNCE = "bounce"
    STICK = "stick"
    VANISH = "vanish"


class When(StrEnum):
    """What of a parent's particle starts those of a follow-up."""

    BIRTH = "birth"
    HIT = "hit"
    DEATH = "death"
    ALIVE = "alive"


class FollowAim(StrEnum):
    """Where the axis of a follow-up points at an event."""

    OWN = "own"
    TRAVEL = "travel"
    SURFACE = "surface"
    MIRROR = "mirror"


class BundleForm(StrEnum):
    """What a bundle is written as."""

    FOLDER = "folder"
    ZIP = "zip"


class TextureForm(StrEnum):
    """How a bundle's textures are stored."""

    PROPOSED = "proposed"
    PNG = "png"
    BC1 = "bc1"
    BC3 = "bc3"
    BC4 = "bc4"
    BC5 = "bc5"
    BC7 = "bc7"


class Shot(StrEnum):
    """From where a bake is seen."""

    OWN = "own"
    FITTED = "fitted"


class Behind(StrEnum):
    """The background of a bake."""

    OWN = "own"
    NOTHING = "nothing"
    NIGHT = "night"
    DUSK = "dusk"
    OVERCAST = "overcast"
    NOON = "noon"
    GREY = "grey"
    BLACK = "black"
    CHECKER = "checker"


class FrameForm(StrEnum):
    """The files of a picture sequence."""

    PNG = "png"
    EXR = "exr"


class FilmForm(StrEnum):
    """The files that moving pictures are written as."""

    MP4 = "mp4"
    WEBM = "webm"
    GIF = "gif"
    WEBP = "webp"
    APNG = "apng"


class CacheForm(StrEnum):
    """The files that particles are written as."""

    NPZ = "npz"
    CSV = "csv"
    GLB = "glb"
    USD = "usd"

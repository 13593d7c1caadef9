"""What is chosen for each product: bundles, sheets, frames, films, caches; and a budget."""

from __future__ import annotations

from typing import Any

from ..effect.kinds import Behind, BundleForm, CacheForm, Cover, FilmForm, FrameForm, Shot, TextureForm
from ..effect.rules import fields
from ..effect.rules.part import Part


def _rate(default: float) -> Any:
    return fields.number(
        default,
        "Rate",
        "Pictures each second of the effect's time.",
        unit="Hz",
        hard=(0.1, 240),
        soft=(10, 60),
        also="fps frames",
    )


def _pixels(default: int, label: str, help: str) -> Any:
    return fields.integer(
        default, label, help, unit="px", hard=(1, 8192), soft=(64, 2048), also="resolution size"
    )


def _clear_borders() -> Any:
    return fields.integer(
        0,
        "Padding",
        "Clear pixels round each frame, which make the sheet larger than its frames.",
        unit="px",
        hard=(0, 64),
        soft=(0, 8),
        group="sheet",
        also="gap bleed margin",
    )


class Seen(Part):
    """What all bakes have: from where, before what, which part of the time."""

    shot: Shot = fields.choice(
        Shot.OWN,
        "Seen from",
        "The effect's own camera; or one that looks the same way and holds all of the effect.",
        also="camera frame fit",
    )
    turn: float = fields.number(
        0.0,
        "Turn",
        "Turns the camera about the effect.",
        unit="°",
        hard=(-360, 360),
        soft=(-180, 180),
        digits=1,
        group="camera",
        also="yaw orbit side",
    )
    tilt: float = fields.number(
        0.0,
        "Tilt",
        "Lifts the camera over the effect.",
        unit="°",
        hard=(-180, 180),
        soft=(-90, 90),
        digits=1,
        group="camera",
        also="pitch height",
    )
    away: float = fields.number(
        1.0,
        "Away",
        "How far the camera stands, times its own distance.",
        unit="×",
        hard=(0.01, 100),
        soft=(0.25, 4),
        group="camera",
        also="distance zoom near",
    )
    begin: float = fields.number(
        0.0,
        "Begin",
        "Where in the effect's time it begins.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 10),
        group="time",
        also="start trim",
    )
    length: float = fields.number(
        0.0,
        "Length",
        "How long it lasts; 0 is the effect's duration.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 10),
        group="time",
        also="end duration",
    )
    close: bool = fields.flag(
        True,
        "Close the loop",
        "An effect that loops is simulated with “repeat” until it has settled, so that the last "
        "picture leads into the first.",
        group="time",
        also="seamless loop repeat",
    )
    glow: bool = fields.flag(
        True,
        "Glow",
        "Spreads light as the stage does; where nothing stands behind, it fades towards the borders. "
        "Games mostly have a glow of their own.",
        group="light",
        also="bloom halo",
    )
    exposure: float = fields.number(
        0.0,
        "Exposure",
        "Stops brighter than the effect's stage.",
        hard=(-10, 10),
        soft=(-3, 3),
        group="light",
        also="brightness",
    )


class BundleOptions(Part):
    """The effect as data: settings, textures, meshes, tables, figures, a page and a player."""

    form: BundleForm = fields.choice(BundleForm.FOLDER, "Form", "A folder, or one .zip.")
    textures: TextureForm = fields.choice(
        TextureForm.PROPOSED,
        "Textures",
        "In the smallest form that keeps what their channels hold; as PNG; or all in one form of blocks.",
        also="compress dds png bc",
    )
    player: bool = fields.flag(
        True,
        "Player",
        "A page that plays the effect in any browser, and can be mailed.",
        also="html preview web",
    )
    player_rate: float = fields.number(
        60.0,
        "Player rate",
        "Moments each second that the page knows, not more than steps; between them it goes softly.",
        unit="Hz",
        hard=(1, 120),
        soft=(10, 60),
        needs="player",
        also="fps",
    )
    runtime: bool = fields.flag(
        True,
        "Runtime",
        "Plain code that plays a layer, with numbers to prove another one right.",
        also="reference test vectors",
    )


class SheetOptions(Seen):
    """All frames in one picture, for a particle or a card to play."""

    columns: int = fields.integer(
        8, "Columns", "Frames across.", hard=(1, 64), soft=(1, 16), also="grid layout frames"
    )
    rows: int = fields.integer(
        8, "Rows", "Frames down.", hard=(1, 64), soft=(1, 16), also="grid layout frames"
    )
    frame: int = fields.integer(
        128,
        "Frame",
        "The width and height of a frame.",
        unit="px",
        hard=(4, 2048),
        soft=(32, 512),
        also="size resolution pixels",
    )
    shot: Shot = fields.choice(
        Shot.FITTED,
        "Seen from",
        "The effect's own camera; or one that looks the same way and holds all of the effect.",
        also="camera frame fit",
    )
    cover: Cover = fields.choice(
        Cover.STRAIGHT,
        "Cover",
        "Whether colours are multiplied by alpha.",
        also="alpha premultiplied straight",
    )
    glow: bool = fields.flag(
        False,
        "Glow",
        "Spreads light as the stage does; where nothing stands behind, it fades towards the borders. "
        "Games mostly have a glow of their own.",
        group="light",
        also="bloom halo",
    )
    trim: bool = fields.flag(
        False, "Trim", "Crops all frames to what is seen in any of them.", also="crop tight"
    )
    padding: int = _clear_borders()
    behind: Behind = fields.choice(
        Behind.NOTHING,
        "Behind",
        "What stands behind it; nothing leaves it clear.",
        also="backdrop background transparent alpha",
    )
    motion: bool = fields.flag(
        False,
        "Motion map",
        "A second sheet: where each point goes until the next frame.",
        also="motion vectors flow",
    )
    normals: bool = fields.flag(
        False, "Normal map", "A second sheet: which way each point looks.", also="normals light"
    )


class FramesOptions(Seen):
    """Each picture in a file of its own."""

    form: FrameForm = fields.choice(
        FrameForm.PNG, "Form", "PNG; or EXR with light above 1, as it is before exposure bends it."
    )
    rate: float = _rate(30.0)
    width: int = _pixels(960, "Width", "Of each picture.")
    height: int = _pixels(600, "Height", "Of each picture.")
    behind: Behind = fields.choice(
        Behind.NOTHING,
        "Behind",
        "What stands behind it; nothing leaves it clear.",
        also="backdrop background transparent alpha",
    )
    cover: Cover = fields.choice(
        Cover.STRAIGHT,
        "Cover",
        "Whether colours of PNG are multiplied by alpha; those of EXR always are.",
        also="alpha premultiplied straight",
    )


class FilmOptions(Seen):
    """A film, for those who have no runtime."""

    form: FilmForm = fields.choice(
        FilmForm.MP4,
        "Form",
        "MP4 plays everywhere; WebM, WebP, APNG and GIF can be clear.",
        also="video gif webm alpha",
    )
    rate: float = _rate(30.0)
    width: int = _pixels(960, "Width", "Of the picture; of MP4 and WebM made even.")
    height: int = _pixels(600, "Height", "Of the picture; of MP4 and WebM made even.")
    behind: Behind = fields.choice(
        Behind.OWN,
        "Behind",
        "What stands behind it; nothing leaves it clear where the form can be.",
        also="backdrop background transparent alpha",
    )
    quality: float = fields.number(
        0.8,
        "Quality",
        "From small to beautiful, of MP4, WebM and WebP; at 1 WebP loses nothing.",
        hard=(0, 1),
        soft=(0, 1),
        also="compression bitrate size",
    )
    loops: int = fields.integer(
        1,
        "Loops",
        "How often the effect plays in it.",
        hard=(1, 100),
        soft=(1, 8),
        group="time",
        also="repeat times",
    )


class CacheOptions(Part):
    """All particles at all moments, as numbers."""

    form: CacheForm = fields.choice(
        CacheForm.NPZ,
        "Form",
        "NumPy arrays; a table as text; animated meshes of glTF; USD's point instancer.",
        also="npz csv glb usd",
    )
    rate: float = fields.number(
        30.0, "Rate", "Moments each second.", unit="Hz", hard=(0.1, 120), soft=(10, 60), also="fps frames"
    )
    begin: float = fields.number(
        0.0,
        "Begin",
        "Where in the effect's time it begins.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 10),
        also="start",
    )
    length: float = fields.number(
        0.0,
        "Length",
        "How long it lasts; 0 is the effect's duration.",
        unit="s",
        hard=(0, 3600),
        soft=(0, 10),
        also="end duration",
    )


class Budget(Part):
    """What an effect may cost; 0 sets no limit."""

    alive: int = fields.integer(
        0, "Alive", "Particles alive at once.", hard=(0, 10_000_000), soft=(0, 5000), also="particles count"
    )
    born: float = fields.number(
        0.0,
        "Born",
        "Births each second, in the mean.",
        unit="1/s",
        hard=(0, 1e7),
        soft=(0, 5000),
        also="births spawn",
    )
    texture_memory: float = fields.number(
        0.0,
        "Texture memory",
        "On the graphics card, smaller copies included.",
        unit="MB",
        hard=(0, 1e5),
        soft=(0, 64),
        also="textures size",
    )
    layers: int = fields.integer(
        0, "Layers", "Layers that are enabled.", hard=(0, 256), soft=(0, 16), also="emitters draw calls"
    )

"""The contents of ``bundle.json``: what a bundle holds, and what its readers must know."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

FORMAT = "pale-ember/bundle"
VERSION = 1
Corners = tuple[tuple[float, float, float], tuple[float, float, float]]


class Row(BaseModel):
    """A part of the manifest."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class TextureRow(Row):
    """One picture of a texture."""

    texture: str = Field(description="The texture's name in the effect.")
    kind: Literal["picture", "normals", "motion"] = Field(
        description="What it holds: the picture, a normal map, or where points go until the next frame."
    )
    file: str
    format: Literal["plain", "half", "bc1", "bc3", "bc4", "bc5", "bc7"] = Field(
        description="plain: PNG; half: OpenEXR; else blocks in a DDS file."
    )
    levels: int = Field(description="How many sizes the file holds, each half of the one before.")
    swizzle: tuple[str, str, str, str] = Field(
        description="Where red, green, blue and alpha are found in the file: r, g, b, a, or a number that "
        "they have everywhere; z makes a vector's length 1."
    )
    psnr: float | None = Field(
        default=None,
        description="Peak signal-to-noise ratio of what is kept, dB; none where nothing is lost.",
    )
    size: tuple[int, int] = Field(description="Width and height of the whole sheet, pixels.")
    frames: int
    columns: int = Field(description="Frames across; they go row by row from the upper left.")
    rows: int
    frame_size: tuple[int, int] = Field(
        description="Width and height of a frame without its padding, pixels."
    )
    padding: int = Field(description="Clear pixels on each side of each frame.")
    encoding: Literal["srgb", "linear"]
    cover: Literal["straight", "premultiplied"]
    smooth: bool
    wrap: bool
    reach: float | None = Field(
        default=None,
        description="Of a motion map: values 0…1 stand for −reach…reach, in frames, right and up.",
    )
    why: str = Field(description="Why it is stored so.")


class MeshRow(Row):
    """One mesh."""

    mesh: str = Field(description="Its name in the effect.")
    use: Literal["body", "surface"] = Field(
        description="What particles are drawn as, 1 m in size; or what they are born on or meet, in metres."
    )
    file: str
    parts: int = Field(description="Nodes of the file; each particle takes one of them by its dice.")
    vertices: int
    triangles: int
    worn_by: tuple[str, ...] = Field(description="layer: and a layer's id, or prop: and a prop's name.")


class LayerFigures(Row):
    """What a layer costs from time 0 to the effect's duration."""

    id: str
    name: str
    born: int
    died: int
    hits: int
    refused: int
    peak: int = Field(description="The most alive at once.")
    mean: float
    cap: int
    born_per_second: float
    hits_per_second: float
    bounds: Corners | None = Field(description="Low and high corner, m, of all that it draws in that time.")


class Figures(Row):
    """What the effect costs."""

    duration: float
    peak: int
    mean: float
    bounds: Corners | None
    texture_memory: int = Field(description="Bytes of all textures unpacked, smaller copies included.")
    layers: tuple[LayerFigures, ...]


class FileRow(Row):
    """One file of the bundle."""

    bytes: int
    sha256: str


class Manifest(Row):
    """A bundle."""

    format: Literal["pale-ember/bundle"] = "pale-ember/bundle"
    version: int = VERSION
    name: str
    effect: str = "effect.json"
    schema_file: str = "effect.schema.json"
    tables: str = "tables.json"
    page: str = "read-me.html"
    player: str | None = None
    runtime: str | None = None
    vectors: str | None = None
    figures: Figures
    textures: tuple[TextureRow, ...]
    meshes: tuple[MeshRow, ...]
    files: dict[str, FileRow] = Field(description="Each other file of the bundle.")


def manifest_schema() -> dict[str, Any]:
    """Return the JSON Schema of ``bundle.json``."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Manifest.model_json_schema()}

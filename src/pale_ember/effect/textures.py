"""The textures of an effect: each a picture file, or a build that makes one."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError, field_validator, model_validator
from pydantic_core import PydanticCustomError

from .errors import nearest, shown
from .kinds import CoverOfFile
from .rules import fields
from .rules.part import Part, few
from .rules.refusals import refusal
from .steps import STEPS, Step
from .steps.pictures import Picture

MOST_TEXTURES, MOST_STEPS, MOST_FRAMES = 128, 64, 256
# All pixels of a build's frames together.
MOST_PIXELS = 1 << 24


class Build(Part):
    """How a texture is made: steps, one upon the other."""

    size: int = fields.integer(
        128,
        "Size",
        "The width and height of a frame.",
        unit="px",
        hard=(4, 1024),
        soft=(32, 512),
        also="resolution pixels",
    )
    seed: int = fields.integer(
        0, "Seed", "Another seed, other dice in all steps.", hard=(0, 1_000_000), soft=(0, 100)
    )
    order: tuple[int, ...] = fields.frames(
        "Order",
        "Which of the frames that are made stay on the sheet, and in which order; none named means all.",
        group="sheet",
        also="sheet drop choose reorder frames sequence",
    )
    trim: bool = fields.flag(
        False,
        "Trim",
        "Crops all frames to what is seen in any of them, so that no room is wasted.",
        group="sheet",
        also="sheet crop tight",
    )
    padding: int = fields.integer(
        0,
        "Padding",
        "Clear pixels round each frame where the sheet is written as a picture.",
        unit="px",
        hard=(0, 64),
        soft=(0, 8),
        group="sheet",
        also="sheet gap margin bleed mipmaps",
    )
    steps: tuple[Step, ...] = ()

    def kept(self, made: int) -> tuple[int, ...]:
        """Return which of so many frames stay on the sheet, in their order."""
        return tuple(frame for frame in self.order if frame < made) or tuple(range(made))

    @field_validator("steps", mode="before")
    @classmethod
    def _steps_by_name(cls, raw: object) -> object:
        few(raw, MOST_STEPS, "steps")
        if not isinstance(raw, list | tuple):
            return raw
        return tuple(_step(one, i) for i, one in enumerate(raw))


def _refused(place: str, reason: str) -> PydanticCustomError:
    return PydanticCustomError("step", "{reason}", {"reason": reason, "place": place})


def _step(raw: Any, index: int) -> Step:
    """Return a step of a build from raw data, refusing unknown ones."""
    if isinstance(raw, Step):
        return raw
    if not isinstance(raw, Mapping) or not isinstance(raw.get("step"), str):
        raise _refused(f"[{index}]", f"a step is an object with a “step”, such as “dot”, not {shown(raw)}.")
    kind = STEPS.get(raw["step"])
    if kind is None:
        raise _refused(
            f"[{index}].step",
            f"“{shown(raw['step']).strip(chr(39))}” is no step; {nearest(raw['step'], STEPS)}",
        )
    try:
        return kind.model_validate(raw)
    except ValidationError as wrong:
        first = refusal(wrong, "", kind)
        raise _refused(
            f"[{index}].{first.place}" if first.place != "file" else f"[{index}]", first.reason
        ) from None


class Texture(Part):
    """A picture that particles wear, or a sheet of frames."""

    name: str = fields.text("", "Name", "What layers call it by.", also="title label")
    file: str = fields.picture(
        "", "File", "A picture file; where there is none, the build makes it.", also="image browse open path"
    )
    data: bool = fields.flag(
        False,
        "Data",
        "Plain numbers, such as masks and noise, instead of colours.",
        also="linear srgb mask normal",
    )
    cover: CoverOfFile = fields.choice(
        CoverOfFile.STRAIGHT,
        "Cover",
        "Whether colours are multiplied by alpha already: as light, as Pale Ember writes them, or as "
        "sRGB values, as some others do.",
        also="alpha premultiplied straight",
    )
    layer: str = fields.text(
        "",
        "Layer",
        "Which layer of an EXR; empty is the picture without a name, or else the first.",
        also="exr pass channel aov",
    )
    columns: int = fields.integer(
        1,
        "Columns",
        "Frames across the sheet.",
        hard=(1, 64),
        soft=(1, 16),
        group="sheet",
        also="sheet layout grid tiles",
    )
    rows: int = fields.integer(
        1,
        "Rows",
        "Frames down the sheet.",
        hard=(1, 64),
        soft=(1, 16),
        group="sheet",
        also="sheet layout grid tiles",
    )
    frames: int = fields.integer(
        0,
        "Frames",
        "How many of them count, from the upper left; 0 means all. Of a build, how many it makes.",
        hard=(0, MOST_FRAMES),
        soft=(0, 64),
        group="sheet",
        also="sheet count length",
    )
    margin: int = fields.integer(
        0,
        "Margin",
        "Pixels around the whole sheet.",
        unit="px",
        hard=(0, 1024),
        soft=(0, 16),
        group="sheet",
        also="sheet padding border",
    )
    gap: int = fields.integer(
        0,
        "Gap",
        "Pixels between its frames.",
        unit="px",
        hard=(0, 1024),
        soft=(0, 16),
        group="sheet",
        also="sheet padding spacing",
    )
    smooth: bool = fields.flag(
        True, "Smooth", "Softens between its pixels.", group="reading", also="filter nearest pixel linear"
    )
    wrap: bool = fields.flag(
        False,
        "Wrap",
        "Goes on at the other side, as noise and tiles do.",
        group="reading",
        also="repeat tile clamp",
    )
    normals: str = fields.texture(
        "",
        "Normals",
        "Another texture of the effect: its normal map.",
        group="beside",
        also="normal map light bump",
    )
    motion: str = fields.texture(
        "",
        "Motion",
        "Another texture of the effect: in red and green, where each point goes until the next frame.",
        group="beside",
        also="motion vectors flow map optical",
    )
    motion_reach: float = fields.number(
        0.1,
        "Motion reach",
        "How far the motion map's full strength goes, as a share of a frame.",
        hard=(0, 10),
        soft=(0, 0.5),
        group="beside",
        needs="motion",
        also="motion vectors scale strength",
    )
    beside: bool = fields.flag(
        False,
        "Write beside",
        "Whenever the effect is saved, the made picture is written into a folder beside it.",
        group="sheet",
        also="export bake png save picture",
    )
    build: Build | None = None

    @model_validator(mode="after")
    def _fits(self) -> Texture:
        """Refuse sheets of too many pixels."""
        if (
            self.file == ""
            and self.build is not None
            and max(self.made, self.count) * self.build.size**2 > MOST_PIXELS
        ):
            reason = (
                f"{max(self.made, self.count)} frames of {self.build.size} pixels are too many; together "
                f"they may have {MOST_PIXELS:,} pixels."
            )
            raise PydanticCustomError("large", "{reason}", {"reason": reason, "place": ".build.size"})
        return self

    @property
    def made(self) -> int:
        """Return how many frames its build makes, before some are left out."""
        return max(self.frames, 1)

    @property
    def count(self) -> int:
        """Return how many frames it has."""
        if self.file == "" and self.build is not None:
            return len(self.build.kept(self.made))
        whole = min(self.columns * self.rows, MOST_FRAMES)
        return min(self.frames, whole) if self.frames else whole

    def files(self) -> tuple[str, ...]:
        """Return the picture files that it needs: its own, or those that steps of its build bring in."""
        if self.file or self.build is None:
            return (self.file,) if self.file else ()
        return tuple(file for step in self.build.steps if isinstance(step, Picture) for file in step.files)

    def with_files(self, name: Callable[[str], str]) -> Texture:
        """Return the texture with each file that it names called otherwise; itself if nothing changes."""
        found = self
        if self.file and name(self.file) != self.file:
            found = found.model_copy(update={"file": name(self.file)})
        if self.build is not None:
            steps = tuple(
                step.model_copy(update={"files": tuple(name(file) for file in step.files)})
                if isinstance(step, Picture) and step.files
                else step
                for step in self.build.steps
            )
            if steps != self.build.steps:
                found = found.model_copy(update={"build": self.build.model_copy(update={"steps": steps})})
        return found

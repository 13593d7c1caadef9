"""The steps of a build: each makes something or changes what is below it."""

from .base import Changer, Finisher, Maker, Step
from .changers import (
    Blur,
    Fade,
    Invert,
    Kaleidoscope,
    Levels,
    Mask,
    Outline,
    Polar,
    Relief,
    Sharpen,
    Swirl,
    Threshold,
    Tile,
    Warp,
)  # fmt: skip
from .drawn import Stroke, Strokes
from .finishers import Bleed, Color, Normals, Pack, Premultiply, Unpremultiply
from .flow import Flow, Obstacle, Source
from .makers import Bolt, Cells, Cloud, Crack, Dot, Drop, Flake, Grain, Rays, Ring, Scorch, Shard, Slope, Streak
from .pictures import Picture

MAKERS: tuple[type[Maker], ...] = (
    Dot, Ring, Rays, Streak, Drop, Flake, Shard, Crack, Scorch, Bolt, Slope, Cloud, Cells, Grain, Flow, Strokes, Picture,
)  # fmt: skip
CHANGERS: tuple[type[Changer], ...] = (
    Levels, Threshold, Invert, Blur, Sharpen, Warp, Swirl, Polar, Kaleidoscope, Tile, Fade, Outline, Relief, Mask,
)  # fmt: skip
FINISHERS: tuple[type[Finisher], ...] = (Color, Normals, Pack, Premultiply, Unpremultiply, Bleed)
STEPS: dict[str, type[Step]] = {kind.default_of("step"): kind for kind in (*MAKERS, *CHANGERS, *FINISHERS)}

__all__ = [
    "CHANGERS", "FINISHERS", "MAKERS", "STEPS", "Bleed", "Blur", "Bolt", "Cells", "Changer", "Cloud", "Color", "Crack",
    "Dot", "Drop", "Fade", "Finisher", "Flake", "Flow", "Grain", "Invert", "Kaleidoscope", "Levels", "Maker", "Mask",
    "Normals", "Obstacle", "Outline", "Pack", "Picture", "Polar", "Premultiply", "Rays", "Relief", "Ring", "Scorch",
    "Shard", "Sharpen", "Slope", "Source", "Step", "Streak", "Stroke", "Strokes", "Swirl", "Threshold", "Tile",
    "Unpremultiply", "Warp",
]  # fmt: skip

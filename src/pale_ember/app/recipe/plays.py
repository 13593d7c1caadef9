"""The usual ways to play a texture sheet."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ...effect.chapters.look import Look
from ...effect.editing.build_moves import comes_round
from ...effect.textures import Texture
from ...effect.values.curves import Key
from ...effect.values.values import Curve, Fixed, Spread

# Frames a second that a sheet plays from a random frame.
RATE = 12.0

Play = tuple[str, str, Callable[[int], dict[str, Any]]]
PLAYS: tuple[Play, ...] = (
    ("One picture", "The first frame, always", lambda n: {"frame": Fixed(0.0), "frame_rate": Fixed(0.0)}),
    (
        "A random one",
        "Each particle keeps a frame of its own",
        lambda n: {"frame": Spread(0.0, float(n)), "frame_rate": Fixed(0.0), "frame_end": "around"},
    ),
    (
        "The whole sheet through its life",
        "From the first frame at birth to the last at death",
        lambda n: {
            "frame": Curve((Key(0.0, 0.0, "linear"), Key(1.0, float(n), "linear"))),
            "frame_rate": Fixed(0.0),
            "frame_end": "hold",
        },
    ),
    (
        f"From a random one at {RATE:g} a second",
        "Plays around, each particle elsewhere",
        lambda n: {"frame": Spread(0.0, float(n)), "frame_rate": Fixed(RATE), "frame_end": "around"},
    ),
    (
        "There and back",
        "To the last frame in mid-life, and back",
        lambda n: {
            "frame": Curve(tuple(Key(x, y, "linear") for x, y in ((0.0, 0.0), (0.5, n - 0.01), (1.0, 0.0)))),
            "frame_rate": Fixed(0.0),
            "frame_end": "hold",
        },
    ),
)

LIFE, AROUND = PLAYS[2], PLAYS[3]


def first_play(texture: Texture, look: Look) -> dict[str, Any]:
    """Return how a sheet plays that a layer begins to wear; nothing for a layer that has its own way already.

    One that comes round plays around, each particle elsewhere; any other goes through the particle's life.
    """
    default = Look.default_of
    if texture.count < 2 or look.frame != default("frame") or look.frame_rate != default("frame_rate"):
        return {}
    return {**(AROUND if comes_round(texture) else LIFE)[2](texture.count), "frame_blend": True}

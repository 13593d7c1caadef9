"""The step that is drawn by hand: strokes of a soft brush."""

from __future__ import annotations

from pydantic import field_validator, model_validator
from pydantic_core import PydanticCustomError

from ..rules import fields
from ..rules.part import Part, few
from .base import Maker

MOST_STROKES, MOST_DRAWN = 1000, 200_000


class Stroke(Part):
    """One stroke of the brush: where it went, and what the brush was like."""

    size: float = fields.number(
        0.08, "Size", "The brush's radius.", hard=(0.002, 2), soft=(0.01, 0.5), also="radius width brush"
    )
    softness: float = fields.number(
        0.6, "Softness", "From a hard edge to a soft one.", hard=(0, 1), soft=(0, 1), also="hardness edge"
    )
    strength: float = fields.number(
        1.0, "Strength", "How much of it is left behind.", hard=(0, 1), soft=(0, 1), also="flow opacity"
    )
    erase: bool = fields.flag(False, "Erase", "Takes away instead.", also="eraser rubber")
    points: tuple[tuple[float, float, float], ...] = fields.points(
        "Points", "Where it went: x and y from −1 to 1, and the pen's pressure where it was not full."
    )


class Strokes(Maker):
    """What is drawn by hand with a soft brush, turned and mirrored as often as wished."""

    step: str = "strokes"
    symmetry: int = fields.integer(
        1,
        "Symmetry",
        "How often each stroke comes round the middle.",
        hard=(1, 24),
        soft=(1, 12),
        also="radial copies",
    )
    mirror: bool = fields.flag(False, "Mirror", "Each stroke on the other side too.", also="flip reflect")
    strokes: tuple[Stroke, ...] = ()

    @field_validator("strokes", mode="before")
    @classmethod
    def _strokes_are_few(cls, raw: object) -> object:
        return few(raw, MOST_STROKES, "strokes")

    @model_validator(mode="after")
    def _points_are_few(self) -> Strokes:
        # The strokes are drawn for each frame, which must end in reasonable time.
        turns = self.symmetry * (2 if self.mirror else 1)
        points = sum(len(stroke.points) for stroke in self.strokes) * turns
        if points > MOST_DRAWN:
            reason = (
                f"turned and mirrored these strokes have {points:,} points; at most {MOST_DRAWN:,} are "
                "drawn. Take some away."
            )
            raise PydanticCustomError("many", "{reason}", {"reason": reason, "place": ".strokes"})
        return self

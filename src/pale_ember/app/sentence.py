"""What a layer does, in one plain sentence made from its values."""

from __future__ import annotations

from ..effect.effect import Layer
from ..effect.values import Band, Curve, Fixed, Spread, Value
from .arithmetic import shown

KINDS = {
    "point": "at a point",
    "ball": "in a ball",
    "dome": "in a dome",
    "box": "in a box",
    "cone": "in a cone",
    "cylinder": "in a cylinder",
    "ring": "in a ring",
    "line": "along a line",
}


def amount(value: Value, unit: str = "", digits: int = 2) -> str:
    """Return a Value in words: a number, or the least and most that it takes."""
    behind = f" {unit}" if unit and not unit.startswith("/") else unit
    if isinstance(value, Fixed):
        return shown(value.number, digits) + behind
    if isinstance(value, Spread):
        ends = [value.low, value.high]
    else:
        assert isinstance(value, Curve | Band)
        sides = [value.keys] if isinstance(value, Curve) else [value.low, value.high]
        heights = [key.y for side in sides for key in side]
        ends = [min(heights), max(heights)]
    low, high = (shown(end, digits) for end in ends)
    return (low if low == high else f"{low}–{high}") + behind


def sentence(layer: Layer) -> str:
    """Return the sentence; what is at its default is left out where it says nothing."""
    emit, launch, flight, look = layer.emit, layer.launch, layer.flight, layer.look
    parts = []
    if emit.rate != Fixed(0.0):
        parts.append(f"{amount(emit.rate, digits=0)} a second")
    if emit.bursts:
        parts.append(f"{len(emit.bursts)} burst{'s' if len(emit.bursts) > 1 else ''}")
    text = (" and ".join(parts) or "Nothing") + f" born {KINDS[layer.birthplace.kind]}"
    text += f", living {amount(launch.lifetime, 's')}, {amount(launch.size, 'm')} tall"
    moves = []
    if flight.gravity != Fixed(0.0):
        pull = sum(float(side.sum()) for side in flight.gravity.bounds_at([0.0, 0.25, 0.5, 0.75, 1.0]))
        moves.append("falling" if pull > 0 else "rising")
    if flight.drag != Fixed(0.0):
        moves.append("slowed by the air")
    if flight.swirl != Fixed(0.0) or flight.orbit != Fixed(0.0):
        moves.append("swirling")
    if flight.turbulence != Fixed(0.0):
        moves.append("stirred")
    if moves:
        text += ", " + ", ".join(moves)
    text += "; " + ("light added" if look.blend == "add" else "covering what is behind") + "."
    return text[0].upper() + text[1:]

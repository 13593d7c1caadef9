"""Dice, curves, gradients and the forms of a value."""

from __future__ import annotations

import hashlib

# Dice: every draw is a hash of the effect's seed, the layer's id, the field's path and the particle's number.


def mix(h: int) -> int:
    """A well-mixed 32-bit hash of a 32-bit number."""
    h ^= h >> 16
    h = h * 0x7FEB352D & 0xFFFFFFFF
    h ^= h >> 15
    h = h * 0x846CA68B & 0xFFFFFFFF
    return h ^ h >> 16


def key(text: str) -> int:
    return int.from_bytes(hashlib.blake2s(text.encode(), digest_size=4).digest(), "little")


def layer_key(seed: int, layer_id: str) -> int:
    return key(f"{seed}/{layer_id}")


def property_key(layer: int, path: str) -> int:
    return key(f"{layer}/{path}")


def draw(key: int, number: int) -> float:
    """A number in [0, 1), of 24 bits."""
    return (mix((number + key) & 0xFFFFFFFF) >> 8) * 2.0**-24


def first_number(source: str, loop: int, turn: int = 0) -> int:
    """The number of a source's first birth in a loop; of a burst, in one of its firings."""
    return mix(mix((loop + key(source)) & 0xFFFFFFFF) + turn & 0xFFFFFFFF)


# Curves: keys, and the cubics between them.


def read_key(raw) -> dict:
    if isinstance(raw, dict):
        return {"ease": "smooth", "in": 0.0, "out": 0.0, **raw}
    return {"x": raw[0], "y": raw[1], "ease": "smooth", "in": 0.0, "out": 0.0}


def slopes(keys: list[dict]) -> list[float]:
    """Slopes at smooth keys: the monotone cubic of Fritsch and Butland (1984), over runs that nothing
    interrupts.
    """
    found = [0.0] * len(keys)
    begin = 0
    for i in range(1, len(keys) + 1):
        ends = i == len(keys) or keys[i]["x"] - keys[i - 1]["x"] <= 1e-9 or keys[i - 1]["ease"] == "hold"
        if ends:
            _run(keys, begin, i, found)
            begin = i
    return found


def _run(keys: list[dict], first: int, stop: int, found: list[float]) -> None:
    """Write the slopes at the keys of a run."""
    h = [keys[i + 1]["x"] - keys[i]["x"] for i in range(first, stop - 1)]
    d = [(keys[i + 1]["y"] - keys[i]["y"]) / h[i - first] for i in range(first, stop - 1)]
    if len(h) == 1:
        found[first] = found[first + 1] = d[0]
    if len(h) < 2:
        return
    for i in range(1, len(h)):
        if d[i - 1] * d[i] > 0:
            a, b = 2 * h[i] + h[i - 1], h[i] + 2 * h[i - 1]
            found[first + i] = (a + b) / (a / d[i - 1] + b / d[i])
    found[first] = _end(h[0], h[1], d[0], d[1])
    found[stop - 1] = _end(h[-1], h[-2], d[-1], d[-2])


def _end(h0: float, h1: float, d0: float, d1: float) -> float:
    slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if slope * d0 <= 0:
        return 0.0
    return 3 * d0 if d0 * d1 <= 0 and abs(slope) > 3 * abs(d0) else slope


def evaluate(keys: list[dict], x: float, before: bool = False) -> float:
    """A curve's value at x; with ``before`` the one that it comes to from below, which differs where it
    steps.
    """
    if x < keys[0]["x"] or (before and x <= keys[0]["x"]):
        return keys[0]["y"]
    if x > keys[-1]["x"] or (not before and x >= keys[-1]["x"]):
        return keys[-1]["y"]
    at = max(
        i
        for i in range(len(keys) - 1)
        if (keys[i]["x"] < x if before else keys[i]["x"] <= x) and keys[i + 1]["x"] - keys[i]["x"] > 1e-9
    )
    a, b = keys[at], keys[at + 1]
    width, s = b["x"] - a["x"], x - a["x"]
    secant = (b["y"] - a["y"]) / width
    if a["ease"] == "hold":
        return a["y"]
    if a["ease"] == "linear":
        return a["y"] + secant * s
    tangents = slopes(keys)
    leave = a["out"] if a["ease"] == "free" else tangents[at]
    arrive = {"free": b["in"], "smooth": tangents[at + 1]}.get(b["ease"], 0.0)
    return a["y"] + s * (
        leave + s * ((3 * secant - 2 * leave - arrive) / width + s * (leave + arrive - 2 * secant) / width**2)
    )


def linear(color: str) -> list[float]:
    """Linear light of an sRGB hex colour."""
    digits = color[1:] if len(color) == 7 else "".join(2 * one for one in color[1:])
    found = []
    for i in (0, 2, 4):
        s = int(digits[i : i + 2], 16) / 255
        found.append(s / 12.92 if s <= 0.04045 else ((s + 0.055) / 1.055) ** 2.4)
    return found


def gradient(stops: list, x: float) -> list[float]:
    if x < stops[0][0]:
        return linear(stops[0][1])
    behind = next((i for i, stop in enumerate(stops) if stop[0] > x), len(stops))
    if behind == len(stops):
        return linear(stops[-1][1])
    (x0, a), (x1, b) = stops[behind - 1], stops[behind]
    share = (x - x0) / (x1 - x0)
    return [p + (q - p) * share for p, q in zip(linear(a), linear(b), strict=True)]


class Value:
    """A number or a colour in one of its forms."""

    def __init__(self, raw, usual: str, color: bool = False) -> None:
        self.color, self.along, self.sides, self.chosen = color, "", [], False
        if isinstance(raw, dict):
            form = next(name for name in ("spread", "one_of", "curve", "gradient", "band") if name in raw)
            self.along = "" if form in ("spread", "one_of") else raw.get("along", usual)
            self.chosen = form == "one_of"
            data = raw[form]
            self.sides = data if not self.along else [data] if form in ("curve", "gradient") else data
            if self.along and not color:
                self.sides = [[read_key(one) for one in side] for side in self.sides]
        else:
            self.sides = [raw]

    @property
    def level(self) -> bool:
        """Whether it is always the same."""
        return not self.along and len(self.sides) == 1

    def at(self, x: float, u: float, before: bool = False):
        """What a particle whose draw is u has of it at x."""
        if self.chosen:
            return linear(self.sides[min(int(u * len(self.sides)), len(self.sides) - 1)])
        ends = [self._side(side, x, before) for side in self.sides]
        if len(ends) == 1:
            return ends[0]
        low, high = ends
        if self.color:
            return [a + (b - a) * u for a, b in zip(low, high, strict=True)]
        return low + (high - low) * u

    def _side(self, side, x: float, before: bool):
        if self.color:
            return gradient(side, x) if self.along else linear(side)
        return evaluate(side, x, before) if self.along else float(side)

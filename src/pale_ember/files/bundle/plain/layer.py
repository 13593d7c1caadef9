"""A layer: its fields, its births, and where particles begin."""

from __future__ import annotations

import json
import math

from values import Value, draw, first_number, layer_key, property_key

# A layer, with the schema's defaults where its file says nothing.


class Layer:
    """One layer of an effect.

    ``effect`` and ``schema`` are effect.json and effect.schema.json as JSON gives them.
    """

    def __init__(self, effect: dict, index: int, schema: dict) -> None:
        self.effect, self.raw = effect, effect["layers"][index]
        self.schema = schema["properties"]["layers"]["items"]
        own = schema["properties"]
        self.rate = effect.get("step_rate", own["step_rate"]["default"])
        self.duration = effect.get("duration", own["duration"]["default"])
        self.loop = effect.get("loop", own["loop"]["default"])
        self.repeat = self.loop and effect.get("repeat", own["repeat"]["default"])
        stage = effect.get("stage", {})
        self.g = stage.get("gravity", own["stage"]["properties"]["gravity"]["default"])
        self.air = stage.get("wind", own["stage"]["properties"]["wind"]["default"])
        self.dice = layer_key(effect.get("seed", own["seed"]["default"]), self.raw["id"])
        self.begin = min(self.get("window.begin"), self.duration)
        length = self.get("window.length")
        self.length = (
            self.duration - self.begin if length is None else min(length, self.duration - self.begin)
        )
        self.scale, self.position = self.get("place.scale"), self.get("place.position")
        self.turn = rotation(self.get("place.rotation"))
        self.values: dict[str, Value] = {}
        self.keys: dict[str, int] = {}

    def get(self, path: str):
        """A field's plain value, or its default."""
        found, shape = self.raw, self.schema
        for name in path.split("."):
            shape = shape["properties"][name]
            found = found.get(name) if isinstance(found, dict) else None
        return shape.get("default") if found is None else found

    def value(self, path: str, x: float, number: int):
        """What a particle has of a Value at x; parts of three are called .x, .y, .z."""
        if path not in self.values:
            whole, _, axis = path.rpartition(".") if path[-2:] in (".x", ".y", ".z") else (path, "", "")
            raw = self.get(whole)[" xyz".index(axis) - 1] if axis else self.get(path)
            self.values[path] = Value(raw, self.usual(whole), path in ("look.tint", "look.color"))
            self.keys[path] = property_key(self.dice, path)
        return self.values[path].at(x, draw(self.keys[path], number))

    def usual(self, path: str) -> str:
        """Along what a curve of a field runs where its file doesn't say so."""
        return "clock" if path.startswith(("emit", "launch")) or path == "look.tint" else "life"

    def lacks(self) -> list[str]:
        """What the layer has that this runtime leaves out."""
        found = []
        if self.raw.get("path"):
            found.append("path")
        if self.raw.get("origin", {}).get("parent"):
            found.append("origin")
        if self.get("contact.enabled"):
            found.append("contact")
        if self.effect.get("warm_up", 0):
            found.append("warm_up")
        if self.get("birthplace.kind") not in PLACES or self.get("birthplace.fill") != "volume":
            found.append("birthplace")
        if (
            self.get("birthplace.glitter")
            or self.get("birthplace.around_camera")
            or self.get("birthplace.arc") != 360
        ):
            found.append("birthplace")
        if self.effect.get("stage", {}).get("gust", 0):
            found.append("stage.gust")
        found += [
            f"flight.{name}"
            for name in ("orbit", "turbulence", "top_speed")
            if self.get(f"flight.{name}") != 0
        ]
        if '"along": "speed"' in json.dumps(self.raw):
            found.append("speed")
        return found

    # Births: the integral of the rate counts them; number k is born where it passes k.

    def rate_cells(self, loop: int) -> list[tuple[float, float, float, float]]:
        """The rate in a loop as straight pieces: where each begins and ends, s, its rate there, and how
        far that rises.
        """
        value = Value(self.get("emit.rate"), "clock")
        u = draw(property_key(self.dice, "emit.rate"), 0 if self.repeat else loop & 0xFFFFFFFF)
        if not value.along:
            return [(0.0, self.length, max(value.at(0.0, u), 0.0), 0.0)]
        borders = sorted(
            {i / 256 for i in range(257)}
            | {min(max(one["x"], 0.0), 1.0) for side in value.sides for one in side}
        )
        cells = []
        for a, b in zip(borders[:-1], borders[1:], strict=True):
            first, last, wanted = (self._rate(value, u, a, b, x) for x in (a, b, None))
            mean = (first + last) / 2
            gain = wanted / mean if mean > 0 else 1.0
            cells.append(
                (
                    a * self.length,
                    b * self.length,
                    first * gain if mean > 0 else wanted,
                    (last - first) * gain if mean > 0 else 0.0,
                )
            )
        return cells

    def _rate(self, value: Value, u: float, a: float, b: float, x: float | None) -> float:
        """The rate at one end of a piece; or its mean, by Gauss's quadrature with three points."""
        if x is not None:
            return max(value.at(x, u, x == b), 0.0)
        points = [a + (b - a) * (0.5 + 0.5 * math.sqrt(0.6) * way) for way in (-1, 0, 1)]
        return sum(
            max(value.at(p, u), 0.0) * w for p, w in zip(points, (5 / 18, 8 / 18, 5 / 18), strict=True)
        )

    def births(self, steps: int) -> list[tuple[int, float, int, float]]:
        """All births of so many steps: the step, the seconds of it that are lived, the number, the clock."""
        found = []
        before = 0.0
        loops = math.ceil(steps / self.rate / self.duration) + 1 if self.loop else 1
        for loop in range(loops if self.length > 0 else 0):
            begin = loop * self.duration + self.begin
            found += self._flow(loop, begin, 0.0 if self.repeat else before)
            before += sum((b - a) * (rate + rise / 2) for a, b, rate, rise in self.rate_cells(loop))
            for i, burst in enumerate(self.get("emit.bursts") or []):
                found += self._burst(loop, begin, i, burst)
        found = [one for one in found if 0 <= one[0] < steps or (one[0] == -1 and one[1] == 0.0)]
        return sorted(found, key=lambda one: (one[0], -one[1]))

    def _flow(self, loop: int, begin: float, before: float) -> list[tuple[int, float, int, float]]:
        """Return the births of a loop's rate: step, seconds left, number, clock."""
        found, total, first = [], before, math.ceil(before - 1e-9)
        k, start = first, first_number("rate", 0 if self.repeat else loop)
        for a, b, rate, rise in self.rate_cells(loop):
            more = (b - a) * (rate + rise / 2)
            while k < total + more - 1e-9:
                wanted, value, bend = k - total, rate * (b - a), rise * (b - a)
                under = value + math.sqrt(max(value * value + 2 * bend * wanted, 0.0))
                moment = a + (b - a) * min(max(2 * wanted / under if under > 0 else 0.0, 0.0), 1.0)
                step = math.floor((begin + moment) * self.rate + 1e-9)
                left = max((step + 1) / self.rate - begin - moment, 1e-9)
                found.append(
                    (step, left, start + k - first & 0xFFFFFFFF, min(max(moment / self.length, 0.0), 1.0))
                )
                k += 1
            total += more
        return found

    def _burst(self, loop: int, begin: float, index: int, burst: dict) -> list[tuple[int, float, int, float]]:
        """Return the births of one burst in a loop: step, seconds left, number, clock."""
        found = []
        own = property_key(self.dice, f"emit.bursts/{index}")
        shape = self.schema["properties"]["emit"]["properties"]["bursts"]["items"]["properties"]
        plain = {
            name: burst.get(name, shape[name]["default"]) for name in ("at", "repeat", "every", "chance")
        }
        count = Value(burst.get("count", shape["count"]["default"]), "clock")
        turns = min(plain["repeat"], max(0, math.ceil((self.length - 1e-9 - plain["at"]) / plain["every"])))
        for turn in range(turns):
            at = plain["at"] + turn * plain["every"]
            start = first_number(f"burst/{index}", 0 if self.repeat else loop, turn)
            clock = at / max(self.length, 1e-9)
            low, high = (max(round(count.at(clock, u)), 0) for u in (0.0, 1.0))
            low, high = min(low, high), max(low, high)
            many = low + math.floor(draw(property_key(own, "count"), start) * (high - low + 1))
            if plain["chance"] < 1 and draw(property_key(own, "chance"), start) >= plain["chance"]:
                continue
            moment = (begin + at) * self.rate
            if abs(moment - round(moment)) < 1e-6:
                moment = round(moment)
            # One at the very start of a step belongs to the step before, so that at its moment it is there.
            step = math.ceil(moment) - 1
            left = (step + 1 - moment) / self.rate
            found += [(step, left, start + i & 0xFFFFFFFF, min(max(clock, 0.0), 1.0)) for i in range(many)]
        return found


# Where they are born, and which way they face, in the layer's own axes.


def ball(layer: Layer, u: float, v: float, w: float):
    y = u if layer.get("birthplace.kind") == "dome" else 1 - 2 * u
    r, far = math.sqrt(max(0.0, 1 - y * y)), layer.get("birthplace.radius") * layer.scale * w ** (1 / 3)
    out = (r * math.cos(math.tau * v), y, r * math.sin(math.tau * v))
    return [x * far for x in out], out


def cone(layer: Layer, u: float, v: float, w: float):
    """Return a place inside a cone's frustum, and which way it faces."""
    lean = math.tan(math.radians(layer.get("birthplace.angle")))
    base, high = layer.get("birthplace.radius") * layer.scale, layer.get("birthplace.height") * layer.scale
    top = base + high * lean
    y = (
        high * w
        if lean * high < 1e-9 * max(top, 1e-30)
        else ((base**3 + w * (top**3 - base**3)) ** (1 / 3) - base) / lean
    )
    wide, share, a = base + y * lean, math.sqrt(u), math.tau * v
    tilt = lean * share
    if wide <= 1e-9:
        c = 1 - u * (1 - math.cos(math.radians(layer.get("birthplace.angle"))))
        tilt = math.sqrt(max(0.0, 1 - c * c)) / c
    return [wide * share * math.cos(a), y, wide * share * math.sin(a)], unit(
        [tilt * math.cos(a), 1.0, tilt * math.sin(a)]
    )


def cylinder(layer: Layer, u: float, v: float, w: float):
    r, a = layer.get("birthplace.radius") * layer.scale * math.sqrt(u), math.tau * v
    return [r * math.cos(a), layer.get("birthplace.height") * layer.scale * w, r * math.sin(a)], (
        math.cos(a),
        0.0,
        math.sin(a),
    )


def box(layer: Layer, u: float, v: float, w: float):
    at = [
        (share - 0.5) * wide * layer.scale
        for share, wide in zip((u, v, w), layer.get("birthplace.extents"), strict=True)
    ]
    return at, unit(at)


def point(layer: Layer, u: float, v: float, w: float):
    return [0.0, 0.0, 0.0], sphere(u, v)


PLACES = {"point": point, "ball": ball, "dome": ball, "cone": cone, "cylinder": cylinder, "box": box}


def sphere(u: float, v: float):
    y = 1 - 2 * u
    r = math.sqrt(max(0.0, 1 - y * y))
    return (r * math.cos(math.tau * v), y, r * math.sin(math.tau * v))


def unit(v):
    far = math.hypot(*v)
    return [0.0, 1.0, 0.0] if far < 1e-12 else [x / far for x in v]


def rotation(angles) -> list[list[float]]:
    """The matrix that turns about X, then Y, then Z; degrees."""
    (ca, sa), (cb, sb), (cc, sc) = ((math.cos(math.radians(a)), math.sin(math.radians(a))) for a in angles)
    return [
        [cc * cb, cc * sb * sa - sc * ca, cc * sb * ca + sc * sa],
        [sc * cb, sc * sb * sa + cc * ca, sc * sb * ca - cc * sa],
        [-sb, cb * sa, cb * ca],
    ]


def turned(m, v) -> list[float]:
    return [sum(a * b for a, b in zip(row, v, strict=True)) for row in m]


def spawn(layer: Layer, number: int):
    """A particle's place and direction at birth."""
    d = [draw(property_key(layer.dice, f"birthplace/{i}"), number) for i in range(10)]
    at, way = PLACES[layer.get("birthplace.kind")](layer, d[0], d[1], d[2])
    aim = layer.get("birthplace.aim")
    if aim == "axis":
        way = (0.0, 1.0, 0.0)
    elif aim == "inward":
        way = [-x for x in way]
    elif aim == "random":
        way = sphere(d[3], d[4])
    fan, scatter = math.radians(layer.get("birthplace.fan")), layer.get("birthplace.scatter")
    if fan > 0:
        way = fanned(unit(way), fan, d[8], d[9])
    if scatter > 0:
        other = sphere(d[5], d[6])
        mixed = [x + (r - x) * scatter for x, r in zip(way, other, strict=True)]
        way = other if math.hypot(*mixed) < 1e-12 else unit(mixed)
    return at, way


def fanned(way, fan: float, u: float, v: float):
    """A direction evenly drawn from the cone around another."""
    x, y, z = way
    cos = 1 - u * (1 - math.cos(fan))
    sin = math.sqrt(max(0.0, 1 - cos * cos))
    a = unit([-z, 0.0, x]) if abs(y) < 0.9 else unit([0.0, z, -y])
    b = [y * a[2] - z * a[1], z * a[0] - x * a[2], x * a[1] - y * a[0]]
    p, q = sin * math.cos(math.tau * v), sin * math.sin(math.tau * v)
    return [w * cos + i * p + j * q for w, i, j in zip(way, a, b, strict=True)]

"""A layer of an effect, simulated in plain Python: what a runtime for a game must do, without anything
clever.

    python3 reference.py

proves itself against vectors.json, and shows how another runtime is proved: it must come to the same numbers.
What it leaves out (paths, follow-ups, contact, eddies, …) it says; what it does, it does as Pale Ember does,
step by step.
"""

from __future__ import annotations

import json
import math
from pathlib import Path

from layer import Layer, spawn, turned
from values import draw, evaluate, read_key

HERE = Path(__file__).resolve().parent


# Motion: constant acceleration and drag are exact over a step; what acts is taken at its middle.


class Particle:
    """One particle: ``born`` is the step behind the one that it was born in, ``since`` what it lived of
    that, s.
    """

    def __init__(self, layer: Layer, step: int, left: float, number: int, clock: float) -> None:
        self.number, self.born, self.since, self.clock = number, step + 1, left, clock
        self.lifetime = max(layer.value("launch.lifetime", clock, number), 1e-4)
        self.angle = math.radians(layer.value("launch.angle", clock, number))
        at, way = spawn(layer, number)
        speed = layer.value("launch.speed", clock, number)
        push = [layer.value(f"launch.push.{axis}", clock, number) for axis in "xyz"]
        self.position = [c + x for c, x in zip(layer.position, turned(layer.turn, at), strict=True)]
        self.velocity = [
            layer.scale * x
            for x in turned(layer.turn, [w * speed + p for w, p in zip(way, push, strict=True)])
        ]

    def age(self, step: int, rate: int) -> float:
        """How much of its life is over at the start of a step, 0…1."""
        return ((step - self.born) / rate + self.since) / self.lifetime


def advance(layer: Layer, p: Particle, step: int, span: float, clock: float) -> bool:
    """Carry a particle over a step, or over what is left of it; return whether it still lives."""
    end = p.age(step + 1, layer.rate)
    middle = min(max(end - 0.5 * span / p.lifetime, 0.0), 1.0)

    def value(path: str) -> float:
        layer.value(path, 0.0, p.number)
        return layer.value(path, clock if layer.values[path].along == "clock" else middle, p.number)

    s = layer.scale
    a = [0.0, -value("flight.gravity") * layer.g, 0.0]
    thrust = turned(layer.turn, [value(f"flight.thrust.{axis}") * s for axis in "xyz"])
    drift = turned(layer.turn, [value(f"flight.drift.{axis}") * s for axis in "xyz"])
    pace, drag = value("flight.pace"), value("flight.drag")
    a = [x + t for x, t in zip(a, thrust, strict=True)]
    there = [
        x + 0.5 * span * (pace * v + d) - c
        for x, v, d, c in zip(p.position, p.velocity, drift, layer.position, strict=True)
    ]
    pull, swirl = value("flight.pull") * s, value("flight.swirl") * s
    if pull:
        far = max(math.hypot(*there), 1e-6)
        a = [x - pull * t / far for x, t in zip(a, there, strict=True)]
    if swirl:
        u = [row[1] for row in layer.turn]
        around = [
            u[1] * there[2] - u[2] * there[1],
            u[2] * there[0] - u[0] * there[2],
            u[0] * there[1] - u[1] * there[0],
        ]
        far = max(math.hypot(*around), 1e-6)
        a = [x + swirl * t / far for x, t in zip(a, around, strict=True)]
    taken = value("flight.wind") * drag
    a = [x + taken * w for x, w in zip(a, layer.air, strict=True)]
    z = drag * span
    if z < 1e-3:
        e1, e2 = (
            span * (1 - z * (0.5 - z * (1 / 6 - z / 24))),
            span * span * (0.5 - z * (1 / 6 - z * (1 / 24 - z / 120))),
        )
    else:
        e1 = -math.expm1(-z) / drag
        e2 = (span - e1) / drag
    e0 = 1 - drag * e1
    p.position = [
        x + pace * (v * e1 + f * e2) + d * span
        for x, v, f, d in zip(p.position, p.velocity, a, drift, strict=True)
    ]
    p.velocity = [v * e0 + f * e1 for v, f in zip(p.velocity, a, strict=True)]
    p.angle += math.radians(value("flight.spin")) * span
    return end < 1.0


def simulate(layer: Layer, time: float) -> list[Particle]:
    """The particles that live at a time, from an empty start at 0; the last step's end at or before it."""
    steps = math.floor(time * layer.rate + 1e-6)
    coming = layer.births(steps)
    alive: list[Particle] = []
    cap, at = layer.get("emit.cap"), 0
    for step in range(-1, steps):
        inside = (step + 0.5) / layer.rate % layer.duration if layer.loop else (step + 0.5) / layer.rate
        clock = min(max((inside - layer.begin) / layer.length, 0.0), 1.0) if layer.length > 0 else 0.0
        alive = [p for p in alive if advance(layer, p, step, 1 / layer.rate, clock)]
        while at < len(coming) and coming[at][0] == step:
            if len(alive) < cap:
                p = Particle(layer, *coming[at])
                if advance(layer, p, step, p.since, clock):
                    alive.append(p)
            at += 1
    return alive


def shown(layer: Layer, p: Particle, time: float) -> dict:
    """What a particle looks like: its height, m, linear colour and opacity."""
    step = math.floor(time * layer.rate + 1e-6)
    age = min(max(p.age(step, layer.rate), 0.0), 1.0)
    inside = step / layer.rate % layer.duration if layer.loop else step / layer.rate
    now = min(max((inside - layer.begin) / layer.length, 0.0), 1.0) if layer.length > 0 else 0.0

    def value(path: str):
        layer.value(path, 0.0, p.number)
        return layer.value(path, now if layer.values[path].along == "clock" else age, p.number)

    color = [
        t * c for t, c in zip(layer.value("look.tint", p.clock, p.number), value("look.color"), strict=True)
    ]
    size = layer.value("launch.size", p.clock, p.number) * layer.scale * value("look.grow")
    return {
        "age": age,
        "size": size,
        "color": color,
        "opacity": value("look.opacity"),
        "intensity": value("look.intensity"),
    }


# The proof.


def distance(layer: Layer, moment: dict) -> float:
    """The most that any number of a moment is off; infinite if other particles live."""
    found = {p.number: p for p in simulate(layer, moment["time"])}
    if set(found) != {one["number"] for one in moment["particles"]}:
        return math.inf
    worst = 0.0
    for one in moment["particles"]:
        p = found[one["number"]]
        ours = {
            "position": p.position,
            "velocity": p.velocity,
            "angle": p.angle,
            **shown(layer, p, moment["time"]),
        }
        for name, theirs in one.items():
            if name != "number":
                pairs = (
                    zip(ours[name], theirs, strict=True)
                    if isinstance(theirs, list)
                    else [(ours[name], theirs)]
                )
                worst = max(worst, *(abs(a - b) / max(1.0, abs(b)) for a, b in pairs))
    return worst


def proof(folder: Path = HERE) -> list[tuple[str, float]]:
    """What was compared, and the most that it is off."""
    vectors = json.loads((folder / "vectors.json").read_text(encoding="utf-8"))
    schema = json.loads((folder.parent / "effect.schema.json").read_text(encoding="utf-8"))
    found = [("dice", max(abs(draw(one["key"], one["number"]) - one["draw"]) for one in vectors["dice"]))]
    for one in vectors["curves"]:
        keys = [read_key(raw) for raw in one["keys"]]
        found.append(
            (
                f"curve {one['name']}",
                max(abs(evaluate(keys, x) - y) for x, y in zip(one["x"], one["y"], strict=True)),
            )
        )
    for one in vectors["layers"]:
        layer = Layer(one["effect"], 0, schema)
        births = [
            {"step": s, "left": left, "number": n, "clock": c} for s, left, n, c in layer.births(one["steps"])
        ]
        same = [b["number"] for b in births] == [b["number"] for b in one["births"]]
        off = (
            max(
                (
                    abs(a[name] - b[name])
                    for a, b in zip(births, one["births"], strict=True)
                    for name in ("step", "left", "clock")
                ),
                default=0.0,
            )
            if same
            else math.inf
        )
        found.append((f"births of {one['name']}", off))
        found += [
            (f"{one['name']} at {moment['time']:g} s", distance(layer, moment)) for moment in one["moments"]
        ]
    return found


if __name__ == "__main__":
    rows = proof()
    for name, off in rows:
        print(f"{name:36} off by {off:.2e} at most{'' if off <= 1e-5 else '  TOO MUCH'}")
    raise SystemExit(any(off > 1e-5 for _, off in rows))

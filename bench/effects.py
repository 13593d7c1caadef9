"""The effects that are measured."""

from __future__ import annotations

from typing import Any

from pale_ember.effect import Effect, Layer
from pale_ember.effect.editing.layers import add_layer


def plain_effect(count: int, lifetime: float = 100.0) -> Effect:
    """Return one layer with gravity, drag and four curves along life, two of them bands."""
    effect = add_layer(Effect(duration=20.0, loop=False), Layer(name="plain"))
    edits: dict[str, Any] = {
        "emit.rate": 0,
        "emit.cap": count,
        "emit.bursts": [{"at": 0, "count": count}],
        "birthplace.kind": "ball",
        "launch.lifetime": lifetime,
        "flight.gravity": 0.5,
        "flight.drag": 0.8,
        "look.grow": {"band": [[[0, 0.2], [0.3, 1], [1, 0.4]], [[0, 0.4], [0.4, 2], [1, 1]]]},
        "look.opacity": {"band": [[[0, 0], [0.2, 0.6], [1, 0]], [[0, 0], [0.3, 1], [1, 0]]]},
        "look.intensity": {"curve": [[0, 4], [0.5, 2], [1, 1]]},
        "look.color": {"gradient": [[0, "#fff0c0"], [0.4, "#ff8030"], [1, "#301008"]]},
    }
    return _edited(effect, edits)


def dragged_effect(alive: int = 20_000) -> Effect:
    """Return one layer of so many small lights whose size, opacity and weight have curves along life."""
    effect = add_layer(Effect(duration=4.0, warm_up=2.0), Layer(name="dragged"))
    edits: dict[str, Any] = {
        "emit.rate": alive / 1.25,
        "emit.cap": alive * 3 // 2,
        "birthplace.kind": "ball",
        "launch.size": 0.05,
        "flight.drag": 0.5,
        "flight.gravity": {"curve": [[0, 0], [0.4, 0.2], [1, 0.3]]},
        "look.grow": {"curve": [[0, 0.4], [0.3, 1], [1, 0.2]]},
        "look.opacity": {"curve": [[0, 0], [0.2, 0.6], [1, 0]]},
        "look.blend": "add",
    }
    return _edited(effect, edits)


def everything_effect(count: int) -> Effect:
    """Return the plain layer with all that moves: every Value that acts over time is a band along life.

    Gravity, drag, wind, drift in three axes, pull, swirl, turbulence of two octaves, top speed, spin; grow,
    opacity, intensity and colour.
    """

    def band(low: float, high: float) -> dict[str, Any]:
        return {
            "band": [[[0, low], [0.5, (low + high) / 2], [1, low]], [[0, high], [0.4, high * 1.2], [1, high]]]
        }

    colors = [
        [[0, "#fff0c0"], [0.4, "#ff8030"], [1, "#301008"]],
        [[0, "#ffffff"], [0.4, "#ffa050"], [1, "#302008"]],
    ]
    edits: dict[str, Any] = {
        "flight.gravity": band(-0.2, 0.5),
        "flight.drag": band(0.3, 0.9),
        "flight.wind": band(0.2, 1.0),
        "flight.drift": [band(-0.2, 0.2)] * 3,
        "flight.pull": band(0.1, 1.0),
        "flight.swirl": band(0.2, 2.0),
        "flight.turbulence": band(0.5, 2.0),
        "flight.octaves": 2,
        "flight.top_speed": band(2.0, 5.0),
        "flight.spin": band(-90.0, 90.0),
        "look.grow": band(0.5, 1.0),
        "look.opacity": band(0.1, 0.7),
        "look.intensity": band(1.0, 3.0),
        "look.color": {"band": colors},
    }
    return _edited(plain_effect(count), edits).edit("stage.wind", [3, 0, 1])


def crowded_effect(layers: int = 50, alive: int = 2000) -> Effect:
    """Return many layers of so many particles each."""
    effect = Effect(duration=4.0, warm_up=2.0)
    for i in range(layers):
        effect = add_layer(effect, Layer(name=f"Layer {i + 1}"))
        edits: dict[str, Any] = {
            "place.position": [(i % 10 - 4.5) * 0.6, 0.0, (i // 10 - 2) * 0.6],
            "emit.rate": alive / 1.5,
            "emit.cap": alive + 200,
            "birthplace.kind": "ball",
            "birthplace.radius": 0.2,
            "launch.lifetime": 1.5,
            "launch.size": 0.02,
            "flight.drag": 0.5,
            "look.opacity": {"curve": [[0, 0], [0.2, 0.6], [1, 0]]},
        }
        for path, value in edits.items():
            effect = effect.edit(f"layers[{i}].{path}", value)
    return effect


def _edited(effect: Effect, edits: dict[str, Any]) -> Effect:
    for path, value in edits.items():
        effect = effect.edit(f"layers[0].{path}", value)
    return effect

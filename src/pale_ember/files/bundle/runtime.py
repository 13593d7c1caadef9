"""The runtime to read that goes with a bundle, and the numbers that prove it, and others, right."""

from __future__ import annotations

import importlib.util
import json
import math
import sys
from importlib import resources
from types import ModuleType
from typing import Any

import numpy as np

from ...drawing.moment import Moment
from ...effect.effect import Effect
from ...effect.storing.schema import effect_schema
from ...effect.storing.storage import parse_effect, part_data
from ...effect.values.curves import Key, evaluate
from ...simulation import Simulation
from ...simulation.births.schedule import Schedule
from ...simulation.values.dice import layer_key, property_key, random_share

FOLDER = "runtime"
FILES = ("reference.py", "layer.py", "values.py", "read-me.md")
# Particles of one layer that are listed at a moment.
MOST = 400
_SHOWN = ("position", "velocity", "age", "size", "color", "opacity", "intensity", "angle")
_CURVES: dict[str, tuple[Key, ...]] = {
    "smooth": (Key(0.0, 0.0), Key(0.2, 1.0), Key(0.5, 0.8), Key(1.0, 2.0)),
    "straight": (Key(0.1, -1.0, "linear"), Key(0.6, 3.0, "linear"), Key(0.9, 0.5, "linear")),
    "held": (Key(0.0, 1.0, "hold"), Key(0.3, 2.0, "hold"), Key(0.7, 0.0)),
    "stepped": (Key(0.0, 0.0), Key(0.4, 1.0), Key(0.4, 3.0), Key(1.0, 2.0)),
    "free": (Key(0.0, 0.0, "free", 0.0, 4.0), Key(0.5, 1.0, "free", -2.0, 1.0), Key(1.0, 0.0)),
}


def runtime_files(own: dict[str, Any]) -> dict[str, bytes]:
    """Return the runtime's files and its vectors by their names in a bundle; ``own`` is what :class:`Own`
    found.
    """
    files = {f"{FOLDER}/{name}": _shipped(name) for name in FILES}
    vectors = {
        "format": "pale-ember/vectors",
        "version": 1,
        "dice": _dice(),
        "curves": _curves(),
        "layers": [_layer(name) for name in ("sparks", "plume", "rounds")],
        "own": own,
    }
    files[f"{FOLDER}/vectors.json"] = (
        json.dumps(vectors, ensure_ascii=False, separators=(",", ":")) + "\n"
    ).encode()
    return files


def _shipped(name: str) -> bytes:
    return (resources.files(__package__) / "plain" / name).read_bytes()


def _dice() -> list[dict[str, Any]]:
    """Return draws of the dice, for a runtime to prove itself on."""
    found = []
    for seed, layer, path in (
        (1, "sparks", "launch.speed"),
        (7, "abcd2345", "look.grow"),
        (4294967295, "a", "birthplace/3"),
    ):
        key = property_key(layer_key(seed, layer), path)
        for number in (0, 1, 2, 1000, 2**31, 2**32 - 1):
            found.append(
                {
                    "seed": seed,
                    "layer": layer,
                    "path": path,
                    "key": key,
                    "number": number,
                    "draw": float(random_share(key, number)[0]),
                }
            )
    return found


def _curves() -> list[dict[str, Any]]:
    """Return numbers of curves, for a runtime to prove itself on."""
    x = [round(i / 40, 4) for i in range(41)]
    return [
        {
            "name": name,
            "keys": [
                {"x": k.x, "y": k.y, "ease": k.ease, "in": k.in_slope, "out": k.out_slope} for k in keys
            ],
            "x": x,
            "y": evaluate(keys, x).tolist(),
        }
        for name, keys in _CURVES.items()
    ]


def known(name: str) -> Effect:
    """Return one of the small effects, of one layer, that runtimes are proved by."""
    return parse_effect(_shipped(f"{name}.ember"))


def _layer(name: str) -> dict[str, Any]:
    """Return births and particles of a known effect, for a runtime to prove itself on."""
    effect = known(name)
    steps = math.floor(1.5 * effect.duration * effect.step_rate)
    listed = Schedule(effect, effect.layers[0]).births(-1, steps)
    births = []
    for step in range(steps + 1):
        for i in range(int(listed.first[step]), int(listed.first[step + 1])):
            # Of the step before time 0 only what stands at time 0 is born in it.
            if step > 0 or listed.left[i] == 0.0:
                births.append(
                    {
                        "step": step - 1,
                        "left": float(listed.left[i]),
                        "number": int(listed.number[i]),
                        "clock": float(listed.clock[i]),
                    }
                )
    times = [0.5, effect.duration, 1.4 * effect.duration]
    return {
        "name": name,
        "effect": part_data(effect),
        "steps": steps,
        "births": births,
        "moments": _moments(effect, effect.layers[0].id, times),
    }


def _moments(effect: Effect, layer_id: str, times: list[float]) -> list[dict[str, Any]]:
    sim, found = Simulation(effect), []
    for time in times:
        sim.seek(time)
        found.append(_moment(sim, layer_id))
    return found


def _moment(sim: Simulation, layer_id: str) -> dict[str, Any]:
    some = sim.particles(layer_id)
    rows = [
        {"number": int(some.serial[i]), **{name: _number(getattr(some, name)[i]) for name in _SHOWN}}
        for i in range(min(len(some), MOST))
    ]
    return {"time": _plain(sim.time), "particles": rows}


class Own:
    """What the layers of an effect itself come to at some moments, and what the runtime leaves out of
    each.
    """

    def __init__(self, effect: Effect) -> None:
        self.effect = effect
        self._steps = {
            max(round(effect.duration * effect.step_rate * share), 1) for share in (0.25, 0.5, 1.0)
        }
        self.moments: dict[str, list[dict[str, Any]]] = {
            layer.id: [] for layer in effect.layers if layer.enabled
        }

    def see(self, step: int, sim: Simulation, moment: Moment) -> None:
        """Take note of a moment, if it is one of those."""
        for layer_id in self.moments if step in self._steps else ():
            self.moments[layer_id].append(_moment(sim, layer_id))

    def found(self) -> dict[str, Any]:
        """Return what was seen, by layer id."""
        module, schema, data = (
            plain_module("layer"),
            effect_schema(),
            json.loads(json.dumps(part_data(self.effect))),
        )
        return {
            layer.id: {
                "name": layer.name,
                "lacks": module.Layer(data, i, schema).lacks(),
                "moments": self.moments[layer.id],
            }
            for i, layer in enumerate(self.effect.layers)
            if layer.enabled
        }


def plain_module(name: str) -> ModuleType:
    """Return a module of the runtime, as it is in bundles."""
    loaded = {}
    for one in ("values", "layer", "reference"):
        spec = importlib.util.spec_from_file_location(
            one, str(resources.files(__package__) / "plain" / f"{one}.py")
        )
        assert spec is not None and spec.loader is not None
        loaded[one] = importlib.util.module_from_spec(spec)
        before = sys.modules.get(one)
        sys.modules[one] = loaded[one]
        spec.loader.exec_module(loaded[one])
        loaded[f"{one} before"] = before  # type: ignore[assignment]
    for one in ("values", "layer", "reference"):
        before = loaded[f"{one} before"]
        if before is None:
            del sys.modules[one]
        else:
            sys.modules[one] = before
    return loaded[name]


def _number(value: Any) -> Any:
    return [_plain(x) for x in value] if isinstance(value, np.ndarray) else _plain(value)


def _plain(value: Any) -> float:
    return float(f"{float(value):.9g}")

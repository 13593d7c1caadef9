"""What contact and follow-ups cost: beside the same step without them, in turn."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from pale_ember.effect import Effect, Layer
from pale_ember.simulation.follow_ups.schedule import WANTED
from pale_ember.simulation.time.layer_run import LayerRun
from pale_ember.simulation.time.readings import counts_of
from pale_ember.simulation.time.thread_pool import ThreadPool

ROUNDS = 7


def rain_effect(count: int, props: list[dict[str, Any]], contact: bool) -> Effect:
    """Return so many particles that fall from 6 m, hit what there is on 10 by 10 m, and bounce; as many
    are born as die.
    """
    effect = Effect(layers=(Layer(id="rain", name="rain"),), duration=60.0, loop=False)
    edits: dict[str, Any] = {
        "layers[0].emit.rate": count / 1.5,
        "layers[0].emit.cap": count + 1000,
        "layers[0].birthplace.kind": "box",
        "layers[0].birthplace.extents": [10, 0.5, 10],
        "layers[0].place.position": [0, 6, 0],
        "layers[0].launch.lifetime": 1.5,
        "layers[0].launch.speed": 0,
        "layers[0].launch.size": 0.04,
        "layers[0].flight.gravity": 1,
        "layers[0].flight.drag": 0.2,
        "layers[0].look.grow": {"band": [[[0, 0.2], [0.3, 1], [1, 0.4]], [[0, 0.4], [0.4, 2], [1, 1]]]},
        "layers[0].look.opacity": {"band": [[[0, 0], [0.2, 0.6], [1, 0]], [[0, 0], [0.3, 1], [1, 0]]]},
        "layers[0].look.intensity": {"curve": [[0, 4], [0.5, 2], [1, 1]]},
        "layers[0].look.color": {"gradient": [[0, "#fff0c0"], [0.4, "#ff8030"], [1, "#301008"]]},
        "layers[0].contact.enabled": contact,
        "layers[0].contact.bounce": 0.75,
        "layers[0].contact.reach": 0.25,
        "stage.props": props,
    }
    for path, value in edits.items():
        effect = effect.edit(path, value)
    return effect


def some_props(count: int = 20) -> list[dict[str, Any]]:
    """Return boxes, balls and cylinders, turned, all over the ground."""
    roll = np.random.default_rng(3)
    return [
        {
            "kind": ("box", "ball", "cylinder")[i % 3],
            "position": [float(x) for x in roll.uniform(-5, 5, 3) * [1, 0, 1] + [0, 0.1, 0]],
            "rotation": [float(a) for a in roll.uniform(-180, 180, 3)],
            "size": [float(s) for s in roll.uniform(0.4, 1.4, 3)],
        }
        for i in range(count)
    ]


def hills(folder: str, side: int = 71) -> str:
    """Write a mesh of hills, of about ten thousand triangles, into a folder, as binary STL; return its
    file.
    """
    x = np.linspace(-0.5, 0.5, side)
    high = 0.1 * np.sin(17 * x[:, None]) * np.cos(13 * x[None, :]) + 0.03 * np.sin(
        61 * x[:, None] + 40 * x[None, :]
    )
    points = np.stack([np.repeat(x, side), high.ravel(), np.tile(x, side)], axis=1).reshape(side, side, 3)
    a, b, c, d = points[:-1, :-1], points[:-1, 1:], points[1:, 1:], points[1:, :-1]
    faces = np.concatenate([np.stack([a, b, c], axis=2), np.stack([a, c, d], axis=2)]).reshape(-1, 3, 3)
    rows = np.zeros(
        len(faces), np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("spare", "<u2")])
    )
    rows["corners"] = faces
    path = Path(folder) / "hills.stl"
    path.write_bytes(bytes(80) + len(faces).to_bytes(4, "little") + rows.tobytes())
    return str(path)


def _stepper(effect: Effect) -> Callable[[], None]:
    """Return what carries the first layer over a step and shows it."""
    run = LayerRun(effect, effect.layers[0], ThreadPool(1))
    run.past.interval = run.past.interval_outside = 1 << 40
    run.seek(100)
    run.show()

    def once() -> None:
        run.seek(run.step + 1)
        run.show()

    return once


def _taken(work: Callable[[], None], runs: int) -> float:
    """Return the median time of a piece of work, s."""
    taken = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def _beside(effect: Effect, plain: Effect, runs: int = 24) -> dict[str, float]:
    """Return ms of a step with and without contact, as particles fall, hit and settle, and the ratio of
    both.
    """
    rounds = []
    for _ in range(3):
        one, other = _stepper(effect), _stepper(plain)
        rounds += [(_taken(one, runs), _taken(other, runs)) for _ in range(4)]
    ratios = [a / b for a, b in rounds]
    return {
        "ms": statistics.median(a for a, _ in rounds) * 1e3,
        "plain_ms": statistics.median(b for _, b in rounds) * 1e3,
        "ratio": statistics.median(ratios),
        "most": max(ratios),
    }


def _events(count: int = 2000, each: int = 10) -> dict[str, float]:
    """Return how long a step takes in which so many particles hit at once and each starts ten, in plain
    steps of as many.
    """
    effect = rain_effect(count, [], True)
    edits: dict[str, Any] = {
        "layers[0].place.position": [0, 1, 0],
        "layers[0].birthplace.extents": [10, 0, 10],
        "layers[0].contact.on_hit": "vanish",
        "layers[0].emit.rate": 0,
        "layers[0].emit.bursts": [{"at": 0, "count": count}],
    }
    for path, value in edits.items():
        effect = effect.edit(path, value)
    child = effect.layers[0].model_copy(update={"id": "splash", "name": "splash"})
    effect = effect.edit("layers", (*effect.layers, child))
    for path, value in {
        "layers[1].origin.parent": "rain",
        "layers[1].origin.count": each,
        "layers[1].origin.limit": 1_000_000,
        "layers[1].emit.cap": count * each,
        "layers[1].contact.enabled": False,
    }.items():
        effect = effect.edit(path, value)
    taken = []
    plain = (
        rain_effect(count * each, [], False)
        .edit("layers[0].emit.rate", 0)
        .edit("layers[0].emit.bursts", [{"at": 0, "count": count * each}])
    )
    plain = plain.edit("layers[0].launch.lifetime", 100)
    for _ in range(ROUNDS):
        parent = LayerRun(effect, effect.layers[0], ThreadPool(1))
        parent.ask(WANTED[effect.layers[1].origin.when])
        follow = LayerRun(effect, effect.layers[1], ThreadPool(1), None, parent)
        # They fall 1 m: all of them hit in one step.
        step = 0
        while counts_of(parent)["hits"] == 0:
            step += 1
            parent.seek(step)
        follow.seek(step - 1)
        start = time.perf_counter()
        follow.seek(step)
        follow.show()
        taken.append(time.perf_counter() - start)
        assert follow.alive == count * each
    once = _stepper(plain)
    step_time = min(_taken(once, 20) for _ in range(5))
    return {"ms": min(taken) * 1e3, "plain_ms": step_time * 1e3, "ratio": min(taken) / step_time}


def measure_contact(count: int = 100_000) -> dict[str, dict[str, float]]:
    """Return what contact costs over floor and twenty props, over a mesh, and what follow-ups cost."""
    plain = rain_effect(count, [], False)
    with tempfile.TemporaryDirectory() as folder:
        mesh = [{"kind": "mesh", "mesh": hills(folder), "size": [12, 2, 12], "position": [0, -0.5, 0]}]
        return {
            "floor": _beside(rain_effect(count, [], True), plain),
            "props": _beside(rain_effect(count, some_props(), True), plain),
            "mesh": _beside(rain_effect(count, mesh, True).edit("stage.floor", False), plain),
            "events": _events(),
        }

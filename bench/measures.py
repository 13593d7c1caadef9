"""What is measured of the simulation: steps, sorting, seeking, edits, starts."""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from pale_ember.drawing import moment_of
from pale_ember.drawing.sorting import _order, far_first
from pale_ember.effect import Effect
from pale_ember.simulation import Simulation
from pale_ember.simulation.layout.instances import instance_type
from pale_ember.simulation.time.layer_run import LayerRun
from pale_ember.simulation.time.thread_pool import ThreadPool

from .effects import crowded_effect, plain_effect

# What one step and one appearance pass must read and write for a particle of the plain layer, in bytes.
# Motion reads place, velocity, birth (step and rest of it) and aging and writes the first two; appearance
# reads place, birth, aging and serial and writes an instance without an angle.
STEP_BYTES = 4 * (3 + 3 + 2 + 1) + 4 * (3 + 3)
LOOK_BYTES = 4 * (3 + 2 + 1 + 1) + instance_type(("color", "opacity", "intensity")).itemsize
PARTICLE_BYTES = STEP_BYTES + LOOK_BYTES
# With spin and draws in motion, the turn is read and written and the serial read as well.
EVERYTHING_BYTES = PARTICLE_BYTES + 4 * 5


def _least(work: Callable[[], Any], runs: int) -> float:
    """Return the shortest time of a piece of work, s: what others on the machine take only adds to it."""
    taken = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return min(taken)


def copy_time(count: int, runs: int, size: int = PARTICLE_BYTES) -> float:
    """Return how long ``numpy.copyto`` takes to move the same bytes: half read, half written."""
    source = np.zeros(count * size // 8, np.float32)
    target = np.ones_like(source)
    np.copyto(target, source)
    return _least(lambda: np.copyto(target, source), runs)


def step_of(effect: Effect, threads: int = 1) -> Callable[[], None]:
    """Return what carries an effect's only layer over one step and shows it."""
    run = LayerRun(effect, effect.layers[0], ThreadPool(threads))
    run.past.interval = run.past.interval_outside = 1 << 40
    run.seek(2)
    run.show()

    def once() -> None:
        run.seek(run.step + 1)
        run.show()

    return once


def measure_layer(effect: Effect, count: int, size: int) -> dict[str, float]:
    """Return nanoseconds per particle for one step and one appearance pass, and the ratio to a copy."""
    once = step_of(effect)
    runs = max(7, min(200, 4_000_000 // count))
    # Rounds of both in turn: the machine's mood changes, their ratio less so.
    rounds = [(_least(once, runs), copy_time(count, runs, size)) for _ in range(5)]
    taken, copy = (statistics.median(side) for side in zip(*rounds, strict=True))
    ratio = statistics.median(step / moved for step, moved in rounds)
    return {"particles": count, "ns": taken / count * 1e9, "copy_ns": copy / count * 1e9, "ratio": ratio}


def measure_sort(count: int = 100_000) -> dict[str, float]:
    """Return ms to find the order of so many particles by depth, and to put them in it, beside a plain
    step.
    """
    rows = np.zeros(count, instance_type(("color", "opacity")))
    rows["place"] = np.random.default_rng(1).normal(size=(count, 3))
    flat = rows.view(np.float32).reshape(count, -1)
    keys, first, second = np.empty(count, np.uint32), np.empty(count, np.int32), np.empty(count, np.int32)
    back = np.array([0.3, 0.2, 0.93])
    far_first(rows, back)
    x, y, z = (np.float32(part) for part in back)
    order = _least(lambda: _order(flat, 0, x, y, z, keys, first, second), 30)
    step = _least(step_of(plain_effect(count)), 30)
    return {
        "ms": order * 1e3,
        "steps": order / step,
        "whole_ms": _least(lambda: far_first(rows, back), 30) * 1e3,
    }


def measure_bare(
    effect: Effect, bare: Callable[[], None] | None, count: int = 1_000_000
) -> dict[str, float] | None:
    """Return a layer's time as a ratio to a bare C loop of the same work; None without a C compiler."""
    if bare is None:
        return None
    once = step_of(effect)
    rounds = [(_least(once, 5), _least(bare, 5)) for _ in range(7)]
    return {
        "ns": statistics.median(step for step, _ in rounds) / count * 1e9,
        "bare_ns": statistics.median(loop for _, loop in rounds) / count * 1e9,
        "ratio": statistics.median(step / loop for step, loop in rounds),
    }


def measure_compiling() -> dict[str, float]:
    """Return seconds to compile each kernel, in a process of its own with an empty cache."""
    code = (
        "import json; from pale_ember.simulation.warm_up import KERNELS\n"
        "for kernel in KERNELS.values(): kernel.address\n"
        "print(json.dumps({kernel.name: kernel.seconds for kernel in KERNELS.values()}))"
    )
    with tempfile.TemporaryDirectory() as folder:
        env = {**os.environ, "NUMBA_CACHE_DIR": folder}
        done = subprocess.run(
            [sys.executable, "-c", code], capture_output=True, text=True, env=env, check=True
        )
    found: dict[str, float] = json.loads(done.stdout)
    return found


def measure_first_start() -> float:
    """Return seconds from the command to the first particles on the window, with an empty kernel cache."""
    with tempfile.TemporaryDirectory() as folder:
        env = {**os.environ, "NUMBA_CACHE_DIR": folder, "PALE_EMBER_NEEDED_ONLY": "1"}
        start = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "pale_ember.cli", "demo", "--until", "particles"],
            env=env,
            check=False,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        return time.perf_counter() - start


def measure_threads(effect: Effect, runs: int = 7) -> float:
    """Return how many times faster two threads are than one."""
    one, two = step_of(effect, 1), step_of(effect, 2)
    return statistics.median(_least(one, runs) / _least(two, runs) for _ in range(5))


def measure_crowd() -> dict[str, float]:
    """Return milliseconds for a step of 50 layers of 2 000, and for the instances of all and of one of
    them.
    """
    effect = crowded_effect()
    sim = Simulation(effect)
    sim.seek(1.0)

    def shown(ids: list[str]) -> float:
        taken = []
        for _ in range(15):
            sim.step()
            start = time.perf_counter()
            moment_of(sim, lambda layer: layer.id in ids)
            taken.append(time.perf_counter() - start)
        return statistics.median(taken) * 1e3

    steps = _least(sim.step, 30) * 1e3
    ids = [layer.id for layer in effect.layers]
    return {"step_ms": steps, "all_ms": shown(ids), "one_ms": shown(ids[:1])}


def measure_seek(alive: int = 20_000, seconds: float = 10.0) -> dict[str, float]:
    """Return the time of seeks to anywhere in an effect that was played once, in plain steps."""
    effect = plain_effect(alive, lifetime=2.0)
    for path, value in {
        "duration": seconds,
        "layers[0].emit.bursts": [],
        "layers[0].emit.rate": alive / 2.0,
        "layers[0].emit.cap": alive + 1000,
    }.items():
        effect = effect.edit(path, value)
    sim = Simulation(effect)
    sim.seek(seconds)
    places = np.random.default_rng(4).permutation(np.linspace(0.0, seconds, 41))
    taken = []
    for place in places:
        start = time.perf_counter()
        sim.seek(float(place))
        taken.append(time.perf_counter() - start)
    sim.seek(5.0)
    steps = []
    for _ in range(60):
        start = time.perf_counter()
        sim.step()
        steps.append(time.perf_counter() - start)
    step = statistics.median(steps)
    return {
        "alive": sim.counts("plain")["alive"],
        "step_ms": step * 1e3,
        "worst_steps": max(taken) / step,
        "median_steps": statistics.median(taken) / step,
    }


def measure_edit(effect: Effect, at: float = 3.0) -> dict[str, float]:
    """Return how long particles take to follow a number changed while paused, for each layer, ms."""
    sim = Simulation(effect)
    sim.seek(at)
    found = {}
    for i, layer in enumerate(effect.layers):
        taken = []
        for turn in range(3):
            edited = effect.edit(f"layers[{i}].launch.speed", 1.0 + 0.1 * turn)
            start = time.perf_counter()
            sim.replace(edited)
            for other in edited.layers:
                sim.instances(other.id)
            taken.append(time.perf_counter() - start)
        found[layer.name] = statistics.median(taken) * 1e3
    return found


def measure_start(runs: int = 3) -> dict[str, float]:
    """Return the times to the window's first frame and to its first particles, as ratios to importing its
    libraries.
    """
    imports = [sys.executable, "-c", "import PyQt6.QtWidgets, PyQt6.QtOpenGLWidgets, numpy, numba, moderngl"]
    window = [sys.executable, "-m", "pale_ember.cli", "demo", "--until"]
    commands = (imports, [*window, "frame"], [*window, "particles"])

    def taken(command: list[str]) -> float:
        start = time.perf_counter()
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
            assert process.stdout is not None
            process.stdout.read()
        return time.perf_counter() - start

    for command in commands:
        taken(command)
    rows = [[taken(command) for command in commands] for _ in range(runs)]
    base, frame, particles = (statistics.median(side) for side in zip(*rows, strict=True))
    return {
        "imports_s": base,
        "frame_s": frame,
        "frame": frame / base,
        "particles_s": particles,
        "particles": particles / base,
    }

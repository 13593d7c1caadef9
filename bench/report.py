"""What the program measures of itself; all figures that matter are ratios within one run."""

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

from .bare_loops import bare_everything, bare_loop
from .contact import measure_contact
from .draw import measure_draw
from .effects import crowded_effect, dragged_effect, everything_effect, plain_effect
from .shapes import POINTS, TRAILS, measure_shapes
from .textures import measure_flow, measure_textures

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


def _step_of(effect: Effect, threads: int = 1) -> Callable[[], None]:
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
    once = _step_of(effect)
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
    step = _least(_step_of(plain_effect(count)), 30)
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
    once = _step_of(effect)
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
    one, two = _step_of(effect, 1), _step_of(effect, 2)
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


def report_shapes(tell: Callable[[str], None]) -> dict[str, float]:
    """Measure ribbons and meshes; ``tell`` gets each figure as a line."""
    found = measure_shapes(_step_of(plain_effect(TRAILS * POINTS)))
    tell(
        f"500 trails of 64 points: built in {found['build_ms']:.1f} ms, {found['build_steps']:.1f} "
        "plain steps of as many particles"
    )
    tell(
        f"the same, drawn: {found['ribbon_ms']:.1f} ms, {found['ribbon_ratio']:.2f} times a bare strip "
        f"of {found['vertices']:.0f} vertices"
    )
    tell(
        f"2,000 meshes of 200 triangles: {found['mesh_ms']:.1f} ms, {found['mesh_ratio']:.2f} times a "
        "bare instanced draw"
    )
    return found


def report_contact(tell: Callable[[str], None]) -> dict[str, dict[str, float]]:
    """Measure what contact and follow-ups cost; ``tell`` gets each figure as a line."""
    found = measure_contact()
    for name, words in (
        ("floor", "over the floor"),
        ("props", "over floor and 20 props"),
        ("mesh", "over a mesh of 9,800 triangles"),
    ):
        row = found[name]
        tell(
            f"100,000 particles {words}: {row['ms']:.1f} ms a step, {row['ratio']:.2f} times one "
            "without contact"
        )
    row = found["events"]
    tell(
        f"2,000 hits in one step with 10 children each: {row['ms']:.1f} ms, {row['ratio']:.1f} plain "
        "steps of as many particles"
    )
    return found


def report(with_start: bool = False, say: Callable[[str], None] | None = None) -> dict[str, Any]:
    """Measure everything and return the figures; ``say`` gets each as a line when it is known."""
    from pale_ember.demo import kiln_mouth

    tell = say or (lambda line: None)
    tell(
        f"{PARTICLE_BYTES} bytes a particle are read or written by one step and one appearance pass; "
        "one thread."
    )
    found: dict[str, Any] = {"bytes": PARTICLE_BYTES, "plain": []}
    for count in (10_000, 100_000, 1_000_000):
        row = measure_layer(plain_effect(count), count, PARTICLE_BYTES)
        found["plain"].append(row)
        tell(
            f"plain layer, {count:>9,}: {row['ns']:6.1f} ns a particle, {row['ratio']:5.2f} times a "
            "copy of the bytes"
        )
    count = 1_000_000
    found["bare"] = bare = measure_bare(plain_effect(count), bare_loop(count))
    if bare is not None:
        tell(
            f"plain layer, 1,000,000: {bare['ratio']:.2f} times a bare C loop ({bare['bare_ns']:.1f} "
            "ns a particle)"
        )
    found["everything"] = row = measure_layer(everything_effect(count), count, EVERYTHING_BYTES)
    tell(
        f"everything layer, {count:,}: {row['ns']:6.1f} ns a particle, "
        f"{row['ratio']:5.2f} times a copy of its {EVERYTHING_BYTES} bytes"
    )
    found["bare_everything"] = bare = measure_bare(everything_effect(count), bare_everything(count))
    if bare is not None:
        tell(
            f"everything layer, 1,000,000: {bare['ratio']:.2f} times a bare C loop "
            f"({bare['bare_ns']:.1f} ns a particle)"
        )
    found["threads"] = {}
    for name, effect in (("plain", plain_effect(count)), ("everything", everything_effect(count))):
        found["threads"][name] = gain = measure_threads(effect)
        tell(f"two threads, {name} layer, {count:,}: {gain:.2f} times one thread")
    found["crowd"] = crowd = measure_crowd()
    tell(
        f"50 layers of 2,000: a step {crowd['step_ms']:.1f} ms; instances of all {crowd['all_ms']:.1f} ms, "
        f"with 49 hidden {crowd['one_ms']:.2f} ms"
    )
    found["seek"] = seek = measure_seek()
    tell(
        f"seek in 10 s with {seek['alive']:,} alive: at most {seek['worst_steps']:.1f} plain steps, "
        f"median {seek['median_steps']:.1f} (a step takes {seek['step_ms']:.2f} ms)"
    )
    found["edit_ms"] = measure_edit(kiln_mouth())
    for name, taken in found["edit_ms"].items():
        tell(f"edit at 3 s in the demo, layer {name}: particles follow in {taken:.1f} ms")
    found["draw"] = measure_draw()
    for name, row in found["draw"].items():
        tell(
            f"5,000 sprites at 900x600, {name}: {row['ms']:.1f} ms, {row['ratio']:.2f} times a bare "
            "loop of the same work"
        )
    found["sort"] = sort = measure_sort()
    tell(
        f"100,000 put in the order of their depth: {sort['ms']:.2f} ms, {sort['steps']:.2f} plain "
        f"steps; all in all {sort['whole_ms']:.2f} ms"
    )
    found["contact"] = report_contact(tell)
    found["shapes"] = report_shapes(tell)
    found["steps"] = steps = measure_textures()
    slow = max(steps, key=lambda name: steps[name]["ms"])
    ratios = [row["ratio"] for row in steps.values()]
    tell(
        "an edit in a stack of six steps at 256x256: "
        f"{statistics.median(row['ms'] for row in steps.values()):.0f} ms, at most "
        f"{steps[slow]['ms']:.0f} ms ({slow}); {min(ratios):.0f} to {max(ratios):.0f} FFTs forth and back"
    )
    found["flow"] = flow = measure_flow()
    tell(
        f"a flow of 64 frames of 256x256: {flow['whole_s']:.1f} s; at {flow['coarse_size']} pixels it "
        f"is seen after {flow['coarse_s'] * 1e3:.0f} ms"
    )
    if with_start:
        from pale_ember.demo import NAMES, demo

        from .window import measure_drag, measure_panels, measure_play
        from .window_bench import measure_bench

        for name in NAMES:
            found[f"play_{name}"] = play = measure_play(demo(name))
            tell(
                f"{name} plays at 1280x800: {play['per_second']:.0f} pictures a second, 95 % of them within "
                f"{play['longest_ms']:.0f} ms, at {play['share']:.2f} of the size"
            )

        for name, effect in (("demo", kiln_mouth()), ("50 layers", crowded_effect())):
            found[f"panels_{name}"] = panels = measure_panels(effect)
            tell(
                f"panels while {name} plays: {panels['panels_ms']:.2f} ms a frame; a thumbnail "
                f"{panels['thumbnail_ms']:.1f} ms"
            )
        found["bench"] = bench = measure_bench()
        tell(
            f"an edit on the bench at 256x256 shows on the particles in {bench['median_ms']:.0f} ms, "
            f"at most {bench['most_ms']:.0f} ms ({bench['slowest']}) in the median of its kind"
        )
        for path in ("look.grow", "flight.gravity"):
            found[f"drag_{path}"] = drag = measure_drag(dragged_effect(), path)
            tell(
                f"a key of {path} dragged with {drag['alive']:,} alive: strip and stage follow in "
                f"{drag['drag_ms']:.1f} ms, at most {drag['drag_most_ms']:.1f} ms"
            )
        found["compiling"] = compiling = measure_compiling()
        tell(f"all {len(compiling)} kernels compile in {sum(compiling.values()):.0f} s, one after the other")
        found["first_start_s"] = measure_first_start()
        tell(f"first start, nothing compiled: {found['first_start_s']:.0f} s to moving particles")
        found["start"] = start = measure_start()
        for what in ("frame", "particles"):
            tell(
                f"start to first {what}: {start[what + '_s']:.2f} s, {start[what]:.2f} times importing "
                "the libraries"
            )
    return found

"""What the program measures of itself; all figures that matter are ratios within one run."""

from __future__ import annotations

import statistics
from collections.abc import Callable
from typing import Any

from pale_ember.demo import NAMES, demo, kiln_mouth

from .bare_loops import bare_everything, bare_loop
from .contact import measure_contact
from .draw import measure_draw
from .effects import crowded_effect, dragged_effect, everything_effect, plain_effect
from .measures import (
    EVERYTHING_BYTES,
    PARTICLE_BYTES,
    measure_bare,
    measure_compiling,
    measure_crowd,
    measure_edit,
    measure_first_start,
    measure_layer,
    measure_seek,
    measure_sort,
    measure_start,
    measure_threads,
    step_of,
)
from .shapes import POINTS, TRAILS, measure_shapes
from .textures import measure_flow, measure_textures


def report_shapes(tell: Callable[[str], None]) -> dict[str, float]:
    """Measure ribbons and meshes; ``tell`` gets each figure as a line."""
    found = measure_shapes(step_of(plain_effect(TRAILS * POINTS)))
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


def report_motion(tell: Callable[[str], None]) -> dict[str, Any]:
    """Measure steps of plain and rich layers; ``tell`` gets each figure as a line."""
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
    return found


def report_time(tell: Callable[[str], None]) -> dict[str, Any]:
    """Measure many layers, seeking and editing."""
    found: dict[str, Any] = {}
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
    return found


def report_drawing(tell: Callable[[str], None]) -> dict[str, Any]:
    """Measure drawing and sorting."""
    found: dict[str, Any] = {}
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
    return found


def report_making(tell: Callable[[str], None]) -> dict[str, Any]:
    """Measure textures that are made from steps."""
    found: dict[str, Any] = {}
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
    return found


def report_window(tell: Callable[[str], None]) -> dict[str, Any]:
    """Measure the window: playing, panels, drags."""
    found: dict[str, Any] = {}

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
    return found


def report_start(tell: Callable[[str], None]) -> dict[str, Any]:
    """Measure compiling and starts."""
    found: dict[str, Any] = {}
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


def report(with_start: bool = False, say: Callable[[str], None] | None = None) -> dict[str, Any]:
    """Measure everything and return the figures; ``say`` gets each as a line when it is known."""

    tell = say or (lambda line: None)
    found = report_motion(tell) | report_time(tell) | report_drawing(tell)
    found["contact"] = report_contact(tell)
    found["shapes"] = report_shapes(tell)
    found |= report_making(tell)
    if with_start:
        found |= report_window(tell) | report_start(tell)
    return found

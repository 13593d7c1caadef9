"""How long an edit on the bench takes until the particles show it, in the real window."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from PyQt6.QtCore import QEventLoop
from PyQt6.QtWidgets import QApplication

from pale_ember.app.texture_bench.corner import Corner
from pale_ember.app.window.application import new_application
from pale_ember.effect.effect import Effect, Layer
from pale_ember.effect.steps import STEPS
from pale_ember.effect.steps.drawn import Stroke, Strokes
from pale_ember.effect.steps.flow import Flow
from pale_ember.effect.steps.pictures import Picture
from pale_ember.effect.textures import Build

from .window import opened, until

SIZE, TURNS = 256, 6
BELOW = [
    {"step": "dot"},
    {"step": "cloud", "blend": "multiply"},
    {"step": "warp"},
    {"step": "levels"},
    {"step": "fade"},
]


def measure_bench() -> dict[str, float | str]:
    """Return ms from an edit of the second of six steps to the particles drawn with it, for each kind of
    sixth step.

    Returns
    -------
    dict
        ``median_ms`` over all kinds, and ``most_ms`` and ``slowest``: the kind of the highest median.
    """
    app = QApplication.instance() or new_application()
    drawn: list[tuple[float, object]] = []
    usual = Corner._draw

    def counted(corner: Corner) -> None:
        usual(corner)
        drawn.append((time.perf_counter(), corner.bench.ready))

    Corner._draw = counted  # type: ignore[method-assign, assignment]
    window = opened(Effect(layers=(Layer(id="bench", name="Bench"),)))
    try:
        until(app, lambda: window.session.moment_number > 3, 120.0)
        window.actions_by_name["new_texture"].trigger()
        bench, session = window.bench, window.session
        session.edit(bench.path("build"), Build(size=SIZE), "size")
        found: dict[str, float] = {}
        for name, kind in STEPS.items():
            if kind in (Flow, Picture):
                continue
            last = (
                Strokes(strokes=(Stroke(points=((0.0, 0.0, 1.0), (0.5, 0.4, 1.0))),))
                if kind is Strokes
                else kind()
            )
            session.edit(bench.path("build.steps"), [*BELOW, last], "steps")
            until(app, lambda: not session.textures.busy, 30.0)
            rows = []
            for turn in range(TURNS):
                before = bench.ready
                start = time.perf_counter()
                session.edit(
                    bench.path("build.steps[1].roughness"), 0.3 + 0.03 * turn + 0.0005 * len(found), "edit"
                )
                # Until the particles are drawn with the texture as it is made of the edit.
                _until(lambda before=before: bool(drawn) and drawn[-1][1] is not before)  # type: ignore[misc]
                rows.append(
                    (next(at for at, ready in drawn if ready is not before and at > start) - start) * 1e3
                )
            found[name] = statistics.median(rows)
        slowest = max(found, key=lambda name: found[name])
        return {"median_ms": statistics.median(found.values()), "most_ms": found[slowest], "slowest": slowest}
    finally:
        Corner._draw = usual  # type: ignore[method-assign]
        window.shut()
        window.hide()


def _until(holds: Callable[[], bool], seconds: float = 10.0) -> None:
    """Let the window work, and wait as it waits for people, until something holds."""
    end = time.monotonic() + seconds
    while not holds() and time.monotonic() < end:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)

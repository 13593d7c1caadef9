"""How long the window takes for a frame while it plays, panel by panel."""

from __future__ import annotations

import itertools
import statistics
import sys
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QApplication

from ..effect.effect import Effect
from . import theme
from .lanes import Lanes
from .main_window import MainWindow
from .recipe import Recipe
from .stage import Stage
from .strip import LifeStrip
from .timeline import Ruler
from .top_bar import TopBar

# What the panels do for a frame, apart from the stage's own drawing.
WORK: tuple[tuple[type, str], ...] = (
    (Lanes, "paintEvent"),
    (Lanes, "_clock"),
    (Ruler, "paintEvent"),
    (Recipe, "_problems"),
    (LifeStrip, "refresh"),
    (TopBar, "refresh_clock"),
    (TopBar, "refresh_cost"),
)


def measure_panels(effect: Effect, frames: int = 60) -> dict[str, float]:
    """Play an effect in the real window and return milliseconds a frame.

    Returns
    -------
    dict
        ``panels_ms``: timeline, top bar, recipe and strip together, median; ``thumbnail_ms``: one small picture.
    """
    app = QApplication.instance() or _application()
    spent: dict[str, float] = {"panels": 0.0, "thumbnail": 0.0, "pictures": 0.0}
    undo = [_timed(kind, name, spent, "panels") for kind, name in WORK]
    undo.append(_timed(Stage, "picture_of", spent, "thumbnail", "pictures"))
    window = MainWindow(effect)
    window.resize(1280, 800)
    window.show()
    window.arrange()
    try:
        _until(app, lambda: window.session.moment_number > 3, 120.0)
        rows: list[float] = []
        window.stage.drawn.connect(lambda: rows.append(spent["panels"]))
        _until(app, lambda: len(rows) > frames, 60.0)
        each = [(b - a) * 1e3 for a, b in itertools.pairwise(rows)]
        pictures = max(spent["pictures"], 1.0)
        return {"panels_ms": statistics.median(each), "thumbnail_ms": spent["thumbnail"] / pictures * 1e3}
    finally:
        window.shut()
        window.hide()
        for put_back in undo:
            put_back()


def _application() -> QApplication:
    app = QApplication(sys.argv[:1])
    theme.dress(app)
    return app


def _timed(kind: type, name: str, spent: dict[str, float], to: str, count: str = "") -> Callable[[], None]:
    """Let a method add its time to a sum, and one to a count; return what puts it back."""
    old = getattr(kind, name)

    def timed(self: Any, *args: Any, **more: Any) -> Any:
        start = time.perf_counter()
        try:
            return old(self, *args, **more)
        finally:
            spent[to] += time.perf_counter() - start
            if count:
                spent[count] += 1

    setattr(kind, name, timed)
    return lambda: setattr(kind, name, old)


def _until(app: Any, holds: Callable[[], bool], seconds: float) -> None:
    end = time.monotonic() + seconds
    while not holds() and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.001)

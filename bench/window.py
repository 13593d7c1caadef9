"""How long the window takes for a frame while it plays, panel by panel."""

from __future__ import annotations

import itertools
import statistics
import time
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

from pale_ember.app.recipe.recipe import Recipe
from pale_ember.app.stage.stage import Stage
from pale_ember.app.strip.axis import Axis
from pale_ember.app.strip.film import Film
from pale_ember.app.strip.lane import Lane
from pale_ember.app.strip.life_strip import LifeStrip
from pale_ember.app.timeline.layer_rows import LayerRows
from pale_ember.app.timeline.timeline import Ruler
from pale_ember.app.window.application import new_application
from pale_ember.app.window.main_window import MainWindow
from pale_ember.app.window.top_bar import TopBar
from pale_ember.effect.effect import Effect

# What the panels do for a frame, apart from the stage's own drawing.
WORK: tuple[tuple[type, str], ...] = (
    (LayerRows, "paintEvent"),
    (LayerRows, "_clock"),
    (Ruler, "paintEvent"),
    (Recipe, "_problems"),
    (LifeStrip, "refresh"),
    (LifeStrip, "_measure"),
    (Lane, "paintEvent"),
    (Axis, "paintEvent"),
    (Film, "paintEvent"),
    (Film, "draw"),
    (TopBar, "refresh_clock"),
    (TopBar, "refresh_cost"),
)


def measure_panels(effect: Effect, frames: int = 60) -> dict[str, float]:
    """Play an effect in the real window and return milliseconds a frame.

    Returns
    -------
    dict
        ``panels_ms``: timeline, top bar, recipe and strip together, median; ``thumbnail_ms``: one small
        picture.
    """
    app = QApplication.instance() or new_application()
    spent: dict[str, float] = {"panels": 0.0, "thumbnail": 0.0, "pictures": 0.0}
    undo = [_timed(kind, name, spent, "panels") for kind, name in WORK]
    undo.append(_timed(Stage, "small_picture_of", spent, "thumbnail", "pictures"))
    window = opened(effect)
    try:
        until(app, lambda: window.session.moment_number > 3, 120.0)
        rows: list[float] = []
        window.stage.drawn.connect(lambda: rows.append(spent["panels"]))
        until(app, lambda: len(rows) > frames, 60.0)
        each = [(b - a) * 1e3 for a, b in itertools.pairwise(rows)]
        pictures = max(spent["pictures"], 1.0)
        return {"panels_ms": statistics.median(each), "thumbnail_ms": spent["thumbnail"] / pictures * 1e3}
    finally:
        window.shut()
        window.hide()
        for put_back in undo:
            put_back()


def measure_play(effect: Effect, seconds: float = 6.0) -> dict[str, float]:
    """Play an effect in the real window at 1280x800.

    Returns
    -------
    dict
        ``per_second``: pictures of the stage; ``longest_ms``: between two of them, the 95th percentile;
        ``share``: of the picture's size, at the end.
    """
    app = QApplication.instance() or new_application()
    window = opened(effect)
    try:
        until(app, lambda: window.session.moment_number > 3, 120.0)
        until(app, lambda: False, 2.0)
        drawn: list[float] = []
        window.stage.drawn.connect(lambda: drawn.append(time.perf_counter()))
        until(app, lambda: False, seconds, 0.0005)
        gaps = sorted(b - a for a, b in itertools.pairwise(drawn))
        return {
            "per_second": len(gaps) / (drawn[-1] - drawn[0]),
            "longest_ms": gaps[int(0.95 * len(gaps))] * 1e3,
            "share": window.stage.share,
        }
    finally:
        window.shut()
        window.hide()


def measure_drag(effect: Effect, path: str, moves: int = 40) -> dict[str, float]:
    """Drag a key in the life strip of the real window at 1280x800 and return milliseconds from each move of
    the mouse until strip and stage show it, simulation included.

    Parameters
    ----------
    effect : Effect
        Its first layer has a curve along life at ``path`` with three keys or more; the second one is dragged.

    Returns
    -------
    dict
        ``drag_ms`` and ``drag_most_ms``: median and longest; ``alive``: how many particles there are.
    """
    app = QApplication.instance() or new_application()
    window = opened(effect)
    session, stage = window.session, window.stage
    try:
        until(app, lambda: session.moment_number > 0, 200.0)
        session.play(False)
        session.seek(effect.duration / 2)
        until(
            app,
            lambda: session.moment_number == session.asked_number and bool(window.strip.film.images),
            20.0,
        )
        # Snapshots are taken while nothing is asked for; that is not what is measured.
        until(app, lambda: False, 2.0)
        lane = window.strip.lanes[path]
        start = lane.place_of((lane.path, 0, 1))
        alive, taken = session.moment.alive, []
        _mouse(lane, QEvent.Type.MouseButtonPress, start)
        for i in range(moves):
            before, began = session.effect, time.perf_counter()
            _mouse(lane, QEvent.Type.MouseMove, start + QPointF(12 + 2 * (i % 10), 3 - i % 7))
            if session.effect is before:
                continue
            asked, film = session.asked_number, window.strip.film

            def shown(asked: int = asked, film: Any = film) -> bool:
                drawn = film.layer is session.layer
                return session.moment_number >= asked and stage.shows(session.moment) and drawn

            until(app, shown, 5.0, 0.0)
            taken.append((time.perf_counter() - began) * 1e3)
        _mouse(lane, QEvent.Type.MouseButtonRelease, start)
        return {"alive": alive, "drag_ms": statistics.median(taken), "drag_most_ms": max(taken)}
    finally:
        window.shut()
        window.hide()


def opened(effect: Effect) -> MainWindow:
    """Return the real window on an effect, at 1280x800."""
    window = MainWindow(effect)
    window.resize(1280, 800)
    window.show()
    window.arrange()
    return window


def _mouse(widget: QWidget, kind: QEvent.Type, at: QPointF) -> None:
    moves, released = kind == QEvent.Type.MouseMove, kind == QEvent.Type.MouseButtonRelease
    left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
    where = QPointF(widget.mapToGlobal(at.toPoint()))
    event = QMouseEvent(
        kind, at, where, none if moves else left, none if released else left, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(widget, event)


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


def until(app: Any, holds: Callable[[], bool], seconds: float, rest: float = 0.001) -> None:
    """Let the window work until something holds, or for so many seconds."""
    end = time.monotonic() + seconds
    while not holds() and time.monotonic() < end:
        app.processEvents()
        if rest:
            time.sleep(rest)

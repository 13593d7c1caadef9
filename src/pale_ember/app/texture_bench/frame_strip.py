"""The bench's life strip: the step's numbers as curves along the frames of the sheet."""

from __future__ import annotations

import functools
from typing import Any

from PyQt6.QtCore import pyqtSignal

from ...effect.rules.fields import FieldKind
from ...effect.values.colors import Stop
from ...effect.values.values import Band, Curve
from ..session.color_picking import ColorPlace
from ..strip.axis import Axis
from ..strip.color_lane import ColorLane
from ..strip.curve_lane import CurveLane
from ..strip.lane import Lane
from ..strip.lane_column import LaneColumn
from ..strip.lane_menu import open_lane_menu
from .bench import Bench
from .frame_film import FrameFilm

NOTHING = "Choose a step: its numbers are shaped along the frames here."
STILL = "This step has no numbers that could go along the frames."


class FrameAxis(Axis):
    """Shares of the sheet, and its frames."""

    def second_row(self, share: float) -> str:
        bench = getattr(self.strip, "bench", None)
        texture = bench.texture if bench is not None else None
        if texture is None or texture.made < 2:
            return ""
        return f"{round(share * (texture.made - 1))}"


class FrameStrip(LaneColumn):
    """The sheet's frames, and under them a lane for each number of the step in view."""

    color_wanted = pyqtSignal(object, str)

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        super().__init__(bench.session, FrameAxis)
        self.setAccessibleName("Frame strip")
        self.film = FrameFilm(self, bench)
        for widget in (self.film, self.axis):
            self.whole.addWidget(widget)
        self.whole.addWidget(self.area, 1)
        self.whole.addWidget(self.exact)
        self._shape: tuple[Any, ...] = ()
        # Lanes that the artist folded or unfolded, by kind of step and field.
        self._turned: dict[tuple[str, str], bool] = {}
        bench.changed.connect(self._changed)
        self.session.cursor_changed.connect(self._cursor)

    @property
    def axis_name(self) -> str:
        return "frames"

    def room_changed(self) -> None:
        super().room_changed()
        self.film.update()

    def _changed(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show the lanes of the step in view."""
        step = self.bench.step
        rules = {} if step is None else type(step).rules()
        rows = [
            (name, rule) for name, rule in rules.items() if rule.kind in (FieldKind.VALUE, FieldKind.STOPS)
        ]
        # The step's own fields come before those that all steps share.
        rows.sort(
            key=lambda row: (
                self.order.index(row[0]) if row[0] in self.order else len(self.order),
                row[0] == "strength",
            )
        )
        shape = (
            (type(step), self.bench.step_path(""), *(name for name, _ in rows)) if step is not None else ()
        )
        self.empty.setVisible(not rows)
        self.empty.setText(NOTHING if step is None else STILL)
        if shape != self._shape:
            self._shape = shape
            self.selection.let_go()
            self.alone = ""
            lanes: dict[str, Lane] = {}
            for name, rule in rows:
                kind = ColorLane if rule.kind == FieldKind.STOPS else CurveLane
                lane = kind(self, self.bench.step_path(name), rule)
                lane.menu_wanted.connect(functools.partial(open_lane_menu, lane))
                lanes[name] = lane
            self.put_lanes(lanes)
        self._fold()
        self.show_values()
        self.film.refresh()

    def _fold(self) -> None:
        """Fold what has no curve, unless the artist wished otherwise."""
        kind = self.bench.step.step if self.bench.step is not None else ""
        self.folded = set()
        for name, lane in self.lanes.items():
            curved = isinstance(lane.value, Curve | Band | tuple)
            if self._turned.get((kind, name), not curved):
                self.folded.add(name)
            wanted = name in self.folded and name != self.alone
            if lane.folded != wanted:
                lane.fold(wanted)

    def toggle_fold(self, lane: Lane) -> None:
        name = self.path_of(lane)
        if self.bench.step is not None:
            self._turned[(self.bench.step.step, name)] = name not in self.folded
        self._fold()

    def show_lane(self, path: str) -> None:
        """Bring the lane of a path of the effect into view and give it the focus."""
        name = path.rpartition("].")[2].partition("[")[0]
        lane = self.lanes.get(name)
        if lane is None:
            return
        if self.bench.step is not None:
            self._turned[(self.bench.step.step, name)] = False
        self._fold()
        self.area.ensureWidgetVisible(lane)
        lane.setFocus()

    def pick_stops(self) -> None:
        places = [
            ColorPlace("", path, side, index)
            for (path, side, index), point in self.selection.points()
            if isinstance(point, Stop)
        ]
        if places:
            self.color_wanted.emit(
                tuple(places), f"{'Stop' if len(places) == 1 else 'Stops'} of {self.bench.name}"
            )

    def _cursor(self) -> None:
        if self.isVisible():
            for lane in self.lanes.values():
                lane.update()
            self.axis.update()

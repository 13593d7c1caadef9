"""The life strip: what a particle does from birth to death, lane over lane on one axis, under its
filmstrip.
"""

from __future__ import annotations

import functools
import json
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QMenu
from superqt.utils import QSignalThrottler

from ...effect.rules.edit import get
from ...effect.rules.fields import FieldKind
from ...effect.rules.paths import FieldPath
from ...effect.values.colors import Stop
from ..session.color_picking import ColorPlace
from ..session.session import Session
from ..stage.stage import Stage
from ..widgets.turned import is_turned_away
from .axis import Axis
from .color_lane import ColorLane
from .curve_lane import CurveLane
from .film import Film
from .lane import Lane
from .lane_column import LaneColumn
from .lane_list import AXES, NOTHING, lanes_of, property_of
from .lane_list_menu import fill_lane_list
from .lane_menu import open_lane_menu
from .measured import EVERY
from .tracks import axis_of


class LifeStrip(LaneColumn):
    """Filmstrip, axis, lanes, and the exact numbers of the held keys."""

    axis_changed = pyqtSignal()
    color_wanted = pyqtSignal(object, str)  # places in the effect, and their words

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(session, Axis)
        self.stage = stage
        self._shape: tuple[Any, ...] = ()
        self.setAccessibleName("Life strip")
        self.film = Film(self, stage)
        for widget in (self.film, self.axis):
            self.whole.addWidget(widget)
        self.whole.addWidget(self.area, 1)
        self.whole.addWidget(self.exact)
        session.effect_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.moment_changed.connect(self._measure)
        # Without a timer the last measurement would only be shown when another moment comes.
        self._tell_later = QSignalThrottler(parent=self)
        self._tell_later.setTimeout(round(EVERY * 1000))
        self._tell_later.triggered.connect(self._tell)
        session.shown_changed.connect(self.film.refresh)
        session.textures_changed.connect(self.film.refresh)
        session.cursor_changed.connect(self._cursor)
        self.refresh()

    @property
    def lifetime(self) -> float | None:
        """Return the lifetime of the particle in view, s."""
        return self.film.lifetime

    def pick_stops(self) -> None:
        """Ask for another colour of the held stops, in all selected layers."""
        places, lanes = [], {}
        for (path, side, index), point in self.selection.points():
            lane = self.selection.lane_of(path)
            if isinstance(point, Stop) and lane is not None:
                lanes[lane.rule.label] = lane
                rest = FieldPath(path).in_layer
                places += [ColorPlace(layer_id, rest, side, index) for layer_id in self.session.chosen_first]
        if places:
            layer = self.session.layer
            owner = layer.name if layer is not None else ""
            self.color_wanted.emit(
                tuple(places),
                f"{'Stop' if len(places) == 1 else 'Stops'} of {', '.join(lanes).lower()} of {owner}",
            )

    @property
    def axis_name(self) -> str:
        """Return what the axis in view is: life, clock or speed."""
        return self.session.strip_axis

    # Showing

    def show_axis(self, name: str) -> None:
        """Show the lanes of life, of the clock or of speed."""
        if name in AXES and name != self.axis_name:
            self.session.strip_axis = name
            self.selection.let_go()
            self.refresh()
            self.axis_changed.emit()

    def refresh(self) -> None:
        """Show the lanes that the selected layer has now; nothing while something else is in this place."""
        if is_turned_away(self):
            return
        layer = self.session.layer
        rows = lanes_of(layer, self.axis_name, self.added, self.order) if layer else []
        shape = (
            layer.id if layer else "",
            self.session.effect.index(layer.id) if layer else -1,
            self.axis_name,
            *(row.path for row in rows),
        )
        self.film.setVisible(layer is not None and self.axis_name == "life")
        self.axis.setVisible(layer is not None)
        self.empty.setVisible(not rows)
        self.empty.setText(NOTHING["life" if layer is None else self.axis_name])
        if shape != self._shape:
            self._build(rows, shape)
        self.show_values()
        self.film.refresh()

    def _build(self, rows: list[Any], shape: tuple[Any, ...]) -> None:
        """Put film, lanes and axis under one another."""
        same_layer = shape[:3] == self._shape[:3]
        self._shape = shape
        if not same_layer:
            self.selection.let_go()
        lanes: dict[str, Lane] = {}
        for row in rows:
            lane = self.lanes.get(row.path) if same_layer else None
            if lane is None:
                kind = ColorLane if row.rule.kind == FieldKind.COLOR_VALUE else CurveLane
                lane = kind(self, self.session.layer_path(row.path), row.rule)
                lane.menu_wanted.connect(functools.partial(open_lane_menu, lane))
            lanes[row.path] = lane
        self.put_lanes(lanes)

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.film.fit()

    def room_changed(self) -> None:
        super().room_changed()
        self.film.refresh()

    def _cursor(self) -> None:
        for lane in self.lanes.values():
            lane.update()
        self.axis.update()
        self.film.update()
        if self.session.picked is not None or self.film.life is None:
            self.film.refresh()

    def _measure(self) -> None:
        """Take measures of the moment, and draw their lines anew now and then."""
        if is_turned_away(self):
            return
        if not self.film.images:
            self.film.refresh()
        wanted = [
            self.lanes[path]
            for path in ("look.grow", "flight.pace", "flight.top_speed")
            if path in self.lanes
        ]
        if self.session.hasty or not self.isVisible() or not wanted:
            return
        if self.measured.take(self.stage.height()):
            for lane in wanted:
                lane.update()
        elif self.measured.pending:
            self._tell_later.throttle()

    def _tell(self) -> None:
        """Show what was gathered last, if no more moments come that would bring it along."""
        if self.measured.pending:
            self.measured.tell()
            for lane in self.lanes.values():
                lane.update()

    def show_lane(self, path: str) -> None:
        """Bring the lane of a Value into view, on its own axis, and give it the focus; ``path`` is the
        whole one.
        """
        layer = self.session.layer
        rest = property_of(layer, FieldPath(path).in_layer) if layer is not None else ""
        if not rest:
            return
        self.show_axis(axis_of(get(self.session.effect, self.session.layer_path(rest))) or self.axis_name)
        if rest not in self.lanes:
            self.add_lane(rest)
        lane = self.lanes.get(rest)
        if lane is None:
            return
        if self.alone and self.alone != rest:
            self.alone = ""
            self._show_alone()
        if lane.folded:
            self.toggle_fold(lane)
        self.area.ensureWidgetVisible(lane)
        lane.setFocus()

    # LayerRows

    def add_lane(self, path: str) -> None:
        """Show a property's lane on the axis in view."""
        self.added.add(path)
        self.refresh()
        if path in self.lanes:
            self.lanes[path].setFocus()

    def arrangement(self) -> str:
        """Return the lanes' order and which are folded, to be kept for the next time."""
        return json.dumps({"order": self.order, "folded": sorted(self.folded)})

    def arrange(self, kept: object) -> None:
        """Take up what :meth:`arrangement` gave the last time, if it is that."""
        try:
            data = json.loads(kept) if isinstance(kept, str) else {}
            order, folded = data.get("order", []), data.get("folded", [])
        except (ValueError, AttributeError):
            return
        if all(isinstance(path, str) for path in (*order, *folded)):
            self.order, self.folded = list(order), set(folded)
            self._shape = ()
            self.refresh()

    def lane_menu(self) -> QMenu:
        """Return the list of all properties that may run along the axis, with what the layer has in each
        now.
        """
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        fill_lane_list(menu, self.session, self.axis_name, self.lanes, self.show_lane)
        return menu

    # A box over keys

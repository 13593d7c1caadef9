"""The life strip: what a particle does from birth to death, lane over lane on one axis, under its filmstrip."""

from __future__ import annotations

import functools
import json
from typing import Any

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QLabel, QMenu, QScrollArea, QVBoxLayout, QWidget
from superqt.utils import QSignalThrottler

from ...effect.colors import Stop
from ...effect.edit import get, inside_layer
from ..session.color_picking import ColorPlace
from ..session.session import Session
from ..stage.stage import Stage
from ..widgets import theme
from .axis import Axis
from .band import Band
from .color_lane import ColorLane
from .curve_lane import CurveLane
from .exact import Exact
from .film import Film
from .key_selection import KeySelection
from .lane import Lane
from .lane_list import AXES, NOTHING, lanes_of, property_of
from .lane_list_menu import fill_lane_list
from .lane_menu import open_lane_menu
from .measured import EVERY, Measured
from .tracks import axis_of


class LifeStrip(QWidget):
    """Filmstrip, axis, lanes, and the exact numbers of the held keys."""

    axis_changed = pyqtSignal()
    color_wanted = pyqtSignal(object, str)  # places in the effect, and their words

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        self.session, self.stage = session, stage
        self.selection = KeySelection(session, self._all_lanes)
        self.measured = Measured(session)
        self.lanes: dict[str, Lane] = {}
        self.added: set[str] = set()
        self.order: list[str] = []
        self.folded: set[str] = set()
        self.alone = ""
        self.seed = 0
        self._shape: tuple[Any, ...] = ()
        self.setAccessibleName("Life strip")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.film = Film(self, stage)
        self.axis = Axis(self)
        column.addWidget(self.film)
        column.addWidget(self.axis)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.holder = QWidget()
        self.column = QVBoxLayout(self.holder)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(1)
        self.empty = QLabel()
        self.empty.setWordWrap(True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setStyleSheet(f"color: {theme.DIM};")
        self.column.addWidget(self.empty)
        self.area.setWidget(self.holder)
        bar = self.area.verticalScrollBar()
        assert bar is not None
        bar.rangeChanged.connect(self._room_changed)
        self.band = Band(self.holder)
        column.addWidget(self.area, 1)
        self.exact = Exact(self)
        column.addWidget(self.exact)
        session.effect_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.moment_changed.connect(self._measure)
        # What was gathered last is told even if no more moments come that would bring it along.
        self._tell_later = QSignalThrottler(parent=self)
        self._tell_later.setTimeout(round(EVERY * 1000))
        self._tell_later.triggered.connect(self._tell)
        session.shown_changed.connect(self.film.refresh)
        session.textures_changed.connect(self.film.refresh)
        session.cursor_changed.connect(self._cursor)
        self.selection.changed.connect(self._keys)
        self.setMinimumSize(300, 150)
        self.refresh()

    @property
    def bar_room(self) -> int:
        """Return what the lanes' scroll bar takes of their width."""
        seen = self.area.viewport()
        return self.area.width() - seen.width() if seen is not None and self.area.isVisible() else 0

    @property
    def lifetime(self) -> float | None:
        """Return the lifetime of the particle in view, s."""
        return self.film.lifetime

    @property
    def lane_paths(self) -> list[str]:
        """Return the paths in the layer of the lanes in view, from top to bottom."""
        return list(self.lanes)

    def touch_axis(self) -> None:
        self.axis.update()

    def pick_stops(self) -> None:
        """Ask for another colour of the held stops, in all selected layers."""
        places, lanes = [], {}
        for (path, side, index), point in self.selection.points():
            lane = self.selection.lane_of(path)
            if isinstance(point, Stop) and lane is not None:
                lanes[lane.rule.label] = lane
                rest = inside_layer(path)
                places += [ColorPlace(layer_id, rest, side, index) for layer_id in self.session.chosen_first]
        if places:
            layer = self.session.layer
            owner = layer.name if layer is not None else ""
            self.color_wanted.emit(tuple(places), f"{'Stop' if len(places) == 1 else 'Stops'} of {', '.join(lanes).lower()} of {owner}")

    def lane_in_focus(self) -> Lane | None:
        """Return the lane that has the focus."""
        return next((lane for lane in self.lanes.values() if lane.hasFocus()), None)

    def _all_lanes(self) -> list[Lane]:
        return list(self.lanes.values())

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
        """Show the lanes that the selected layer has now."""
        layer = self.session.layer
        rows = lanes_of(layer, self.axis_name, self.added, self.order) if layer else []
        shape = (layer.id if layer else "", self.session.effect.index(layer.id) if layer else -1, self.axis_name,
                 *(row.path for row in rows))  # fmt: skip
        self.film.setVisible(layer is not None and self.axis_name == "life")
        self.axis.setVisible(layer is not None)
        self.empty.setVisible(not rows)
        self.empty.setText(NOTHING["life" if layer is None else self.axis_name])
        if shape != self._shape:
            self._build(rows, shape)
        for lane in self.lanes.values():
            # Values are frozen: only one that is another object has changed.
            value = lane.value
            if value is not lane.painted:
                lane.painted = value
                lane.update()
        self.selection.refresh()
        self.exact.refresh()
        if not self.session.hasty:
            self.axis.update()
        self.film.refresh()

    def _build(self, rows: list[Any], shape: tuple[Any, ...]) -> None:
        focused = next((path for path, lane in self.lanes.items() if lane.hasFocus()), "")
        same_layer = shape[:3] == self._shape[:3]
        self._shape = shape
        old = self.lanes
        if not same_layer:
            self.selection.let_go()
        self.lanes = {}
        for row in rows:
            whole = self.session.layer_path(row.path)
            kind = ColorLane if row.rule.kind == "color_value" else CurveLane
            kept = old.pop(row.path, None) if same_layer else None
            lane = kept
            if lane is None:
                lane = kind(self, whole, row.rule)
                lane.menu_wanted.connect(functools.partial(open_lane_menu, lane))
            self.lanes[row.path] = lane
        for lane in old.values():
            self.column.removeWidget(lane)
            lane.hide()
            lane.deleteLater()
        for lane in self.lanes.values():
            self.column.removeWidget(lane)
            self.column.addWidget(lane, 1)
        self._show_alone()
        if focused in self.lanes:
            self.lanes[focused].setFocus()

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.film.fit()

    def _room_changed(self) -> None:
        self.axis.update()
        self.film.refresh()

    def _show_alone(self) -> None:
        alone = self.alone if self.alone in self.lanes else ""
        for path, lane in self.lanes.items():
            lane.setVisible(not alone or path == alone)
            lane.fold(path in self.folded and path != alone)

    def _cursor(self) -> None:
        for lane in self.lanes.values():
            lane.update()
        self.axis.update()
        self.film.update()
        if self.session.picked is not None or self.film.life is None:
            self.film.refresh()

    def _keys(self) -> None:
        for lane in self.lanes.values():
            lane.update()
        self.axis.update()

    def _measure(self) -> None:
        if not self.film.images:
            self.film.refresh()
        wanted = [self.lanes[path] for path in ("look.grow", "flight.pace", "flight.top_speed") if path in self.lanes]
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
        """Bring the lane of a Value into view, on its own axis, and give it the focus; ``path`` is the whole one."""
        layer = self.session.layer
        rest = property_of(layer, inside_layer(path)) if layer is not None else ""
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

    def in_focus(self, lane: Lane) -> None:
        """Bring a lane that is entered by the keyboard into view."""
        self.area.ensureWidgetVisible(lane, 0, 4)

    # LayerRows

    def path_of(self, lane: Lane) -> str:
        return next((path for path, one in self.lanes.items() if one is lane), "")

    def add_lane(self, path: str) -> None:
        """Show a property's lane on the axis in view."""
        self.added.add(path)
        self.refresh()
        if path in self.lanes:
            self.lanes[path].setFocus()

    def hide_lane(self, lane: Lane) -> None:
        """Put a lane without a curve away again."""
        self.added.discard(self.path_of(lane))
        self.refresh()

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
        """Return the list of all properties that may run along the axis, with what the layer has in each now."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        fill_lane_list(menu, self.session, self.axis_name, self.lanes, self.show_lane)
        return menu

    def toggle_fold(self, lane: Lane) -> None:
        path = self.path_of(lane)
        self.folded ^= {path}
        lane.fold(path in self.folded)

    def toggle_alone(self, lane: Lane) -> None:
        """Show one lane alone, as high as there is room for, or all again."""
        path = self.path_of(lane)
        self.alone = "" if self.alone == path else path
        self._show_alone()

    def drag_lane(self, lane: Lane, at: QPointF) -> None:
        """Move a lane to where the mouse is among the others."""
        y = lane.mapTo(self.holder, at.toPoint()).y()
        for path, other in self.lanes.items():
            if other is not lane and other.isVisible() and other.y() <= y < other.y() + other.height():
                self.move_lane(self.path_of(lane), list(self.lanes).index(path))
                return

    def move_lane(self, path: str, to: int) -> None:
        """Move a lane to a place among the others."""
        order = [one for one in self.lanes if one != path]
        order.insert(min(max(to, 0), len(order)), path)
        self.order = [*order, *(one for one in self.order if one not in order)]
        self.refresh()

    # A box over keys

    def begin_box(self, lane: Lane, at: QPointF, also: bool) -> None:
        self.band.begin(lane.mapTo(self.holder, at.toPoint()), set(self.selection.held) if also else set())
        self.selection.take_all(self.band.before)

    def drag_box(self, lane: Lane, at: QPointF) -> None:
        """Hold all keys inside the box, in all lanes."""
        self.band.drag(lane.mapTo(self.holder, at.toPoint()))
        self.selection.take_all(self.band.holding(self.lanes.values()))

    def end_box(self) -> None:
        self.band.hide()

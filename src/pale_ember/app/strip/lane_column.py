"""A column of lanes on one axis: what stays the same whatever the lanes are about."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QSizePolicy, QSpacerItem, QVBoxLayout, QWidget

from ..session.session import Session
from ..widgets import theme
from .axis import Axis
from .band import Band
from .exact import Exact
from .host import Host
from .key_selection import KeySelection
from .lane import Lane
from .measured import Measured


class LaneColumn(QWidget):
    """Lanes under an axis, the exact numbers of the held keys below; subclasses say which lanes there are.

    Parameters
    ----------
    make_axis : callable
        Makes the axis over the lanes.
    """

    def __init__(self, session: Session, make_axis: Callable[[Host], Axis]) -> None:
        super().__init__()
        self.session = session
        self.selection = KeySelection(session, self._all_lanes)
        self.measured = Measured(session)
        self.lanes: dict[str, Lane] = {}
        self.added: set[str] = set()
        self.order: list[str] = []
        self.folded: set[str] = set()
        self.alone = ""
        self.seed = 0
        self.whole = QVBoxLayout(self)
        self.whole.setContentsMargins(0, 0, 0, 0)
        self.whole.setSpacing(0)
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
        self._rest = QSpacerItem(0, 0, QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Expanding)
        self.column.addItem(self._rest)
        self.area.setWidget(self.holder)
        bar = self.area.verticalScrollBar()
        assert bar is not None
        bar.rangeChanged.connect(self.room_changed)
        self.band = Band(self.holder)
        self.axis = make_axis(self)
        self.exact = Exact(self)
        self.selection.changed.connect(self._keys)
        self.setMinimumSize(300, 150)

    # To be filled in by each kind of column

    @property
    def axis_name(self) -> str:
        """Return what the lanes run along."""
        raise NotImplementedError

    @property
    def lifetime(self) -> float | None:
        """Return how long the whole axis lasts, s, if that is known."""
        return None

    def refresh(self) -> None:
        """Show the lanes that there are now."""
        raise NotImplementedError

    def room_changed(self) -> None:
        """Redraw the axis above the lanes: a scroll bar has come or gone."""
        self.axis.update()

    def pick_stops(self) -> None:
        """Ask for another colour of the held stops."""
        raise NotImplementedError

    def hide_lane(self, lane: Lane) -> None:
        """Put a lane without a curve away again."""
        self.added.discard(self.path_of(lane))
        self.refresh()

    # What all have

    def show_values(self) -> None:
        """Draw those lanes anew whose values are others."""
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

    def put_lanes(self, lanes: dict[str, Lane]) -> None:
        """Put other lanes into the column; those that are among them stay as they are."""
        focused = next((path for path, lane in self.lanes.items() if lane.hasFocus()), "")
        kept = set(map(id, lanes.values()))
        for lane in self.lanes.values():
            self.column.removeWidget(lane)
            if id(lane) not in kept:
                lane.hide()
                lane.deleteLater()
        self.lanes = lanes
        for lane in lanes.values():
            self.column.addWidget(lane, 1)
        # Where all are folded they stand together at the top.
        self.column.removeItem(self._rest)
        self.column.addItem(self._rest)
        self._show_alone()
        if focused in lanes:
            lanes[focused].setFocus()

    @property
    def bar_room(self) -> int:
        """Return what the lanes' scroll bar takes of their width."""
        seen = self.area.viewport()
        return self.area.width() - seen.width() if seen is not None and self.area.isVisible() else 0

    @property
    def lane_paths(self) -> list[str]:
        """Return the paths in the layer of the lanes in view, from top to bottom."""
        return list(self.lanes)

    def touch_axis(self) -> None:
        self.axis.update()

    def lane_in_focus(self) -> Lane | None:
        """Return the lane that has the focus."""
        return next((lane for lane in self.lanes.values() if lane.hasFocus()), None)

    def _all_lanes(self) -> list[Lane]:
        return list(self.lanes.values())

    def _show_alone(self) -> None:
        alone = self.alone if self.alone in self.lanes else ""
        for path, lane in self.lanes.items():
            lane.setVisible(not alone or path == alone)
            lane.fold(path in self.folded and path != alone)

    def _keys(self) -> None:
        for lane in self.lanes.values():
            lane.update()
        self.axis.update()

    def in_focus(self, lane: Lane) -> None:
        """Bring a lane that is entered by the keyboard into view."""
        self.area.ensureWidgetVisible(lane, 0, 4)

    def path_of(self, lane: Lane) -> str:
        return next((path for path, one in self.lanes.items() if one is lane), "")

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

    def begin_box(self, lane: Lane, at: QPointF, also: bool) -> None:
        self.band.begin(lane.mapTo(self.holder, at.toPoint()), set(self.selection.held) if also else set())
        self.selection.take_all(self.band.before)

    def drag_box(self, lane: Lane, at: QPointF) -> None:
        """Hold all keys inside the box, in all lanes."""
        self.band.drag(lane.mapTo(self.holder, at.toPoint()))
        self.selection.take_all(self.band.holding(self.lanes.values()))

    def end_box(self) -> None:
        self.band.hide()

"""The life strip: what a particle does from birth to death, lane over lane on one axis of age."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ..effect.chapters import Look
from ..effect.colors import ColorValue
from ..effect.curves import EASES, Key
from ..effect.edit import get
from ..effect.effect import Layer
from ..effect.fields import Rule
from ..effect.values import Band, Curve, Vec3Value
from . import theme
from .arithmetic import shown
from .color_lane import ColorLane
from .curve_lane import CurveLane
from .lane import HEAD, RIGHT, Lane
from .number_box import NumberBox
from .session import Session

ALWAYS = ("look.grow", "look.opacity", "look.color", "look.intensity")


def lanes_of(layer: Layer) -> list[tuple[str, Rule]]:
    """Return the lanes of a layer: the four of the look, and all else that has a curve."""
    found = [(path, Look.rules()[path.partition(".")[2]]) for path in ALWAYS]
    chapters = (("emit", layer.emit), ("launch", layer.launch), ("flight", layer.flight), ("look", layer.look))
    for chapter, part in chapters:
        for name, rule in type(part).rules().items():
            value = getattr(part, name)
            path = f"{chapter}.{name}"
            if isinstance(value, Vec3Value):
                found += [(f"{path}[{i}]", rule) for i, one in enumerate(value) if isinstance(one, Curve | Band)]
            elif path not in ALWAYS and (
                isinstance(value, Curve | Band) or (isinstance(value, ColorValue) and value.along)
            ):
                found.append((path, rule))
    return found


class LifeStrip(QWidget):
    """The lanes of the selected layer and the exact numbers of the selected key."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName("Life strip")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.axis = Axis(session)
        column.addWidget(self.axis)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        holder = QWidget()
        self.column = QVBoxLayout(holder)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(1)
        self.empty = QLabel("Select a layer to shape its life.")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setStyleSheet(f"color: {theme.DIM};")
        self.column.addWidget(self.empty)
        self.area.setWidget(holder)
        column.addWidget(self.area, 1)
        self.exact = Exact(session)
        column.addWidget(self.exact)
        self.lanes: dict[str, Lane] = {}
        self._shape: tuple[Any, ...] = ()
        session.effect_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        self.setMinimumSize(360, 120)
        self.refresh()

    def refresh(self) -> None:
        """Show the lanes that the selected layer has now."""
        layer = self.session.layer
        rows = lanes_of(layer) if layer else []
        shape = (layer.id if layer else "", self.session.effect.index(layer.id) if layer else -1, *(p for p, _ in rows))
        self.empty.setVisible(not rows)
        if shape != self._shape:
            self._shape = shape
            for lane in self.lanes.values():
                self.column.removeWidget(lane)
                lane.hide()
                lane.deleteLater()
            self.lanes = {}
            self.exact.show_lane(None)
            for path, rule in rows:
                whole = self.session.layer_path(path)
                kind = ColorLane if isinstance(get(self.session.effect, whole), ColorValue) else CurveLane
                lane = kind(self.session, whole, rule)
                lane.picked.connect(self.exact.show_lane)
                self.lanes[path] = lane
                self.column.addWidget(lane, 0 if kind is ColorLane else 1)
        for lane in self.lanes.values():
            # Values are frozen: only one that is another object has changed.
            value = lane.value
            if value is not lane.painted:
                lane.painted = value
                lane.update()
        self.exact.refresh()

    def show_lane(self, path: str) -> None:
        """Bring a lane into view and give it the focus; ``path`` is the whole one."""
        for lane in self.lanes.values():
            if lane.path == path:
                self.area.ensureWidgetVisible(lane)
                lane.setFocus()
                return


class Axis(QWidget):
    """Age in shares of life, over all lanes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(24)
        self.setToolTip("Age, from birth to death")

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color(theme.ASH_0))
        painter.setFont(theme.font(11))
        width = self.width() - HEAD - RIGHT
        for i in range(0, 11, 2):
            x = HEAD + width * i / 10
            painter.setPen(QPen(theme.color(theme.ASH_4)))
            painter.drawLine(QPointF(x, 18), QPointF(x, 24))
            painter.setPen(theme.color(theme.DIM))
            text = {0: "birth", 10: "death"}.get(i, f"{i / 10:g}")
            wide = painter.fontMetrics().horizontalAdvance(text)
            left = min(max(x - wide / 2, HEAD), self.width() - wide - 3)
            painter.drawText(QPointF(left, 14), text)
        painter.setPen(theme.color(theme.DIM))
        painter.drawText(QPointF(10, 14), "Age")
        painter.end()


class Exact(QWidget):
    """The selected key's numbers and ease, to be typed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.lane: Lane | None = None
        self.words: dict[QWidget, QLabel] = {}
        self.setFixedHeight(30)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 3, 10, 3)
        row.setSpacing(6)
        self.said = QLabel()
        self.said.setStyleSheet(f"color: {theme.DIM};")
        # It gives way to the fields instead of widening the panel.
        self.said.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.said, 1)
        self.age = NumberBox((0, 1), (0, 1), 3)
        self.age.setAccessibleName("Key age")
        self.age.setToolTip("The key's age, 0 at birth, 1 at death")
        self.level = NumberBox()
        self.level.setAccessibleName("Key value")
        self.level.setToolTip("The key's value")
        self.ease = QComboBox()
        self.ease.addItems(EASES)
        self.ease.setAccessibleName("Key ease")
        self.ease.setToolTip("How the curve goes on from this key")
        self.color = QPushButton("Colour …")
        self.color.setToolTip("Choose the stop's colour")
        for label, widget in (("age", self.age), ("value", self.level), ("", self.ease), ("", self.color)):
            if label:
                widget.setFixedWidth(58)
                text = QLabel(label)
                text.setStyleSheet(f"color: {theme.DIM};")
                row.addWidget(text)
                self.words[widget] = text
            row.addWidget(widget)
        self.age.edited.connect(self._set_age)
        self.level.edited.connect(self._set_level)
        self.ease.textActivated.connect(self._set_ease)
        self.color.clicked.connect(self._pick)
        self.refresh()

    def show_lane(self, lane: Lane | None) -> None:
        self.lane = lane
        self.refresh()

    @property
    def point(self) -> Any:
        if self.lane is None or self.lane.key < 0:
            return None
        points = self.lane.points(self.lane.side)
        return points[self.lane.key] if self.lane.key < len(points) else None

    def refresh(self) -> None:
        point = self.point
        is_key = isinstance(point, Key)
        for widget, here in (
            (self.age, point is not None),
            (self.level, is_key),
            (self.ease, is_key),
            (self.color, point is not None and not is_key),
        ):
            widget.setVisible(here)
            if widget in self.words:
                self.words[widget].setVisible(here)
        if self.lane is None or point is None:
            self.said.setText("Click on a line to add a key, on a key to change it.")
            return
        self.said.setText(self.lane.rule.label)
        self.age.show_number(point.x)
        if isinstance(point, Key):
            rule = self.lane.rule
            self.level.soft, self.level.hard, self.level.digits = rule.soft, rule.hard, max(rule.digits, 2) + 1
            self.level.setToolTip(f"The key's value {rule.unit}, now {shown(point.y, 5)}")
            self.level.show_number(point.y)
            self.ease.setCurrentText(point.ease)

    def _set_age(self, x: float, merge: str) -> None:
        if self.lane is not None and self.point is not None:
            self.lane._stroke = merge
            self.lane.move_key(x, self.point.y) if isinstance(self.lane, CurveLane) else self.lane.move_key(x)  # type: ignore[attr-defined]
            self.lane._stroke = ""

    def _set_ease(self, ease: str) -> None:
        if isinstance(self.lane, CurveLane):
            self.lane.set_ease(ease)

    def _pick(self) -> None:
        if isinstance(self.lane, ColorLane):
            self.lane.pick()

    def _set_level(self, y: float, merge: str) -> None:
        if isinstance(self.lane, CurveLane) and self.point is not None:
            self.lane._stroke = merge
            self.lane.move_key(self.point.x, y)
            self.lane._stroke = ""

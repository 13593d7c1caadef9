"""The panels round the stage: a row each, their titles, folding, full width, and how they stood the last
time.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QByteArray, QObject, QPointF, QRectF, QSettings, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QMouseEvent, QPainter, QPolygonF
from PyQt6.QtWidgets import QDockWidget, QHBoxLayout, QMainWindow, QVBoxLayout, QWidget

from ..widgets import theme
from ..widgets.controls import ToolButton

LAYOUT = 2
TITLE, SLIM = 27, 26
RECIPE_WIDTH = 366
_Area = Qt.DockWidgetArea


@dataclass(frozen=True)
class Panel:
    """One panel: its name, title, where it stands at first, and the commands in its title."""

    name: str
    title: str
    area: Qt.DockWidgetArea
    tools: tuple[str, ...] = ()
    words: tuple[str, ...] = ()


PANELS = (
    Panel("recipe", "Recipe", _Area.RightDockWidgetArea),
    Panel(
        "timeline",
        "Timeline",
        _Area.BottomDockWidgetArea,
        ("add", "library", "duplicate", "delete", "up", "down", "wide_time"),
    ),
    Panel(
        "strip",
        "Life strip",
        _Area.BottomDockWidgetArea,
        ("axis_life", "axis_clock", "axis_speed", "dice", "three", "lane", "wide"),
        ("Life", "Clock", "Speed"),
    ),
)


class TitleBar(QWidget):
    """A panel's title with its tools; a click on the triangle folds it. Folded beside another it stands
    upright.
    """

    fold_wanted = pyqtSignal()

    def __init__(self, title: str, buttons: list[ToolButton]) -> None:
        super().__init__()
        self.title, self.buttons = title, buttons
        self.folded, self.upright = False, False
        # Buttons of what can't be done now.
        self.away: set[ToolButton] = set()
        self.setToolTip("Drag to move this panel, double-click to float it, click the triangle to fold it")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 3, 4, 3)
        row.setSpacing(1)
        row.addStretch(1)
        for button in buttons:
            row.addWidget(button)
        self.show_as(False, False)

    def show_as(self, folded: bool, upright: bool) -> None:
        """Show the title bar of a panel that is folded, or stands upright."""
        self.folded, self.upright = folded, upright
        for button in self.buttons:
            button.setVisible(not folded and button not in self.away)
        if upright:
            self.setFixedWidth(SLIM)
            self.setMinimumHeight(60)
            self.setMaximumHeight(16_777_215)
        else:
            self.setMinimumWidth(0)
            self.setMaximumWidth(16_777_215)
            self.setFixedHeight(TITLE)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(SLIM, 100) if self.upright else QSize(120, TITLE)

    @property
    def triangle(self) -> QRectF:
        """Return where a click folds."""
        return QRectF(0, 0, SLIM, 24) if self.upright else QRectF(0, 0, 22, TITLE)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.triangle.contains(event.position()) or self.folded:
            self.fold_wanted.emit()
            event.accept()
        else:
            event.ignore()

    def paintEvent(self, event: Any) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.font(11))
        font = painter.font()
        font.setWeight(font.Weight.DemiBold)
        painter.setFont(font)
        centre = self.triangle.center()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color(theme.DIM))
        down, right = [(-3.5, -2), (3.5, -2), (0, 2.5)], [(-2, -3.5), (2.5, 0), (-2, 3.5)]
        shape = right if self.folded else down
        painter.drawPolygon(QPolygonF([centre + QPointF(x, y) for x, y in shape]))
        painter.setPen(theme.color(theme.DIM))
        if self.upright:
            painter.translate(SLIM / 2, 30)
            painter.rotate(90)
            painter.drawText(
                QRectF(0, -SLIM / 2, self.height() - 34, SLIM), Qt.AlignmentFlag.AlignVCenter, self.title
            )
        else:
            painter.drawText(
                QRectF(22, 0, self.width() - 24, TITLE), Qt.AlignmentFlag.AlignVCenter, self.title
            )
        painter.end()


class Panels(QObject):
    """All panels of a window."""

    changed = pyqtSignal()

    def __init__(self, window: QMainWindow, widgets: dict[str, QWidget], actions: dict[str, QAction]) -> None:
        super().__init__(window)
        self.window, self.widgets = window, widgets
        self.docks: dict[str, QDockWidget] = {}
        self.bars: dict[str, TitleBar] = {}
        self.folded: set[str] = set()
        self.wide = ""
        self.stage_alone = False
        # With an empty effect there is nothing to show in them.
        self.empty = False
        # Panels that were asked for while the effect is empty.
        self._asked_for: set[str] = set()
        self._first: QByteArray | None = None
        self._buttons: dict[str, ToolButton] = {}
        for panel in PANELS:
            self._make(panel, actions)
        window.splitDockWidget(self.docks["timeline"], self.docks["strip"], Qt.Orientation.Horizontal)

    def _make(self, panel: Panel, actions: dict[str, QAction]) -> None:
        """Make a panel's dock, with its title bar and tools."""
        buttons = [tool_button(actions[name], (22, 20)) for name in panel.tools]
        self._buttons |= dict(zip(panel.tools, buttons, strict=True))
        for button, words in zip(buttons, panel.words, strict=False):
            action = button.defaultAction()
            assert action is not None
            action.setIconText(words)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            button.setFixedSize(46, 20)
        dock = QDockWidget(panel.title, self.window)
        dock.setObjectName(panel.title)
        dock.setFeatures(
            QDockWidget.DockWidgetFeature.DockWidgetMovable
            | QDockWidget.DockWidgetFeature.DockWidgetFloatable
        )
        bar = TitleBar(panel.title, buttons)
        bar.fold_wanted.connect(lambda: self.toggle_fold(panel.name))
        dock.setTitleBarWidget(bar)
        # Folded, the widget goes and its holder stays: it sets the panel no limits.
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.widgets[panel.name])
        dock.setWidget(holder)
        self.window.addDockWidget(panel.area, dock)
        self.docks[panel.name], self.bars[panel.name] = dock, bar

    def turn(self, titles: dict[str, str], away: frozenset[str]) -> None:
        """Call panels otherwise, and leave the buttons of some commands away; with nothing given all is
        as usual.
        """
        for panel in PANELS:
            bar = self.bars[panel.name]
            bar.title = titles.get(panel.name, panel.title)
            bar.away = {self._buttons[name] for name in panel.tools if name in away}
        self.refresh()

    # What is in view

    def _wanted(self, name: str) -> bool:
        if self.empty:
            return name in self._asked_for
        if self.stage_alone:
            return False
        return not self.wide or name in ("recipe", self.wide)

    def refresh(self) -> None:
        """Show each panel as it should be now: away, folded to its title, or open."""
        below = [name for name in ("timeline", "strip") if self._wanted(name)]
        for name, dock in self.docks.items():
            dock.setVisible(self._wanted(name))
            folded = name in self.folded and not dock.isFloating()
            # A panel beside an open one folds sideways, and gives it the room.
            beside = name == "recipe" or any(other not in self.folded for other in below if other != name)
            self.bars[name].show_as(folded, folded and beside)
            self.widgets[name].setVisible(not folded)
            wide = SLIM if folded and beside else 16_777_215
            high = TITLE if folded and not beside else 16_777_215
            dock.setMaximumSize(wide, high)
            dock.setMinimumSize(SLIM if folded else 0, TITLE if folded else 0)
        self.changed.emit()

    def show(self, name: str) -> None:
        """Bring a panel into view, whatever keeps it away."""
        self.stage_alone = False
        if self.empty:
            self._asked_for.add(name)
        self.folded.discard(name)
        if self.wide and name not in ("recipe", self.wide):
            self.wide = ""
        self.refresh()

    def toggle_fold(self, name: str) -> None:
        """Fold a panel to its title, or unfold it."""
        high = max((dock.height() for dock in self._open_below()), default=int(self.window.height() * 0.45))
        self.folded ^= {name}
        self.refresh()
        if name not in self.folded:
            self.arrange()
        # Open panels keep their height; the window must lay out the folded one first.
        QTimer.singleShot(0, lambda: self._give_height(high))

    def _give_height(self, high: int) -> None:
        still = self._open_below()
        if still:
            self.window.resizeDocks(still, [high] * len(still), Qt.Orientation.Vertical)

    def _open_below(self) -> list[QDockWidget]:
        """Return the panels below the stage that are open."""
        return [
            self.docks[name]
            for name in ("timeline", "strip")
            if name not in self.folded and self.docks[name].isVisible()
        ]

    def widen(self, name: str) -> None:
        """Give a panel the whole width below the stage, and more height; or let the other back in."""
        self.wide = "" if self.wide == name else name
        self.folded -= {"timeline", "strip"}
        self.refresh()
        if self.wide:
            share = 0.52 if name == "strip" else 0.45
            docks = [self.docks[name]]
            self.window.resizeDocks(docks, [int(self.window.height() * share)], Qt.Orientation.Vertical)
        else:
            self.arrange()

    def set_stage_alone(self, alone: bool) -> None:
        """Leave the stage alone, or bring all panels back."""
        self.stage_alone = alone
        self.refresh()

    def set_empty(self, empty: bool) -> None:
        """Put the panels away while the effect is empty."""
        if empty != self.empty:
            self.empty = empty
            self._asked_for.clear()
            self.refresh()
            if not empty and not self.stage_alone:
                self.arrange()

    # Sizes

    def arrange(self) -> None:
        """Give the panels their first sizes."""
        width, height = self.window.width(), self.window.height()
        docks = self.docks
        if "recipe" not in self.folded:
            self.window.resizeDocks([docks["recipe"]], [RECIPE_WIDTH], Qt.Orientation.Horizontal)
        below = max(width - RECIPE_WIDTH - 4, 500)
        both = [docks["timeline"], docks["strip"]]
        if not self.folded & {"timeline", "strip"} and not self.wide:
            self.window.resizeDocks(both, [int(below * 0.42), int(below * 0.58)], Qt.Orientation.Horizontal)
        self.window.resizeDocks(both, [int(height * 0.45)] * 2, Qt.Orientation.Vertical)
        if self._first is None and not self.empty:
            self._first = self.window.saveState(LAYOUT)

    def restore_first(self) -> None:
        """Put all panels back where they were at first."""
        self.folded, self.wide, self.stage_alone = set(), "", False
        if self._first is not None:
            self.window.restoreState(self._first, LAYOUT)
        for dock in self.docks.values():
            dock.setFloating(False)
        self.refresh()
        self.arrange()

    def restore(self, settings: QSettings) -> None:
        """Take up the sizes and the arrangement of the last time."""
        geometry, state = settings.value("geometry"), settings.value("layout")
        folded, wide = settings.value("folded"), settings.value("full width")
        if isinstance(geometry, QByteArray):
            self.window.restoreGeometry(geometry)
        if isinstance(state, QByteArray):
            self.window.restoreState(state, LAYOUT)
        names = [folded] if isinstance(folded, str) else folded if isinstance(folded, list) else []
        self.folded = {name for name in names if name in self.docks}
        self.wide = wide if wide in ("timeline", "strip") else ""
        self.refresh()

    def keep(self, settings: QSettings) -> None:
        """Remember sizes and arrangement for the next time."""
        settings.setValue("geometry", self.window.saveGeometry())
        if not self.empty and not self.stage_alone:
            settings.setValue("layout", self.window.saveState(LAYOUT))
        settings.setValue("folded", sorted(self.folded))
        settings.setValue("full width", self.wide)


class CommandButton(ToolButton):
    """A button for a command, called what the command means now: on the bench some mean something else."""

    def __init__(self, action: QAction) -> None:
        super().__init__()
        self.setDefaultAction(action)
        action.changed.connect(self._call)
        self._call()

    def _call(self) -> None:
        action = self.defaultAction()
        if action is not None and self.accessibleName() != action.text():
            self.setAccessibleName(action.text())


def tool_button(action: QAction, size: tuple[int, int]) -> ToolButton:
    """Return a button for a command."""
    button = CommandButton(action)
    button.setFixedSize(*size)
    return button

"""The main window: top bar, stage, timeline, life strip, recipe."""

from __future__ import annotations

import functools
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QByteArray, QPoint, Qt
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QApplication,
    QDockWidget,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from ...drawing.backdrops import BACKDROPS
from ...effect.effect import Effect
from ...effect.errors import EffectError
from ...effect.whole_files import write_whole
from ...files.library import keep_layer
from ...simulation.meshes import ENDINGS
from ..recipe.chapter_clip import ChapterClip
from ..recipe.field_row import FieldRow
from ..recipe.recipe import CHAPTERS, Recipe
from ..session.file_actions import FileActions
from ..session.new_layer import new_layer
from ..session.session import SPEEDS, Session
from ..stage.library_view import LibraryView
from ..stage.stage import Stage, png_of
from ..stage.thumbnails import Thumbnails
from ..strip.lane_menu import open_lane_menu
from ..strip.life_strip import LifeStrip
from ..timeline.timeline import Timeline
from ..widgets import theme
from ..widgets.along_axis import HEAD
from ..widgets.finder import Finder, Finding
from .commands import COMMANDS, make_actions
from .notice import Notice
from .top_bar import TopBar

LAYOUT = 1


class MainWindow(QMainWindow):
    """One effect at a time."""

    def __init__(self, effect: Effect | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Pale Ember")
        self.setAcceptDrops(True)
        self.session = Session(effect or Effect())
        self.file_actions = FileActions(self.session, self)
        self.stage = Stage(self.session)
        self.commands = make_actions(self, self.run)
        self.top_bar = TopBar(self.session, self.stage, self.commands, self.file_actions.recent_menu)
        self.notice = Notice(self)
        self.timeline = Timeline(self.session, Thumbnails(self.session, self.stage))
        self.strip = LifeStrip(self.session, self.stage)
        self.recipe = Recipe(self.session)
        self.recipe.lane_wanted.connect(self.strip.show_lane)
        self.clip = ChapterClip(self.session, self.recipe)
        self.setMenuWidget(self._head())
        self.setCentralWidget(self.stage)
        self.setDockNestingEnabled(True)
        self.setCorner(Qt.Corner.BottomRightCorner, Qt.DockWidgetArea.RightDockWidgetArea)
        self.setCorner(Qt.Corner.TopRightCorner, Qt.DockWidgetArea.RightDockWidgetArea)
        self.docks = {
            "recipe": self._dock("Recipe", self.recipe, Qt.DockWidgetArea.RightDockWidgetArea),
            "timeline": self._dock(
                "Timeline", self.timeline, Qt.DockWidgetArea.BottomDockWidgetArea, self._layer_buttons()
            ),
            "strip": self._dock("Life strip", self.strip, Qt.DockWidgetArea.BottomDockWidgetArea, self._strip_tools()),
        }
        self.splitDockWidget(self.docks["timeline"], self.docks["strip"], Qt.Orientation.Horizontal)
        self.commands["grid"].setChecked(True)
        self.commands["wire"].setChecked(True)
        self.strip.axis_changed.connect(self._show_axis)
        self._show_axis()
        self.session.said.connect(self.notice.say)
        self.session.effect_changed.connect(self._title)
        self.session.selection_changed.connect(self._enable)
        self.session.effect_changed.connect(self._enable)
        self.file_actions.offered.connect(self.notice.offer)
        self._first_layout: QByteArray | None = None
        self._title()
        self._enable()

    def _head(self) -> QWidget:
        head = QWidget()
        column = QVBoxLayout(head)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.top_bar)
        column.addWidget(self.notice)
        return head

    def _layer_buttons(self) -> list[QToolButton]:
        return self._buttons_for("add", "library", "duplicate", "delete", "up", "down")

    def _buttons_for(self, *names: str) -> list[QToolButton]:
        buttons = []
        for name in names:
            button = QToolButton()
            button.setDefaultAction(self.commands[name])
            button.setAccessibleName(self.commands[name].text())
            button.setFixedSize(22, 20)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            buttons.append(button)
        return buttons

    def _strip_tools(self) -> list[QToolButton]:
        """Return what stands over the life strip: its axes, dice, low to high, another lane, all the width."""
        buttons = self._buttons_for("axis_life", "axis_clock", "axis_speed", "dice", "three", "lane", "wide")
        for button, words in zip(buttons, ("Life", "Clock", "Speed"), strict=False):
            action = button.defaultAction()
            assert action is not None
            action.setIconText(words)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            button.setFixedSize(46, 20)
        return buttons

    def _dock(
        self, title: str, widget: QWidget, area: Qt.DockWidgetArea, buttons: list[QToolButton] | None = None
    ) -> QDockWidget:
        dock = QDockWidget(title, self)
        dock.setObjectName(title)
        dock.setFeatures(
            QDockWidget.DockWidgetFeature.DockWidgetMovable | QDockWidget.DockWidgetFeature.DockWidgetFloatable
        )
        bar = QWidget()
        bar.setFixedHeight(27)
        bar.setToolTip("Drag to move this panel, double-click to float it")
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 3, 4, 3)
        row.setSpacing(1)
        label = QLabel(title)
        label.setStyleSheet(f"color: {theme.DIM}; font-weight: 600; font-size: 11px;")
        row.addWidget(label)
        row.addStretch(1)
        for button in buttons or []:
            row.addWidget(button)
        dock.setTitleBarWidget(bar)
        dock.setWidget(widget)
        self.addDockWidget(area, dock)
        return dock

    def arrange(self) -> None:
        """Give the panels their first sizes, and then those of the last time."""
        width, height = self.width(), self.height()
        self.resizeDocks([self.docks["recipe"]], [366], Qt.Orientation.Horizontal)
        below = max(width - 370, 500)
        self.resizeDocks(
            [self.docks["timeline"], self.docks["strip"]],
            [int(below * 0.42), int(below * 0.58)],
            Qt.Orientation.Horizontal,
        )
        self.resizeDocks(
            [self.docks["timeline"], self.docks["strip"]], [int(height * 0.45)] * 2, Qt.Orientation.Vertical
        )
        if self._first_layout is None:
            self._first_layout = self.saveState(LAYOUT)

    def restore_layout(self) -> None:
        """Take up the sizes and the arrangement of the last time."""
        geometry, state = self.file_actions.settings.value("geometry"), self.file_actions.settings.value("layout")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        if isinstance(state, QByteArray):
            self.restoreState(state, LAYOUT)
            self.commands["wide"].setChecked(self.docks["timeline"].isHidden())
        self.strip.arrange(self.file_actions.settings.value("lanes"))

    def _title(self) -> None:
        document = self.session.document
        self.setWindowTitle(f"{document.title}{'*' if document.dirty else ''} · Pale Ember")

    def _enable(self) -> None:
        here = self.session.layer is not None
        at, count = self.session.effect.index(self.session.selected), len(self.session.effect.layers)
        for name in (
            "duplicate",
            "rename",
            "delete",
            "hide",
            "alone",
            "burst",
            "path_key",
            "group",
            "ungroup",
            "all",
            "copy_field",
            "paste_field",
            "keep_layer",
            "copy_chapter",
            "paste_chapter",
            "reset_chapter",
            "dice",
            "three",
            "lane",
            "lane_menu",
        ):
            self.commands[name].setEnabled(here)
        self.commands["up"].setEnabled(here and at > 0)
        self.commands["down"].setEnabled(here and at < count - 1)
        for name in ("previous", "next"):
            self.commands[name].setEnabled(count > 1)

    # Commands

    def run(self, name: str) -> None:
        """Do a command by its name."""
        session, file_actions = self.session, self.file_actions
        simple: dict[str, Any] = {
            "new": file_actions.new,
            "open": file_actions.open,
            "demo": lambda: file_actions.open_demo("kiln-mouth"),
            "demo_chimney": lambda: file_actions.open_demo("chimney"),
            "demo_sleet": lambda: file_actions.open_demo("sleet"),
            "demo_lantern": lambda: file_actions.open_demo("lantern"),
            "save": file_actions.save,
            "save_as": file_actions.save_as,
            "picture": self.save_picture,
            "quit": self.close,
            "undo": session.undo,
            "redo": session.redo,
            "find": self.open_finder,
            "field": self.recipe.search.setFocus,
            "changed": self.recipe.only_changed.toggle,
            "copy_chapter": self.clip.copy,
            "paste_chapter": self.clip.paste,
            "reset_chapter": self.clip.reset,
            "add": lambda: session.add(new_layer(session.effect)),
            "library": self.open_library,
            "keep_layer": self._keep_layer,
            "duplicate": session.duplicate,
            "rename": lambda: self.timeline.rows.rename(session.effect.index(session.selected)),
            "delete": session.remove,
            "up": lambda: session.move(session.selected, session.effect.index(session.selected) - 1),
            "down": lambda: session.move(session.selected, session.effect.index(session.selected) + 1),
            "hide": lambda: session.toggle_hidden(*session.chosen),
            "alone": lambda: session.toggle_alone(*session.chosen),
            "burst": self._add_burst,
            "path_key": self._add_path_key,
            "copy_field": lambda: self._field_in_focus("copy"),
            "paste_field": lambda: self._field_in_focus("paste"),
            "group": self._ask_group,
            "ungroup": lambda: session.group(""),
            "all": session.select_all,
            "previous": lambda: session.select_next(-1),
            "next": lambda: session.select_next(1),
            "play": lambda: session.play(not session.playing),
            "restart": lambda: session.seek(0.0),
            "step_back": lambda: session.step(-1),
            "step": lambda: session.step(1),
            "slower": lambda: self._faster(-1),
            "faster": lambda: self._faster(1),
            "loop": lambda: session.edit("loop", not session.effect.loop, "Change loop"),
            "axis_life": lambda: self.strip.show_axis("life"),
            "axis_clock": lambda: self.strip.show_axis("clock"),
            "axis_speed": lambda: self.strip.show_axis("speed"),
            "dice": self.strip.film.roll,
            "three": self._toggle_three,
            "lane": self._open_lane_list,
            "lane_menu": self._open_lane_menu,
            "wide": self._toggle_wide,
            "unfollow": lambda: session.pick(None),
            "zoom_in": lambda: self.timeline.zoom(1.5),
            "zoom_out": lambda: self.timeline.zoom(1 / 1.5),
            "zoom_all": self.timeline.view.show_all,
            "frame": self.stage.frame,
            "home_view": lambda: session.look_from(session.effect.stage.camera),
            "keep_view": lambda: session.edit("stage.camera", session.camera, "Keep this view"),
            "backdrop": self._next_backdrop,
            "grid": self._toggle_grid,
            "wire": self._toggle_wire,
            "layout": self._restore_first_layout,
        }
        if name.startswith("chapter_"):
            self.recipe.show_chapter(int(name[-1]) - 1)
        else:
            simple[name]()

    def open_library(self) -> LibraryView:
        """Open the layer library."""
        view = LibraryView(self.session, self.stage, self)
        view.open()
        return view

    def _keep_layer(self) -> None:
        if self.session.layer is not None:
            try:
                path = keep_layer(self.session.layer, self.session.effect)
                self.session.said.emit(f"{self.session.layer.name} is in the library now, as {path}.")
            except EffectError as wrong:
                self.session.said.emit(f"Not kept. {wrong}")

    def _add_burst(self) -> None:
        self.recipe.show_chapter(0)
        self.recipe.chapters["Emit"].lists["emit.bursts"].add_part()

    def _add_path_key(self) -> None:
        self.recipe.show_chapter(1)
        page = self.recipe.chapters["Birthplace"]
        page.lists["path"].add_part()
        page.ensureWidgetVisible(page.lists["path"])

    def _field_in_focus(self, what: str) -> None:
        row = QApplication.focusWidget()
        while row is not None and not isinstance(row, FieldRow):
            row = row.parentWidget()
        if row is None:
            self.session.said.emit("No field has the focus; click into one first.")
        else:
            getattr(row, what)()

    def _ask_group(self) -> None:
        """Ask for the group of the selected layers."""
        layer = self.session.layer
        if layer is not None:
            name, taken = QInputDialog.getText(self, "Group layers", "Name of the group:", text=layer.group or "Group")
            if taken:
                self.session.group(name.strip())

    def _faster(self, by: int) -> None:
        at = SPEEDS.index(self.session.speed) + by
        self.session.set_speed(SPEEDS[min(max(at, 0), len(SPEEDS) - 1)])

    def _next_backdrop(self) -> None:
        names = list(BACKDROPS)
        now = names.index(self.session.effect.stage.backdrop)
        self.session.edit("stage.backdrop", names[(now + 1) % len(names)], "Change backdrop")

    def _toggle_grid(self) -> None:
        self.stage.show_grid = not self.stage.show_grid
        self.commands["grid"].setChecked(self.stage.show_grid)
        self.stage.update()

    def _toggle_wire(self) -> None:
        self.stage.show_wire = not self.stage.show_wire
        self.commands["wire"].setChecked(self.stage.show_wire)
        self.stage.overlay.update()

    def _toggle_three(self) -> None:
        self.strip.film.set_three(not self.strip.film.three)
        self.commands["three"].setChecked(self.strip.film.three)

    def _show_axis(self) -> None:
        for name in ("life", "clock", "speed"):
            self.commands[f"axis_{name}"].setChecked(self.strip.axis_name == name)

    def _open_lane_list(self) -> None:
        menu = self.strip.lane_menu()
        menu.popup(self.strip.mapToGlobal(self.strip.rect().topRight()) - QPoint(menu.sizeHint().width(), 0))

    def _open_lane_menu(self) -> None:
        """Open the menu of the lane that has the focus, or of the first one."""
        lanes = list(self.strip.lanes.values())
        lane = next((one for one in lanes if one.hasFocus()), lanes[0] if lanes else None)
        if lane is not None:
            open_lane_menu(lane, lane.mapToGlobal(QPoint(HEAD, lane.height() // 2)))

    def _toggle_wide(self) -> None:
        """Give the life strip the whole width below the stage and more height, or let the timeline back in."""
        wide = self.docks["timeline"].isVisible()
        self.docks["timeline"].setVisible(not wide)
        self.commands["wide"].setChecked(wide)
        self.docks["strip"].setVisible(True)
        if wide:
            self.resizeDocks([self.docks["strip"]], [int(self.height() * 0.52)], Qt.Orientation.Vertical)
        else:
            self.arrange()

    def _restore_first_layout(self) -> None:
        if self._first_layout is not None:
            self.restoreState(self._first_layout, LAYOUT)
        for dock in self.docks.values():
            dock.setFloating(False)
            dock.show()
        self.commands["wide"].setChecked(False)
        self.arrange()

    def save_picture(self) -> None:
        """Save what the stage shows as a PNG."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Save a picture", f"{self.session.document.title}.png", "Pictures (*.png)"
        )
        if name:
            try:
                write_whole(name, png_of(self.stage.picture()))
                self.session.said.emit(f"Saved to {name}.")
            except EffectError as wrong:
                self.session.said.emit(f"Not saved. {wrong}")

    def open_finder(self) -> Finder:
        """Open the finder over commands, fields and layers."""
        findings = [
            Finding(
                self.commands[c.name].text(),
                c.group.lower(),
                c.key,
                f"{c.title} {c.group} {c.tip}".lower(),
                self.commands[c.name].trigger,
            )
            for c in COMMANDS
            if self.commands[c.name].isEnabled()
        ]
        for index, (chapter, sections) in enumerate(CHAPTERS.items()):
            if self.session.layer is None and sections[0].in_layer:
                continue
            for at, row in self.recipe.chapters[chapter].rows.items():
                words = f"{row.rule.label} {row.rule.help} {chapter}".lower()
                findings.append(
                    Finding(row.rule.label, chapter, "", words, functools.partial(self._go_to_field, index, at))
                )
        for layer in self.session.effect.layers:
            findings.append(
                Finding(layer.name, "layer", "", layer.name.lower(), functools.partial(self.session.select, layer.id))
            )
        finder = Finder(self, findings)
        finder.open()
        return finder

    def _go_to_field(self, chapter: int, at: str) -> None:
        self.recipe.show_chapter(chapter)
        page = self.recipe.chapters[list(CHAPTERS)[chapter]]
        row = page.rows[at]
        page.ensureWidgetVisible(row)
        for part in row._parts:
            part.setFocus(Qt.FocusReason.ShortcutFocusReason)
            break

    # The window's own

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        mime = event.mimeData()
        taken = (".ember", *ENDINGS)
        if mime is not None and any(url.toLocalFile().lower().endswith(taken) for url in mime.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        mime = event.mimeData()
        for url in mime.urls() if mime is not None else []:
            if url.toLocalFile().endswith(".ember") and self.file_actions.may_leave():
                self.file_actions.load(Path(url.toLocalFile()))
                return
            if url.toLocalFile().lower().endswith(ENDINGS):
                self._take_mesh(url.toLocalFile())
                return

    def _take_mesh(self, file: str) -> None:
        """Let the selected layer's particles be born on a mesh that was dropped."""
        if self.session.layer is None:
            self.session.said.emit("Add a layer first; then a mesh can be dropped for its birthplace.")
            return
        place = self.session.layer.birthplace
        aim = "outward" if place.kind != "mesh" and place.aim == "axis" else place.aim
        changed = {"birthplace.kind": "mesh", "birthplace.mesh": file, "birthplace.aim": aim}
        edits = [(self.session.layer_path(path), value) for path, value in changed.items()]
        if self.session.edit_many(edits, "Be born on a mesh"):
            self.recipe.show_chapter(1)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if not self.file_actions.may_leave():
            event.ignore()
            return
        self.file_actions.settings.setValue("geometry", self.saveGeometry())
        self.file_actions.settings.setValue("layout", self.saveState(LAYOUT))
        self.file_actions.settings.setValue("lanes", self.strip.arrangement())
        self.shut()
        event.accept()

    def shut(self, keep_work: bool = False) -> None:
        """End threads, give GPU memory back, and remove the autosave, unless it is wanted at the next start."""
        self.file_actions.timer.stop()
        self.file_actions.watch.stop()
        if keep_work:
            self.file_actions.keep()
        else:
            self.file_actions.autosave.clear()
        self.session.end()
        self.stage.release()

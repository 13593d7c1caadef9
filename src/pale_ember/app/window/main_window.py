"""The main window: top bar, stage, and the panels round it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QMainWindow, QMenu, QVBoxLayout, QWidget

from ...effect.editing.texture_moves import worn_by
from ...effect.effect import Effect
from ...effect.rules.paths import FieldPath
from ...files.library import Start
from ..hand_over.compression import CompressionView
from ..hand_over.hand_over_work import HandOverWork
from ..hand_over.panel import HandOverPanel
from ..recipe.chapter_clip import ChapterClip
from ..recipe.recipe import Recipe
from ..session.beside import Beside
from ..session.color_picking import ColorPicking
from ..session.file_actions import FileActions
from ..session.session import Session
from ..stage.library_view import LibraryView
from ..stage.shelf import Shelf
from ..stage.stage import Stage
from ..stage.thumbnails import Thumbnails
from ..strip.life_strip import LifeStrip
from ..texture_bench.bench import Bench
from ..texture_bench.brush import Brush
from ..texture_bench.frame_strip import FrameStrip
from ..texture_bench.pack_dialog import PackDialog
from ..texture_bench.picture_view import PictureView
from ..texture_bench.shelf_view import ShelfView
from ..texture_bench.step_panel import StepPanel
from ..texture_bench.step_rows import StepList
from ..texture_bench.tools import Tools
from ..timeline.timeline import Timeline
from ..widgets.controls import settle
from ..widgets.finder import Finder
from ..widgets.tab_order import go_on
from .bench_rows import AWAY, BENCH, rows_menu
from .command_rows import COMMANDS, DEMOS
from .commands import OnBench, make_actions, refresh_actions
from .drops import Drops
from .finding import findings
from .notice import Notice
from .offset_dialog import OffsetDialog
from .openable import opened
from .panels import Panels
from .preferences import Preferences, PreferencesDialog
from .slim_bar import SlimBar
from .top_bar import TopBar
from .turning import Turning, over

LAYER_MENU = (
    "rename",
    "cut",
    "copy",
    "paste",
    "duplicate",
    "offset",
    "delete",
    "group",
    "ungroup",
    "up",
    "down",
    "enable",
    "alone",
)
SMALLEST = (1024, 640)
ON_BENCH = OnBench(BENCH, AWAY)
BENCH_TITLES = {"recipe": "Texture", "timeline": "Steps", "strip": "Frame strip"}


class MainWindow(QMainWindow):
    """One effect at a time."""

    def __init__(self, effect: Effect | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Pale Ember")
        self.session = Session(effect or Effect())
        self.files = FileActions(self.session, self)
        self.stage = Stage(self.session)
        self.bench = Bench(self.session)
        self.brush = Brush(self.bench)
        self.actions_by_name = make_actions(self, self, COMMANDS, ON_BENCH)
        self.top_bar = TopBar(
            self.session, self.stage, self.actions_by_name, COMMANDS, self.files.recent_menu
        )
        self.slim_bar = SlimBar(self.session, self.actions_by_name)
        self.notice = Notice(lambda: self.session.is_dragging)
        self.timeline = Timeline(self.session, Thumbnails(self.session, self.stage))
        self.strip = LifeStrip(self.session, self.stage)
        self.recipe = Recipe(self.session)
        self.picture_view = PictureView(self.bench, self.brush, self.stage)
        self.tools = Tools(self.bench, self.brush)
        self.step_list = StepList(self.bench)
        self.step_panel = StepPanel(self.bench)
        self.frame_strip = FrameStrip(self.bench)
        self.clip = ChapterClip(self.session, self.recipe)
        self.beside = Beside(self.session)
        self.picking = ColorPicking(self.session)
        self.setMenuWidget(self._head())
        self.middle = Turning(self.stage, over(self.tools, self.picture_view))
        self.setCentralWidget(self.middle)
        self.setDockNestingEnabled(True)
        self.setCorner(Qt.Corner.BottomRightCorner, Qt.DockWidgetArea.RightDockWidgetArea)
        self.setCorner(Qt.Corner.TopRightCorner, Qt.DockWidgetArea.RightDockWidgetArea)
        self.desk = HandOverWork(self.session, self.files.settings)
        self.hand_over_panel = HandOverPanel(self.desk)
        self._fields = Turning(self.recipe, self.step_panel)
        self._right = Turning(self._fields, self.hand_over_panel)
        widgets: dict[str, QWidget] = {
            "recipe": self._right,
            "timeline": Turning(self.timeline, self.step_list),
            "strip": Turning(self.strip, self.frame_strip),
        }
        self._turning = [self.middle, self._fields, widgets["timeline"], widgets["strip"]]
        self.panels = Panels(self, widgets, self.actions_by_name)
        self.shelf = Shelf(self.session, self.stage, DEMOS)
        self.drops = Drops(self, self)
        self.preferences = Preferences(self.files.settings)
        self.preferences.apply(self.session, self.files, self.actions_by_name, COMMANDS)
        self.setMinimumSize(*SMALLEST)
        self._connect()
        self.stage.setFocus(Qt.FocusReason.MouseFocusReason)
        self._content()
        self._title()
        self._enable()

    def _connect(self) -> None:
        """Connect the panels with one another."""
        session = self.session
        self.recipe.wishes.lane.connect(self._show_lane)
        for wishes in (self.recipe.wishes, self.step_panel.wishes):
            wishes.color.connect(self._pick_color)
        for strip in (self.strip, self.frame_strip):
            strip.color_wanted.connect(self._pick_color)
        self.step_panel.wishes.lane.connect(self._show_frame_lane)
        self.recipe.wishes.bench.connect(lambda name: self.bench.open(name or self.bench.begin()))
        self.bench.opened.connect(self._turn)
        self.hand_over_panel.closed.connect(lambda: self.show_hand_over(False))
        self.hand_over_panel.textures_wanted.connect(self.open_compression)
        self.desk.changed.connect(self._enable)
        self.bench.changed.connect(self._enable)
        self.bench.looked.connect(self._enable_soon)
        self.step_list.rows.menu_wanted.connect(lambda at: rows_menu(self, at))
        for strip in (self.strip, self.frame_strip):
            strip.selection.changed.connect(self._stops_changed)
        self.timeline.rows.menu_wanted.connect(self._open_layer_menu)
        self.shelf.chosen.connect(self._begin_with)
        self.shelf.blank_wanted.connect(self.actions_by_name["add"].trigger)
        self.shelf.file_wanted.connect(self.files.open_recent)
        self.shelf.demo_wanted.connect(self.files.open_demo)
        self.notice.restored.connect(self.files.restore)
        self.notice.given_up.connect(self.files.give_up)
        self.files.saved.connect(self.write_beside)
        self.files.offered.connect(self.notice.offer)
        session.said.connect(self.notice.say)
        session.effect_changed.connect(self._title)
        session.effect_changed.connect(self._content)
        for signal in (
            session.effect_changed,
            session.selection_changed,
            session.shown_changed,
            session.haste_changed,
            self.strip.axis_changed,
            self.panels.changed,
            self.stage.tracks.changed,
        ):
            signal.connect(self._enable)
        self.recipe.only_changed.toggled.connect(self._enable)
        self.panels.changed.connect(self._bars)

    def _head(self) -> QWidget:
        head = QWidget()
        column = QVBoxLayout(head)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for widget in (self.top_bar, self.slim_bar, self.notice):
            column.addWidget(widget)
        self.slim_bar.hide()
        return head

    def focusNextPrevChild(self, forward: bool) -> bool:
        return go_on(self, forward) or super().focusNextPrevChild(forward)

    def arrange(self) -> None:
        """Give the panels their first sizes."""
        self.panels.arrange()

    def restore_layout(self) -> None:
        """Take up the sizes and the arrangement of the last time."""
        self.panels.restore(self.files.settings)
        self.strip.arrange(self.files.settings.value("lanes"))

    def _title(self) -> None:
        document = self.session.document
        self.setWindowTitle(f"{document.title}{'*' if document.dirty else ''} · Pale Ember")

    def _enable(self) -> None:
        # While something is dragged nothing of this changes.
        if not self.session.hasty:
            refresh_actions(self.actions_by_name, self, COMMANDS, ON_BENCH)

    def _enable_soon(self) -> None:
        # A sheet that plays changes nothing that can be done.
        if not self.bench.plays:
            self._enable()

    def _turn(self) -> None:
        """Turn the instruments to the texture on the bench, or back to the effect."""
        is_open = self.bench.is_open
        for turning in self._turning:
            assert isinstance(turning, Turning)
            turning.turn(is_open)
        if is_open:
            self._right.turn(False)
        self._name_panels()
        self.picking.close()
        (self.picture_view if is_open else self.stage).setFocus(Qt.FocusReason.OtherFocusReason)
        self._enable()
        if not is_open:
            # These were hidden meanwhile and are drawn anew.
            for widget in (self.stage, self.strip, self.recipe):
                widget.update()
            self.strip.refresh()
            self.recipe.refresh()

    def _name_panels(self) -> None:
        is_open = self.bench.is_open
        titles = {**(BENCH_TITLES if is_open else {}), **({"recipe": "Hand over"} if self.hands_over else {})}
        self.panels.turn(titles, AWAY if is_open else frozenset())

    @property
    def hands_over(self) -> bool:
        """Return whether the panel that hands over stands in the recipe's place."""
        return self._right.currentWidget() is self.hand_over_panel

    def show_hand_over(self, wanted: bool) -> None:
        """Show the panel that hands over in place of the recipe, or the recipe again."""
        if wanted:
            self.bench.close()
            self.panels.show("recipe")
        self._right.turn(wanted)
        self._name_panels()
        if wanted:
            self.hand_over_panel.refresh()
            self.hand_over_panel.foot.go.setFocus(Qt.FocusReason.OtherFocusReason)
        else:
            self.recipe.refresh()
        self._enable()

    def open_compression(self) -> CompressionView:
        return opened(CompressionView(self.desk, self))

    def _content(self) -> None:
        """Show the shelf in place of panels without content."""
        empty = not self.session.effect.layers
        if empty:
            self.bench.close()
        self.panels.set_empty(empty)
        if empty:
            # Settings and files are looked at for the shelf alone, not with every edit.
            self.shelf.show_recent(self.files.recent())
        self.shelf.refresh()

    def _bars(self) -> None:
        """Show the slim bar in place of the top bar while the stage is alone, however it came to be so."""
        self.top_bar.setVisible(not self.panels.stage_alone)
        self.slim_bar.setVisible(self.panels.stage_alone)

    # Requests from one part of the window to another

    def _show_lane(self, path: str) -> None:
        self.panels.show("strip")
        self.strip.show_lane(path)

    def _show_frame_lane(self, path: str) -> None:
        self.panels.show("strip")
        self.frame_strip.show_lane(path)

    def _pick_color(self, places: Any, words: str) -> None:
        self.picking.open(self, places, words)

    def _stops_changed(self) -> None:
        """Let a picker that is open for stops go on with those that are held now."""
        strip = self.strip_in_view
        if self.picking.is_on_stops() and not strip.selection.dragging:
            held = {(FieldPath(path).in_owner, side, at) for path, side, at in strip.selection.held}
            if held != {(place.path, place.side, place.stop) for place in self.picking.places}:
                if any(hasattr(point, "color") for _, point in strip.selection.points()):
                    strip.pick_stops()
                else:
                    self.picking.close()

    def _open_layer_menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for name in LAYER_MENU:
            menu.addAction(self.actions_by_name[name])
        menu.popup(at)

    def _begin_with(self, start: Start) -> None:
        """Begin with what a tile of the shelf shows, what follows it included, seen as it should be seen."""
        session = self.session
        layers = start.effect.layers
        session.layers.add_many(layers, f"Add {start.name}", worn_by(start.effect, layers))
        session.seek(0.0)
        session.play(True)
        session.look_from(start.effect.stage.camera)

    # Opened by commands

    @property
    def strip_in_view(self) -> LifeStrip | FrameStrip:
        """Return the strip that is in view: of a particle's life, or of the texture's frames."""
        return self.frame_strip if self.bench.is_open else self.strip

    @property
    def recipe_in_view(self) -> Recipe | StepPanel:
        """Return the fields that are in view: of the effect, or of the texture."""
        return self.step_panel if self.bench.is_open else self.recipe

    def toggle_bench(self) -> None:
        """Put the selected layer's texture on the bench, or go back to the stage."""
        if self.bench.is_open:
            self.bench.close()
        else:
            self.bench.open_for_layer()

    def open_shelf(self) -> ShelfView:
        return opened(ShelfView(self.bench, self))

    def open_pack(self) -> PackDialog:
        return opened(PackDialog(self.bench, self))

    def toggle_stage_alone(self) -> None:
        """Leave the stage alone with a slim bar, or bring all back."""
        self.panels.set_stage_alone(not self.panels.stage_alone)

    def open_library(self) -> LibraryView:
        return opened(LibraryView(self.session, self.stage, self))

    def open_offset(self) -> OffsetDialog:
        return opened(OffsetDialog(self.session, self))

    def open_preferences(self) -> PreferencesDialog:
        return opened(
            PreferencesDialog(
                self.preferences, self.session, self.files, self.actions_by_name, COMMANDS, self
            )
        )

    def open_finder(self) -> Finder:
        return opened(Finder(self, findings(self, self.actions_by_name)))

    def write_beside(self, path: Path) -> None:
        """Write the pictures of those textures that wish it into a folder beside the effect's file, off
        the window's thread.
        """
        self.beside.write(self.session.effect, path)

    # The window's own

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        settle()
        if not self.files.may_leave():
            event.ignore()
            return
        self.panels.keep(self.files.settings)
        self.files.settings.setValue("lanes", self.strip.arrangement())
        self.shut()
        event.accept()

    def shut(self, keep_work: bool = False) -> None:
        """End threads, give GPU memory back, and remove the autosave, unless it is wanted at the next
        start.
        """
        self.files.timer.stop()
        self.files.watch.stop()
        self.picking.close()
        self.shelf.moving.rest()
        self.step_list.rows.pictures.end()
        self.beside.end()
        self.desk.end()
        if keep_work:
            settle()
            self.files.keep()
        else:
            self.files.autosave.clear()
        self.session.end()
        self.stage.release()

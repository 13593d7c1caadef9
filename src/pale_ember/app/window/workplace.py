"""What the commands work on: the window's parts, by name."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtGui import QAction

from ..hand_over.panel import HandOverPanel
from ..recipe.chapter_clip import ChapterClip
from ..recipe.recipe import Recipe
from ..session.color_picking import ColorPicking
from ..session.file_actions import FileActions
from ..session.session import Session
from ..stage.stage import Stage
from ..strip.life_strip import LifeStrip
from ..texture_bench.bench import Bench
from ..texture_bench.frame_strip import FrameStrip
from ..texture_bench.picture_view import PictureView
from ..texture_bench.step_panel import StepPanel
from ..texture_bench.step_rows import StepList
from ..timeline.timeline import Timeline
from .panels import Panels


class Workplace(Protocol):
    """The main window as its commands see it."""

    session: Session
    files: FileActions
    stage: Stage
    timeline: Timeline
    strip: LifeStrip
    recipe: Recipe
    clip: ChapterClip
    panels: Panels
    bench: Bench
    picture_view: PictureView
    step_list: StepList
    step_panel: StepPanel
    frame_strip: FrameStrip
    actions_by_name: dict[str, QAction]
    picking: ColorPicking
    hand_over_panel: HandOverPanel

    @property
    def strip_in_view(self) -> LifeStrip | FrameStrip: ...
    @property
    def recipe_in_view(self) -> Recipe | StepPanel: ...
    @property
    def hands_over(self) -> bool: ...
    def show_hand_over(self, wanted: bool) -> None: ...
    def open_compression(self) -> Any: ...
    def open_shelf(self) -> Any: ...
    def open_pack(self) -> Any: ...
    def toggle_bench(self) -> None: ...
    def close(self) -> bool: ...
    def open_finder(self) -> Any: ...
    def open_library(self) -> Any: ...
    def open_preferences(self) -> Any: ...
    def open_offset(self) -> Any: ...
    def toggle_stage_alone(self) -> None: ...

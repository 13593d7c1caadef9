"""What the commands work on: the window's parts, by name."""

from __future__ import annotations

from typing import Any, Protocol

from ..recipe.chapter_clip import ChapterClip
from ..recipe.recipe import Recipe
from ..session.color_picking import ColorPicking
from ..session.file_actions import FileActions
from ..session.session import Session
from ..stage.stage import Stage
from ..strip.life_strip import LifeStrip
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
    picking: ColorPicking

    def close(self) -> bool: ...
    def open_finder(self) -> Any: ...
    def open_library(self) -> Any: ...
    def open_preferences(self) -> Any: ...
    def open_offset(self) -> Any: ...
    def save_picture(self) -> None: ...
    def toggle_stage_alone(self) -> None: ...

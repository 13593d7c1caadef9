"""The keys of a layer's path in the recipe."""

from __future__ import annotations

import functools
import itertools
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu

from ...effect.chapters.path import MOTIONS, evaluate_path, ready_motion
from ...effect.chapters.place import PathKey
from ..session.session import Session
from ..widgets.arithmetic import shown
from ..widgets.controls import Button
from .part_list import PartList
from .wishes import Wishes

# Keys nearer to each other than this share of the window are hardly two.
NEAREST = 0.03


class PathKeys(PartList):
    """The keys of a layer's path."""

    at, model, noun = "path", PathKey, "key"

    def __init__(self, session: Session, wishes: Wishes) -> None:
        super().__init__(session, wishes)
        self.add.setToolTip("A pose that the layer passes; it can be dragged in the stage (Ctrl+Shift+M)")
        self.opened.connect(session.choose_path_key)
        session.shown_changed.connect(self._follow)

    @property
    def clock(self) -> float:
        """Return where on the path now is, 0…1."""
        return self.session.clock_of_layer()

    def _follow(self) -> None:
        if self.session.path_key != self.open and self.isVisible():
            self.open = self.session.path_key
            self.refresh()

    def more(self) -> list[Button]:
        """Return the button of ready motions."""
        self.ready = Button("Ready motion")
        self.ready.setToolTip("Take a ready motion for the path, to judge the layer as it moves")
        menu = QMenu(self.ready)
        for name in MOTIONS:
            action = menu.addAction(name.capitalize())
            assert action is not None
            action.triggered.connect(functools.partial(self.take_motion, name))
        menu.addSeparator()
        none = menu.addAction("No path")
        assert none is not None
        none.triggered.connect(lambda: self.give_each(lambda parts: (), "Delete the path"))
        self.ready.setMenu(menu)
        return [self.ready]

    def take_motion(self, name: str, *_: object) -> None:
        """Give the layer a ready motion, about as wide as the stage shows."""
        reach = float(f"{self.session.camera.distance / 4:.1g}")
        self.give_each(lambda parts: ready_motion(name, reach), f"Path: {name}")

    def add_part(self) -> None:
        """Add a key where the layer is now. Time stands still for it, so that it can be put where it
        belongs.
        """
        if self.session.playing and self.parts:
            self.session.play(False)
        super().add_part()

    def next_part(self, parts: tuple[Any, ...]) -> PathKey:
        """Return a key where the path is now, or in the middle of its widest gap if one stands there
        already.
        """
        if not parts:
            return PathKey()
        clock = self.clock
        if len(parts) == 1:
            # A second one in the same place would show nothing.
            x, y, z = parts[0].position
            return PathKey(at=1.0 if parts[0].at < 1.0 else 0.0, position=(round(x + 1.0, 3), y, z))
        if any(abs(part.at - clock) < NEAREST for part in parts):
            ends = [0.0, *(part.at for part in parts), 1.0]
            _, clock = max((b - a, (a + b) / 2) for a, b in itertools.pairwise(ends))
        pose = [round(float(x), 3) for x in evaluate_path(parts, clock)[0]]
        return PathKey(at=round(clock, 3), position=tuple(pose[:3]), rotation=tuple(pose[3:6]), scale=pose[6])

    def said(self, part: PathKey) -> str:
        place = ", ".join(shown(x, 2) for x in part.position)
        return f"At {shown(part.at * 100, 0)} %: {place} m".replace("-", "−")

    def keyPressEvent(self, event: Any) -> None:
        if event.key() == Qt.Key.Key_Delete and self.parts:
            self.delete(self.open)
            return
        super().keyPressEvent(event)

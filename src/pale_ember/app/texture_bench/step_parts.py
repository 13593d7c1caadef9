"""Lists inside a step: the further sources and the obstacles of a flow, and the strokes of a drawing."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from ...effect.steps.drawn import Strokes
from ...effect.steps.flow import Obstacle, Source
from ..recipe.part_list import PartList
from ..recipe.wishes import Wishes
from ..widgets import theme
from ..widgets.arithmetic import shown
from ..widgets.controls import Button
from .bench import Bench


class StepParts(PartList):
    """One list of the step in view; it is also dragged on the picture."""

    in_layer = False
    field = ""

    def __init__(self, bench: Bench, wishes: Wishes) -> None:
        self.bench = bench
        super().__init__(bench.session, wishes)
        self.add.setToolTip(f"Add a {self.noun}; drag it on the picture")

    @property
    def at(self) -> str:  # type: ignore[override]
        """Return the list's path now."""
        return self.bench.step_path(self.field)

    @property
    def parts(self) -> tuple[Any, ...]:
        return tuple(getattr(self.bench.step, self.field, ()))

    def _said_place(self, at: tuple[float, float]) -> str:
        return f"{shown(at[0], 2)}, {shown(at[1], 2)}"


class Sources(StepParts):
    """The further sources of a flow."""

    model, noun, field = Source, "source", "sources"

    def next_part(self, parts: tuple[Any, ...]) -> Source:
        # Beside the last, so that it is seen.
        x = parts[-1].at[0] + 0.3 if parts else 0.45
        return Source(at=(round(x if x <= 1 else x - 1.8, 3), parts[-1].at[1] if parts else -0.2))

    def said(self, part: Any) -> str:
        return f"Source at {self._said_place(part.at)}"


class Obstacles(StepParts):
    """The obstacles of a flow."""

    model, noun, field = Obstacle, "obstacle", "obstacles"

    def next_part(self, parts: tuple[Any, ...]) -> Obstacle:
        x = parts[-1].at[0] + 0.3 if parts else 0.0
        return Obstacle(at=(round(x if x <= 1 else x - 1.8, 3), parts[-1].at[1] if parts else 0.3))

    def said(self, part: Any) -> str:
        return f"{'Oval' if part.round else 'Block'} at {self._said_place(part.at)}"


class StrokeLine(QWidget):
    """How many strokes there are, and taking the last or all of them away."""

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self.bench = bench
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 6, 0, 2)
        self.said = QLabel()
        self.said.setStyleSheet(f"color: {theme.DIM};")
        self.said.setWordWrap(True)
        row.addWidget(self.said, 1)
        self.last, self.all = Button("Last away"), Button("All away")
        self.last.setToolTip("Take the last stroke away")
        self.all.setToolTip("Take all strokes away")
        self.last.clicked.connect(lambda: self._keep(-1))
        self.all.clicked.connect(lambda: self._keep(0))
        row.addWidget(self.last)
        row.addWidget(self.all)

    def _keep(self, upto: int) -> None:
        step = self.bench.step
        if isinstance(step, Strokes) and step.strokes:
            said = "Take the last stroke away" if upto else "Take all strokes away"
            self.bench.session.edit(
                self.bench.step_path("strokes"), step.strokes[:upto] if upto else (), said
            )

    def refresh(self) -> None:
        step = self.bench.step
        count = len(step.strokes) if isinstance(step, Strokes) else 0
        self.said.setText(
            f"{count} stroke{'' if count == 1 else 's'}"
            if count
            else "Draw on the picture with the mouse or a pen."
        )
        self.last.setVisible(count > 0)
        self.all.setVisible(count > 0)

"""The list of things that stand on the stage."""

from __future__ import annotations

from ...effect.chapters.stage import Prop
from ...simulation.motion.prop_poses import prop_clock
from ..session.session import Session
from .part_list import PartList
from .path_keys import PathKeys
from .wishes import Wishes

# A further prop stands beside the one before.
BESIDE = 1.2


class PropPath(PathKeys):
    """The keys of the path of the prop that is open, along the effect's duration."""

    in_layer = False

    def __init__(self, session: Session, wishes: Wishes, props: PartList) -> None:
        self.at = "stage.props[0].path"
        super().__init__(session, wishes)
        self.add.setText("Key its path")
        self.add.setToolTip(
            "A pose that the prop passes at this moment; it can be dragged in the stage. Without keys "
            "it rests"
        )

    @property
    def clock(self) -> float:
        return prop_clock(self.session.effect, self.session.time)


class Props(PartList):
    """The stage's props; the open one has handles in the stage."""

    at, model, noun, in_layer = "stage.props", Prop, "prop", False

    def __init__(self, session: Session, wishes: Wishes) -> None:
        super().__init__(session, wishes)
        self.add.setToolTip("A box, ball, cylinder or mesh that stands on the stage")
        self.opened.connect(session.choose_prop)
        self.motion = PropPath(session, wishes, self)
        self.column.addWidget(self.motion)
        self.behind += 1

    def refresh(self) -> None:
        super().refresh()
        self.motion.setVisible(bool(self.parts))
        if self.parts:
            self.motion.at = f"stage.props[{self.open}].path"
            self.motion.refresh()

    def next_part(self, parts: tuple[Prop, ...]) -> Prop:
        names = {prop.name for prop in parts}
        number = len(parts) + 1
        while f"Prop {number}" in names:
            number += 1
        x, y, z = parts[-1].position if parts else (0.0, 0.0, 0.0)
        return Prop(name=f"Prop {number}", size=(0.6, 0.6, 0.6), position=(round(x + BESIDE, 3), y, z))

    def said(self, part: Prop) -> str:
        return f"{part.name}, a {part.kind}{'' if part.seen else ', not seen'}"

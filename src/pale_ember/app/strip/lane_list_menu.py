"""The list of all properties that may have a lane, with what the layer has in each now."""

from __future__ import annotations

from collections.abc import Callable, Collection

from PyQt6.QtWidgets import QMenu

from ...effect.rules.edit import get
from ...effect.rules.fields import FieldKind
from ...effect.rules.paths import FieldPath
from ..recipe.pieces import amount
from ..session.session import Session
from .lane_list import choices
from .tracks import parts_of


def fill_lane_list(
    menu: QMenu, session: Session, axis: str, shown: Collection[str], show: Callable[[str], None]
) -> None:
    """Put a line for each property into a menu; those in ``shown`` are checked, and ``show`` is given a
    whole path.
    """
    layer, chapter = session.layer, ""
    for choice in choices(layer, axis) if layer is not None else []:
        first = FieldPath(choice.path).chapter
        if first != chapter:
            chapter = first
            menu.addSection(first.capitalize())
        value = get(session.effect, session.layer_path(choice.path))
        words = choice.rule.label
        if choice.rule.kind != FieldKind.COLOR_VALUE:
            now = ", ".join(amount(part, digits=2) for _, part in parts_of("", value))
            words = f"{words}\t{now}{choice.rule.unit if choice.rule.unit == '×' else ' ' + choice.rule.unit}"
        action = menu.addAction(words)
        assert action is not None
        action.setCheckable(True)
        action.setChecked(choice.path in shown)
        action.setToolTip(choice.rule.help)
        action.triggered.connect(lambda _, path=choice.path: show(session.layer_path(path)))

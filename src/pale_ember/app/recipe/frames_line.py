"""A line for frames of a sheet, written as ranges."""

from __future__ import annotations

from ...effect.errors import EffectError
from ..widgets.controls import Line
from .picture_files import parse_frames
from .row import Row


class FramesLine(Line):
    """Takes ranges such as 0-7, 3, 12-8 for a row's field.

    Parameters
    ----------
    row : Row
    """

    def __init__(self, row: Row) -> None:
        super().__init__()
        self.row = row
        self.setAccessibleName(row.rule.label)
        self.setToolTip(f"{row.rule.help}\nSuch as 0-7, 3, 12-8")
        self.setPlaceholderText("all")
        self.editingFinished.connect(self._take)

    def _take(self) -> None:
        if not self.isModified():
            return
        try:
            self.row.edit(parse_frames(self.text()))
        except EffectError as wrong:
            self.row.say_refused(wrong.reason)

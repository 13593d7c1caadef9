"""The pages of all chapters, each made when it is first needed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QStackedWidget

from ..session.session import Session
from .chapter_table import CHAPTERS
from .page import Page
from .wishes import Wishes

# Pages that nobody asked for yet are made one at a time, with this pause between them, ms.
PAUSE_MS = 400


class ChapterPages(Mapping[str, Page]):
    """Pages by the names of their chapters.

    A page's rows are made inside the window that is already there: to move a made page into it would dress
    each of its widgets several times, which took half of the window's start.

    Parameters
    ----------
    session : Session
    wishes : Wishes
    stack : QStackedWidget
        Where pages are put when they are made.
    """

    def __init__(self, session: Session, wishes: Wishes, stack: QStackedWidget) -> None:
        self._session, self._wishes, self._stack = session, wishes, stack
        self._made: dict[str, Page] = {}
        self._timer = QTimer(stack)
        self._timer.timeout.connect(self._make_next)
        self._timer.start(PAUSE_MS)

    def __getitem__(self, name: str) -> Page:
        if name not in self._made:
            self._made[name] = page = Page(self._session, self._wishes, CHAPTERS[name], self._stack)
            self._stack.addWidget(page)
        return self._made[name]

    def __iter__(self) -> Iterator[str]:
        return iter(CHAPTERS)

    def __len__(self) -> int:
        return len(CHAPTERS)

    def _make_next(self) -> None:
        waiting = [name for name in CHAPTERS if name not in self._made]
        if waiting:
            self[waiting[0]].refresh()
        else:
            self._timer.stop()

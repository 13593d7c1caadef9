"""The bench's steps and lanes as they are painted."""

from PyQt6.QtCore import QPointF

from pale_ember.app.texture_bench.step_rows import ROW

from ..gestures import hold, let_go
from ..pictures import PictureCase
from .bench_case import SheetCase


class BenchPictures(PictureCase, SheetCase):
    def test_steps_and_lanes(self):
        self.window.setFocus()
        rows = self.rows
        self.wait(lambda: len(rows._images) == len(self.bench.steps))
        self.assert_looks("bench-steps", rows)

    def test_what_is_dragged_shows_where_it_would_go(self):
        film, rows = self.film, self.rows
        self.wait(lambda: len(rows._images) == len(self.bench.steps) and len(film._images) == film.count)
        at = hold(rows, QPointF(80, 9), QPointF(0, 3 * ROW))
        self.assert_looks("bench-step-dragged", rows)
        let_go(rows, at)
        self.session.undo()
        self.made()
        self.wait(lambda: len(film._images) == film.count)
        at = hold(film, film.cell(1).center(), QPointF(2.2 * film.cell(0).width(), 0))
        self.assert_looks("bench-frame-dragged", film)
        let_go(film, at)

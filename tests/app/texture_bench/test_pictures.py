"""The bench's steps and lanes as they are painted."""

from PyQt6.QtCore import QPointF

from pale_ember.app.texture_bench.step_rows import ROW

from ..gestures import hold, let_go
from ..pictures import PictureCase, drawn
from .bench_case import SheetCase


class BenchPictures(PictureCase, SheetCase):
    def test_steps_and_lanes(self):
        self.window.setFocus()
        rows = self.rows
        self.wait(lambda: len(rows._images) == len(self.bench.steps))
        self.assert_looks("bench-steps", rows)

    def over(self, paint):
        """Return what is painted over the picture on the bench."""
        view = self.view
        return drawn(view.width(), view.height(), paint)

    def test_words_brush_and_what_lies_over_the_picture(self):
        view, brush = self.view, self.window.tools.brush
        self.made()
        self.assert_looks("bench-words", self.over(view._paint_words))
        view._mouse = view.box.center() + QPointF(20, 10)
        path = self.bench.path("build.steps")
        self.session.edit(path, [{"step": "strokes"}], "Steps")
        self.bench.select(0)
        for erase in (False, True):
            brush.set(size=0.3, erase=erase)
            self.assert_looks(
                f"bench-brush-{'erases' if erase else 'draws'}",
                self.over(lambda p: view._paint_brush(p, view.box)),
            )
        brush.set(erase=False)
        at = hold(view, view.box.center(), QPointF(70, -40))
        view._mouse = None
        self.assert_looks("bench-stroke", self.over(lambda p: view._paint_brush(p, view.box)))
        let_go(view, at)
        flow = {
            "step": "flow",
            "sources": [{"at": [0.4, -0.5], "radius": 0.1}],
            "obstacles": [
                {"at": [0, 0.3], "extents": [0.3, 0.1], "turn": 30, "round": False},
                {"at": [-0.5, 0], "extents": [0.1, 0.2], "round": True},
            ],
        }
        self.session.edit(path, [flow], "Steps")
        self.bench.select(0)
        self.assert_looks("bench-flow", self.over(lambda p: view.handles.paint(p, view.box)))
        self.session.edit(path, [], "Steps")
        self.made()
        self.assert_looks("bench-empty", self.over(view._paint_words))

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

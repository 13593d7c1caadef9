"""The bench's steps and lanes as they are painted."""

from ..pictures import PictureCase
from .bench_case import SheetCase


class BenchPictures(PictureCase, SheetCase):
    def test_steps_and_lanes(self):
        self.window.setFocus()
        rows = self.rows
        self.wait(lambda: len(rows._images) == len(self.bench.steps))
        self.assert_looks("bench-steps", rows)

"""Where everything stands on the bench."""

from ..pictures import PictureCase
from ..told import ToldCase, places
from .bench_case import SheetCase


class BenchPlaces(PictureCase, ToldCase, SheetCase):
    def test_the_panels_of_the_bench(self):
        window, lines = self.window, []
        window.top_bar.cost.hide()
        self.bench.select(1)
        for chapter in range(window.step_panel.pages.count()):
            window.step_panel.show_chapter(chapter)
            lines += [f"== {chapter}", *self.settled(lambda: places(window.step_panel))]
        for part in (window.tools, window.step_list, window.frame_strip, window.picture_view):
            lines += self.settled(lambda part=part: places(part))
        self.assert_says("places-bench", lines)

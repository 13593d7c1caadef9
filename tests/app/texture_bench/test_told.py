"""What the bench says of each kind of step, and in its menus and tools."""

from pale_ember.app.window.bench_rows import step_menu
from pale_ember.effect.steps import STEPS

from ..told import ToldCase, told_menu
from .bench_case import SheetCase


class BenchTold(ToldCase, SheetCase):
    def test_fields_of_every_step(self):
        lines = []
        path = self.bench.path("build.steps")
        for name in STEPS:
            self.session.edit(path, [{"step": "dot"}, {"step": name}], "Step")
            self.bench.select(1)
            lines += [f"== {name}", *self.told(self.window.step_panel, tips=False)]
        self.assert_says("bench-steps", lines)

    def test_menus_tools_and_lists(self):
        self.assert_says("menu-steps", told_menu(step_menu(self.window)))
        self.bench.select(1)
        self.assert_says("bench-tools", self.told(self.window.tools))
        self.assert_says("bench-list", self.told(self.window.step_list))
        self.assert_says("bench-strip", self.told(self.window.frame_strip))
